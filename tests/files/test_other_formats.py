"""Workbooks, named arrays and XY files: the same table comes out of each; what is wrong is said."""

import io

import numpy as np

from scutcher.core.errors import FileError, InputError
from scutcher.files.columns import Roles
from scutcher.files.formats import read_table, read_tables
from scutcher.files.layout.reading import Reading
from scutcher.files.looking import look_at
from scutcher.files.workbook import is_range
from tests.core.making import random_spectra
from tests.folder import InFolder

X = np.round(random_spectra(6, 5), 4)
AXIS = np.array([1000.0, 1002.0, 1004.0, 1006.0, 1008.0])
IDS = [f"L{row}" for row in range(6)]
KINDS = ["a", "b", "a", "b", "a", "b"]
MOIST = np.arange(6.0) + 0.5


class WithFormats(InFolder):
    def is_the_table(self, table, axis_known=True):
        np.testing.assert_array_equal(table.values, X)
        self.assertEqual(table.ids, tuple(IDS))
        if axis_known:
            np.testing.assert_array_equal(table.axis.positions, AXIS)
        self.assertEqual(table.classes[0].values, tuple(KINDS))
        np.testing.assert_array_equal(table.properties[0].values, MOIST)

    def refused(self, path, roles=None):
        with self.assertRaises(InputError) as caught:
            read_tables([path], roles)
        return str(caught.exception)


class Workbooks(WithFormats):
    def book(self, name="t.xlsx"):
        import openpyxl

        book = openpyxl.Workbook()
        book.active.title = "notes"
        sheet = book.create_sheet("spectra")
        sheet.append(["id", "kind", "moisture / %", *AXIS.astype(int).tolist()])
        for row in range(6):
            sheet.append([IDS[row], KINDS[row], MOIST[row], *X[row].tolist()])
        book.save(self.folder / name)
        return self.folder / name

    def test_xlsx_finds_the_sheet_with_a_table(self):
        self.is_the_table(read_table(self.book()))

    def test_sheet_by_name(self):
        self.is_the_table(read_table(self.book(), Roles(sheet="spectra")))
        self.assertIn(
            "t.xlsx has no sheet 'x'. It has notes, spectra.", self.refused(self.book(), Roles(sheet="x"))
        )
        self.assertIn("has no sheet with a header", self.refused(self.book(), Roles(sheet="notes")))

    def test_ods(self):
        import pandas

        frame = pandas.DataFrame({"id": IDS, "kind": KINDS, "moisture / %": MOIST})
        for place, label in enumerate(AXIS.astype(int).astype(str)):
            frame[label] = X[:, place]
        path = self.folder / "t.ods"
        path.write_bytes(_ods(frame))
        self.is_the_table(read_table(path))

    def test_text_among_numbers_names_the_row(self):
        import openpyxl

        path = self.book()
        book = openpyxl.load_workbook(path)
        book["spectra"]["E4"] = "spilled"
        book.save(path)
        self.assertIn("Row 4 of t.xlsx has 'spilled' in column '1002', among numbers.", self.refused(path))

    def test_a_range_of_a_sheet(self):
        import openpyxl

        path = self.folder / "island.xlsx"
        book = openpyxl.Workbook()
        sheet = book.active
        sheet.title = "run 3! new"
        sheet["A1"] = "measured in spring"
        for down, cells in enumerate([["id", 1000, 1002], ["a", 1, 2], ["b", 3, 5], ["mean", 2, 3.5]]):
            for along, cell in enumerate(cells):
                sheet.cell(row=4 + down, column=3 + along, value=cell)
        book.save(path)
        table = read_table(path, Roles(sheet="run 3! new!c4:e6"))
        self.assertEqual((table.ids, table.axis.labels), (("a", "b"), ("1000", "1002")))
        np.testing.assert_array_equal(table.values, [[1.0, 2.0], [3.0, 5.0]])
        seen = look_at(path, Reading(sheets=("run 3! new!C4:E6",)))
        self.assertEqual(seen.rows[0], (4, ("id", "1000", "1002")))
        padded = read_table(path, Roles(sheet="run 3! new! c4:e6 "))
        np.testing.assert_array_equal(padded.values, table.values)
        for no_range in ("E6:C4", "C0:E6"):
            words = self.refused(path, Roles(sheet=f"run 3! new!{no_range}"))
            self.assertIn(f"has no sheet 'run 3! new!{no_range}'", words)
        self.assertIn("has no range with a header", self.refused(path, Roles(sheet="run 3! new!X40:Z60")))
        sheet["D6"] = "spilled"
        book.save(path)
        self.assertIn("Row 6 of", self.refused(path, Roles(sheet="run 3! new!C4:E7")))

    def test_what_is_a_range(self):
        self.assertTrue(is_range("B3:K40") and is_range("a1:aa2"))
        for words in ("", "B3", "K40:B3", "B0:C4", "3:4", "B3:K40:L2"):
            self.assertFalse(is_range(words), words)

    def test_damaged(self):
        path = self.book()
        path.write_bytes(path.read_bytes()[:2000])
        self.assertIn("t.xlsx", self.refused(path))
        path.write_bytes(b"hello")
        self.assertIn("t.xlsx is not a workbook", self.refused(path))


MANIFEST = (
    '<?xml version="1.0"?><manifest:manifest '
    'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>'
)


