"""One thing is said in the singular."""

import re
import unittest
from pathlib import Path

import numpy as np

import scutcher
from scutcher.core.words import (
    Shown,
    count_of,
    counted,
    first_of,
    listed,
    plain_numbers,
    shown,
    typed_number,
    write_numbers_with,
)


class Counts(unittest.TestCase):
    def test_of_a_number_and_of_what_can_be_counted(self):
        for things, word, wanted in (
            (1, "sample", "1 sample"),
            (0, "sample", "0 samples"),
            ((4, 7), "variable", "2 variables"),
            (np.array([3]), "constant variable", "1 constant variable"),
            ({"a", "b", "c"}, "copy", "3 copies"),
            (["a"], "copy", "1 copy"),
            (2, "matrix", "2 matrices"),
            (1649, "pixel", "1,649 pixels"),
        ):
            with self.subTest(wanted):
                self.assertEqual(count_of(things, word), wanted)

    def test_of_many_names_the_first(self):
        self.assertEqual(first_of(["a", "b", "c"]), "a, b, c")
        self.assertEqual(first_of(["a", "b", "c", "d"]), "a, b, c …")
        self.assertEqual(first_of(["a", "b"], 1), "a …")


class Numbers(unittest.TestCase):
    def setUp(self):
        self.addCleanup(write_numbers_with, ".")

    def test_shown_with_either_mark_and_plain_for_files(self):
        for mark, wanted in (
            (".", ("0.62", "12,500", "-1,234.5")),
            (",", ("0,62", "12\u202f500", "-1\u202f234,5")),
        ):
            write_numbers_with(mark)
            self.assertEqual((shown(0.62), shown(12500, ","), shown(-1234.5, ",.1f")), wanted)
            self.assertEqual(f"{Shown(0.62):.2f}", wanted[0])
            self.assertEqual(counted(range(12_500)), wanted[1])
            with plain_numbers():
                self.assertEqual((shown(0.62), counted(12_500)), ("0.62", "12,500"))

    def test_typed_with_either_mark_but_thousands_are_not_guessed(self):
        for mark, other in ((".", ","), (",", ".")):
            write_numbers_with(mark)
            for text, value in (("1.5", 1.5), ("1,5", 1.5), (f"1{mark}250", 1.25), (f"0{other}125", 0.125),
                                ("−2,5e-3", -0.0025), ("1\u202f250", 1250.0), (" 7 ", 7.0)):  # fmt: skip
                self.assertEqual(typed_number(text), value)
            for text in (f"1{other}250", "1.234,5", "1,234.5", "", "x"):
                with self.assertRaises(ValueError):
                    typed_number(text)

    def test_whatever_is_shown_is_written_by_one_function(self):
        """No sentence of charts or desk formats tenths by itself: it would have a point everywhere."""
        alone = re.compile(r"""f["'].*\{[^{}:"']+:\+?(\.[1-9]\d*[gfe]|g)\}""")
        by_design = ("print_axes.py", "gallery.py", "text_size.py", "behind.py")  # files, settings, a key
        root = Path(scutcher.__file__).parent
        found = [
            f"{path.name}:{number} {line.strip()}"
            for room in ("charts", "desk")
            for path in sorted((root / room).rglob("*.py"))
            if path.name not in by_design
            for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), start=1)
            if alone.search(line) and "float(f" not in line and "Shown(" not in line
        ]
        self.assertEqual([line for line in found if "{before:.3f} without it" not in line], [])

    def test_lists(self):
        self.assertEqual(listed("5,9, 15;25"), ["5", "9", "15", "25"])
        write_numbers_with(",")
        self.assertEqual(listed("0,5, 1,5; 2"), ["0,5", "1,5", "2"])


if __name__ == "__main__":
    unittest.main()
