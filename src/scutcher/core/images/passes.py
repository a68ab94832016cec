"""A pass over the tiles of an image on all threads; what is summed does not depend on their number."""

from __future__ import annotations

from collections.abc import Callable
from itertools import count
from typing import TypeVar

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import TableError
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.numeric.scratch import Scratch
from scutcher.core.numeric.threads import in_parts, one_thread
from scutcher.core.progress import Watch, tell

Own = TypeVar("Own")

RUNS, LEAST_RUNS, MOST_CELLS = 8, 2, 16_000_000
"""Sums that are kept apart: so many at most, fewer where they are large, and put together in the end."""

Work = Callable[[Own, slice, Floats, Booleans], None]
"""Does something with a tile: what belongs to its run, the pixels, the treated values of those that count,
and which of the tile they are. The values do not last."""


def over_tiles(
    treatment: PixelTreatment,
    own: Callable[[], Own],
    work: Work[Own],
    watch: Watch | None = None,
    tiles: list[slice] | None = None,
) -> list[Own]:
    """Do something with the treated pixels of every tile.

    Parameters
    ----------
    treatment : PixelTreatment
        Of the image; pixels outside its mask, with gaps or that cannot be treated do not count.
    own : function
        Makes what belongs to a run of tiles.
    work : function
    watch : Watch, optional
    tiles : list of slices, optional
        Of the image's own where none are given.

    Returns
    -------
    list
        What belongs to each run, in the order of the pixels.

    Raises
    ------
    Stopped
    """
    image = treatment.image
    tiles = image.tiles() if tiles is None else tiles
    done, scratch = count(), Scratch()

    def part(places: slice, mine: Own) -> None:
        for tile in tiles[places]:
            tell(watch, next(done) / len(tiles))
            values, kept = treated_tile(treatment, tile, scratch)
            work(mine, tile, values, kept)

    with one_thread():
        p = image.matrix.shape[1]
        runs = max(LEAST_RUNS, min(RUNS, MOST_CELLS // p**2))
        return in_parts(part, (len(tiles), max(1, image.pixels * p // len(tiles))), own, None, most=runs)


def treated_tile(
    treatment: PixelTreatment, tile: slice, scratch: Scratch | None = None
) -> tuple[Floats, Booleans]:
    """The treated pixels of a tile that count, (m', p), and which of the tile they are, (m,)."""
    image = treatment.image
    stored = image.fetch(tile)
    if image.mask is None:
        return treatment.apply(stored, scratch)
    kept = image.mask[tile].copy()
    values, good = treatment.apply(stored[kept], scratch)
    kept[kept] = good
    return values, kept


def provisional_centre(treatment: PixelTreatment, most: int = 1_000) -> Floats:
    """Mean of up to so many evenly spaced pixels, (p,): what is taken off before sums are formed."""
    image = treatment.image
    for pixels in (most, image.pixels):
        values, _ = treatment.apply(image.spectra(image.evenly(pixels)))
        if len(values):
            centre: Floats = values.mean(axis=0)
            return centre
    raise TableError("No pixel can be treated.", "Check the mask, gaps and steps.")
