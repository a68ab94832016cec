"""Every awkward file gives the table that a person would expect, or asks; and reads again in the same way."""

import unittest
from pathlib import Path

import numpy as np

from scutcher.core.errors import Unclear
from scutcher.files.columns import Roles
from scutcher.files.formats import read_tables
from scutcher.files.layout.reading import reading_of_pairs
from tests.files.awkward import FOLDER, text_files
from tests.files.awkward.truth import BENCH, BENCH_NAMES, IDS, KINDS, MOISTURE, NM, VALUES

NUMBERED = tuple(str(row + 1) for row in range(12))
COUNTED = np.arange(1.0, 26.0)
WAVENUMBERS = 4000.0 - 50.0 * np.arange(25)
NUMBERS = tuple(str(417 + 3 * row) for row in range(12))
DAYS = "measured / d since 2026-01-01"


def whole(**other):
    """With class and property."""
    return {"classes": {"retting": KINDS}, "properties": {"moisture": MOISTURE}, **other}


def bare(**other):
    """Signals and ids only."""
    return {"classes": {}, "properties": {}, **other}


def with_property(name, values, **other):
    return whole(properties={"moisture": MOISTURE, name: values}, **other)


PER_CENT = whole(properties={"moisture / %": MOISTURE})
BENCH_TABLE = bare(positions=None, labels=BENCH_NAMES, values=BENCH)
LOG = [list(map(float, line.split(","))) for line in text_files.FILES["process_log.csv"].splitlines()[1:]]
COUNTS = 1000.0 * (1 + np.arange(12)) + 234.5
MARCH = np.arange(60.0, 72.0)
PATCHY = np.where(np.arange(12) == 2, np.nan, MOISTURE)

