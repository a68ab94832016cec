"""What is written reads back as it was: formulas in ids, classes in JCAMP-DX, scales in HDF5, headers."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.data.axis import Axis, headers_of
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files import columnar
from scutcher.files.formats import read_table
from scutcher.files.writing import write_table
from tests.folder import InFolder

IDS = ("=cmd()", "+3 lots", "-a", "@home", "'quoted", "'=twice", "plain")
KINDS = ("=x", "y", "=x", "y", "+z", "y", "+z")
NM = np.array([1100.0, 1102.5, 1105.0, 1107.5, 1110.0])
rng = np.random.default_rng(5)


def table():
    return Table(
        values=rng.normal(size=(7, 5)),
        axis=Axis(headers_of(NM), NM, "wavelength", "nm"),
        ids=IDS,
        name="awkward",
        classes=(ClassColumn("kind", KINDS),),
        properties=(PropertyColumn("moisture", np.array([1.5, 2, 3, np.nan, 5, 6, 7]), "%"),),
        signal="absorbance",
    )


class ReadingBack(InFolder):
    def test_every_format_gives_back_what_was_there(self):
        wanted = table()
        for suffix in (".csv", ".xlsx", ".h5", ".dx", ".parquet"):
            with self.subTest(suffix):
                path = self.folder / f"t{suffix}"
                write_table(wanted, path)
                again = read_table(path)
                self.assertEqual(tuple(again.ids), IDS)
                self.assertEqual(tuple(again.classes[0].values), KINDS)
                self.assertEqual(again.properties[0].header, "moisture / %")
                np.testing.assert_array_equal(again.properties[0].values, wanted.properties[0].values)
                np.testing.assert_array_equal(again.values, wanted.values)
                np.testing.assert_array_equal(again.axis.positions, NM)

    def test_formulas_are_text_to_a_spreadsheet(self):
        import openpyxl

        path = self.folder / "t.xlsx"
        write_table(table(), path)
        cell = openpyxl.load_workbook(path).active["A2"]
        self.assertEqual((cell.value, cell.data_type), ("=cmd()", "s"))
        write_table(table(), self.folder / "t.csv")
        lines = (self.folder / "t.csv").read_text().splitlines()
        self.assertTrue(lines[1].startswith("'=cmd(),'=x,"))
        self.assertTrue(lines[6].startswith("''=twice,"))

    def test_jcamp_has_what_strict_readers_ask_for(self):
        path = self.folder / "t.dx"
        write_table(table(), path)
        text = path.read_text()
        block = text[text.index("##TITLE=plain") :]
        for label in ("JCAMP-DX", "DATA TYPE", "ORIGIN", "OWNER", "XUNITS", "YUNITS", "FIRSTX", "LASTX",
                      "FIRSTY", "XFACTOR", "YFACTOR", "NPOINTS", "XYPOINTS", "END"):  # fmt: skip
            self.assertIn(f"##{label}=", block)
        self.assertIn("##FIRSTX=1100.0\n##LASTX=1110.0\n", block)
        self.assertIn("##$CLASS kind=+z\n", block)

    def test_hdf5_has_scales_and_units(self):
        import h5py

        path = self.folder / "t.h5"
        write_table(table(), path)
        with h5py.File(path) as file:
            self.assertEqual([file["spectra"].dims[place][0].name for place in (0, 1)], ["/sample", "/axis"])
            self.assertEqual(file["axis"].attrs["units"], "nm")
            self.assertEqual(file["property-1"].dims[0][0].name, "/sample")

    def test_parquet_without_its_package_is_a_sentence(self):
        with mock.patch.dict("sys.modules", {"pyarrow": None}), self.assertRaises(FileError) as caught:
            write_table(table(), self.folder / "t.parquet")
        self.assertIn("Parquet files need the package pyarrow", str(caught.exception))
        (self.folder / "t.feather").write_bytes(b"no feather")
        with self.assertRaises(FileError) as caught:
            columnar.read_columnar(self.folder / "t.feather")
        self.assertIn("is not a Feather file that can be read", str(caught.exception))


class Headers(unittest.TestCase):
    def test_unique_and_exact(self):
        for places in (
            np.arange(1e8, 1e8 + 20, 0.25),
            1e7 / np.arange(1100.0, 1200.0),
            np.linspace(0, 1e-9, 30),
            np.array([4000.0, 3998.071539]),
        ):
            labels = headers_of(places)
            self.assertEqual(len(set(labels)), len(places))
            away = np.abs(np.array(labels, dtype=float) - places).max()
            self.assertLessEqual(away, 1e-9 * np.abs(np.diff(places)).min())

    def test_plain_numbers_stay_plain(self):
        self.assertEqual(headers_of(np.array([1100.0, 1102.5])), ("1100", "1102.5"))


if __name__ == "__main__":
    unittest.main()