def _ods(frame) -> bytes:
    """The smallest OpenDocument sheet."""
    import zipfile

    rows = [list(frame.columns), *frame.to_numpy().tolist()]

    def cell(value):
        if isinstance(value, str):
            return f'<table:table-cell office:value-type="string"><text:p>{value}</text:p></table:table-cell>'
        return f'<table:table-cell office:value-type="float" office:value="{value!r}"/>'

    body = "".join(f"<table:table-row>{''.join(map(cell, row))}</table:table-row>" for row in rows)
    spaces = " ".join(
        f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
        for name in ("office", "table", "text")
    )
    content = (
        f'<?xml version="1.0"?><office:document-content {spaces}><office:body><office:spreadsheet>'
        f'<table:table table:name="s">{body}</table:table></office:spreadsheet></office:body>'
        "</office:document-content>"
    )
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", MANIFEST)
        archive.writestr("content.xml", content)
    return stream.getvalue()


class NamedArrays(WithFormats):
    def test_npz_either_way_round(self):
        for values in (X, X.T):
            path = self.folder / "t.npz"
            np.savez(path, spectra=values, wavelength=AXIS, ids=IDS, kind=KINDS, moisture=MOIST)
            self.is_the_table(read_table(path))

    def test_objects_are_never_unpickled(self):
        path = self.folder / "t.npz"
        np.savez(path, spectra=X, evil=np.array([{"a": 1}], dtype=object))
        np.testing.assert_array_equal(read_table(path).values, X)
        np.savez(path, evil=np.array([{"a": 1}], dtype=object))
        self.assertIn("t.npz has no matrix of numbers.", self.refused(path))

    def test_hdf5(self):
        import h5py

        path = self.folder / "t.h5"
        with h5py.File(path, "w") as file:
            group = file.create_group("mill")
            group["spectra"], group["wavelength"] = X, AXIS
            group["ids"], group["kind"], group["moisture"] = IDS, KINDS, MOIST
            group["small"] = np.eye(2)
        self.is_the_table(read_table(path))
        np.testing.assert_array_equal(read_table(path, Roles(sheet="small")).values, np.eye(2))
        self.assertIn(
            "has no matrix 'x'. Its matrices: mill/small, mill/spectra.", self.refused(path, Roles(sheet="x"))
        )

    def test_netcdf(self):
        from scipy.io import netcdf_file

        path = self.folder / "t.nc"
        with netcdf_file(path, "w") as file:
            for name, size in (("sample", 6), ("channel", 5), ("letters", 2)):
                file.createDimension(name, size)
            file.createVariable("spectra", "d", ("sample", "channel"))[:] = X
            wavelength = file.createVariable("wavelength", "d", ("channel",))
            wavelength[:] = AXIS
            wavelength.units = "nm"
            file.createVariable("moisture", "d", ("sample",))[:] = MOIST
            for name, texts in (("ids", IDS), ("kind", [kind + " " for kind in KINDS])):
                letters = np.array([list(text) for text in texts], dtype="S1")
                file.createVariable(name, "c", ("sample", "letters"))[:] = letters
        table = read_table(path)
        self.is_the_table(table)
        self.assertEqual(table.axis.title, "wavelength / nm")

    def test_matlab(self):
        from scipy.io import savemat

        path = self.folder / "t.mat"
        savemat(path, {"spectra": X, "wavelength": AXIS, "ids": IDS, "kind": KINDS, "moisture": MOIST,
                       "cells": np.array([{"a": 1}], dtype=object)})  # fmt: skip
        self.is_the_table(read_table(path))

    def test_other_files_with_these_endings(self):
        for suffix in (".npz", ".h5", ".nc", ".mat", ".npy"):
            path = self.folder / f"t{suffix}"
            path.write_bytes(b"id,1,2\na,1,2\n" * 20)
            with self.subTest(suffix):
                self.assertIn(f"t{suffix}", self.refused(path))

    def test_a_small_file_that_unfolds_is_refused(self):
        path = self.folder / "t.npz"
        np.savez_compressed(path, spectra=np.zeros((6000, 4000)))
        self.assertIn("would unfold to", self.refused(path))


class XyFiles(WithFormats):
    def write(self, cut=" ", heading=""):
        for row, name in enumerate(IDS):
            lines = [f"{x}{cut}{y!r}" for x, y in zip(AXIS.tolist(), X[row].tolist(), strict=True)]
            (self.folder / f"{name}.txt").write_text(heading + "\n".join(lines) + "\n")

    def test_a_folder_and_a_list(self):
        for cut, heading in ((" ", ""), ("\t", "nm absorbance of lots\n"), (";", "# made up\n"), (",", "")):
            self.write(cut, heading)
            with self.subTest(cut=cut):
                for paths in ([self.folder], sorted(self.folder.glob("*.txt"))):
                    table = read_tables(paths)
                    np.testing.assert_array_equal(table.values, X)
                    self.assertEqual(table.ids, tuple(IDS))
                    np.testing.assert_array_equal(table.axis.positions, AXIS)

    def test_decimal_comma(self):
        self.write(";")
        for path in self.folder.glob("*.txt"):
            path.write_text(path.read_text().replace(".", ","))
        np.testing.assert_array_equal(read_tables([self.folder]).values, X)

    def test_a_broken_line_and_another_axis(self):
        self.write()
        path = self.folder / "L2.txt"
        good = path.read_text()
        path.write_text(good.replace("1006.0", "spilled"))
        self.assertIn("Row 4 of L2.txt is not two numbers", self.refused(self.folder))
        path.write_text(good.replace("1008.0", "1009.0"))
        self.assertIn(
            "L0 has 5 channels from 1000 to 1008; L2 has 5 channels from 1000 to 1009",
            self.refused(self.folder),
        )

    def test_an_empty_folder(self):
        with self.assertRaises(FileError) as caught:
            read_tables([self.folder])
        self.assertIn("holds no spectra that can be read", str(caught.exception))