EXPECTED = {
    "plain.csv": whole(),
    "wavelength_first.csv": bare(axis="wavelength / nm"),
    "wavelength_without_name.csv": bare(),
    "wavelength_numbered_samples.csv": bare(axis="wavelength", ids=NUMBERED),
    "samples_in_columns_with_labels.csv": whole(),
    "x_and_replicates.txt": bare(axis="wavelength / nm"),
    "header_1100_nm.csv": whole(axis="wavelength / nm"),
    "header_1100nm.csv": whole(axis="wavelength / nm"),
    "header_nm1100.csv": whole(axis="wavelength / nm"),
    "header_X1100.csv": whole(),
    "header_abs_1100.csv": whole(),
    "header_x_001.csv": whole(positions=COUNTED),
    "header_V1.csv": whole(positions=COUNTED),
    "header_bracketed.csv": whole(),
    "statistics_package.csv": whole(said="only counts the rows"),
    "row_names_without_header.txt": whole(),
    "row_numbers_first.csv": whole(said="'No' only counts the rows"),
    "percent_cells.csv": PER_CENT,
    "thousands.csv": with_property("counts", COUNTS),
    "thousands_space.csv": with_property("counts", COUNTS),
    "thousands_only.csv": with_property("counts", COUNTS - 0.5),
    "decimal_comma.csv": whole(),
    "decimal_comma_all_quoted.csv": whole(),
    "decimal_comma_tabs.txt": whole(),
    "decimal_comma_header.csv": bare(positions=NM + 0.5),
    "mean_and_sd_below.csv": whole(said="2 rows of mean, SD below the data: not read"),
    "mean_after_blank_line.csv": whole(said="2 rows of mean, SD below the data: not read"),
    "units_row.csv": PER_CENT,
    "units_row_nm.csv": {**PER_CENT, "axis": "wavelength / nm"},
    "units_row_bracketed.csv": BENCH_TABLE,
    "title_rows.csv": whole(said="2 rows above the header, 'Intake laboratory': not read"),
    "instrument_heading.csv": whole(said="4 rows above the header, 'Instrument FX-20': not read"),
    "footer_note.csv": whole(said="'exported by the intake desk': not read"),
    "comment_lines.csv": whole(),
    "commented_header.txt": bare(),
    "blanks.txt": whole(),
    "bars.txt": whole(),
    "tabs.csv": whole(),
    "sep_line.csv": whole(),
    "long.csv": bare(axis="wavelength"),
    "long_with_classes.csv": whole(axis="wavelength"),
    "pairs.csv": bare(axis="wavelength / nm"),
    "pairs_names_above.csv": bare(axis="wavelength / nm"),
    "dates_iso.csv": with_property(DAYS, MARCH),
    "dates_points.csv": with_property(DAYS, MARCH),
    "dates_slashes.csv": with_property(DAYS, MARCH),
    "dates_with_time.csv": with_property(DAYS, MARCH + 0.5),
    "index_row_above_wavelengths.csv": whole(),
    "names_above_wavelengths.csv": whole(),
    "two_exports_in_one.csv": whole(said="The header stands 1 more time among the data"),
    "trailing_delimiter.csv": whole(),
    "without_header.csv": bare(positions=COUNTED, ids=NUMBERED),
    "ids_without_header.csv": bare(positions=COUNTED),
    "numbers_as_ids.csv": bare(ids=NUMBERS),
    "class_before_sample.csv": whole(),
    "wavenumbers_falling.csv": bare(positions=WAVENUMBERS, axis="wavenumber / cm⁻¹"),
    "wavenumber_column_falling.csv": bare(positions=WAVENUMBERS, axis="wavenumber / cm⁻¹"),
    "process_log.csv": bare(
        positions=None,
        ids=tuple(str(row + 1) for row in range(24)),
        labels=("time / h", "temperature / °C", "pH", "conductivity / mS/cm"),
        values=np.array(LOG),
    ),
    "two_sets_of_signals.csv": whole(said="25 columns d1_1100 … d1_1580 are a second set of signals"),
    "umlauts_windows.csv": whole(ids=("Röste 1", *IDS[1:])),
    "utf16_tabs.txt": whole(),
    "old_mac_lines.csv": whole(),
    "true_minus.csv": with_property("change", -(np.arange(12) + 1.5)),
    "not_available.csv": whole(properties={"moisture": PATCHY}),
    "two_groups.h5": bare(classes={"group": ("monday",) * 6 + ("tuesday",) * 6}, properties={"moisture": MOISTURE},
        said="2 groups with the same columns are under one another"),
    "shared_axis.h5": bare(classes={"retting": KINDS}, axis="wavelength / nm", near=1e-7),
    "cube_of_repeats.h5": bare(
        classes={"sample": tuple(name for name in IDS for _ in range(2))},
        ids=tuple(f"{name} column {place}" for name in IDS for place in (1, 2)),
        values=np.repeat(VALUES, 2, axis=0) + np.tile([[0.0], [0.001]], (12, 1)),
        said="three dimensions",
    ),
    "cube_beside_a_small_matrix.npz": bare(
        ids=tuple(f"row {a}, column {b}" for a in (1, 2, 3) for b in (1, 2, 3, 4)),
        properties={"row": np.repeat([1.0, 2, 3], 4), "column": np.tile([1.0, 2, 3, 4], 3)},
        said="corners",
    ),
    "rising_property.npz": bare(positions=COUNTED, properties={"dose": np.arange(12) * 0.5}),
    "two_matrices.npz": bare(said="1 matrix not read: background"),
    "which_matrix.npz": "has 2 matrices of 12 × 25: after, before",
    "turned_with_ids.npz": bare(),
    "dimensions.nc": bare(
        positions=1e7 / NM, axis="wavenumber / cm⁻¹", properties={"moisture": MOISTURE}, near=1e-12,
        values=np.where((np.arange(12)[:, None] == 2) & (np.arange(25) == 3), np.nan, VALUES),
    ),
    "dimensions_classic.nc": bare(axis="wavelength / nm", properties={"dose": np.arange(12.0)}, near=1e-7),
    "chromatogram.cdf": bare(
        positions=2.0 + 0.5 * np.arange(25), axis="time / s", ids=("L01",), values=VALUES[:1], near=1e-7
    ),
    "cells.mat": whole(),
    "structure.mat": bare(axis="wavelength / nm", properties={"moisture": MOISTURE}),
    "level_73.mat": bare(properties={"moisture": MOISTURE}),
    "sheet_per_class.xlsx": whole(
        classes={"sheet": tuple(sorted(KINDS, key=("dew", "tank", "green").index))},
        order=[row for kind in ("dew", "tank", "green") for row in range(12) if KINDS[row] == kind],
        said="3 sheets with the same columns are under one another: dew, tank, green",
    ),
    "spectra_and_reference.xlsx": whole(said="'reference' is beside the others, by id"),
    "about_first.xlsx": whole(said="1 sheet not read: about"),
    "title_and_units.xlsx": {**PER_CENT, "axis": "wavelength / nm", "said": "2 rows above the header"},
    "header_spec_dot_1100.csv": whole(),
    "header_broken_over_lines.csv": whole(properties={"moisture (%)": MOISTURE}),
    "header_with_trailing_mark.csv": whole(),
    "index_before_wavelengths.csv": bare(axis="wavelength"),
    "wavelengths_without_header.csv": bare(ids=NUMBERED),
    "wavelengths_below_numbers.csv": bare(ids=NUMBERS),
    "long_without_header.csv": bare(),
    "empty_column.csv": whole(said="1 column without a value, note: not read"),
    "classes_and_no_ids.csv": bare(classes={"retting": KINDS}, ids=NUMBERED, said="they are numbered"),
    "class_last.csv": bare(classes={"retting": KINDS}, ids=NUMBERED, said="they are numbered"),
    "times_of_day.csv": with_property("clock / h", 8.0 + 0.5 * np.arange(12)),
    "away_from_the_corner.xlsx": whole(),
    "with_macros.xlsm": whole(),
    "binary.xlsb": whole(),
    "of_1997.xls": whole(),
    "mean_below.xlsx": whole(said="1 row of Mean below the data: not read"),
    "small_table_beside.xlsx": whole(said="Columns AD to AE beside the table: not read"),
    "blank_column_between.xlsx": whole(),
    "samples_in_columns.xlsx": bare(axis="wavelength / nm"),
    "real_dates.xlsx": with_property(DAYS, MARCH),
    "numbers_as_text.xlsx": whole(),
    "merged_heading.xlsx": whole(said="1 row above the header, 'lot absorbance at nm': not read"),
    "raw_and_treated.xlsx": bare(said="1 sheet not read: treated"),
    "bench_in_two_sheets.xlsx": {**BENCH_TABLE, "said": "'strength' is beside the others, by id"},
    "whole_numbers_as_ids.xlsx": bare(ids=NUMBERS),
    "subfolders": bare(
        classes={"folder": tuple(sorted(KINDS))},
        order=[row for kind in ("dew", "green", "tank") for row in range(12) if KINDS[row] == kind],
    ),
    "with_readme": bare(said="1 other file in the folder: not read (README.txt)"),
    "long_heading": bare(axis="wavelength / nm"),
    "footers": bare(said="'end of data' below the data, not read"),
    "third_column": bare(said="A third column beside x and y: not read"),
    "decimal_commas": bare(),
    "utf16": bare(axis="wavelength / nm"),
    "jcamp": bare(axis="wavelength / nm"),
    "tables": whole(),
    "plain.csv.gz": whole(),
    "spectra.zip": bare(said="not read (README.md)"),
}  # fmt: skip
"""File → what is expected of it where it is not the truth; a text for one that has to ask, with these words."""


