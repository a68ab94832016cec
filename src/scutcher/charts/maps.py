"""Maps: a value of every pixel as a picture, with its map of colours, range and unit."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np

from scutcher.charts import colours
from scutcher.charts.colours import class_colour, rgb, signed_map, unsigned_map
from scutcher.charts.description import Chart, Grid
from scutcher.core.arrays import Floats
from scutcher.core.data.layouts import GridLayout
from scutcher.core.distances.limits import Limit
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.images.streamed_model import PixelMaps

Tone = Literal["two-sided", "one-sided", "categories"]

ROBUST = 0.02
"""Share of the pixels that lies beyond each end of the range, where nobody chose another."""


ALL = (slice(None), slice(None))

MANY = 250_000
"""Pixels that decide a range; of more, so many evenly spaced."""


@frozen(eq=False)
class PictureMap:
    """A value of every pixel.

    Attributes
    ----------
    key : str
        Of files: `score-1`, `t2`.
    title : str
    values : (rows, columns) float array
        NaN where a pixel does not count; codes where the tone is "categories".
    tone : "two-sided", "one-sided" or "categories"
        Two-sided maps have zero at paper; one-sided ones rise from paper to ink.
    low, high : float
        The values at the ends of the colours.
    unit : str
    names : tuple of str
        Of the categories.
    limit : float or None
        The limit of a distance, in its unit.
    breaks : int
        Columns of one of several images side by side; 0 for one.
    step : int
        Pixels to each side for one sample of the study; 1 where every pixel is a sample.
    """

    key: str
    title: str
    values: Floats
    tone: Tone
    low: float
    high: float
    unit: str = ""
    names: tuple[str, ...] = ()
    limit: float | None = None
    breaks: int = 0
    step: int = 1

    def between(self, low: float, high: float) -> PictureMap:
        """The same with another range."""
        return replace(self, low=low, high=high)

    def coloured(self, part: tuple[slice, slice] = ALL) -> np.ndarray:
        """Red, green and blue of every pixel of a part, (r, c, 3) uint8; ground where it does not count."""
        values = self.values[part]
        found = np.empty((*values.shape, 3), np.uint8)
        found[:] = rgb(colours.LINEN)
        known = np.isfinite(values)
        if self.tone == "categories":
            table = np.array([rgb(class_colour(code)) for code in range(max(len(self.names), 1))], np.uint8)
            codes = values[known].astype(np.intp)
            found[known] = np.where(
                (codes >= 0)[:, np.newaxis], table[np.maximum(codes, 0)], rgb(class_colour(-1))
            )
            return found
        table = np.array(signed_map() if self.tone == "two-sided" else unsigned_map(), np.uint8)
        span = self.high - self.low or 1.0
        places = (values[known] - self.low) / span * (len(table) - 1)
        found[known] = table[np.clip(np.rint(places), 0, len(table) - 1).astype(np.intp)]
        return found


def some_known(values: Floats) -> Floats:
    """The values that are known; of very many every so-manieth."""
    flat = values.ravel()
    some = flat[:: max(1, flat.size // MANY)]
    found: Floats = some[np.isfinite(some)]
    return found


def robust_range(values: Floats, tone: Tone) -> tuple[float, float]:
    """Ends between which all but a few pixels lie; even about zero for two-sided maps."""
    known = some_known(values)
    if not len(known):
        return 0.0, 1.0
    low, high = (float(v) for v in np.quantile(known, (ROBUST, 1.0 - ROBUST)))
    if tone == "two-sided":
        reach = max(abs(low), abs(high)) or float(np.abs(known).max()) or 1.0
        return -reach, reach
    if not high > low:
        low, high = float(known.min()), float(known.max())
    return (low, high) if high > low else (low, low + 1.0)


def picture_of(
    image: Image, values: Floats, key: str, title: str, tone: Tone, unit: str = "", limit: Limit | None = None
) -> PictureMap:
    """Values of all pixels, (n,), as a map with a range that a few of them do not decide."""
    picture = image.as_map(np.asarray(values, dtype=np.float64))
    low, high = robust_range(picture, tone)
    value = None if limit is None else limit.value
    if value is not None:
        low, high = 0.0, max(high, value)
    breaks = image.layout.columns if image.images > 1 else 0
    return PictureMap(key, title, picture, tone, low, high, unit, (), value, breaks)


def maps_of_model(image: Image, maps: PixelMaps) -> list[PictureMap]:
    """The map of every component, of T², Q and the joint distance."""
    found = [
        picture_of(image, maps.scores[:, a], f"score-{a + 1}", f"Score of component {a + 1}", "two-sided")
        for a in range(maps.scores.shape[1])
    ]
    distances = (
        ("t2", "T²", maps.t2, maps.t2_limit),
        ("q", "Q", maps.q, maps.q_limit),
        ("joint", "Joint distance", maps.joint, maps.joint_limit),
    )
    found += [
        picture_of(image, values, key, title, "one-sided", "", limit)
        for key, title, values, limit in distances
        if values is not None
    ]
    return found


def maps_of_smooth_order(image: Image, scores: np.ndarray) -> list[PictureMap]:
    """The map of each component, the smoothest first."""
    return [
        picture_of(image, scores[:, a], f"smooth-{a + 1}", f"Smooth component {a + 1}", "two-sided", "SD")
        for a in range(scores.shape[1])
    ]


def chart_of(one: PictureMap, note: str, layout: GridLayout) -> Chart:
    """A map as a chart, for copying and printing."""
    rows, columns = one.values.shape
    size, unit = (layout.pixel, layout.unit) if layout.pixel else (1.0, "px")
    grid = Grid(
        np.arange(columns, dtype=np.float64) * size,
        np.arange(rows, dtype=np.float64) * size,
        one.values,
        one.low,
        one.high,
        signed=one.tone == "two-sided",
        downwards=True,
    )
    return Chart(
        title=one.title, note=note, x_title=f"x / {unit}", y_title=f"y / {unit}", grid=grid, square=True
    )
