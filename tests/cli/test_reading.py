"""The command line reads as the window does: options, what was not read, a reading repeated."""

import json
import tempfile
import unittest
from pathlib import Path

from tests.cli.test_commands import call
from tests.files.awkward import FOLDER


class Reading(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def fit(self, path, *options):
        """Exit code, what stands on stderr, and the summary."""
        out = self.folder / "out"
        code, _, said = call("fit", path, "--out", out, *options)
        summary = json.loads((out / "summary.json").read_text()) if code == 0 else None
        return code, said, summary

    def write(self, text, name="t.csv"):
        path = self.folder / name
        path.write_text(text)
        return path

    def test_what_was_not_read_is_on_stderr_and_in_the_summary(self):
        code, said, summary = self.fit(FOLDER / "mean_and_sd_below.csv")
        words = "2 rows of mean, SD below the data: not read"
        self.assertEqual((code, said), (0, f"scutcher: {words}\n"))
        self.assertIn(words, summary["warnings"])
        self.assertEqual(summary["samples"], 12)
        self.assertEqual(summary["reading"]["header"], [1])
        code, said, summary = self.fit(FOLDER / "plain.csv")
        self.assertEqual((code, said), (0, ""))

    def test_what_is_not_clear_is_one_line_that_says_how_to_say_it(self):
        path = self.write("id;a;b\n" + "".join(f"s{n};1,{200 + n};3,{100 + 7 * n}\n" for n in range(8)))
        code, said, _ = self.fit(path)
        self.assertEqual((code, said.count("\n")), (1, 1))
        self.assertIn("Say which with --decimal , or --decimal .; nothing was read.", said)
        for decimal in (",", "."):
            code, _, summary = self.fit(path, "--decimal", decimal)
            self.assertEqual(code, 0)
            self.assertEqual(summary["samples"], 8)
            self.assertEqual(summary["reading"]["decimal"], decimal)
        code, said, _ = self.fit(FOLDER / "which_matrix.npz")
        self.assertIn("Say which with --sheet after or --sheet before; nothing was read.", said)
        self.assertEqual(self.fit(FOLDER / "which_matrix.npz", "--sheet", "before")[0], 0)

    def test_every_option_of_the_layout(self):
        table = "x;1|2|3|4|5\na;1,5|2|3|4|9\nb;2|2,5|4|3|7\nc;3|1|0|2|1\n".replace(";", "|")
        path = self.write("made in spring\n" + table + "d|9|9|9|9|8\n")
        options = [
            "--delimiter",
            "bar",
            "--decimal",
            ",",
            "--header-row",
            2,
            "--first-row",
            3,
            "--last-row",
            5,
        ]
        code, _, summary = self.fit(path, *options, "--axis", "row", "--form", "table", "--thousands", "none")
        self.assertEqual((code, summary["samples"], summary["variables"]), (0, 3, 5))
        code, _, summary = self.fit(path, *options, "--transpose")
        self.assertEqual((code, summary["samples"], summary["variables"]), (0, 5, 3))

    def test_sheets_are_stacked_and_a_reading_is_repeated(self):
        book = FOLDER / "sheet_per_class.xlsx"
        code, _, summary = self.fit(book, "--sheet", "dew", "--sheet", "green")
        self.assertEqual((code, summary["samples"], summary["reading"]["sheets"]), (0, 8, ["dew", "green"]))
        kept = self.folder / "reading.toml"
        kept.write_text('sheets = ["tank"]\nheader = [1]\n')
        code, _, summary = self.fit(book, "--reading", kept)
        self.assertEqual((code, summary["samples"]), (0, 4))
        for text, words in (
            ("header = 1\n", "reading.toml has header = 1."),
            ('colour = "red"\n', "reading.toml has the key 'colour'."),
            ("samples = 'both'\n", "Give 'rows', 'columns'."),
            ("header = [\n", "reading.toml is not TOML"),
        ):
            kept.write_text(text)
            code, said, _ = self.fit(book, "--reading", kept)
            self.assertEqual((code, said.count("\n")), (1, 1))
            self.assertIn(words, said)

    def test_a_number_that_is_a_gap(self):
        rows = "".join(f"s{r},{r},{r * r % 7},{r % 3}\n" for r in range(9))
        path = self.write(f"id,1,2,3\n{rows}x,-999,2,1\n", "marks.csv")
        _, said, summary = self.fit(path)
        self.assertIn("is it a gap?", said)
        self.assertEqual((summary["samples"], summary["gaps"]["count"]), (10, 0))
        code, said, summary = self.fit(path, "--missing", "-999")
        self.assertEqual((code, summary["samples"], summary["gaps"]["count"]), (0, 9, 1))
        self.assertIn("1 value −999 taken for a gap", said)

    def test_a_study_keeps_its_reading_for_the_next_file(self):
        study = self.folder / "s.scutch"
        path = self.write("a note\nid;1;2;3\na;1,5;2;3\nb;2;2,5;4\nc;3;1;1\n")
        self.assertEqual(self.fit(path, "--study", study)[0], 0)
        following = self.write("a note\nid;1;2;3\nd;1,5;2;3\ne;2;2,25;4\nf;3;1;1\ng;0;1;1\n", "next.csv")
        code, _, summary = self.fit(following, "--reading", study)
        self.assertEqual((code, summary["samples"], summary["reading"]["decimal"]), (0, 4, ","))


if __name__ == "__main__":
    unittest.main()
