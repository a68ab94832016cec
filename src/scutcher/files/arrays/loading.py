"""Every array of a file: HDF5 and NetCDF of either kind, MATLAB of either kind, NumPy archives."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.errors import FileError
from scutcher.files.arrays.heap_strings import check_strings
from scutcher.files.arrays.heaps import check_heaps
from scutcher.files.arrays.images import load_tiff, load_zarr
from scutcher.files.arrays.matlab import load_mat5
from scutcher.files.arrays.stored import (
    LARGE,
    Lying,
    Stored,
    check_archive,
    check_unfolded,
    decoded,
    unpacked,
)
from scutcher.files.safely import reading

Arrays = list[Stored]
HDF5_BEGINS = b"\x89HDF\r\n\x1a\n"


def load_npz(path: Path) -> Arrays:
    """Every array of an .npz; nothing pickled is loaded."""
    import zipfile

    with zipfile.ZipFile(path) as archive:
        check_archive(archive, path)
    found = []
    with np.load(path, allow_pickle=False) as archive:
        for name in archive.files:
            try:
                values = archive[name]
            except ValueError:
                continue  # an object array: it would need pickle
            if isinstance(values, np.ndarray):
                found.append(Stored(name, values))
    return found


def load_hdf5(path: Path) -> Arrays:
    """Every dataset of an HDF5 file of one to three dimensions, with its scales and attributes."""
    import h5py

    found: Arrays = []
    file = h5py.File(path, "r")  # stays open as long as a large image of it is used
    together = 0

    def visit(name: str, item: Any) -> None:
        nonlocal together
        if isinstance(item, h5py.Dataset) and item.ndim in (1, 2, 3) and item.size:
            large = item.ndim == 3 and item.dtype.kind in "fiu" and 8 * item.size > LARGE
            together += 0 if large else item.size * max(item.dtype.itemsize, 1)
            check_unfolded(together, path)
            found.append(dataset_of(name, item, path, large))

    try:
        check_heaps(path, file.id.get_create_plist().get_sizes()[1])
        file.visititems(visit)
    except BaseException:
        file.close()
        raise
    if not any(isinstance(stored.values, Lying) for stored in found):
        file.close()
    return found


def dataset_of(name: str, item: Any, path: Path, lying: bool = False) -> Stored:
    """A dataset with its name, unit and dimensions; its numbers read, or lying in the file.

    Raises
    ------
    FileError
        It takes its numbers from other files, or is larger than its file can mean.
    """
    import h5py

    if item.external or item.is_virtual:
        raise FileError(f"{path.name} takes {name!r} from other files.", "Save it with the values in it.")
    attributes = {
        key: item.attrs[key] for key in item.attrs if key not in ("DIMENSION_LIST", "REFERENCE_LIST")
    }
    group, _, last = name.rpartition("/")
    label = decoded(attributes.get("name", last))
    if label.startswith("This is a netCDF dimension") or label.rpartition("/")[2] == last:
        label = last
    unit = decoded(attributes.get("units", attributes.get("unit", ""))).strip()
    if lying:
        return Stored(label, Lying(item, attributes), group, _dims(name, item), unit)
    check_unfolded(item.size * max(item.dtype.itemsize, 1), path)
    texts = h5py.check_string_dtype(item.dtype)
    if texts is not None and texts.length is None:
        check_strings(item, path)
    values = np.asarray(item.asstr()[()] if texts else item[()])
    return Stored(label, unpacked(values, attributes), group, _dims(name, item), unit)


def _dims(name: str, item: Any) -> tuple[str, ...]:
    """The names of the dimensions by their scales; a scale is its own dimension."""
    if item.attrs.get("CLASS") == b"DIMENSION_SCALE" and item.ndim == 1:
        return (name.rpartition("/")[2],)
    names = []
    for dimension in item.dims:
        scale = dimension[0].name if len(dimension) else ""
        names.append(str(scale).rpartition("/")[2] or dimension.label)
    return tuple(names) if any(names) else ()


def load_netcdf(path: Path) -> Arrays:
    """Every variable of a NetCDF file; a chromatogram of ASTM E1947 as signal and time."""
    with path.open("rb") as stream:
        if stream.read(8) == HDF5_BEGINS:
            return load_hdf5(path)
    from scipy.io import netcdf_file

    found: Arrays = []
    with netcdf_file(path, "r", mmap=False) as file:
        for name, variable in file.variables.items():
            values = np.array(variable.data)
            check_unfolded(values.nbytes, path)
            attributes = dict(vars(variable)["_attributes"])
            if values.dtype.kind == "S" and values.ndim == 2:
                values = np.array([b"".join(row).decode("utf-8", "replace").strip("\0 ") for row in values])
            elif values.dtype.kind != "S":
                values = unpacked(values.astype(values.dtype.newbyteorder("=")), attributes)
            unit = decoded(attributes.get("units", attributes.get("unit", "")))
            dims = tuple(variable.dimensions[: values.ndim])
            found.append(Stored(name, values, "", dims, unit.strip("\0 ")))
        texts = {key: decoded(value).strip("\0 ") for key, value in vars(file)["_attributes"].items()}
    return _chromatogram(found, texts, path) or found


def _chromatogram(found: Arrays, texts: dict[str, str], path: Path) -> Arrays:
    """The one signal of a chromatogram that is stored with its interval (ASTM E1947), or nothing."""
    by_name = {stored.name: stored.values for stored in found}
    signal, interval = by_name.get("ordinate_values"), by_name.get("actual_sampling_interval")
    if signal is None or interval is None or signal.ndim != 1 or not float(interval) > 0.0:
        return []
    delay = float(by_name.get("actual_delay_time", np.zeros(())))
    seconds = delay + float(interval) * np.arange(len(signal))
    unit = texts.get("retention_unit", "seconds").lower()
    named = {"seconds": "s", "second": "s", "sec": "s", "minutes": "min", "minute": "min"}.get(unit, unit)
    values = unpacked(np.asarray(signal, dtype=np.float64)[np.newaxis], {})
    sample = texts.get("sample_name") or texts.get("sample_id") or path.stem
    return [
        Stored("signal", values, "", ("sample", "time"), texts.get("detector_unit", "")),
        Stored("time", seconds, "", ("time",), named),
        Stored("sample", np.array([sample]), "", ("sample",)),
    ]


def load_mat(path: Path) -> Arrays:
    """The plain arrays of a MATLAB file, cells of texts, and the fields of structures."""
    with path.open("rb") as stream:
        start = stream.read(128)
        stream.seek(512)
        if start[:10] == b"MATLAB 7.3" or stream.read(8) == HDF5_BEGINS:
            return _load_mat_hdf5(path)
    return load_mat5(path)


def _load_mat_hdf5(path: Path) -> Arrays:
    """A MATLAB 7.3 file: its matrices lie turned, texts are numbers, cells are references."""
    import h5py

    found: Arrays = []
    with h5py.File(path, "r") as file:

        def visit(name: str, item: Any) -> None:
            if not isinstance(item, h5py.Dataset) or name.startswith("#") or not item.size:
                return
            check_unfolded(item.size * max(item.dtype.itemsize, 1), path)
            group, _, last = name.rpartition("/")
            kind = decoded(item.attrs.get("MATLAB_class", b""))
            if item.attrs.get("MATLAB_empty", 0):
                return
            if h5py.check_ref_dtype(item.dtype) is not None:
                texts = [_mat_text(file[reference]) for reference in np.ravel(item[()], order="F")]
                if all(text is not None for text in texts):
                    found.append(Stored(last, np.array([str(text) for text in texts]), group))
            elif kind == "char":
                found.append(Stored(last, np.array(_mat_lines(item)), group))
            elif item.dtype.kind in "fiu" and item.ndim in (1, 2, 3):
                found.append(Stored(last, np.asarray(item[()]).T, group))

        file.visititems(visit)
    return found


def _mat_text(item: Any) -> str | None:
    """The text in a cell, or None where it holds something else."""
    if decoded(item.attrs.get("MATLAB_class", b"")) != "char":
        return None
    return "" if item.attrs.get("MATLAB_empty", 0) else "".join(_mat_lines(item))


def _mat_lines(item: Any) -> list[str]:
    """The rows of a matrix of letters."""
    letters = np.asarray(item[()]).T
    return ["".join(chr(int(code)) for code in row).rstrip() for row in np.atleast_2d(letters)]


LOADERS: dict[str, tuple[Callable[[Path], Arrays], str]] = {
    ".npz": (load_npz, "an .npz archive"),
    ".h5": (load_hdf5, "an HDF5 file"),
    ".hdf5": (load_hdf5, "an HDF5 file"),
    ".nc": (load_netcdf, "a NetCDF file"),
    ".cdf": (load_netcdf, "a NetCDF file"),
    ".mat": (load_mat, "a MATLAB file"),
    ".tif": (load_tiff, "a TIFF file"),
    ".tiff": (load_tiff, "a TIFF file"),
    ".zarr": (load_zarr, "a Zarr store"),
}


def arrays_of(path: Path, suffix: str) -> Arrays:
    """Every array of a file.

    Raises
    ------
    FileError
        It is missing or damaged, or would unfold to too much.
    """
    load, what = LOADERS[suffix]
    with reading(path):
        if not path.is_dir():
            path.open("rb").close()
        try:
            return load(path)
        except FileError:
            raise
        except (OSError, MemoryError):
            raise FileError(f"{path.name} is not {what} that can be read.", "Save it anew.") from None
        except Exception as error:  # the libraries raise nearly anything on damaged files
            raise FileError(
                f"{path.name} is not {what} that can be read ({type(error).__name__}).", "Save it anew."
            ) from error


def matrix_names(path: Path) -> tuple[str, ...]:
    """The matrices of a file that can be read, the largest first."""
    arrays = arrays_of(path, path.suffix.lower())
    several = [stored for stored in arrays if stored.is_matrix or stored.is_cube]
    names = [stored.name for stored in several]
    shown = {s.path if names.count(s.name) > 1 else s.name: s.values.size for s in several}
    return tuple(sorted(shown, key=lambda name: -shown[name]))
