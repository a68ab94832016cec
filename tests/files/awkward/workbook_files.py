"""Makes the awkward workbooks: name → function that writes it, from the truth."""

from datetime import date
from pathlib import Path
from typing import Any

from tests.files.awkward.old_workbooks import xls, xlsb
from tests.files.awkward.truth import BENCH, BENCH_NAMES, IDS, KINDS, MOISTURE, NM, VALUES

HEADER = ["sample", "retting", "moisture", *NM.tolist()]
ROWS = [[IDS[r], KINDS[r], float(MOISTURE[r]), *VALUES[r].tolist()] for r in range(12)]
BARE = [[IDS[r], *VALUES[r].tolist()] for r in range(12)]


def book(path: Path, **sheets: list[list[Any]]) -> None:
    """A workbook of sheets of rows."""
    import openpyxl

    made = openpyxl.Workbook()
    made.remove(made.active)
    for name, rows in sheets.items():
        sheet = made.create_sheet(name)
        for row in rows:
            sheet.append(row)
    made.save(path)


def turned(rows: list[list[Any]]) -> list[list[Any]]:
    return [list(row) for row in zip(*rows, strict=True)]


def sheet_per_class(path: Path) -> None:
    parts = {kind: [row for row in ROWS if row[1] == kind] for kind in ("dew", "tank", "green")}
    head = [HEADER[0], *HEADER[2:]]
    book(path, **{kind: [head, *([row[0], *row[2:]] for row in rows)] for kind, rows in parts.items()})


def spectra_and_reference(path: Path) -> None:
    order = [5, 3, 0, 1, 2, 4, 11, 10, 9, 8, 7, 6]
    reference = [["sample", "retting", "moisture"], *(ROWS[row][:3] for row in order)]
    book(path, reference=reference, spectra=[["sample", *NM.tolist()], *BARE])


def about_first(path: Path) -> None:
    about = [["Flax intake"], [], ["author", "R. Mohr"], ["year", 2026]]
    book(path, about=about, spectra=[HEADER, *ROWS])


def title_and_units(path: Path) -> None:
    units = ["", "", "%", *["nm"] * 25]
    book(path, data=[["Intake, spring campaign"], ["second week", "", "R. Mohr"], [], HEADER, units, *ROWS])


def away_from_the_corner(path: Path) -> None:
    book(path, data=[[], [], *([None, None, *row] for row in [HEADER, *ROWS])])


def mean_below(path: Path) -> None:
    mean = ["Mean", None, float(MOISTURE.mean()), *VALUES.mean(axis=0).tolist()]
    book(path, data=[HEADER, *ROWS, [], mean])


def small_table_beside(path: Path) -> None:
    beside = [["class", "n"], ["dew", 4], ["tank", 4], ["green", 4]]
    rows = [HEADER, *ROWS]
    book(path, data=[[*row, None, *(beside[r] if r < 4 else [])] for r, row in enumerate(rows)])


def blank_column_between(path: Path) -> None:
    book(path, data=[[*row[:3], None, *row[3:]] for row in [HEADER, *ROWS]])


def samples_in_columns(path: Path) -> None:
    book(path, data=turned([["wavelength / nm", *NM.tolist()], *BARE]))


def real_dates(path: Path) -> None:
    days = ["measured", *(date(2026, 3, 2 + r) for r in range(12))]
    book(path, data=[[*row[:2], day, *row[2:]] for row, day in zip([HEADER, *ROWS], days, strict=True)])


def numbers_as_text(path: Path) -> None:
    book(path, data=[[str(cell).replace(".", ",") for cell in row] for row in [HEADER, *ROWS]])


def merged_heading(path: Path) -> None:
    import openpyxl

    made = openpyxl.Workbook()
    sheet = made.active
    sheet.append(["lot", None, None, "absorbance at nm"])
    sheet.append(HEADER)
    for row in ROWS:
        sheet.append(row)
    sheet.merge_cells("A1:C1")
    sheet.merge_cells("D1:AB1")
    made.save(path)


def raw_and_treated(path: Path) -> None:
    treated = [["sample", *NM.tolist()], *([row[0], *(v * 2 for v in row[1:])] for row in BARE)]
    book(path, raw=[["sample", *NM.tolist()], *BARE], treated=treated)


def bench_in_two_sheets(path: Path) -> None:
    first = [["lot", *BENCH_NAMES[:2]], *([IDS[r], *BENCH[r, :2].tolist()] for r in range(12))]
    second = [["lot", *BENCH_NAMES[2:]], *([IDS[r], *BENCH[r, 2:].tolist()] for r in range(12))]
    book(path, chemistry=first, strength=second)


def whole_numbers_as_ids(path: Path) -> None:
    book(path, data=[["Sample", *NM.tolist()], *([417 + 3 * r, *VALUES[r].tolist()] for r in range(12))])


FILES = {
    "sheet_per_class.xlsx": sheet_per_class,
    "spectra_and_reference.xlsx": spectra_and_reference,
    "about_first.xlsx": about_first,
    "title_and_units.xlsx": title_and_units,
    "away_from_the_corner.xlsx": away_from_the_corner,
    "mean_below.xlsx": mean_below,
    "small_table_beside.xlsx": small_table_beside,
    "blank_column_between.xlsx": blank_column_between,
    "samples_in_columns.xlsx": samples_in_columns,
    "real_dates.xlsx": real_dates,
    "numbers_as_text.xlsx": numbers_as_text,
    "merged_heading.xlsx": merged_heading,
    "raw_and_treated.xlsx": raw_and_treated,
    "bench_in_two_sheets.xlsx": bench_in_two_sheets,
    "whole_numbers_as_ids.xlsx": whole_numbers_as_ids,
    "with_macros.xlsm": lambda path: book(path, data=[HEADER, *ROWS]),
    "binary.xlsb": lambda path: path.write_bytes(xlsb([HEADER, *ROWS])),
    "of_1997.xls": lambda path: path.write_bytes(xls([HEADER, *ROWS])),
}
