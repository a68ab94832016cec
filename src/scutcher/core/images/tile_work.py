"""What is done to the pixels in passes: their mean, their sums, their scores and distances.

Each works on all tiles of an image or on a run of them, so that a cluster can share them out; what comes
back is put together in the order of the pixels.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.images.measuring import Plane, measured
from scutcher.core.images.passes import over_tiles
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.segments import Numbers
from scutcher.core.images.sums import CentredSums, together
from scutcher.core.numeric.scratch import Scratch
from scutcher.core.progress import Watch

Tiles = list[slice]


@frozen(eq=False)
class Measured:
    """What pixels have on planes of components; NaN for those that do not count.

    Attributes
    ----------
    scores : (n, k) float32 array
    t2, q : (n,) float64 arrays
    new_t2, new_q : (n,) float64 arrays, or None without segments
        On the plane of the pixels that were not left out with them.
    """

    scores: np.ndarray
    t2: Floats
    q: Floats
    new_t2: Floats | None
    new_q: Floats | None


class Passes(Protocol):
    """Who goes over the pixels: this process, or a cluster."""

    def mean(self, treatment: PixelTreatment, watch: Watch) -> Floats:
        """Mean of the treated pixels inside the mask, (p,)."""

    def sums(
        self, treatment: PixelTreatment, centre: Floats, numbers: Numbers, count: int, watch: Watch
    ) -> list[CentredSums]:
        """The sums of each of so many segments."""

    def measures(
        self, treatment: PixelTreatment, plane: Plane, planes: Sequence[Plane], numbers: Numbers, watch: Watch
    ) -> Measured:
        """Scores and distances of every pixel."""


class Here:
    """All passes in this process, on all its threads."""

    def mean(self, treatment: PixelTreatment, watch: Watch) -> Floats:
        """Mean of the treated pixels inside the mask, (p,)."""
        return mean_of([total_of(treatment, watch)])

    def sums(
        self, treatment: PixelTreatment, centre: Floats, numbers: Numbers, count: int, watch: Watch
    ) -> list[CentredSums]:
        """The sums of each of so many segments."""
        return sums_of(treatment, centre, numbers, count, watch)

    def measures(
        self, treatment: PixelTreatment, plane: Plane, planes: Sequence[Plane], numbers: Numbers, watch: Watch
    ) -> Measured:
        """Scores and distances of every pixel."""
        return measures_of(treatment, plane, planes, numbers, watch)


def total_of(
    treatment: PixelTreatment, watch: Watch | None = None, tiles: Tiles | None = None
) -> tuple[Floats, int]:
    """The sum of the treated pixels inside the mask, (p,), and how many they are."""
    p = len(treatment.axis)

    def add(mine: Floats, tile: slice, values: Floats, kept: Booleans) -> None:
        mine[:p] += values.sum(axis=0)
        mine[p] += len(values)

    whole: Floats = np.sum(over_tiles(treatment, lambda: np.zeros(p + 1), add, watch, tiles), axis=0)
    return whole[:p], int(whole[p])


def mean_of(totals: Sequence[tuple[Floats, int]]) -> Floats:
    """The mean that sums and counts give, (p,).

    Raises
    ------
    TableError
        No pixel counts.
    """
    count = sum(count for _, count in totals)
    if not count:
        raise TableError("No pixel can be treated.", "Check the mask and the steps.")
    found: Floats = np.sum([total for total, _ in totals], axis=0) / count
    return found


def sums_of(
    treatment: PixelTreatment,
    centre: Floats,
    numbers: Numbers,
    count: int,
    watch: Watch | None = None,
    tiles: Tiles | None = None,
) -> list[CentredSums]:
    """The sums of each of so many segments about a provisional centre.

    Parameters
    ----------
    numbers : (n,) array
        The segment of each pixel of the image.
    """
    scratch = Scratch()

    def add(mine: list[CentredSums], tile: slice, values: Floats, kept: Booleans) -> None:
        away = np.subtract(values, centre, out=scratch.array("away", *values.shape))
        if count == 1:
            mine[0].add(away)
            return
        own = numbers[tile][kept]
        for number in np.unique(own):
            mine[number].add(away[own == number])

    runs = over_tiles(treatment, lambda: [CentredSums(centre) for _ in range(count)], add, watch, tiles)
    return [together([run[place] for run in runs]) for place in range(count)]


def measures_of(
    treatment: PixelTreatment,
    plane: Plane,
    planes: Sequence[Plane],
    numbers: Numbers,
    watch: Watch | None = None,
    tiles: Tiles | None = None,
) -> Measured:
    """Scores and distances of the pixels of some tiles, which follow each other.

    Parameters
    ----------
    plane : Plane
        Of the model.
    planes : sequence of Plane
        Of the models without each segment; empty for none.
    """
    tiles = treatment.image.tiles() if tiles is None else tiles
    first, n = tiles[0].start, tiles[-1].stop - tiles[0].start
    scores = np.full((n, plane.loadings.shape[1]), np.nan, np.float32)
    t2, q = np.full(n, np.nan), np.full(n, np.nan)
    new = (np.full(n, np.nan), np.full(n, np.nan)) if planes else None
    scratch = Scratch()

    def add(mine: None, tile: slice, values: Floats, kept: Booleans) -> None:
        places = np.arange(tile.start - first, tile.stop - first)[kept]
        scores[places], t2[places], q[places] = measured(values, plane, scratch)
        if new is None:
            return
        own = numbers[tile][kept]
        for number in np.unique(own):
            rows = own == number
            _, new[0][places[rows]], new[1][places[rows]] = measured(values[rows], planes[number], scratch)

    over_tiles(treatment, lambda: None, add, watch, tiles)
    return Measured(scores, t2, q, *(new or (None, None)))


def put_together(parts: Sequence[Measured]) -> Measured:
    """The measures of all pixels from those of runs that follow each other."""
    new = [(part.new_t2, part.new_q) for part in parts if part.new_t2 is not None and part.new_q is not None]
    return Measured(
        np.concatenate([part.scores for part in parts]),
        np.concatenate([part.t2 for part in parts]),
        np.concatenate([part.q for part in parts]),
        np.concatenate([t2 for t2, _ in new]) if new else None,
        np.concatenate([q for _, q in new]) if new else None,
    )
