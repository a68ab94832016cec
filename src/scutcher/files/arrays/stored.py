"""An array as a file holds it, with all that the file says of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from zipfile import ZipFile

import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen

MOST_TIMES_FILE, ALWAYS_ALLOWED = 200, 64 * 2**20
"""A compressed file may unfold to so many times its size, or to so many bytes; more is refused."""


@frozen(eq=False)
class Stored:
    """A named array.

    Attributes
    ----------
    name : what it is called, without the groups above it
    values : its numbers or texts, gaps as NaN: an array, or one that lies in its file
    group : the path of the groups above it, "" for none
    dims : the names of its dimensions, where the file has them
    unit : as the file says
    step : every so-manieth place of an image was read
    """

    name: str
    values: Any
    group: str = ""
    dims: tuple[str, ...] = ()
    unit: str = ""
    step: int = 1

    @property
    def path(self) -> str:
        """Name with the groups above."""
        return f"{self.group}/{self.name}" if self.group else self.name

    @property
    def header(self) -> str:
        """Name and unit, `wavelength / nm`."""
        return f"{self.name} / {self.unit}" if self.unit and " / " not in self.name else self.name

    @property
    def is_matrix(self) -> bool:
        """Two dimensions of numbers, neither of one."""
        return self.values.ndim == 2 and min(self.values.shape) > 1 and self.values.dtype.kind in "fiu"

    @property
    def is_cube(self) -> bool:
        """Three dimensions of numbers, none of one."""
        return self.values.ndim == 3 and min(self.values.shape) > 1 and self.values.dtype.kind in "fiu"

    @property
    def is_vector(self) -> bool:
        """One dimension, or two of which one has a single place."""
        flat = self.values.ndim == 1 or (self.values.ndim == 2 and 1 in self.values.shape)
        return flat and self.values.dtype.kind in "fiuUSO" and self.values.size > 0

    @property
    def is_number(self) -> bool:
        """Whether it holds numbers."""
        return self.values.dtype.kind in "fiu"


class Lying:
    """An array in a file that is cut like one in memory; gaps, scale and offset of the file are applied."""

    def __init__(self, array: Any, attributes: dict[str, Any]) -> None:
        self.array, self.attributes = array, attributes
        self.shape: tuple[int, ...] = tuple(array.shape)
        self.ndim, self.dtype = len(self.shape), array.dtype
        self.size = int(np.prod(self.shape))

    def __getitem__(self, cut: Any) -> np.ndarray:
        return unpacked(np.asarray(self.array[cut]), self.attributes)


LARGE = 256_000_000
"""Bytes of an image as float64 above which it is not read whole: its numbers stay in the file."""


def check_unfolded(size: int, path: Path) -> None:
    """Refuse a file that would unfold to very much more than it is."""
    if size > max(MOST_TIMES_FILE * path.stat().st_size, ALWAYS_ALLOWED):
        raise FileError(f"{path.name} would unfold to {size} bytes.", "It is damaged or not meant well.")


def check_archive(archive: ZipFile, path: Path) -> None:
    """The same for all that a zip archive says it holds."""
    check_unfolded(sum(entry.file_size for entry in archive.infolist()), path)


def decoded(cell: Any) -> str:
    """A text as it is stored, as a text."""
    return cell.decode("utf-8", "replace") if isinstance(cell, bytes) else str(cell)


def unpacked(values: np.ndarray, attributes: dict[str, Any]) -> np.ndarray:
    """Stored numbers as what they mean: filled cells are gaps, scale and offset are applied."""
    if values.dtype.kind not in "fiu":
        return values
    missing = [attributes[key] for key in ("_FillValue", "missing_value") if key in attributes]
    scale, offset = attributes.get("scale_factor"), attributes.get("add_offset")
    if not missing and scale is None and offset is None:
        return values
    made = values.astype(np.float64)
    for mark in missing:
        for number in np.ravel(mark):
            if np.issubdtype(np.asarray(number).dtype, np.number):
                made[values == number] = np.nan
    if scale is not None:
        made *= float(np.ravel(scale)[0])
    if offset is not None:
        made += float(np.ravel(offset)[0])
    return made
