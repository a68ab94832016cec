"""Parquet and Feather: tables in columns, read by a package that is an extra."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.core.data.origin import Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files.columns import Roles
from scutcher.files.frames import Frame, column_of, table_of_frame
from scutcher.files.layout.cells import PLAIN, as_number
from scutcher.files.layout.cutting import Row
from scutcher.files.layout.laid import Laid
from scutcher.files.layout.naming import named
from scutcher.files.layout.rows import Parts
from scutcher.files.safely import reading

if TYPE_CHECKING:
    import pandas

SUFFIXES = (".parquet", ".feather")
SEEN = 2000
"""Rows by which the columns are named."""


def read_columnar(path: Path, roles: Roles | None = None) -> Table:
    """Read a table in columns: one row per sample.

    Raises
    ------
    FileError
        The package is not installed, or the file is damaged.
    """
    import pandas

    check_package(path)
    with reading(path):
        path.open("rb").close()
        try:
            load = pandas.read_parquet if path.suffix.lower() == ".parquet" else pandas.read_feather
            frame = load(path)
        except MemoryError:
            raise
        except Exception as error:  # the library raises nearly anything on damaged files
            raise FileError(
                f"{path.name} is not a {path.suffix[1:].title()} file that can be read.", "Save it anew."
            ) from error
    index = frame.index
    if not isinstance(index, pandas.RangeIndex) and index.nlevels == 1:
        frame = frame.reset_index()
    if frame.empty:
        raise FileError(f"{path.name} has no samples.", "Choose another file.")
    frame.columns = pandas.Index([str(name) for name in frame.columns])
    return _table(frame, path, roles or Roles())


def _table(frame: pandas.DataFrame, path: Path, roles: Roles) -> Table:
    import pandas

    header = tuple(frame.columns)
    some = frame.head(SEEN).astype(object)
    some = some.where(some.notna(), None)
    rows = [
        Row(0, header),
        *(Row(n, tuple(cells)) for n, cells in enumerate(some.to_numpy().tolist(), start=1)),
    ]
    laid = Laid(tuple(rows), PLAIN, Parts(header=(0,), data=tuple(range(1, len(rows)))))
    kept = named(laid, roles, roles.reading, path.name)
    columns = {}
    for place, name in zip(kept.places, kept.header, strict=True):
        column = frame.iloc[:, place]
        as_text = name in kept.roles.as_text()
        if name in kept.dates:
            columns[name] = column.astype(object).where(column.notna(), None)
        elif as_text or column.dtype.kind not in "fiu":
            columns[name] = column_of(_cells(column), as_text, as_number)
        else:
            columns[name] = column
    origin = Origin(path.suffix[1:], (), kept.remarks, kept.columns)
    cells = pandas.DataFrame(columns)
    made = Frame(cells, path, lambda row: row + 1, kept.quantity, kept.unit, kept.dates, "", origin)
    return table_of_frame(made, kept.roles)


def _cells(column: pandas.Series[Any]) -> list[Any]:
    return [None if missing else cell for cell, missing in zip(column.tolist(), column.isna(), strict=True)]


def check_package(path: Path) -> None:
    try:
        import pyarrow  # type: ignore[import-untyped]  # noqa: F401
    except ImportError as error:
        raise FileError(
            f"{path.suffix[1:].title()} files need the package pyarrow, which is not installed.",
            "Install it, or use CSV or HDF5.",
        ) from error
