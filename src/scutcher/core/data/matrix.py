"""Numbers in rows that need not be in memory: an array, a mapped file, a cube seen as rows of spectra."""

from __future__ import annotations

from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from scutcher.core.frozen import frozen

Stored = NDArray[Any]
"""Values as they are stored: integers or floats of any width."""


class Matrix(Protocol):
    """n rows of p values, fetched in parts."""

    @property
    def shape(self) -> tuple[int, int]:
        """n, p."""

    def rows(self, start: int, stop: int) -> Stored:
        """Rows from start up to stop, (stop − start, p), as stored."""


@frozen(eq=False)
class Folded:
    """A stored array of two or three dimensions as rows of spectra.

    Attributes
    ----------
    array : NumPy array, mapped file, or a data set of a file that is cut like one
    channels : int
        Which of its dimensions is that of the channels; the others are folded, the first outermost.
    """

    array: Any
    channels: int = -1

    @property
    def shape(self) -> tuple[int, int]:
        """n, p."""
        sizes = list(self.array.shape)
        p = sizes.pop(self.channels)
        return int(np.prod(sizes)), int(p)

    def rows(self, start: int, stop: int) -> Stored:
        """Rows from start up to stop, (stop − start, p), as stored."""
        dimensions = len(self.array.shape)
        channels = self.channels % dimensions
        others = [size for place, size in enumerate(self.array.shape) if place != channels]
        inner = int(np.prod(others[1:])) if len(others) > 1 else 1
        first, last = start // inner, -(-stop // inner)
        cut = [slice(None)] * dimensions
        cut[1 if channels == 0 else 0] = slice(first, last)
        block = np.moveaxis(np.asarray(self.array[tuple(cut)]), channels, -1)
        flat = block.reshape(-1, block.shape[-1])
        found: Stored = flat[start - first * inner : stop - first * inner]
        return found


@frozen(eq=False)
class Stacked:
    """Several matrices of as many columns under one another."""

    parts: tuple[Matrix, ...]

    @property
    def shape(self) -> tuple[int, int]:
        """n, p."""
        return sum(part.shape[0] for part in self.parts), self.parts[0].shape[1]

    def rows(self, start: int, stop: int) -> Stored:
        """Rows from start up to stop, (stop − start, p), as stored."""
        found, before = [], 0
        for part in self.parts:
            low, high = max(start - before, 0), min(stop - before, part.shape[0])
            if low < high:
                found.append(part.rows(low, high))
            before += part.shape[0]
        return found[0] if len(found) == 1 else np.concatenate(found)


@frozen(eq=False)
class Columns:
    """Some columns of a matrix, in an order of their own."""

    matrix: Matrix
    columns: NDArray[np.intp]

    @property
    def shape(self) -> tuple[int, int]:
        """n, p."""
        return self.matrix.shape[0], len(self.columns)

    def rows(self, start: int, stop: int) -> Stored:
        """Rows from start up to stop, (stop − start, p), as stored."""
        return self.matrix.rows(start, stop)[:, self.columns]
