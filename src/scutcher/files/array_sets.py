"""Named arrays (HDF5, NetCDF-3, .npz, MATLAB level 5) as a table: the matrix, its axis, ids, properties."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis, split_unit
from scutcher.core.data.constant_variables import leave_out_unusable
from scutcher.core.data.table import ClassColumn, PropertyColumn, Table
from scutcher.core.errors import FileError
from scutcher.files.columns import Roles, without_infinities
from scutcher.files.safely import reading
from scutcher.files.spectra import unique_names

MOST_TIMES_FILE, ALWAYS_ALLOWED = 200, 64 * 2**20
"""A compressed file may unfold to so many times its size, or to so many bytes; more is refused."""
Arrays = dict[str, np.ndarray]


def reader(suffix: str) -> Callable[[Path, Roles | None], Table]:
    """A reader of one format, by a file ending of it."""

    def read(path: Path, roles: Roles | None = None) -> Table:
        return leave_out_unusable(table_of_arrays(arrays_of(path, suffix), path, roles or Roles()))

    return read


def arrays_of(path: Path, suffix: str) -> Arrays:
    """Every array of a file.

    Raises
    ------
    FileError
        It is missing or damaged, or would unfold to too much.
    """
    load, what = LOADERS[suffix]
    with reading(path):
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


def table_of_arrays(arrays: Mapping[str, np.ndarray], path: Path, roles: Roles) -> Table:
    """Choose the matrix (the largest, or the one named) and what belongs to its rows and columns.

    A one-dimensional array as long as the rows is an axis when it rises or falls (of several, the one
    whose name says so); one as long as the columns of numbers is a property, of text the ids or a class.
    Where only the number of rows has an axis, samples stand in columns.

    Raises
    ------
    FileError
        There is no matrix of numbers, or not the one that was named.
    """
    matrices, wanted = {name: values for name, values in arrays.items() if _is_matrix(values)}, roles.sheet
    if wanted is not None and wanted not in matrices:
        known = ", ".join(matrices) or "none"
        raise FileError(f"{path.name} has no matrix {wanted!r}.", f"Its matrices: {known}.")
    if not matrices:
        raise FileError(
            f"{path.name} has no matrix of numbers.", "Save the spectra as a two-dimensional array."
        )
    name = wanted or max(matrices, key=lambda key: matrices[key].size)
    values = without_infinities(np.asarray(matrices[name], dtype=np.float64), roles)
    vectors = {key: np.ravel(other) for key, other in arrays.items() if key != name and _is_vector(other)}
    n, p = values.shape
    along, down = _axis_name(vectors, p), _axis_name(vectors, n) if n != p else None
    if down is not None and (along is None or (_sounds_like_axis(down) and not _sounds_like_axis(along))):
        values, along = values.T, down
    return _assembled(values, vectors, along, path)


def _assembled(
    values: np.ndarray, vectors: dict[str, np.ndarray], axis_name: str | None, path: Path
) -> Table:
    n, p = values.shape
    ids: tuple[str, ...] | None = None
    classes, properties = [], []
    for name, vector in vectors.items():
        if name == axis_name or len(vector) != n:
            continue
        if vector.dtype.kind in "fiu":
            label, unit = split_unit(name)
            properties.append(PropertyColumn(label, vector.astype(np.float64), unit))
            continue
        texts = _texts(vector, name, path)
        if ids is None and len(set(texts)) == n:
            ids = texts
        else:
            classes.append(ClassColumn(name, texts))
    places = np.arange(1.0, p + 1.0) if axis_name is None else vectors[axis_name].astype(np.float64)
    labels = tuple(f"{place:.17g}" if axis_name else str(int(place)) for place in places)
    quantity, unit = split_unit(axis_name or "")
    return Table(
        values=values,
        axis=Axis(labels, places, "" if quantity.lower() in ("axis", "x") else quantity, unit),
        ids=ids or unique_names([""] * n),
        name=path.stem,
        classes=tuple(classes),
        properties=tuple(properties),
    )


def _texts(vector: np.ndarray, name: str, path: Path) -> tuple[str, ...]:
    if vector.dtype.kind == "U":
        points = np.ascontiguousarray(vector).view(np.uint32 if vector.dtype.isnative else ">u4")
        if points.max(initial=0) > 0x10FFFF:
            raise FileError(f"The texts {name!r} of {path.name} are damaged.", "Save it anew.")
    cells = (
        cell.decode("utf-8", "replace") if isinstance(cell, bytes) else str(cell) for cell in vector.tolist()
    )
    return tuple(cell.strip() for cell in cells)


AXIS_WORDS = ("axis", "wave", "shift", "freq", "channel", "time", "nm", "mz", "m/z", "ppm")


def _axis_name(vectors: dict[str, np.ndarray], length: int) -> str | None:
    found = []
    for name, vector in vectors.items():
        if len(vector) == length > 1 and vector.dtype.kind in "fiu":
            steps = np.diff(vector.astype(np.float64))
            if (steps > 0).all() or (steps < 0).all():
                found.append(name)
    found.sort(key=lambda name: not _sounds_like_axis(name))
    return found[0] if found else None


def _sounds_like_axis(name: str) -> bool:
    bare = name.partition(" / ")[0].lower()
    return bare == "x" or any(word in bare for word in AXIS_WORDS)


def _is_matrix(values: np.ndarray) -> bool:
    return values.ndim == 2 and min(values.shape) > 1 and values.dtype.kind in "fiu"


def _is_vector(values: np.ndarray) -> bool:
    flat = values.ndim == 1 or (values.ndim == 2 and 1 in values.shape)
    return flat and values.dtype.kind in "fiuUSO" and values.size > 0


def _check_unfolded(sizes: int, path: Path) -> None:
    if sizes > max(MOST_TIMES_FILE * path.stat().st_size, ALWAYS_ALLOWED):
        raise FileError(f"{path.name} would unfold to {sizes} bytes.", "It is damaged or not meant well.")


def load_npz(path: Path) -> Arrays:
    """Every array of an .npz; nothing pickled is loaded."""
    import zipfile

    with zipfile.ZipFile(path) as archive:
        _check_unfolded(sum(entry.file_size for entry in archive.infolist()), path)
    with np.load(path, allow_pickle=False) as archive:
        found = {}
        for name in archive.files:
            try:
                found[name] = archive[name]
            except ValueError:
                continue  # an object array: it would need pickle
        return {name: values for name, values in found.items() if isinstance(values, np.ndarray)}


def load_hdf5(path: Path) -> Arrays:
    """Every dataset of an HDF5 file, by its name without the groups above it."""
    import h5py

    found: Arrays = {}
    with h5py.File(path, "r") as file:

        def visit(name: str, item: Any) -> None:
            if isinstance(item, h5py.Dataset) and item.ndim in (1, 2) and item.size:
                _check_unfolded(item.size * max(item.dtype.itemsize, 1), path)
                values = item.asstr()[()] if h5py.check_string_dtype(item.dtype) else item[()]
                label = str(item.attrs.get("name", name.rpartition("/")[2]))
                found[label] = np.asarray(values)

        file.visititems(visit)
    return found


def load_netcdf(path: Path) -> Arrays:
    """Every variable of a NetCDF-3 file; its units join its name."""
    from scipy.io import netcdf_file

    found: Arrays = {}
    with netcdf_file(path, "r", mmap=False) as file:
        for name, variable in file.variables.items():
            values = np.array(variable.data)
            _check_unfolded(values.nbytes, path)
            units = getattr(variable, "units", b"")
            unit = units.decode("utf-8", "replace") if isinstance(units, bytes) else str(units)
            if values.dtype.kind == "S" and values.ndim == 2:
                values = np.array([b"".join(row).decode("utf-8", "replace").strip("\0 ") for row in values])
            elif values.dtype.kind != "S":
                values = values.astype(values.dtype.newbyteorder("="))
            found[f"{name} / {unit}" if unit and values.ndim == 1 else name] = values
    return found


def load_mat(path: Path) -> Arrays:
    """The plain arrays of a MATLAB level-5 file."""
    from scipy.io import loadmat, whosmat

    listed = whosmat(str(path))
    _check_unfolded(sum(8 * int(np.prod(shape, dtype=object)) for _, shape, _ in listed), path)
    plain = [name for name, _, kind in listed if kind in PLAIN_MAT]
    return {
        name: np.asarray(values)
        for name, values in loadmat(str(path), variable_names=plain).items()
        if not name.startswith("__")
    }


PLAIN_MAT = (
    "double", "single", "int8", "uint8", "int16", "uint16", "int32", "uint32", "int64", "uint64", "char",
)  # fmt: skip

LOADERS: dict[str, tuple[Callable[[Path], Arrays], str]] = {
    ".npz": (load_npz, "an .npz archive"),
    ".h5": (load_hdf5, "an HDF5 file"),
    ".hdf5": (load_hdf5, "an HDF5 file"),
    ".nc": (load_netcdf, "a NetCDF-3 file"),
    ".cdf": (load_netcdf, "a NetCDF-3 file"),
    ".mat": (load_mat, "a MATLAB level-5 file"),
}


def matrix_names(path: Path) -> tuple[str, ...]:
    """The matrices of a file that can be read, the largest first."""
    arrays = arrays_of(path, path.suffix.lower())
    matrices = [name for name, values in arrays.items() if _is_matrix(values)]
    return tuple(sorted(matrices, key=lambda name: -arrays[name].size))


read_npz, read_hdf5, read_netcdf, read_mat = (reader(suffix) for suffix in (".npz", ".h5", ".nc", ".mat"))
