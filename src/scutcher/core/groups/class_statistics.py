"""Mean and standard deviation of each class at each variable."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.numeric.threads import in_parts

TILE, MOST = 200_000, 4
"""Values at a time, which stay in the processor's cache, and sums that are made at most."""


def class_statistics(values: Floats, codes: Integers) -> tuple[Integers, Floats, Floats]:
    """Mean and standard deviation (n − 1; 0 of a single sample) of each class; gaps are passed over.

    Parameters
    ----------
    values : (n, p) float array
    codes : (n,) int array
        The class of each sample, any numbers.

    Returns
    -------
    (c,) int array and two (c, p) float arrays
        The codes that are there, rising, and their figures; a mean is NaN where nothing is known.
    """
    present, inverse, sizes = np.unique(codes, return_inverse=True, return_counts=True)
    complete = _of_complete(values, inverse, sizes)
    if complete is not None:
        return present, *complete
    found = [_with_gaps(values[inverse == place]) for place in range(len(present))]
    means, deviations = (np.array(figures) for figures in zip(*found, strict=True))
    return present, means, deviations


def _of_complete(values: Floats, inverse: Integers, sizes: Integers) -> tuple[Floats, Floats] | None:
    """Two passes, each by two threads where the values are many; None where the first finds gaps."""
    n, p = values.shape
    order, ends = np.argsort(inverse, kind="stable"), np.cumsum(sizes)
    step = max(TILE // max(p, 1), 1)

    def tiles(part: slice) -> Iterator[tuple[int, Floats]]:
        """Some samples of one class after the other."""
        start = part.start
        while start < part.stop:
            place = int(np.searchsorted(ends, start, side="right"))
            stop = min(start + step, part.stop, int(ends[place]))
            yield place, values[order[start:stop]]
            start = stop

    def add(part: slice, own: Floats) -> None:
        for place, some in tiles(part):
            own[place] += some.sum(axis=0)

    def add_squares(part: slice, own: Floats) -> None:
        for place, some in tiles(part):
            some -= means[place]
            own[place] += np.einsum("ij,ij->j", some, some)

    def total(work: Callable[[slice, Floats], None]) -> Floats:
        found: Floats = np.add.reduce(in_parts(work, (n, p), lambda: np.zeros((len(sizes), p)), most=MOST))
        return found

    means = total(add) / sizes[:, np.newaxis]
    if not np.isfinite(means).all():
        return None
    return means, np.sqrt(total(add_squares) / np.maximum(sizes - 1, 1)[:, np.newaxis])


def _with_gaps(values: Floats) -> tuple[Floats, Floats]:
    """Of the samples of one class, (m, p) → (p,) twice."""
    there = ~np.isnan(values)
    count = there.sum(axis=0)
    mean = np.full(values.shape[1], np.nan)
    np.divide(np.where(there, values, 0.0).sum(axis=0), count, out=mean, where=count > 0)
    squares = np.where(there, values - mean, 0.0) ** 2
    return mean, np.sqrt(squares.sum(axis=0) / np.maximum(count - 1, 1))
