"""Images of the same object that are shifted against each other, brought over one another by whole pixels."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.matrix import Matrix, Stored
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.progress import Watch, tell

Shift = tuple[int, int]
"""Rows down and columns right by which an image lies away from the first."""


@frozen(eq=False)
class Shifted:
    """Pixels of several images where they lie on the first; NaN where an image does not reach.

    Attributes
    ----------
    matrix : Matrix
    rows_of, columns_of : int
        Of one image.
    shifts : tuple of Shift
        Of each image.
    """

    matrix: Matrix
    rows_of: int
    columns_of: int
    shifts: tuple[Shift, ...]

    @property
    def shape(self) -> tuple[int, int]:
        """n, p."""
        return self.matrix.shape

    def rows(self, start: int, stop: int) -> Stored:
        """Pixels from start up to stop, (stop − start, p)."""
        columns = self.columns_of
        first, last = start // columns, -(-stop // columns)
        lines = np.concatenate([self._line(line) for line in range(first, last)])
        found: Stored = lines[start - first * columns : stop - first * columns]
        return found

    def _line(self, line: int) -> Stored:
        image, row = divmod(line, self.rows_of)
        down, right = self.shifts[image]
        if not down and not right:
            return self.matrix.rows(line * self.columns_of, (line + 1) * self.columns_of)
        found = np.full((self.columns_of, self.matrix.shape[1]), np.nan)
        if 0 <= row + down < self.rows_of:
            start = (image * self.rows_of + row + down) * self.columns_of
            source = self.matrix.rows(start, start + self.columns_of)
            low, high = max(0, -right), min(self.columns_of, self.columns_of - right)
            if low < high:
                found[low:high] = source[low + right : high + right]
        return found


def shift_between(first: Floats, other: Floats) -> Shift:
    """By how many rows and columns a picture lies away from another, by the largest cross-correlation.

    Parameters
    ----------
    first, other : (rows, columns) float arrays
        NaN is taken for the mean.

    References
    ----------
    Brown, ACM Comput. Surv. 24 (1992) 325–376.
    """
    rows, columns = first.shape
    wide = (2 * rows, 2 * columns)
    one, two = (np.fft.rfft2(_centred(picture), wide) for picture in (first, other))
    over = np.fft.irfft2(np.conj(one) * two, wide)
    down, right = np.unravel_index(int(over.argmax()), over.shape)
    return (
        int(down) - (wide[0] if down >= rows else 0),
        int(right) - (wide[1] if right >= columns else 0),
    )


def _centred(picture: Floats) -> Floats:
    mean = float(np.nanmean(picture))
    found: Floats = np.where(np.isfinite(picture), picture, mean) - mean
    return found


def aligned(image: Image, watch: Watch | None = None) -> tuple[Image, tuple[Shift, ...]]:
    """Images side by side, each brought over the first by its mean over channels; and the shifts found."""
    layout = image.layout
    sums = np.empty(image.pixels)
    tiles = image.tiles()
    for place, tile in enumerate(tiles):
        tell(watch, place / len(tiles))
        sums[tile] = np.mean(image.fetch(tile), axis=1, dtype=np.float64)
    pictures = sums.reshape(image.images, layout.rows, layout.columns)
    shifts = tuple(shift_between(pictures[0], picture) for picture in pictures)
    moved = Shifted(image.matrix, layout.rows, layout.columns, shifts)
    return replace(image, matrix=moved), shifts
