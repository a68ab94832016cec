"""An image: pixels of spectra on a grid, in memory or in a file, and how they are fetched in tiles."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Matrix, Stored
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.words import shown

TILE = 1_500_000
"""Bytes of a tile as float64: it stays in the processor's cache while it is worked on."""


@frozen(eq=False)
class Image:
    """One image, or several of the same size side by side.

    Attributes
    ----------
    matrix : Matrix
        Pixels row by row, image after image; a row of it is a spectrum.
    layout : GridLayout
    axis : Axis
        The channels.
    mask : (n,) bool array or None
        The pixels that are looked at; None for all.
    name, signal, signal_unit : str
    """

    matrix: Matrix
    layout: GridLayout
    axis: Axis
    mask: Booleans | None = None
    name: str = ""
    signal: str = ""
    signal_unit: str = ""

    def __post_init__(self) -> None:
        n, p = self.matrix.shape
        size = self.layout.rows * self.layout.columns
        if size < 1 or n % size:
            raise TableError(
                f"{self.name or 'The image'} has {shown(n, ',')} pixels, which is no multiple of "
                f"{self.layout.rows} × {self.layout.columns}.",
                "Give the number of rows and columns of one image.",
            )
        if len(self.axis) != p:
            raise TableError(
                f"{self.name or 'The image'} has {p} channels, its axis has {len(self.axis)}.",
                "Bring in the axis that belongs to it.",
            )
        if self.mask is not None and self.mask.shape != (n,):
            raise TableError(
                f"The mask has {shown(self.mask.size, ',')} pixels, {self.name or 'the image'} has "
                f"{shown(n, ',')}.",
                "Use a mask of the same rows and columns.",
            )
        if self.mask is not None and not self.mask.any():
            raise TableError("The mask leaves no pixel.", "Let it leave some.")

    @property
    def pixels(self) -> int:
        """How many there are, with those outside the mask."""
        return self.matrix.shape[0]

    @property
    def images(self) -> int:
        """How many lie side by side."""
        return self.pixels // (self.layout.rows * self.layout.columns)

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns of a map: images lie side by side."""
        return self.layout.rows, self.layout.columns * self.images

    def masked(self, mask: Booleans | None) -> Image:
        """The same with another mask."""
        return replace(self, mask=mask)

    def looked_at(self) -> Booleans:
        """The mask, all true where there is none, (n,)."""
        return np.ones(self.pixels, dtype=bool) if self.mask is None else self.mask

    def evenly(self, most: int) -> Integers:
        """Up to so many pixels of the mask, evenly spaced over it."""
        inside = np.arange(self.pixels) if self.mask is None else np.flatnonzero(self.mask)
        if len(inside) <= most:
            return inside
        return inside[np.linspace(0, len(inside) - 1, most).round().astype(np.intp)]

    def spectra(self, pixels: Integers) -> Floats:
        """Of some pixels, (m, p) float64, in the order given; neighbours are fetched together."""
        found = np.empty((len(pixels), self.matrix.shape[1]))
        order = np.argsort(pixels, kind="stable")
        ranked = pixels[order]
        reach = max(1, TILE // (8 * found.shape[1]))
        start = 0
        while start < len(ranked):
            stop = int(np.searchsorted(ranked, ranked[start] + reach))
            low, high = int(ranked[start]), int(ranked[stop - 1]) + 1
            if high - low > 4 * (stop - start) + 64:  # few of many: one by one
                stop, high = start + 1, low + 1
            block = self.matrix.rows(low, high)
            found[order[start:stop]] = block[ranked[start:stop] - low]
            start = stop
        return found

    def tiles(self, most: int = TILE) -> list[slice]:
        """Slices of pixels, each some whole rows of one image."""
        rows, columns = self.layout.rows, self.layout.columns
        tall = max(1, most // (8 * columns * self.matrix.shape[1]))
        found = []
        for image in range(self.images):
            for top in range(0, rows, tall):
                start = (image * rows + top) * columns
                found.append(slice(start, start + min(tall, rows - top) * columns))
        return found

    def starts_image(self, tile: slice) -> bool:
        """Whether a tile has the first row of an image."""
        return int(tile.start) % (self.layout.rows * self.layout.columns) == 0

    def fetch(self, tile: slice) -> Stored:
        """The pixels of a tile as stored, (m, p)."""
        return self.matrix.rows(tile.start, tile.stop)

    def as_map(self, values: Floats | Sequence[float]) -> Floats:
        """Values of all pixels as a picture, images side by side: (n,) → (rows, columns)."""
        rows, columns = self.layout.rows, self.layout.columns
        found: Floats = (
            np.asarray(values).reshape(self.images, rows, columns).transpose(1, 0, 2).reshape(rows, -1)
        )
        return found

    def place_of(self, pixel: int) -> tuple[int, int]:
        """Column and row of a pixel on the map."""
        image, within = divmod(pixel, self.layout.rows * self.layout.columns)
        row, column = divmod(within, self.layout.columns)
        return image * self.layout.columns + column, row

    def pixel_at(self, column: int, row: int) -> int:
        """The pixel at a place of the map."""
        image, within = divmod(column, self.layout.columns)
        return (image * self.layout.rows + row) * self.layout.columns + within
