"""Which of a file's arrays is the table, and what belongs to its rows and columns."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from scutcher.core.data.axis import split_unit
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.origin import Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError, Unclear
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of, first_of
from scutcher.files.arrays.axes import (
    axis_of,
    axis_of_vector,
    channel_dimension,
    only_counts,
    sounds_like_axis,
    word_sounds,
)
from scutcher.files.arrays.loading import arrays_of
from scutcher.files.arrays.stored import Stored, decoded
from scutcher.files.arrays.thinning import thinned, thinning_words
from scutcher.files.columns import Roles, without_infinities
from scutcher.files.joining import SheetTable, together
from scutcher.files.layout.reading import Reading
from scutcher.files.spectra import unique_names

SPECTRA = (
    "spectra",
    "spectrum",
    "x",
    "data",
    "absorbance",
    "intensity",
    "intensities",
    "signal",
    "signals",
    "raw",
)
"""Names by which one of several matrices of the same size is the one that is meant."""


def reader(suffix: str) -> Callable[[Path, Roles | None], Table]:
    """A reader of one format, by a file ending of it."""

    def read(path: Path, roles: Roles | None = None) -> Table:
        return leave_out_empty(table_of_arrays(arrays_of(path, suffix), path, roles or Roles()))

    return read


@frozen(eq=False)
class _Belongs:
    """A matrix with what belongs to it.

    Attributes
    ----------
    matrix : samples in rows
    axis : its channels, or None
    rows : what is known of the rows
    turned : whether it lies the other way round in the file
    """

    matrix: Stored
    axis: Stored | None
    rows: tuple[Stored, ...]
    turned: bool


def table_of_arrays(arrays: Sequence[Stored], path: Path, roles: Roles) -> Table:
    """Choose the matrix (the largest, or the one named) and what belongs to its rows and columns.

    By the names of dimensions, where the file has them. Else a vector as long as the rows is an axis when it
    rises or falls (of several, the one whose name says so); one as long as the columns of numbers is a
    property, of text the ids or a class. Matrices of one name in several groups are put under one another.

    Raises
    ------
    FileError
        There is no matrix of numbers, or not the one that was named.
    Unclear
        Several could be meant.
    """
    arrays = [thinned(stored, channel_dimension(stored, arrays)) if stored.is_cube else stored
              for stored in arrays]  # fmt: skip
    matrices = [stored for stored in arrays if stored.is_matrix or _is_one_signal(stored)]
    cubes = [stored for stored in arrays if stored.is_cube]
    wanted = roles.sheet or (roles.reading.sheets[0] if roles.reading.sheets else None)
    known = [*matrices, *cubes]
    if wanted is not None and wanted not in {name for stored in known for name in (stored.name, stored.path)}:
        names = ", ".join(sorted({stored.path for stored in known})) or "none"
        raise FileError(f"{path.name} has no matrix {wanted!r}.", f"Its matrices: {names}.")
    if not known:
        raise FileError(
            f"{path.name} has no matrix of numbers.", "Save the spectra as a two-dimensional array."
        )
    chosen = _chosen(known, arrays, wanted, path)
    tables = [SheetTable(stored.group or path.stem, _table(stored, arrays, path, roles)) for stored in chosen]
    others = [stored.path for stored in known if stored not in chosen]
    table = tables[0].table if len(tables) == 1 else together(tables, "stack", (), True, "group")[0]
    remarks, reading = list(table.origin.remarks), table.origin.reading
    if len(tables) > 1:
        reading = tuple((key, chosen[0].name if key == "sheets" else text) for key, text in reading)
    if others and wanted is None:
        remarks.append(f"{count_of(others, 'matrix')} not read: {first_of(others, 6)}")
    return replace(table, origin=replace(table.origin, remarks=tuple(remarks), reading=reading))


def _is_one_signal(stored: Stored) -> bool:
    """Whether it is a single spectrum that the loader knows to be one."""
    return stored.values.ndim == 2 and stored.values.shape[0] == 1 and stored.dims == ("sample", "time")


def _chosen(
    known: Sequence[Stored], arrays: Sequence[Stored], wanted: str | None, path: Path
) -> list[Stored]:
    """The matrix that is meant, with those of the same name in other groups."""
    if wanted is not None:
        named = [stored for stored in known if stored.path == wanted]
        return named or [stored for stored in known if stored.name == wanted]
    largest = max(stored.values.size for stored in known)
    best = [stored for stored in known if stored.values.size == largest]
    names = {stored.name for stored in best}
    if len(names) > 1:
        preferred = [name for name in names if name.lower() in SPECTRA]
        with_axis = {stored.name for stored in best if _belonging(stored, arrays, Roles()).axis is not None}
        names = set(preferred) if len(preferred) == 1 else with_axis if len(with_axis) == 1 else names
    if len(names) > 1:
        shown = sorted(names)
        raise Unclear(
            f"{path.name} has {len(names)} matrices of {_size(best[0])}: {', '.join(shown)}.",
            "Say which holds the signals; nothing was imported.",
            tuple((name, Reading(sheets=(name,))) for name in shown),
        )
    name = names.pop()
    shape = next(stored for stored in best if stored.name == name).values.shape
    same = [s for s in known if s.name == name and s.values.ndim == len(shape)]
    if len(same) == 1:
        return same
    return same if len({_columns(s, arrays) for s in same}) == 1 else [s for s in best if s.name == name][:1]


def _columns(stored: Stored, arrays: Sequence[Stored]) -> int:
    found = _belonging(stored, arrays, Roles())
    return int(found.matrix.values.shape[-1])


def _size(stored: Stored) -> str:
    return " × ".join(map(str, stored.values.shape))


def _table(stored: Stored, arrays: Sequence[Stored], path: Path, roles: Roles) -> Table:
    remarks: tuple[str, ...] = ()
    if stored.is_cube:
        stored, arrays = _unfolded(stored, arrays, path)
        remarks = (
            f"The array {stored.name} has three dimensions and is read as {len(stored.values)} samples",
            *thinning_words(stored),
        )
    found = _belonging(stored, arrays, roles)
    values = without_infinities(np.asarray(found.matrix.values, dtype=np.float64), roles)
    table = _assembled(values, found, path)
    samples = "columns" if found.turned else "rows"
    words = f"matrix {stored.path}" + (", samples in columns" if found.turned else "")
    columns = tuple(vector.header for vector in found.rows)
    reading = Reading(sheets=(stored.path,), samples=samples)
    return replace(table, origin=Origin(words, reading.pairs(), remarks, columns))


def _belonging(stored: Stored, arrays: Sequence[Stored], roles: Roles) -> _Belongs:
    """What belongs to the rows and columns of a matrix, and which way round it is."""
    near = [other for other in arrays if other is not stored and other.is_vector]
    own = [other for other in near if other.group == stored.group]
    above = [other for other in near if other.group != stored.group and stored.group.startswith(other.group)]
    vectors = [replace(v, values=np.ravel(v.values)) for v in (*own, *above)]
    if stored.is_cube:
        stored = _unfolded(stored, arrays, Path())[0]
    n, p = stored.values.shape
    said = roles.reading.samples
    if len(stored.dims) == 2 and stored.dims[0] != stored.dims[1]:
        first, second = ([v for v in vectors if v.dims == (dim,)] for dim in stored.dims)
        turned = said == "columns" or (not said and _by_dims(stored.dims, first, second))
        along, rows = (first, second) if turned else (second, first)
        return _made(stored, axis_of(along, _plain_dims(stored, turned)), rows, turned)
    by_columns = axis_of([v for v in vectors if len(v.values) == p])
    by_rows: Stored | None = None
    if n != p:
        by_rows = axis_of([v for v in vectors if len(v.values) == n])
    ids_along = n != p and any(len(v.values) == p and not v.is_number for v in vectors)
    ids_down = any(len(v.values) == n and not v.is_number for v in vectors)
    turned = by_rows is not None and (
        (by_columns is None and (sounds_like_axis(by_rows) or ids_along) and not ids_down)
        or (by_columns is not None and sounds_like_axis(by_rows) and not sounds_like_axis(by_columns))
    )
    if said:
        turned = said == "columns"
    axis = by_rows if turned and n != p else by_columns
    length = p if turned else n
    rows = [v for v in vectors if len(v.values) == length and v is not axis]
    return _made(stored, axis, rows, turned)


def _by_dims(dims: tuple[str, ...], first: Sequence[Stored], second: Sequence[Stored]) -> bool:
    """Whether the first of two named dimensions is the axis."""
    sounds = [
        word_sounds(dims[place])
        or (axis_of(vectors, dims[place]) is not None and any(sounds_like_axis(v) for v in vectors))
        for place, vectors in enumerate((first, second))
    ]
    if sounds[0] != sounds[1]:
        return sounds[0]
    texts = [any(not v.is_number for v in vectors) for vectors in (first, second)]
    return texts[1] and not texts[0]


def _plain_dims(stored: Stored, turned: bool) -> str:
    return stored.dims[0] if turned else stored.dims[1]


def _made(stored: Stored, axis: Stored | None, rows: Sequence[Stored], turned: bool) -> _Belongs:
    values = stored.values.T if turned else stored.values
    return _Belongs(replace(stored, values=values), axis, tuple(rows), turned)


def _unfolded(stored: Stored, arrays: Sequence[Stored], path: Path) -> tuple[Stored, list[Stored]]:
    """A cube as a matrix with a row for each of the other two places, and their places as properties."""
    shape = stored.values.shape
    vectors = [v for v in arrays if v.is_vector and v.group in (stored.group, "")]
    channels = channel_dimension(stored, vectors)
    others = [place for place in range(3) if place != channels]
    values = np.moveaxis(stored.values, channels, 2).reshape(-1, shape[channels])
    names = [stored.dims[place] if stored.dims and stored.dims[place] else "" for place in others]
    first, second = (names[0] or "row", names[1] or "column")
    grid = np.indices((shape[others[0]], shape[others[1]])).reshape(2, -1)
    kept = [
        v
        for v in vectors
        if v.values.size == shape[channels] and (not v.dims or v.dims == stored.dims[channels : channels + 1])
    ]
    ids = next((v for v in vectors if not v.is_number and v.values.size == shape[others[0]]), None)
    made = [
        Stored(name, index * float(stored.step) + 1.0, stored.group)
        for name, index in zip((first, second), grid, strict=True)
    ]
    every = stored.step
    texts = [f"{first} {every * a + 1}, {second} {every * b + 1}" for a, b in grid.T.tolist()]
    if ids is not None:
        named = [decoded(cell).strip() for cell in np.ravel(ids.values).tolist()]
        texts = [f"{named[a]} {second} {b + 1}" for a, b in grid.T.tolist()]
        made = [Stored(ids.name, np.array([named[a] for a in grid[0].tolist()]), stored.group)]
    made.insert(0, Stored("sample", np.array(texts), stored.group))
    axis = [replace(v, dims=(), group=stored.group) for v in kept]
    whole = Stored(stored.name, values, stored.group, (), stored.unit, stored.step)
    return whole, [*axis, *made]


def _assembled(values: np.ndarray, found: _Belongs, path: Path) -> Table:
    n, p = values.shape
    ids: tuple[str, ...] | None = None
    classes, properties = [], []
    for vector in found.rows:
        if vector.is_number:
            label, unit = split_unit(vector.header)
            if label.lower() in ("row", "column") or not only_counts(vector.values, label):
                properties.append(PropertyColumn(label, vector.values.astype(np.float64), unit))
            continue
        texts = _texts(vector.values, vector.name, path)
        if ids is None and len(set(texts)) == n:
            ids = texts
        else:
            classes.append(ClassColumn(vector.name, texts))
    return Table(
        values=values,
        axis=axis_of_vector(found.axis, p),
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
    return tuple(decoded(cell).strip() for cell in vector.tolist())


read_npz, read_hdf5, read_netcdf, read_mat, read_tiff, read_zarr = (
    reader(suffix) for suffix in (".npz", ".h5", ".nc", ".mat", ".tif", ".zarr")
)
