"""Writing a table: CSV, XLSX, HDF5, JCAMP-DX; each reads back to the last digit."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files.csv_text import cell_text, csv_text, harmless, number_text
from scutcher.files.safely import write_bytes, write_text

Rows = Sequence[Sequence[object]]


def write_csv(table: Table, path: Path) -> None:
    """Write a table as CSV that `read_delimited` reads back to the last digit.

    The columns: sample, lot (where there are replicates), classes, properties, variables.
    """
    header, columns = columns_of(table)
    rows = (map(cell_text, row) for row in zip(*columns, strict=True))
    write_text(path, csv_text(map(harmless, header), rows))


def write_table(table: Table, path: Path) -> None:
    """Write a table in the format that the file's ending says.

    Raises
    ------
    FileError
        An ending that is not written, or a file that cannot be.
    """
    writers: dict[str, Callable[[Table, Path], None]] = {
        ".csv": write_csv,
        ".xlsx": write_xlsx,
        ".h5": write_hdf5,
        ".dx": write_jcamp,
        ".parquet": write_parquet,
    }
    writer = writers.get(path.suffix.lower())
    if writer is None:
        raise FileError(
            f"{path.name} ends in {path.suffix or 'nothing'!r}, which is not written.",
            f"Use one of {', '.join(writers)}.",
        )
    writer(table, path)


def columns_of(table: Table) -> tuple[list[str], list[Sequence[Any]]]:
    """Header and columns: sample, lot (where there are replicates), classes, properties, variables."""
    header, columns = ["sample"], [table.ids]
    found: list[Sequence[Any]] = [*columns]
    if table.replicates is not None:
        header.append("lot")
        found.append(table.replicates)
    for column in table.classes:
        header.append(column.name)
        found.append(column.values)
    for measured in table.properties:
        header.append(measured.header)
        found.append(measured.values.tolist())
    return [*header, *table.axis.labels], [*found, *table.values.T.tolist()]


def write_xlsx(table: Table, path: Path) -> None:
    """One sheet: a header row, one row per sample."""
    header, columns = columns_of(table)
    numeric = [_number_or_text(label) for label in header]
    write_rows_xlsx([numeric, *zip(*columns, strict=True)], path)


def write_rows_xlsx(rows: Rows, path: Path) -> None:
    """Rows of texts and numbers as a workbook; texts stay texts, also those that look like formulas."""
    import openpyxl

    book = openpyxl.Workbook(write_only=True)
    sheet = book.create_sheet("Scutcher")
    for row in rows:
        sheet.append([_cell(value, sheet) for value in row])
    stream = io.BytesIO()
    book.save(stream)
    write_bytes(path, stream.getvalue())


def _cell(value: object, sheet: Any) -> object:
    if not isinstance(value, (float, str)):
        return value
    if value != value or value == "":
        return None
    from openpyxl.cell import WriteOnlyCell

    cell = WriteOnlyCell(sheet)
    if isinstance(value, str):
        cell._value, cell.data_type = ILLEGAL.sub("", value), "s"
    else:
        cell._value, cell.data_type = repr(value), "n"  # the library itself writes 16 digits; 17 are needed
    return cell


ILLEGAL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")
"""Signs that a workbook cannot hold."""


def _number_or_text(label: str) -> object:
    """A header cell: a number where the label is exactly that number as a spreadsheet shows it."""
    try:
        value = float(label)
    except ValueError:
        return label
    return int(value) if value.is_integer() and str(int(value)) == label else label


def write_hdf5(table: Table, path: Path) -> None:
    """Datasets `spectra`, the axis under its title, `sample`, and one for each class and property.

    Axis and samples are dimension scales of the spectra; units are attributes.
    """
    import h5py

    stream = io.BytesIO()
    with h5py.File(stream, "w") as file:
        file.attrs["name"], file.attrs["signal"] = table.name, table.signal
        file["spectra"] = table.values
        if table.signal_unit:
            file["spectra"].attrs["units"] = table.signal_unit
        _named(file, "sample", "sample", list(table.ids))
        file["sample"].make_scale("sample")
        if table.axis.positions is not None:
            _named(file, "axis", table.axis.title if table.axis.quantity else "axis", table.axis.positions)
            file["axis"].make_scale("axis")
            file["axis"].attrs["units"] = table.axis.unit
            file["spectra"].dims[1].attach_scale(file["axis"])
        for place, column in enumerate(table.classes):
            _named(file, f"class-{place + 1}", column.name, list(column.values))
        for place, measured in enumerate(table.properties):
            _named(file, f"property-{place + 1}", measured.header, measured.values)
            file[f"property-{place + 1}"].attrs["units"] = measured.unit
        for name in file:
            if name not in ("axis", "sample"):
                file[name].dims[0].attach_scale(file["sample"])
    write_bytes(path, stream.getvalue())


def _named(file: Any, key: str, name: str, values: Any) -> None:
    """A dataset under a plain key; its real name, which may hold a slash, is an attribute."""
    file[key] = values
    file[key].attrs["name"] = name


def write_parquet(table: Table, path: Path) -> None:
    """One row per sample: id, classes, properties, channels.

    Raises
    ------
    FileError
        The package is not installed, or the file cannot be written.
    """
    import pandas

    from scutcher.files.columnar import check_package

    check_package(path)
    header, columns = columns_of(table)
    stream = io.BytesIO()
    frame = pandas.DataFrame(dict(zip(header, columns, strict=True)))
    frame.to_parquet(stream, index=False)
    write_bytes(path, stream.getvalue())


JCAMP_UNITS = {
    "cm⁻¹": "1/CM",
    "nm": "NANOMETERS",
    "µm": "MICROMETERS",
    "s": "SECONDS",
    "Hz": "HZ",
    "ppm": "PPM",
}


def write_jcamp(table: Table, path: Path) -> None:
    """A block for each spectrum, linked where there are several, as pairs of plain numbers.

    Raises
    ------
    FileError
        The table has no ordered axis.
    """
    if table.axis.positions is None:
        raise FileError("JCAMP-DX holds spectra; this is a table of mixed variables.", "Write CSV or XLSX.")
    places = [number_text(place) for place in table.axis.positions]
    unit = JCAMP_UNITS.get(table.axis.unit, table.axis.quantity.upper() or "ARBITRARY UNITS")
    blocks = [_block(table, row, places, unit) for row in range(len(table.ids))]
    if len(blocks) > 1:
        head = f"##TITLE={_one_line(table.name)}\n##JCAMP-DX=4.24\n##DATA TYPE=LINK\n"
        head += "##ORIGIN=Scutcher\n##OWNER=public domain\n"
        head += f"##BLOCKS={len(blocks) + 1}\n"
        blocks = [head, *blocks, "##END=\n"]
    write_text(path, "".join(blocks))


def _block(table: Table, row: int, places: list[str], unit: str) -> str:
    values = table.values[row].tolist()
    pairs = (
        f"{place}, {'?' if value != value else repr(value)}\n"
        for place, value in zip(places, values, strict=True)
    )
    first = "?" if values[0] != values[0] else repr(values[0])
    kind = {"cm⁻¹": "INFRARED SPECTRUM", "ppm": "NMR SPECTRUM"}.get(table.axis.unit, "SPECTRUM")
    told = [f"##$CLASS {_label(c.name)}={_one_line(c.values[row])}\n" for c in table.classes]
    told += [
        f"##$PROPERTY {_label(c.header)}={number_text(float(c.values[row])) or '?'}\n"
        for c in table.properties
    ]
    return (
        f"##TITLE={_one_line(table.ids[row])}\n##JCAMP-DX=4.24\n##DATA TYPE={kind}\n##ORIGIN=Scutcher\n"
        f"##OWNER=public domain\n{''.join(told)}##XUNITS={unit}\n##YUNITS={_one_line(table.signal).upper()}\n"
        f"##FIRSTX={places[0]}\n##LASTX={places[-1]}\n##FIRSTY={first}\n##XFACTOR=1\n##YFACTOR=1\n"
        f"##NPOINTS={len(places)}\n##XYPOINTS=(XY..XY)\n{''.join(pairs)}##END=\n"
    )


def _label(name: str) -> str:
    """A name that can stand in a label."""
    return _one_line(name).replace("=", "-")


def _one_line(text: str) -> str:
    return " ".join(text.split()).replace("$$", "$")


def write_numbers(header: Sequence[str], rows: Rows, path: Path) -> None:
    """Write the numbers behind a chart: CSV, XLSX or HDF5, by the file's ending.

    Raises
    ------
    FileError
        Another ending, or a file that cannot be written.
    """
    suffix = path.suffix.lower()
    if suffix == ".csv":
        write_text(path, csv_text(map(harmless, header), (map(cell_text, row) for row in rows)))
    elif suffix == ".xlsx":
        write_rows_xlsx([header, *rows], path)
    elif suffix == ".h5":
        _write_columns_hdf5(header, rows, path)
    else:
        raise FileError(f"{path.name} ends in {suffix or 'nothing'!r}.", "Use one of .csv, .xlsx, .h5.")


def _write_columns_hdf5(header: Sequence[str], rows: Rows, path: Path) -> None:
    import h5py

    stream = io.BytesIO()
    with h5py.File(stream, "w") as file:
        for place, (name, column) in enumerate(zip(header, zip(*rows, strict=True), strict=True)):
            _named(file, f"column-{place + 1}", name, list(column))
    write_bytes(path, stream.getvalue())
