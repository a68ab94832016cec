"""Pixels put together in squares: fewer of them, with better statistics."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Matrix, Stored
from scutcher.core.errors import RecipeError
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image


@frozen(eq=False)
class Binned:
    """The means of squares of pixels; what is left over at the right and lower border is not there.

    Attributes
    ----------
    matrix : Matrix
        Of the single pixels.
    rows_of, columns_of : int
        Of one image, in single pixels.
    size : int
        Pixels to each side of a square.
    """

    matrix: Matrix
    rows_of: int
    columns_of: int
    size: int

    @property
    def shape(self) -> tuple[int, int]:
        """Squares of all images, p."""
        n, p = self.matrix.shape
        images = n // (self.rows_of * self.columns_of)
        return images * (self.rows_of // self.size) * (self.columns_of // self.size), p

    def rows(self, start: int, stop: int) -> Stored:
        """Squares from start up to stop, (stop − start, p) float64."""
        across = self.columns_of // self.size
        first, last = start // across, -(-stop // across)
        lines = [self._line(line) for line in range(first, last)]
        found: Stored = np.concatenate(lines)[start - first * across : stop - first * across]
        return found

    def _line(self, line: int) -> Stored:
        """One row of squares."""
        down, across, size = self.rows_of // self.size, self.columns_of // self.size, self.size
        image, row = divmod(line, down)
        start = (image * self.rows_of + row * size) * self.columns_of
        block = np.asarray(self.matrix.rows(start, start + size * self.columns_of), dtype=np.float64)
        squares = block.reshape(size, self.columns_of, -1)[:, : across * size]
        found: Stored = squares.reshape(size, across, size, -1).mean(axis=(0, 2))
        return found


def binned(image: Image, size: int) -> Image:
    """The image in squares of size × size pixels; a square counts where most of its pixels do.

    Raises
    ------
    RecipeError
        The squares are larger than the image.
    """
    if size == 1:
        return image
    layout = image.layout
    if not 1 <= size <= min(layout.rows, layout.columns):
        raise RecipeError(
            f"Squares of {size} × {size} pixels do not fit {layout.rows} × {layout.columns}.",
            f"Choose 1 to {min(layout.rows, layout.columns)}.",
        )
    rows, columns = layout.rows // size, layout.columns // size
    mask = None
    if image.mask is not None:
        whole = image.mask.reshape(image.images, layout.rows, layout.columns)
        inner = whole[:, : rows * size, : columns * size]
        shares = inner.reshape(image.images, rows, size, columns, size).mean(axis=(2, 4))
        mask = (shares > 0.5).ravel()
    return replace(
        image,
        matrix=Binned(image.matrix, layout.rows, layout.columns, size),
        layout=GridLayout(rows, columns, layout.pixel * size, layout.unit),
        mask=mask,
    )
