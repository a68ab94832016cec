"""Many lines as one picture: how much of each pixel they cover, column by column, without a path."""

from __future__ import annotations

from functools import reduce
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from scutcher.core.arrays import Floats, Integers

Cover = NDArray[np.float32]
Colour = tuple[int, int, int]

FEW = 8
"""Places of the axis in one column of pixels, up to which they are looked at one by one."""

SPARSE, FULL, RUN = 0.2, 0.5, 3
"""Shares of the pixels up to which only those that are touched are counted, and coloured; pixels of a run,
about."""

WHOLE = 2.0**20
"""Added to an edge's place within its pixel: one sum then tells how many edges there are, and where."""


def column_runs(x: Floats, ys: Floats, left: float, right: float, width: int) -> tuple[Floats, Floats]:
    """The lowest and the highest value of each line within each pixel column.

    Parameters
    ----------
    x : (p,) float array
        Rising or falling.
    ys : (m, p) float array
        NaN breaks a line: columns that it touches are NaN.
    left, right : float
        The range of x that the picture shows.
    width : int
        Pixel columns.

    Returns
    -------
    low, high : (m, width) float arrays
        NaN where a line is not.
    """
    if x[0] > x[-1]:
        low, high = (found[::-1] for found in _rising(-x, ys, -right, -left, width))
    else:
        low, high = _rising(x, ys, left, right, width)
    return np.ascontiguousarray(low.T), np.ascontiguousarray(high.T)


def _rising(x: Floats, ys: Floats, left: float, right: float, width: int) -> tuple[Floats, Floats]:
    """As `column_runs`, of x that rises; (width, m)."""
    edges = np.linspace(left, right, width + 1)
    first, last = np.searchsorted(x, (left, right))
    column = np.minimum(((x[first:last] - left) * (width / (right - left))).astype(np.intp), width - 1)
    starts = np.flatnonzero(np.diff(column, prepend=-1))
    ends, inside = np.append(starts[1:], last - first) - 1, None
    if (ends - starts).max(initial=0) >= FEW:
        inside = _reduced(ys[:, first:last], starts)
        near = _beside(x, edges)  # all that the edges need, and a small part of all
        x, ys = x[near], ys[:, near]
    down = np.ascontiguousarray(ys.T)  # places are gathered and spread as whole rows
    at_edges = _interpolated(x, down, edges)
    low, high = np.fmin(at_edges[:-1], at_edges[1:]), np.fmax(at_edges[:-1], at_edges[1:])
    if len(starts):
        lowest, highest = inside or _within(down[first:last], starts, ends)
        columns = column[starts]
        low[columns] = np.fmin(low[columns], lowest)
        high[columns] = np.fmax(high[columns], highest)
    return low, high


def _reduced(values: Floats, starts: Integers) -> tuple[Floats, Floats]:
    """As `_within`, of many places to a column, (m, p): each line along its own values."""
    return np.fmin.reduceat(values, starts, axis=1).T, np.fmax.reduceat(values, starts, axis=1).T


def _beside(x: Floats, at: Floats) -> Integers:
    """The places of x on either side of others, and both ends of x."""
    place = np.clip(np.searchsorted(x, at) - 1, 0, len(x) - 2)
    return np.unique(np.concatenate([[0, len(x) - 1], place, place + 1]))


def _within(values: Floats, starts: Integers, ends: Integers) -> tuple[Floats, Floats]:
    """Lowest and highest of each line, (p, m), from each start to its end: twice (len(starts), m).

    Of a few places to a column: place by place that is sooner done than by many short reductions.
    """
    most = int((ends - starts).max())
    lowest = values[starts]
    highest = lowest.copy() if most else lowest
    for step in range(1, most + 1):
        more = values[np.minimum(starts + step, ends)]
        np.fmin(lowest, more, out=lowest)
        np.fmax(highest, more, out=highest)
    return lowest, highest


def _interpolated(x: Floats, ys: Floats, at: Floats) -> Floats:
    """Every line at the same places, linear, NaN outside. (p, m) → (len(at), m)."""
    if len(x) == 1:
        return np.full((len(at), ys.shape[1]), np.nan)
    place = np.clip(np.searchsorted(x, at) - 1, 0, len(x) - 2)
    share = ((at - x[place]) / (x[place + 1] - x[place]))[:, np.newaxis]
    values, more = ys[place], ys[place + 1]
    values *= 1.0 - share
    more *= share
    values += more
    values[(at < x[0]) | (at > x[-1])] = np.nan
    return values


