"""What can be read and written, by file name ending, and reading several files as one table."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.constant_variables import leave_out_unusable
from scutcher.core.data.resampling import common_axis, resampled
from scutcher.core.data.table import ClassColumn, PropertyColumn, Table
from scutcher.core.errors import AxesDiffer, FileError, TableError
from scutcher.core.progress import Watch
from scutcher.files.array_sets import LOADERS, matrix_names, read_hdf5, read_mat, read_netcdf, read_npz
from scutcher.files.columns import Roles
from scutcher.files.delimited import layout_of, read_delimited
from scutcher.files.jcamp import read_jcamp
from scutcher.files.numpy_arrays import read_npy
from scutcher.files.text import text_of
from scutcher.files.workbook import first_rows, read_workbook, sheet_names
from scutcher.files.xy_text import SUFFIXES as XY_SUFFIXES
from scutcher.files.xy_text import is_xy, read_xy_files

Reader = Callable[[Path, Roles], Table]


def _read_one_xy(path: Path, roles: Roles) -> Table:
    return read_xy_files([path], path.stem)


@dataclass(frozen=True)
class Format:
    """A file format: what it is called, how its files end, who reads it, whether it is written."""

    name: str
    suffixes: tuple[str, ...]
    read: Reader
    writes: bool
    note: str


FORMATS = (
    Format("CSV", (".csv", ".txt"), read_delimited, True, "header row, one row per sample"),
    Format("TSV", (".tsv", ".tab"), read_delimited, False, "the same with tabs"),
    Format("XY text", (".xy", ".dat", ".asc", ".prn", ".dpt"), _read_one_xy, False, "a spectrum per file"),
    Format("XLSX, ODS", (".xlsx", ".ods"), read_workbook, True, "header row, one row per sample"),
    Format("JCAMP-DX", (".dx", ".jdx", ".jcm"), read_jcamp, True, "one spectrum or many, linked, n-tuples"),
    Format("HDF5", (".h5", ".hdf5"), read_hdf5, True, "the largest matrix with its axis and ids"),
    Format("NetCDF-3", (".nc", ".cdf"), read_netcdf, False, "the largest matrix with its axis and ids"),
    Format("NumPy array", (".npy",), read_npy, False, "rows are samples, axis 1…p"),
    Format("NumPy archive", (".npz",), read_npz, False, "the largest matrix with its axis and ids"),
    Format("MATLAB 5", (".mat",), read_mat, False, "the largest matrix with its axis and ids"),
)


def read_table(path: Path, roles: Roles | None = None, watch: Watch | None = None) -> Table:
    """Read one file with the reader for its ending.

    Raises
    ------
    FileError, TableError
        The ending is not known, or the file cannot be used.
    """
    for known in FORMATS:
        if path.suffix.lower() in known.suffixes:
            if known.read is read_delimited:
                return read_delimited(path, roles, watch)
            return known.read(path, roles or Roles())
    endings = ", ".join(suffix for known in FORMATS for suffix in known.suffixes)
    raise FileError(
        f"{path.name} ends in {path.suffix or 'nothing'!r}, which is not a format that can be read.",
        f"Use one of {endings}.",
    )


@dataclass(frozen=True)
class Found:
    """What a file looks like before its columns have roles.

    Attributes
    ----------
    header : its header cells; empty where columns have no names
    lines : its first lines
    layout : how it is cut
    sheets : the sheets of a workbook, or the matrices of a file of arrays
    """

    header: tuple[str, ...]
    lines: str
    layout: str
    sheets: tuple[str, ...] = ()


def look_at(path: Path, sheet: str | None = None) -> Found:
    """Look at a file; formats without named columns have an empty header."""
    suffix = path.suffix.lower()
    if suffix in (".xlsx", ".ods"):
        names = sheet_names(path)
        header, rows, used = first_rows(path, sheet)
        lines = "\n".join("\t".join(row) for row in rows)
        return Found(header, lines, f"sheet {used} of {len(names)}", tuple(names))
    if any(suffix in known.suffixes and known.read is read_delimited for known in FORMATS) and not is_xy(
        path
    ):
        layout = layout_of(path)
        cut = {",": "commas", ";": "semicolons", "\t": "tabs"}[layout.delimiter]
        words = f"{cut}, decimal {'comma' if layout.decimal == ',' else 'point'}, {layout.encoding}, "
        words += f"header in row {layout.first_line}" if layout.has_header else "no header"
        return Found(layout.header, text_of(path, 1 << 14), words)
    known = next((known for known in FORMATS if suffix in known.suffixes), None)
    text = text_of(path, 1 << 14) if suffix in (".dx", ".jdx", ".jcm", *XY_SUFFIXES) else ""
    sheets = matrix_names(path) if suffix in LOADERS else ()
    return Found((), text, known.name if known is not None else "", sheets)


def read_tables(
    paths: Sequence[Path],
    roles: Roles | None = None,
    watch: Watch | None = None,
    resample: bool = False,
) -> Table:
    """Read files and stack them where their axes agree; a folder stands for the spectra in it."""
    if len(paths) == 1 and paths[0].is_dir():
        paths = sorted(path for path in paths[0].iterdir() if path.suffix.lower() in XY_SUFFIXES)
        if not paths:
            raise FileError("The folder holds no text files of spectra.", "Choose one with x, y files.")
        if all(is_xy(path) for path in paths):
            return read_xy_files(paths, paths[0].parent.name, resample)
    elif all(path.suffix.lower() in XY_SUFFIXES and path.is_file() and is_xy(path) for path in paths):
        name = paths[0].stem if len(paths) == 1 else paths[0].parent.name
        return read_xy_files(paths, name, resample)
    tables = [read_table(path, roles, watch) for path in paths]
    if resample:
        tables = on_common_axis(tables)
    return tables[0] if len(tables) == 1 else stack(tables)


def stack(tables: Sequence[Table]) -> Table:
    """Put the samples of several tables under one another.

    Raises
    ------
    TableError
        Two samples have one id.
    FileError
        The axes differ; the message gives both axes' figures.
    """
    first = tables[0]
    for other in tables[1:]:
        if other.axis.labels != first.axis.labels and not _same_places(first, other):
            raise AxesDiffer(
                f"The axes differ: {_figures(first)}; {_figures(other)}.",
                "Resample one of them to the other's channels; nothing was imported.",
            )
    names = tuple(dict.fromkeys(column.name for table in tables for column in table.classes))
    measured = {column.name: column.unit for table in tables for column in table.properties}
    return leave_out_unusable(
        Table(
            values=np.vstack([table.values for table in tables]),
            axis=first.axis,
            ids=tuple(name for table in tables for name in table.ids),
            name=first.name,
            classes=tuple(
                ClassColumn(name, tuple(v for table in tables for v in _class_values(table, name)))
                for name in names
            ),
            properties=tuple(
                PropertyColumn(name, np.concatenate([_property_values(t, name) for t in tables]), unit)
                for name, unit in measured.items()
            ),
            replicates=_replicates(tables),
            signal=first.signal,
            signal_unit=first.signal_unit,
        )
    )


def on_common_axis(tables: Sequence[Table]) -> list[Table]:
    """The same tables on the channels of the coarsest axis that lie within all of them.

    Raises
    ------
    TableError
        Mixed variables, or axes that do not overlap.
    """
    axes = [table.axis.positions for table in tables]
    if any(axis is None for axis in axes):
        raise TableError("Mixed variables cannot be resampled.", "Give the files the same columns.")
    onto = common_axis([axis for axis in axes if axis is not None])
    labels = tuple(f"{place:.10g}" for place in onto)
    first = tables[0].axis
    axis = Axis(labels, onto, first.quantity, first.unit)
    return [
        replace(table, values=resampled(table.values, places, onto), axis=axis, left_out={})
        for table, places in zip(tables, axes, strict=True)
        if places is not None
    ]


def _same_places(first: Table, other: Table) -> bool:
    a, b = first.axis.positions, other.axis.positions
    return a is not None and b is not None and a.shape == b.shape and bool((a == b).all())


def _figures(table: Table) -> str:
    labels = table.axis.labels
    return f"{table.name} has {len(labels)} from {labels[0]} to {labels[-1]}"


def _class_values(table: Table, name: str) -> Sequence[str]:
    for column in table.classes:
        if column.name == name:
            return column.values
    return ("",) * len(table.ids)


def _property_values(table: Table, name: str) -> np.ndarray:
    for column in table.properties:
        if column.name == name:
            return column.values
    return np.full(len(table.ids), np.nan)


def _replicates(tables: Sequence[Table]) -> tuple[str, ...] | None:
    """Replicate ids of all; a table without any has every sample on its own."""
    if all(table.replicates is None for table in tables):
        return None
    return tuple(name for table in tables for name in (table.replicates or table.ids))
