"""MATLAB files up to version 7: plain arrays, cells of texts, and the fields of structures."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

from scutcher.core.errors import InputError
from scutcher.files.arrays.apart import hand_over, hand_over_trouble, limit_memory, read_apart
from scutcher.files.arrays.stored import Stored, check_unfolded

PLAIN = (
    "double", "single", "int8", "uint8", "int16", "uint16", "int32", "uint32", "int64", "uint64", "char",
    "cell", "struct",
)  # fmt: skip


def load_mat5(path: Path) -> list[Stored]:
    """Every plain array, read in a process of its own: a damaged file can end the one that reads it."""
    return read_apart(path, __name__)


def read_here(path: Path) -> list[Stored]:
    """The same in this process.

    Raises
    ------
    FileError
    Exception
        Whatever the library says of a damaged file.
    """
    from scipy.io import loadmat, whosmat

    listed = whosmat(str(path))
    check_unfolded(sum(8 * int(np.prod(shape, dtype=object)) for _, shape, _ in listed), path)
    plain = [name for name, _, kind in listed if kind in PLAIN]
    found: list[Stored] = []
    for name, values in loadmat(str(path), variable_names=plain).items():
        if not name.startswith("__"):
            _flatten(name, np.asarray(values), "", found)
    return found


def _flatten(name: str, values: np.ndarray, group: str, found: list[Stored]) -> None:
    """A plain array as it is, a cell of texts as texts, a structure by its fields."""
    if values.dtype.names is not None:
        if values.size == 1:
            for field in values.dtype.names:
                _flatten(field, np.asarray(values.ravel()[0][field]), f"{group}/{name}".strip("/"), found)
    elif values.dtype.kind == "O":
        cells = [np.asarray(cell) for cell in values.ravel()]
        if cells and all(cell.dtype.kind == "U" and cell.size == 1 for cell in cells):
            found.append(Stored(name, np.array([str(cell.ravel()[0]) for cell in cells]), group))
        elif cells and all(cell.dtype.kind in "fiu" and cell.size == 1 for cell in cells):
            found.append(Stored(name, np.array([float(cell.ravel()[0]) for cell in cells]), group))
    else:
        found.append(Stored(name, values, group))


def main(path: Path, folder: Path) -> None:
    """In the process of its own."""
    import scipy.io

    assert scipy.io  # before memory is limited
    limit_memory(path)
    try:
        hand_over(read_here(path), folder)
    except InputError as error:
        hand_over_trouble(error, folder)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