def coverage(low: Floats, high: Floats, bottom: float, top: float, height: int, thickness: float) -> Cover:
    """How often each pixel is covered, edges counted by their fraction.

    Parameters
    ----------
    low, high : (m, width) float arrays
        As `column_runs` gives them.
    bottom, top : float
        The range of values that the picture shows.
    height : int
        Pixel rows.
    thickness : float
        Of a line, in pixels.

    Returns
    -------
    (height, width) float32 array
        Row 0 is the lowest.
    """
    width, scale = low.shape[1], height / (top - bottom)
    edges = np.empty((2, *low.shape))
    for place, (values, way) in enumerate(((low, -0.5), (high, 0.5))):
        np.multiply(values, scale, out=edges[place])
        edges[place] += way * thickness - bottom * scale
    if np.isnan(edges.sum()):
        np.copyto(edges, height, where=np.isnan(edges))  # both above the picture: they cancel each other
    np.clip(edges, 0.0, height, out=edges)
    if low.size * RUN <= SPARSE * height * width:
        lower, upper = edges
        first, sizes = _pixels_of(lower, upper)
        if int(sizes.sum()) <= SPARSE * height * width:
            return _of_few(lower, upper, first, sizes, height)
    places = np.floor(edges)  # whole numbers, but of the edges' own kind: to mix kinds takes twice as long
    edges -= places
    edges += WHOLE
    np.negative(edges[1], out=edges[1])
    places *= width
    places += np.arange(width, dtype=np.float64)
    sums = np.bincount(places.astype(np.intp).ravel(), edges.ravel(), (height + 1) * width)
    found = sums.astype(np.float64, copy=False)
    found *= 1.0 / WHOLE
    runs = np.rint(found)  # that begin in a pixel, less those that end there
    found -= runs
    found *= WHOLE  # what of that pixel lies below where they do
    cover: Cover = runs.astype(np.float32).reshape(height + 1, width)
    for below, row in pairwise(cover):  # `accumulate` goes down column by column, at half the pace
        np.add(below, row, out=row)
    cover -= found.astype(np.float32).reshape(height + 1, width)
    return np.maximum(cover[:height], np.float32(0.0))


def _pixels_of(lower: Floats, upper: Floats) -> tuple[Integers, Integers]:
    """The first pixel of each run, and how many it touches."""
    first = lower.astype(np.intp)
    return first, np.where(upper > lower, np.ceil(upper).astype(np.intp) - first, 0)


def _of_few(lower: Floats, upper: Floats, first: Integers, sizes: Integers, height: int) -> Cover:
    """As `coverage`, pixel by pixel of each run: sooner than all of a picture of which most stays empty."""
    width, counts = lower.shape[1], sizes.ravel()
    ends = np.cumsum(counts)
    within = np.arange(int(ends[-1])) - np.repeat(ends - counts, counts)
    row = np.repeat(first.ravel(), counts) + within
    share = np.minimum(row + 1.0, np.repeat(upper.ravel(), counts))
    share -= np.maximum(row, np.repeat(lower.ravel(), counts))
    places = row * width + np.repeat(np.tile(np.arange(width), len(lower)), counts)
    if len(lower) > 1:
        return np.bincount(places, share, height * width).astype(np.float32).reshape(height, width)
    cover = np.zeros((height, width), dtype=np.float32)
    cover.reshape(-1)[places] = share
    return cover


def blend(layers: list[tuple[Cover, Colour]], opacity: float) -> np.ndarray:
    """One picture of several covers; where colours meet they mix by how much each covers.

    Parameters
    ----------
    layers : list of (height, width) coverage and colour
    opacity : float
        Of a single line.

    Returns
    -------
    (height, width) uint32 array
        Premultiplied ARGB, row 0 lowest.
    """
    shape = layers[0][0].shape
    covers = [cover.reshape(-1) for cover, _ in layers]
    colours = [colour for _, colour in layers]
    seen = reduce(np.add, covers) > 0.0  # the places of floats that are not zero take seven times as long
    touched = np.flatnonzero(seen)
    if touched.size > FULL * covers[0].size:
        return _pixels(covers, colours, opacity).reshape(shape)
    picture = np.zeros(shape, dtype=np.uint32)
    picture.reshape(-1)[touched] = _pixels([cover[touched] for cover in covers], colours, opacity)
    return picture


def _pixels(covers: list[Cover], colours: list[Colour], opacity: float) -> np.ndarray:
    """Some pixels, (m,), of covers of as many."""
    if len(covers) == 1:
        return _of_one_colour(covers[0], colours[0], opacity)
    shares = np.array([[*colour, 1.0] for colour in colours], dtype=np.float32)
    mixed = np.einsum("lc,lp->cp", shares, np.stack(covers))  # a product of matrices this flat takes longer
    total = mixed[3]
    alpha = 1.0 - np.exp2(_power(opacity) * total)
    mixed[:3] *= alpha / np.maximum(total, np.float32(1e-9))
    np.multiply(alpha, np.float32(255.0), out=total)
    mixed += np.float32(0.5)
    red, green, blue, pixels = mixed.astype(np.int32)
    for part in (red, green, blue):
        pixels <<= 8
        pixels |= part
    found: np.ndarray = pixels.view(np.uint32)
    return found


def _of_one_colour(cover: Cover, colour: Colour, opacity: float) -> np.ndarray:
    """Of a single cover: the colour of each of the 256 steps of opacity is looked up."""
    steps = np.arange(256, dtype=np.float64)
    table = steps.astype(np.uint32) << 24
    for part, shift in zip(colour, (16, 8, 0), strict=True):
        table |= (part * steps / 255.0 + 0.5).astype(np.uint32) << shift
    alpha = np.exp2(_power(opacity) * cover.astype(np.float32, copy=False))
    np.subtract(1.0, alpha, out=alpha)
    alpha *= np.float32(255.0)
    alpha += np.float32(0.5)
    found: np.ndarray = table.take(alpha.astype(np.uint8))
    return found


def _power(opacity: float) -> np.float32:
    """The power of two that one whole line leaves of what is behind it; of an opaque one a very small one."""
    left = max(1.0 - opacity, float(np.finfo(np.float32).tiny))
    return np.float32(np.log2(left))
