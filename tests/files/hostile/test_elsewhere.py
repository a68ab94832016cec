"""Files that reach for what nobody has named: pipes, devices, other files, much memory."""

import io
import os
import struct
import tempfile
import threading
import unittest
import zipfile
from pathlib import Path
from unittest import mock

import h5py
import numpy as np
import openpyxl

from scutcher.core.errors import InputError
from scutcher.files import workbook_extent
from scutcher.files.arrays import heap_strings, heaps
from scutcher.files.formats import read_tables
from scutcher.files.images.opening import open_image
from scutcher.files.model_json import read_model
from scutcher.files.recipe_toml import read_recipe
from scutcher.files.workbook import sheet_names
from scutcher.files.workbook_extent import _extent_of_sheet, check_extent
from scutcher.study.storage.study_file import StudyFile
from scutcher.study.verification import verified
from tests.files.awkward import FOLDER as AWKWARD
from tests.files.awkward.old_workbooks import xls, xlsb

SUFFIXES = (
    ".csv", ".tsv", ".txt", ".gz", ".zip", ".xlsx", ".ods", ".parquet", ".npy", ".npz", ".h5", ".nc",
    ".mat", ".dx", ".xy", ".cdf", ".tif",
)  # fmt: skip
PATIENCE = 30.0  # seconds until it is said to hang


def said_by(read):
    """The sentence that a reading ends with, "" for none; fails where it does not end."""
    told = []

    def work():
        try:
            read()
            told.append("")
        except InputError as error:
            told.append(error.problem)

    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    thread.join(PATIENCE)
    return told[0] if told else "it waits for ever"


class InFolder(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))


class NoFiles(InFolder):
    def pipe(self, name):
        os.mkfifo(self.folder / name)
        return self.folder / name

    def test_pipes_as_data(self):
        for suffix in SUFFIXES:
            with self.subTest(suffix):
                path = self.pipe(f"data{suffix}")
                self.assertRegex(
                    said_by(lambda path=path: read_tables([path])), "pipe|cannot be read|not read"
                )

    def test_pipes_as_everything_else(self):
        readings = {
            "study.scutch": StudyFile.open,
            "model.json": read_model,
            "recipe.toml": read_recipe,
            "image.npy": open_image,
        }
        for name, read in readings.items():
            with self.subTest(name):
                path = self.pipe(name)
                self.assertIn("pipe", said_by(lambda path=path, read=read: read(path)))

    def test_pipes_are_not_verified(self):
        path = self.pipe("sealed.json")
        told = []
        self.assertEqual(said_by(lambda: told.extend(verified(path))), "")
        self.assertFalse(any(one.holds for one in told))

    def test_a_device_behind_a_link(self):
        path = self.folder / "endless.csv"
        path.symlink_to("/dev/zero")
        self.assertIn("pipe or a device", said_by(lambda: read_tables([path])))

    def test_a_link_to_a_file_is_a_file(self):
        (self.folder / "there.csv").write_text("id,1,2\na,1,2\nb,2,1\nc,3,3\n", encoding="utf-8")
        path = self.folder / "here.csv"
        path.symlink_to("there.csv")
        self.assertEqual(read_tables([path]).ids, ("a", "b", "c"))


class OtherFiles(InFolder):
    def test_values_that_lie_outside(self):
        secret = self.folder / "secret"
        np.arange(40.0).tofile(secret)
        for suffix in (".h5", ".nc"):
            path = self.folder / f"outside{suffix}"
            with h5py.File(path, "w") as file:
                file.create_dataset("signals", (5, 8), "f8", external=[(str(secret), 0, 320)])
            with self.subTest(suffix):
                self.assertIn("from other files", said_by(lambda path=path: read_tables([path])))

    def test_virtual_values(self):
        with h5py.File(self.folder / "neighbour.h5", "w") as file:
            file["x"] = np.arange(40.0).reshape(5, 8)
        path = self.folder / "virtual.h5"
        layout = h5py.VirtualLayout((5, 8), "f8")
        layout[:] = h5py.VirtualSource(str(self.folder / "neighbour.h5"), "x", (5, 8))
        with h5py.File(path, "w") as file:
            file.create_virtual_dataset("signals", layout)
        self.assertIn("from other files", said_by(lambda: read_tables([path])))

    def test_links_are_not_followed(self):
        with h5py.File(self.folder / "neighbour.h5", "w") as file:
            file["x"] = np.arange(40.0).reshape(5, 8)
        path = self.folder / "linked.h5"
        with h5py.File(path, "w") as file:
            file["signals"] = h5py.ExternalLink("neighbour.h5", "/x")
        self.assertNotEqual(said_by(lambda: read_tables([path])), "")


