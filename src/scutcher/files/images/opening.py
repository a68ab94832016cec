"""An image of any format, opened: its numbers stay in the file until they are asked for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Folded, Stacked
from scutcher.core.errors import FileError, InputError
from scutcher.core.images.image import Image
from scutcher.files.arrays.axes import axis_of_cube, axis_of_vector
from scutcher.files.arrays.in_file import InFile, npy_in_file
from scutcher.files.arrays.loading import HDF5_BEGINS
from scutcher.files.arrays.raw_numbers import SUFFIXES
from scutcher.files.arrays.stored import LARGE, Stored
from scutcher.files.images.containers import hdf5_arrays, tiff_arrays, zarr_arrays
from scutcher.files.images.shape import ORDERS, ImageShape
from scutcher.files.safely import reading

RAW = (*SUFFIXES, ".dat")
"""Endings of files that are numbers and nothing else, where they are called an image."""


def open_image(path: Path, shape: ImageShape | None = None, name: str | None = None) -> Image:
    """Open an image.

    Parameters
    ----------
    path : Path
        NumPy's .npy, HDF5, NetCDF-4, Zarr, TIFF stacks, or raw numbers with a shape.
    shape : ImageShape, optional
        What the file does not say.
    name : str, optional
        Which array, where there are several.

    Raises
    ------
    FileError
        It cannot be read, is cut short, or the shape does not fit.
    """
    suffix = path.suffix.lower()
    with reading(path):
        if suffix in RAW:
            return _raw(path, shape)
        if suffix == ".npy":
            arrays: Sequence[Stored] = [Stored(path.stem, npy_in_file(path))]
        else:
            arrays = _arrays(path, suffix)
    return _image(arrays, path, shape, name)


def can_open(path: Path) -> bool:
    """Whether a file of this ending may be an image that is worked on where it lies."""
    return path.suffix.lower() in (*RAW, ".npy", *CONTAINERS)


MANY_ROWS, MUCH = 1_000_000, 2_000_000_000
"""Rows and bytes of a table above which it is worked on where it lies; an image is from LARGE on."""


def is_large(path: Path) -> bool:
    """Whether a file is better worked on where it lies."""
    if not can_open(path) or path.suffix.lower() in RAW or not path.exists():
        return False
    inside = path.rglob("*") if path.is_dir() else (path,)
    size = sum(file.stat().st_size for file in inside if file.is_file())
    if size <= LARGE:
        return False
    try:
        image = open_image(path)
    except InputError:
        return False  # reading it says why
    return image.layout.columns > 1 or image.pixels > MANY_ROWS or size > MUCH


def stacked(images: Sequence[Image]) -> Image:
    """Several images of the same size side by side.

    Raises
    ------
    FileError
        They differ in size or axis.
    """
    first = images[0]
    if len(images) == 1:
        return first
    for other in images[1:]:
        if (other.layout.rows, other.layout.columns) != (first.layout.rows, first.layout.columns):
            raise FileError(
                f"{other.name} is {other.layout.rows} × {other.layout.columns} pixels, {first.name} "
                f"{first.layout.rows} × {first.layout.columns}.",
                "Bring in images of one size, or one after the other.",
            )
        if other.axis.labels != first.axis.labels:
            raise FileError(
                f"{other.name} has other channels than {first.name}.", "Bring them onto one axis first."
            )
    return replace(first, matrix=Stacked(tuple(image.matrix for image in images)))


CONTAINERS: dict[str, Callable[[Path], list[Stored]]] = {
    ".h5": hdf5_arrays,
    ".hdf5": hdf5_arrays,
    ".nc": hdf5_arrays,
    ".zarr": zarr_arrays,
    ".tif": tiff_arrays,
    ".tiff": tiff_arrays,
}


def _arrays(path: Path, suffix: str) -> list[Stored]:
    if suffix not in CONTAINERS:
        raise FileError(
            f"{path.name} is no image that can be opened.",
            f"Images: {', '.join(('.npy', *CONTAINERS, *RAW))}; or a table with two columns of places.",
        )
    if suffix == ".nc":
        with path.open("rb") as stream:
            if stream.read(8) != HDF5_BEGINS:
                raise FileError(f"{path.name} is NetCDF of the classic kind.", "Save the image as NetCDF-4.")
    try:
        return CONTAINERS[suffix](path)
    except FileError:
        raise
    except Exception as error:  # the libraries raise nearly anything on damaged files
        raise FileError(f"{path.name} cannot be read ({type(error).__name__}).", "Save it anew.") from error


def _raw(path: Path, shape: ImageShape | None) -> Image:
    shape = shape or ImageShape()
    array = InFile(path, shape.dtype, shape.dimensions(path), shape.skip)
    return Image(
        Folded(array, ORDERS[shape.order]),
        GridLayout(shape.rows, shape.columns),
        axis_of_vector(None, shape.channels),
        name=path.stem,
    )


def _image(arrays: Sequence[Stored], path: Path, shape: ImageShape | None, name: str | None) -> Image:
    known = [
        stored for stored in arrays if stored.values.ndim in (2, 3) and stored.values.dtype.kind in "fiu"
    ]
    if name is not None:
        known = [stored for stored in known if name in (stored.name, stored.path)]
    cubes = [stored for stored in known if stored.is_cube] or known
    if not cubes:
        raise FileError(
            f"{path.name} has no image of numbers.", "Save rows × columns × channels as an array."
        )
    chosen = max(cubes, key=lambda stored: int(np.prod(stored.values.shape)))
    said = shape or ImageShape()
    if chosen.values.ndim == 2:
        channels, axis = axis_of_cube(chosen, arrays, 1)
        n = chosen.values.shape[0]
        rows, columns = (said.rows, said.columns) if said.rows else (n, 1)
    else:
        told = ORDERS[said.order] if said.order != "yxc" else None
        channels, axis = axis_of_cube(chosen, arrays, told)
        rows, columns = (size for place, size in enumerate(chosen.values.shape) if place != channels)
        if said.rows and (said.rows, said.columns) != (rows, columns):
            raise FileError(
                f"{chosen.name} of {path.name} is {rows} × {columns} pixels, not "
                f"{said.rows} × {said.columns}.",
                "Leave the layout out.",
            )
    found = axis_of_vector(axis, int(chosen.values.shape[channels]))
    title = path.stem if chosen.name == path.stem or len(cubes) == 1 else f"{path.stem} {chosen.name}"
    return Image(Folded(chosen.values, channels), GridLayout(rows, columns), found, name=title)
