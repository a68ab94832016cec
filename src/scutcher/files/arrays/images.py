"""Image stacks: TIFF with a page or a plane for each channel, and Zarr; the packages are extras."""

from __future__ import annotations

import logging
import re
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.errors import FileError
from scutcher.files.arrays.in_file import InFile
from scutcher.files.arrays.stored import Lying, Stored, check_unfolded, decoded, unpacked

PLACES = {"Y": "row", "X": "column"}
"""Names of the dimensions of an image; any other is that of the channels."""

NUMBER = re.compile(r"^\s*([-+]?\d+(?:\.\d+)?)\s*(nm|cm-1|cm⁻¹|1/cm|µm|um)?\s*$")
"""What the description of a page says where it is its place on the axis."""


def load_tiff(path: Path, lying: bool = False) -> list[Stored]:
    """The stacks of a TIFF file, the largest first; where pages are described by numbers, those are the axis.

    Where `lying`, stacks that are not compressed stay in the file.

    Raises
    ------
    FileError
        The package is not installed.
    """
    tifffile = _package("tifffile", path)
    logging.getLogger("tifffile").setLevel(logging.CRITICAL)  # what is wrong is said by us, once
    found: list[Stored] = []
    with tifffile.TiffFile(path) as file:
        for place, series in enumerate(file.series):
            if lying and series.dataoffset is not None:
                shape = tuple(size for size in series.shape if size > 1)
                values: Any = InFile(
                    path, series.dtype.newbyteorder(file.byteorder), shape, series.dataoffset
                )
            else:
                check_unfolded(int(series.nbytes), path)
                values = np.squeeze(series.asarray())
            if values.ndim not in (2, 3) or values.dtype.kind not in "fiu":
                continue
            axes = [axis for axis, size in zip(series.axes, series.shape, strict=True) if size > 1]
            dims = tuple(PLACES.get(axis, "channel") for axis in axes)
            if dims.count("channel") > 1 or len(dims) != values.ndim:
                dims = ()
            name = path.stem if place == 0 else f"{path.stem} {place + 1}"
            found.append(Stored(name, values, "", dims))
            found += _described(series.pages, values.shape, dims)
    return found


def _described(pages: Any, shape: tuple[int, ...], dims: tuple[str, ...]) -> list[Stored]:
    """The axis, where the description of each page is a number with or without a unit."""
    if "channel" not in dims or len(pages) != shape[dims.index("channel")]:
        return []
    said = [NUMBER.match(getattr(page, "description", "") or "") for page in pages]
    if not all(said):
        return []
    values = np.array([float(match.group(1)) for match in said if match is not None])
    units = {match.group(2) or "" for match in said if match is not None}
    unit = units.pop() if len(units) == 1 else ""
    name = "wavelength" if unit in ("nm", "um", "µm") else "wavenumber" if unit else "axis"
    return [Stored(name, values, "", ("channel",), unit)]


def load_zarr(path: Path, lying: bool = False) -> list[Stored]:
    """Every array of one to three dimensions of a Zarr store, with the names of its dimensions and its units.

    Where `lying`, those of two and three stay in the store.

    Raises
    ------
    FileError
        The package is not installed.
    """
    zarr = _package("zarr", path)
    found: list[Stored] = []
    _walk(zarr.open(str(path), mode="r"), path.stem, "", found, lying)
    return found


def _walk(node: Any, name: str, group: str, found: list[Stored], lying: bool) -> None:
    """Gather what is in a node; `group` is what lies above it."""
    if hasattr(node, "members"):
        for inner, item in node.members():
            below = f"{group}/{inner}".strip("/") if hasattr(item, "members") else group
            _walk(item, inner, below, found, lying)
        return
    if node.ndim not in (1, 2, 3) or not node.size:
        return
    attributes = dict(node.attrs)
    dims = getattr(node.metadata, "dimension_names", None) or attributes.get("_ARRAY_DIMENSIONS") or ()
    unit = decoded(attributes.get("units", attributes.get("unit", "")))
    named = tuple(str(dim or "") for dim in dims) if len(dims) == node.ndim else ()
    if lying and node.ndim > 1 and node.dtype.kind in "fiu":
        found.append(Stored(name, Lying(node, attributes), group, named, unit.strip()))
        return
    values = np.asarray(node[...])
    if values.dtype.kind not in "fiuUST":
        return
    if values.dtype.kind == "T":
        values = values.astype(str)
    found.append(Stored(name, unpacked(values, attributes), group, named, unit.strip()))


def _package(name: str, path: Path) -> Any:
    """A package that is an extra.

    Raises
    ------
    FileError
        It is not installed.
    """
    import importlib

    try:
        return importlib.import_module(name)
    except ImportError as error:
        raise FileError(
            f"{path.suffix[1:].upper()} files need the package {name}, which is not installed.",
            "Install scutcher[images], or save the image as HDF5.",
        ) from error
