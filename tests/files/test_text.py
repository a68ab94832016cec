"""Text of any encoding, pairs of x and y, and files that are replaced whole or not at all."""

import os
import unittest
from unittest import mock

import numpy as np

from scutcher.core.errors import FileError
from scutcher.files.parsing import parse
from scutcher.files.safely import make_folder, reading, write_bytes, write_text
from scutcher.files.text import encoding_of, text_of
from scutcher.files.xy_text import is_xy, read_xy
from tests.folder import InFolder

WORDS = "Größe µm ²; Ωmega"


class Encodings(InFolder, unittest.TestCase):
    def test_marks_and_no_marks(self):
        for encoding in ("utf-8", "utf-8-sig", "utf-16"):
            path = self.folder / f"{encoding}.txt"
            path.write_bytes(WORDS.encode(encoding))
            self.assertEqual(text_of(path), WORDS)
        path.write_bytes("Größe µm²".encode("cp1252"))
        self.assertEqual(text_of(path), "Größe µm²")

    def test_the_start_may_end_inside_a_letter(self):
        start = "aµ".encode()[:-1]
        self.assertEqual(encoding_of(start, "x"), "utf-8")

    def test_letters_tell_the_encoding(self):
        for words, encoding in (
            ("id,1,2\nRöste,1,2\nb,3,1\n", "cp1252"),
            ("naïve café,°C\nfaçade,µm\n", "cp1252"),
            ("vzorek;1,5\nžluťoučký kůň;2\npříliš;3\n", "cp1250"),
            ("образец;1\nлён;2\nмокрый;3\n", "cp1251"),
            ("試料,1100\n亜麻,0.3\n青,0.2\n緑の麻,1\n", "shift_jis"),
            ("样品,1100\n亚麻,0.3\n绿色,0.2\n", "gb18030"),
        ):
            with self.subTest(words):
                raw = words.encode(encoding)
                self.assertEqual(raw.decode(encoding_of(raw, "x")), words)

    def test_what_is_not_text_is_refused(self):
        with self.assertRaises(FileError) as caught:
            encoding_of(b"PK\x03\x04\0\0", "data.csv")
        self.assertEqual(str(caught.exception), "data.csv is not a text file. Save the table as CSV or TSV.")


class Pairs(InFolder, unittest.TestCase):
    def put(self, text, name="lot 7.xy"):
        path = self.folder / name
        path.write_text(text, encoding="utf-8")
        return path

    def test_separators_decimal_commas_headings_and_comments(self):
        wanted = np.array([[1100.5, 0.25], [1102.5, -1.5], [1104.5, 2e-3]])
        for cells in (
            "1100.5 0.25\n1102.5 -1.5\n1104.5 2e-3\n",
            "1100.5\t0.25\r\n1102.5\t-1.5\r\n1104.5\t2e-3\r\n",
            "1100,5; 0,25\n1102,5; -1,5\n1104,5; 2e-3\n",
            "1100.5, 0.25\n1102.5, -1.5\n1104.5, 2e-3\n",
            "1100.5,0.25\n1102.5,-1.5\n1104.5,2e-3\n",
        ):
            with self.subTest(cells):
                path = self.put(f"Instrument A\nnm absorbance units\n{cells}# the end\n\n")
                self.assertTrue(is_xy(path))
                found, _ = read_xy(path)
                np.testing.assert_allclose(np.column_stack([found.x, found.y]), wanted)
        self.assertEqual(found.name, "lot 7")

    def test_refusals_name_the_row(self):
        said = {
            "1 2\n2 3\n3 x\n4 5\n": "Row 3 of lot 7.xy is not two numbers: '3 x'.",
            "hello\n": "lot 7.xy has no two columns of numbers.",
            "1 2\n2 1e999\n": "Row 2 of lot 7.xy is not two numbers: '2 1e999'.",
        }
        for text, words in said.items():
            with self.subTest(text), self.assertRaises(FileError) as caught:
                read_xy(self.put(text))
            self.assertIn(words, str(caught.exception))
        self.assertFalse(is_xy(self.put("a,b,c\n1,2,3\n4,5,6\n7,8,9\n")))
        self.assertFalse(is_xy(self.folder / "none.xy"))


class Safely(InFolder, unittest.TestCase):
    def test_a_failed_write_leaves_the_old_file_and_nothing_beside_it(self):
        path = self.folder / "results.csv"
        write_text(path, "old µ")
        with mock.patch("pathlib.Path.replace", side_effect=OSError(28, "No space left on device")):
            with self.assertRaises(FileError) as caught:
                write_bytes(path, b"new")
        self.assertIn("No space left on device", str(caught.exception))
        self.assertIn("nothing was changed", str(caught.exception))
        self.assertEqual(path.read_text(encoding="utf-8"), "old µ")
        self.assertEqual(os.listdir(self.folder), ["results.csv"])
        write_bytes(path, b"new")
        self.assertEqual(path.read_bytes(), b"new")

    def test_what_the_system_says_becomes_a_sentence(self):
        said = {
            FileNotFoundError(2, "x"): "There is no file a.csv",
            IsADirectoryError(21, "x"): "a.csv is a folder.",
            PermissionError(13, "x"): "a.csv may not be read by you.",
            OSError(5, "Input/output error"): "a.csv cannot be read: Input/output error.",
        }
        for error, words in said.items():
            with self.assertRaises(FileError) as caught, reading(self.folder / "a.csv"):
                raise error
            self.assertIn(words, str(caught.exception))

    def test_folders(self):
        make_folder(self.folder / "a" / "b")
        self.assertTrue((self.folder / "a" / "b").is_dir())
        (self.folder / "file").write_text("x")
        with self.assertRaises(FileError) as caught:
            make_folder(self.folder / "file" / "c")
        self.assertIn("cannot be made", str(caught.exception))


class Parsing(InFolder, unittest.TestCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "large.csv"
        line = ",".join(["0.123456789"] * 40) + "\n"
        self.path.write_text(line * 6000)

    def test_it_tells_how_far_it_is(self):
        shares = []
        frame = parse(self.path, {"header": None}, lambda share: shares.append(share) or True)
        self.assertEqual(frame.shape, (6000, 40))
        self.assertEqual(shares, sorted(shares))
        self.assertGreaterEqual(len(shares), 2)
        self.assertLessEqual(shares[-1], 1.0)

    def test_it_can_be_stopped(self):
        with self.assertRaises(FileError) as caught:
            parse(self.path, {"header": None}, lambda share: False)
        self.assertEqual(str(caught.exception), "Reading large.csv was stopped. Nothing was imported.")

    def test_what_cannot_be_cut_is_one_sentence(self):
        self.path.write_text("a,b\n1,2\n3,4,5,6\n")
        with self.assertRaises(FileError) as caught:
            parse(self.path, {}, None)
        self.assertIn("large.csv cannot be cut into rows and columns", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
