"""Parsing text tables: encodings, line ends, quotes, wrong rows by their number, progress and stop."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.errors import FileError
from scutcher.files import parsing
from scutcher.files.columns import Roles
from scutcher.files.delimited import read_delimited
from tests.folder import InFolder

LABELS = [str(1000 + 2 * place) for place in range(12)]


class Parsing(InFolder):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "t.csv"
        rng = np.random.default_rng(2)
        self.values = rng.normal(size=(301, 12)).round(6)
        self.rows = [["id", "kind", *LABELS]]
        self.rows += [
            [f"s{row}", "ab"[row % 2], *map(str, cells)] for row, cells in enumerate(self.values.tolist())
        ]

    def write(self, rows=None, encoding="utf-8", end="\n"):
        text = end.join(",".join(row) for row in rows or self.rows) + end
        self.path.write_bytes(text.encode(encoding))

    def test_encodings_and_line_ends(self):
        for encoding, end in (("utf-8", "\n"), ("utf-8", "\r\n"), ("cp1252", "\n"), ("utf-16", "\n")):
            with self.subTest(encoding=encoding, end=end):
                self.rows[200][0] = "Mühle"
                self.write(encoding=encoding, end=end)
                table = read_delimited(self.path)
                np.testing.assert_array_equal(table.values, self.values)
                self.assertEqual((table.ids[0], table.ids[199], table.ids[300]), ("s0", "Mühle", "s300"))
                self.assertEqual(table.classes[0].codes().tolist(), [row % 2 for row in range(301)])

    def test_a_line_end_in_a_quoted_cell(self):
        self.rows[250][1] = '"a,\nb"'
        self.write()
        table = read_delimited(self.path, Roles(classes=("kind",)))
        self.assertEqual(table.classes[0].values[249], "a,\nb")

    def test_every_row_is_said_by_its_number_in_the_file(self):
        for row in (2, 40, 150, 151, 152, 153, 300):
            for wrong, words in (
                (lambda cells: [*cells, "1"], "has 15 values, the header 14"),
                (lambda cells: cells[:-1], "has 13 values, the header 14"),
                (lambda cells: [*cells[:-1], "oops"], "has 'oops' in column '1022'"),
            ):
                with self.subTest(row=row, words=words):
                    rows = [list(cells) for cells in self.rows]
                    rows[row] = wrong(rows[row])
                    self.write(rows)
                    with self.assertRaises(FileError) as caught:
                        read_delimited(self.path)
                    self.assertIn(f"Row {row + 1} of t.csv {words}", str(caught.exception))

    def test_it_tells_how_far_it_is_and_stops(self):
        many = [[f"{turn}-{cells[0]}", *cells[1:]] for turn in range(80) for cells in self.rows[1:]]
        self.write([self.rows[0], *many])  # some 3 MB: the library asks for a quarter of one at once
        told = []
        with mock.patch.object(parsing, "TOLD", 1 << 18):
            read_delimited(self.path, watch=lambda share: told.append(share) or True)
            self.assertGreater(len(told), 6)
            self.assertEqual(told, sorted(told))
            self.assertGreater(told[-1], 0.9)
            asked = []
            with self.assertRaises(FileError) as caught:
                read_delimited(self.path, watch=lambda share: asked.append(share) or len(asked) < 3)
        self.assertIn("Reading t.csv was stopped.", str(caught.exception))
        self.assertLess(len(asked), 6)


if __name__ == "__main__":
    unittest.main()
