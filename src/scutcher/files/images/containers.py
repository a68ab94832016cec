"""Files that hold named arrays: vectors are read, larger arrays stay where they are."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from scutcher.files.arrays.images import load_tiff, load_zarr
from scutcher.files.arrays.loading import dataset_of
from scutcher.files.arrays.stored import Stored


def hdf5_arrays(path: Path) -> list[Stored]:
    """The arrays of an HDF5 file; it stays open as long as one of them is used.

    Raises
    ------
    FileError
        An array takes its values from other files.
    """
    import h5py

    file, found = h5py.File(path, "r"), []

    def visit(name: str, item: Any) -> None:
        if not isinstance(item, h5py.Dataset) or item.ndim not in (1, 2, 3) or not item.size:
            return
        found.append(dataset_of(name, item, path, lying=item.ndim > 1 and item.dtype.kind in "fiu"))

    file.visititems(visit)
    return found


def zarr_arrays(path: Path) -> list[Stored]:
    """The arrays of a Zarr store."""
    return load_zarr(path, lying=True)


def tiff_arrays(path: Path) -> list[Stored]:
    """The stacks of a TIFF file; those that are not compressed are mapped."""
    return load_tiff(path, lying=True)