class Awkward(unittest.TestCase):
    maxDiff = None

    def is_expected(self, table, expected):
        order = expected.get("order", range(12))
        ids = expected.get("ids", tuple(IDS[row] for row in order))
        self.assertEqual(tuple(table.ids), ids)
        positions = expected.get("positions", NM)
        if positions is None:
            self.assertFalse(table.axis.ordered)
            self.assertEqual(table.axis.labels, expected["labels"])
        else:
            np.testing.assert_allclose(table.axis.positions, positions, rtol=1e-9)
            self.assertEqual(table.axis.title, expected.get("axis", table.axis.title))
        values = expected.get("values", VALUES[list(order)])
        np.testing.assert_allclose(table.values, values, rtol=0, atol=expected.get("near", 0.0))
        self.assertEqual({c.name: tuple(c.values) for c in table.classes}, expected["classes"])
        self.assertEqual({c.header for c in table.properties}, set(expected["properties"]))
        for column in table.properties:
            wanted = np.asarray(expected["properties"][column.header])
            wanted = wanted[list(order)] if len(wanted) == 12 else wanted
            np.testing.assert_allclose(column.values, wanted, rtol=0, atol=1e-12)
        self.assertIn(expected.get("said", ""), "\n".join(table.origin.remarks))
        if "said" not in expected:
            self.assertEqual(table.origin.remarks, ())

    def test_every_one(self):
        names = {path.name for path in FOLDER.iterdir()}
        self.assertEqual(names, set(EXPECTED))
        for name, expected in EXPECTED.items():
            with self.subTest(name):
                if isinstance(expected, str):
                    with self.assertRaises(Unclear) as caught:
                        read_tables([FOLDER / name])
                    self.assertIn(expected, caught.exception.problem)
                    continue
                self.is_expected(read_tables([FOLDER / name]), expected)

    def test_each_is_read_again_by_its_reading(self):
        for name, expected in EXPECTED.items():
            path = FOLDER / name
            if isinstance(expected, str) or path.is_dir() or path.suffix in (".gz", ".zip"):
                continue
            with self.subTest(name):
                said = reading_of_pairs(read_tables([path]).origin.reading)
                sheet = said.sheets[0] if len(said.sheets) == 1 else None
                table = read_tables([path], Roles(sheet=sheet, reading=said))
                remarks = table.origin.remarks  # a sheet that is named leaves no other unread
                self.is_expected(table, {**expected, "said": remarks[0] if remarks else ""})

    def test_none_is_large(self):
        sizes = [path.stat().st_size for path in Path(FOLDER).rglob("*") if path.is_file()]
        self.assertGreater(len(EXPECTED), 100)
        self.assertLess(max(sizes), 30_000)


if __name__ == "__main__":
    unittest.main()
