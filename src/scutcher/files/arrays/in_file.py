"""An array of plain numbers in a file, read in parts: nothing is mapped, so memory holds one part only."""

from __future__ import annotations

import os
import weakref
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.errors import FileError


class InFile:
    """Numbers one after the other, cut like an array along its first or second dimension.

    Attributes
    ----------
    shape, ndim, size, dtype : as of an array
    """

    def __init__(self, path: Path, dtype: np.dtype[Any], shape: tuple[int, ...], offset: int) -> None:
        self.path, self.dtype, self.shape, self.offset = path, dtype, shape, offset
        self.ndim, self.size = len(shape), int(np.prod(shape, dtype=np.int64))
        missing = offset + self.size * dtype.itemsize - path.stat().st_size
        if missing > 0:
            raise FileError(
                f"{path.name} is cut short: {missing:,} bytes are missing of {' × '.join(map(str, shape))}.",
                "Copy or save it anew.",
            )
        self._file = os.open(path, os.O_RDONLY)
        weakref.finalize(self, os.close, self._file)

    def __getitem__(self, cut: Any) -> np.ndarray:
        cuts = cut if isinstance(cut, tuple) else (cut,)
        if any(one.step not in (None, 1) for one in cuts) or any(one != slice(None) for one in cuts[2:]):
            return self._mapped(cuts)
        first = range(*cuts[0].indices(self.shape[0]))
        second = range(*cuts[1].indices(self.shape[1])) if len(cuts) > 1 else range(self.shape[1])
        inner = int(np.prod(self.shape[2:], dtype=np.int64))
        rest = self.shape[2:]
        if len(second) == self.shape[1]:
            found = self._read(first.start * self.shape[1] * inner, len(first) * self.shape[1] * inner)
            return found.reshape((len(first), self.shape[1], *rest))
        planes = [
            self._read((plane * self.shape[1] + second.start) * inner, len(second) * inner) for plane in first
        ]
        return np.stack(planes).reshape((len(first), len(second), *rest))

    def _mapped(self, cuts: tuple[slice, ...]) -> np.ndarray:
        """Every so-manieth: the file is mapped while it is looked at."""
        try:
            return np.array(np.memmap(self.path, self.dtype, "r", self.offset, self.shape)[cuts])
        except ValueError as error:
            raise FileError(f"{self.path.name} has become shorter.", "Open it anew.") from error

    def _read(self, start: int, count: int) -> np.ndarray:
        """So many numbers from a place on."""
        buffer = bytearray(count * self.dtype.itemsize)
        view, at = memoryview(buffer), self.offset + start * self.dtype.itemsize
        while view:
            got = os.preadv(self._file, [view], at)
            if got <= 0:
                raise FileError(f"{self.path.name} has become shorter while it was read.", "Open it anew.")
            view, at = view[got:], at + got
        return np.frombuffer(buffer, self.dtype)


def npy_in_file(path: Path) -> InFile | np.ndarray:
    """The array of an .npy file where it lies; read at once where it is stored by columns.

    Raises
    ------
    FileError
        It holds no plain numbers, or is cut short.
    """
    from numpy.lib import format as npy

    try:
        with path.open("rb") as stream:
            version = npy.read_magic(stream)
            read = npy.read_array_header_1_0 if version == (1, 0) else npy.read_array_header_2_0
            shape, by_columns, dtype = read(stream)
            offset = stream.tell()
    except OSError:
        raise
    except Exception as error:  # a damaged header raises whatever Python's own parser does
        raise FileError(f"{path.name} is not a plain array of numbers.", "Save it anew.") from error
    if dtype.kind not in "fiu" or len(shape) not in (2, 3) or min(shape) < 1:
        raise FileError(
            f"{path.name} holds something else than an image of numbers (shape {shape}, type {dtype}).",
            "Save rows × columns × channels as an array.",
        )
    if by_columns:
        return np.asarray(np.load(path, allow_pickle=False))
    return InFile(path, dtype, shape, offset)