class MoreThanTheyAre(InFolder):
    def test_many_arrays_of_nothing_together(self):
        path = self.folder / "bomb.h5"
        with h5py.File(path, "w") as file:
            for number in range(40):  # each is below the limit, all are beyond it
                file.create_dataset(f"a{number}", (1000, 1000), "f4", chunks=(1000, 1000), compression="gzip")
        self.assertLess(path.stat().st_size, 2**20)
        self.assertIn("would unfold", said_by(lambda: read_tables([path])))

    def test_a_matlab_file_on_which_its_library_breaks(self):
        """What the fuzzer found: one byte ended the whole process. Another one reads such files now."""
        sound = next(path for path in AWKWARD.glob("*.mat") if path.stat().st_size == 3816)
        path = self.folder / "broken.mat"
        told = set()
        for place in (3524, 3525, 1944, 300):
            data = bytearray(sound.read_bytes())
            data[place] = 9
            path.write_bytes(bytes(data))
            told.add(said_by(lambda: read_tables([path])))
        self.assertIn("broken.mat is damaged: it cannot be read to its end.", told)
        self.assertNotIn("it waits for ever", told)
        path.write_bytes(sound.read_bytes())
        self.assertEqual(read_tables([path]).values.shape, (12, 25))

    def test_nothing_beside_the_data_is_run(self):
        """The other process would find a module in the folder that one stands in."""
        for name in ("numpy", "json", "scipy", "scutcher"):
            (self.folder / f"{name}.py").write_text("open('ran', 'w')\nraise SystemExit(3)\n")
        path = self.folder / "cells.mat"
        path.write_bytes((AWKWARD / "cells.mat").read_bytes())
        before = Path.cwd()
        self.addCleanup(os.chdir, before)
        os.chdir(self.folder)
        self.assertEqual(len(read_tables([Path("cells.mat")]).ids), 12)
        self.assertFalse((self.folder / "ran").exists())

    def test_texts_of_an_hdf5_file_that_claim_to_be_long(self):
        """What the fuzzer found: 11 kB took 2.5 GB for the length that a text claimed."""
        names, path = [f"sample {row}" for row in range(6)], self.folder / "texts.h5"
        for options in ({}, {"chunks": (3,)}, {"chunks": (4,), "compression": "gzip", "shuffle": True}):
            with h5py.File(path, "w") as file:
                file["signals"] = np.arange(60.0).reshape(6, 10)
                made = file.create_dataset("ids", (6,), h5py.string_dtype(), **options)
                made[:] = names
            with self.subTest(options):
                self.assertEqual(list(read_tables([path]).ids), names)
        with h5py.File(path, "w") as file:
            file["signals"] = np.arange(60.0).reshape(6, 10)
            file.create_dataset("ids", data=names, dtype=h5py.string_dtype())
            start = file["ids"].id.get_offset()
        data = bytearray(path.read_bytes())
        data[start + 3] = 0x90
        path.write_bytes(bytes(data))
        self.assertIn("claims a text of 2,415,919,112 bytes", said_by(lambda: read_tables([path])))

    def test_texts_of_an_hdf5_file_that_have_no_end(self):
        """What the fuzzer found: the library went round for ever in a collection of texts."""
        path = self.folder / "endless.h5"
        with h5py.File(path, "w") as file:
            file["signals"] = np.arange(60.0).reshape(6, 10)
            file.create_dataset("ids", data=[f"sample {row}" for row in range(6)], dtype=h5py.string_dtype())
            file["signals"].attrs.create("units", "nanometre", dtype=h5py.string_dtype())
        whole = path.read_bytes()
        self.assertEqual(len(read_tables([path]).ids), 6)
        at = whole.index(b"GCOL")
        place, end = at + 16, at + int.from_bytes(whole[at + 8 : at + 16], "little")
        while int.from_bytes(whole[place : place + 2], "little"):  # to what is free behind the texts
            place += 16 + -(-int.from_bytes(whole[place + 8 : place + 16], "little") // 8) * 8
        self.assertLess(place, end)
        path.write_bytes(whole[: place + 8] + bytes(8) + whole[place + 16 :])
        self.assertIn("a list of texts in it has no end", said_by(lambda: read_tables([path])))
        with mock.patch.multiple(heaps, SEARCHED=0), mock.patch.multiple(heap_strings, SEARCHED=0):
            self.assertIn("a list of texts in it has no end", said_by(lambda: read_tables([path])))

    def test_one_long_text_of_an_hdf5_file_many_times(self):
        path = self.folder / "again.h5"
        with h5py.File(path, "w") as file:
            file["signals"] = np.ones((40_000, 2))
            made = file.create_dataset("ids", (40_000,), h5py.string_dtype())
            made[:] = ["x" * 50_000, *(["a"] * 39_999)]
            start = made.id.get_offset()
        data = bytearray(path.read_bytes())
        data[start : start + 16 * 40_000] = bytes(data[start : start + 16]) * 40_000
        path.write_bytes(bytes(data))
        self.assertIn("would unfold", said_by(lambda: read_tables([path])))

    def test_a_stray_cell_far_from_all_others(self):
        book = openpyxl.Workbook()
        for row in range(6):
            book.active.append([f"L{row}", 1.0 * row, 2.0, row * row])
        book.save(self.folder / "sound.xlsx")
        self.assertNotIn("claims", said_by(lambda: read_tables([self.folder / "sound.xlsx"])))
        for place in ("XFD1048576", "AB1048576", "XFD9000"):
            book.active[place] = 1
            book.save(self.folder / "stray.xlsx")
            book.active[place] = None
            with self.subTest(place):
                self.assertIn("claims", said_by(lambda: read_tables([self.folder / "stray.xlsx"])))

    def test_a_stray_cell_of_a_binary_workbook(self):
        cells = [["id", "1", "2"], *([f"L{row}", 1.0 * row, row * row] for row in range(6))]
        path = self.folder / "binary.xlsb"
        path.write_bytes(xlsb(cells))
        self.assertEqual(read_tables([path]).values.shape, (6, 2))
        path.write_bytes(xlsb(cells, (9, 4)))
        self.assertNotIn("claims", said_by(lambda: read_tables([path])))
        for place in ((1_048_575, 16_383), (40_000, 16_383), (1_048_575, 300)):
            path.write_bytes(xlsb(cells, place))
            with self.subTest(place):
                told = f"claims {place[0] + 1:,} rows × {place[1] + 1:,} columns and has 22 cells"
                self.assertIn(told, said_by(lambda: read_tables([path])))
        path.write_bytes(path.read_bytes()[:-40])
        self.assertNotIn("Traceback", said_by(lambda: read_tables([path])))

    def test_a_stray_cell_of_an_old_workbook(self):
        cells = [["id", "1", "2"], *([f"L{row}", 1.0 * row, row * row] for row in range(6))]
        path = self.folder / "old.xls"
        path.write_bytes(xls(cells))
        self.assertEqual(read_tables([path]).values.shape, (6, 2))
        path.write_bytes(xls(cells, (2000, 200)))
        self.assertNotIn("claims", said_by(lambda: read_tables([path])))
        path.write_bytes(xls(cells, (65_535, 255)))
        told = "claims 65,536 rows × 256 columns and has 22 cells"
        self.assertIn(told, said_by(lambda: read_tables([path])))
        for claimed in ((2**32 - 1, 3), (65_536, 60_000), (2**31, 2**16 - 1)):  # room would be taken for it
            path.write_bytes(xls(cells, claimed=claimed))
            with self.subTest(claimed):
                self.assertIn("claims", said_by(lambda: read_tables([path])))
        path.write_bytes(xls(cells, claimed=(7, 3)))
        self.assertEqual(read_tables([path]).values.shape, (6, 2))

    def test_old_workbooks_that_are_cut_off_say_one_sentence_and_the_library_none(self):
        """What the fuzzer found: a panic wrote to the terminal, a cell that ends early was a traceback."""
        cells = [["id", "1", "2"], *([f"L{row}", 1.0 * row, row * row] for row in range(6))]
        old, binary = xls(cells), zipfile.ZipFile(io.BytesIO(xlsb(cells)))
        sheet = binary.read("xl/worksheets/sheet1.bin")
        said = self.folder / "terminal"
        terminal, kept = os.open(said, os.O_WRONLY | os.O_CREAT), os.dup(2)
        self.addCleanup(os.close, terminal)
        os.dup2(terminal, 2)
        try:
            for length in (*range(512, len(old), 371), 1079):
                path = self.folder / "old.xls"
                path.write_bytes(old[:length])
                self.assertNotIn("for ever", said_by(lambda path=path: read_tables([path])))
            for length in range(20, len(sheet), 7):
                path = self.folder / "binary.xlsb"
                with zipfile.ZipFile(path, "w") as cut:
                    for name in binary.namelist():
                        whole = binary.read(name)
                        cut.writestr(name, whole[:length] if name.endswith("sheet1.bin") else whole)
                self.assertNotIn("for ever", said_by(lambda path=path: read_tables([path])))
        finally:
            os.dup2(kept, 2)
            os.close(kept)
        self.assertEqual(said.read_text(), "")

    def test_a_workbook_whose_checksums_are_wrong(self):
        """What the fuzzer found: where the check gave up, the library read on and ended the process."""
        cells = [["id", "1", "2"], *([f"L{row}", 1.0 * row, row * row] for row in range(6))]
        path = self.folder / "wrong.xlsb"
        sound = xlsb(cells)
        at = sound.index(struct.pack("<II", 3, 0) + bytes(9)) + 3  # the fourth row is another by far
        path.write_bytes(sound[:at] + b"\x7f" + sound[at + 1 :])
        self.assertIn("is damaged (BadZipFile)", said_by(lambda: read_tables([path])))
        path.write_bytes(sound)
        self.assertEqual(read_tables([path]).values.shape, (6, 2))

    def test_many_old_sheets_together(self):
        """Each is below the limit; all are unpacked at once."""
        cells = [["id", "1", "2"], *([f"L{row}", 1.0 * row, row * row] for row in range(2))]
        path = self.folder / "many.xls"
        path.write_bytes(xls(cells, (15_000, 250), sheets=20))
        self.assertLess(path.stat().st_size, 20_000)
        self.assertIn("75,305,020 cells together", said_by(lambda: read_tables([path])))

    def test_a_workbook_is_gone_through_once_as_long_as_it_stays_the_same(self):
        path = self.folder / "seen.xlsx"
        book = openpyxl.Workbook()
        for row in range(6):
            book.active.append([f"L{row}", 1.0 * row, 2.0 + row, row * row])
        book.save(path)
        with mock.patch.object(workbook_extent, "_extent_of_sheet", wraps=_extent_of_sheet) as looks:
            sheet_names(path)
            once = looks.call_count
            said_by(lambda: read_tables([path]))
            self.assertEqual(looks.call_count, once)
            book.active["XFD1048576"] = 1
            book.save(path)
            self.assertIn("claims", said_by(lambda: sheet_names(path)))

    def test_cells_that_are_repeated(self):
        sheet = (
            '<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x"><table:table>'
            '<table:table-row><table:table-cell office:value-type="string"/></table:table-row>'
            '<table:table-row table:number-rows-repeated="{rows}"><table:table-cell '
            'table:number-columns-repeated="{columns}" {filled}/></table:table-row>'
            "</table:table></office:document-content>"
        )
        filled = 'office:value-type="float" office:value="1"'
        for rows, columns, words, refused in (
            (1_048_570, 16_000, filled, True),
            (3, 4, filled, False),
            (1_048_570, 16_000, "", False),  # the empty rest of every sheet
        ):
            path = self.folder / f"repeated{rows}{bool(words)}.ods"
            with zipfile.ZipFile(path, "w") as archive:
                archive.writestr("content.xml", sheet.format(rows=rows, columns=columns, filled=words))
            with self.subTest(f"{rows} {words}"):
                told = said_by(lambda path=path: check_extent(path))
                self.assertEqual("claims" in told, refused, told)

    def test_repeats_of_a_spectrum(self):
        path = self.folder / "repeats.dx"
        head = "##TITLE=one\n##JCAMP-DX=4.24\n##FIRSTX=400\n##LASTX=409\n##NPOINTS=10\n##XYDATA=(X++(Y..Y))\n"
        path.write_text(head + "400A0S999999\n" * 20 + "##END=\n", encoding="utf-8")
        self.assertIn("more points than", said_by(lambda: read_tables([path])))

    def test_repeats_in_many_spectra(self):
        path = self.folder / "many.dx"
        head = "##JCAMP-DX=4.24\n##FIRSTX=1\n##LASTX=1900001\n##NPOINTS=1900001\n##XYDATA=(X++(Y..Y))\n"
        text = "".join(f"##TITLE=s{k}\n{head}1A0S900001\n##END=\n" for k in range(40))
        path.write_text(text, encoding="utf-8")
        self.assertIn("spectra up to 's4' claim more points than", said_by(lambda: read_tables([path])))

    def test_one_cell_and_one_line(self):
        path = self.folder / "long.csv"
        for size, words in ((140_000, "a cell of more than 131,072"), (9_000_000, "longer than 8 MB")):
            path.write_text(f"id,1,2\na,{'9' * size},2\nb,1,2\nc,3,4\n", encoding="utf-8")
            with self.subTest(size):
                self.assertIn(words, said_by(lambda: read_tables([path])))
        wide = ",".join(["1.25" + "0" * 180] * 800)  # long lines of many cells are fine
        path.write_text(f"id,{','.join(map(str, range(800)))}\na,{wide}\nb,{wide}\n", encoding="utf-8")
        self.assertEqual(read_tables([path]).values.shape, (2, 800))

    def test_many_arrays_that_are_there(self):
        path = self.folder / "sound.h5"
        with h5py.File(path, "w") as file:
            file["signals"] = np.random.default_rng(1).normal(size=(6, 9))
            for number in range(20):
                file[f"more{number}"] = np.zeros(3)
        self.assertEqual(read_tables([path]).values.shape, (6, 9))


if __name__ == "__main__":
    unittest.main()
