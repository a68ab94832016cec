"""The CSV reader against awkward files: what it understands, and the words it refuses with."""

from pathlib import Path

import numpy as np

from scutcher.core.errors import InputError, Unclear
from scutcher.demo.sets import demo_set
from scutcher.files.columns import Roles
from scutcher.files.delimited import read_delimited
from scutcher.files.formats import read_table, read_tables
from scutcher.files.layout.reading import Reading, reading_of_pairs
from scutcher.files.text_lines import HEAD
from scutcher.files.writing import write_csv
from tests.folder import InFolder

GOOD = "id,kind,moisture / %,1000,1002,1004\na,x,1.5,1,2,3\nb,y,2.5,2,3,5\nc,x,,4,5,5.5\n"


class WithFile(InFolder):
    def file(self, content: str | bytes, name: str = "t.csv") -> Path:
        path = self.folder / name
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return path

    def read(self, content: str | bytes, roles: Roles | None = None, name: str = "t.csv"):
        return read_delimited(self.file(content, name), roles)

    def words(self, content: str | bytes, roles: Roles | None = None) -> str:
        with self.assertRaises(InputError) as caught:
            self.read(content, roles)
        return str(caught.exception)


class Understanding(WithFile):
    def test_roles_are_guessed(self):
        table = self.read(GOOD)
        self.assertEqual(table.ids, ("a", "b", "c"))
        self.assertEqual(table.classes[0].values, ("x", "y", "x"))
        self.assertEqual((table.properties[0].name, table.properties[0].unit), ("moisture", "%"))
        self.assertTrue(np.isnan(table.properties[0].values[2]))
        np.testing.assert_array_equal(table.axis.positions, [1000, 1002, 1004])
        np.testing.assert_array_equal(table.values[2], [4.0, 5.0, 5.5])

    def test_a_process_log_has_its_dates_as_properties(self):
        """Of named variables too, few rows and many: a date is none of them."""
        for rows in (6, 4000):
            lines = [
                f"2026-03-01 {row // 60 % 24:02d}:{row % 60:02d},{'ab'[row % 2]},{20 + row % 7},{row % 5}.5"
                for row in range(rows)
            ]
            table = self.read("time,state,jacket / °C,level\n" + "\n".join(lines) + "\n")
            self.assertEqual(table.axis.labels, ("jacket / °C", "level"))
            self.assertEqual([one.name for one in table.classes], ["state"])
            (time,) = table.properties
            self.assertEqual((time.name, time.unit), ("time", "d since 2026-01-01"))
            np.testing.assert_allclose(time.values[:3] - 59.0, np.arange(3) / 1440.0, atol=1e-9)
        self.assertIn("no column of numbers", self.words("when,kind\n2026-03-01,a\n2026-03-02,b\n"))

    def test_roles_are_taken_as_named(self):
        text = "lot,no,year,1000,1002\nL1,7,2025,1,2\nL1,8,2026,2,4\n"
        table = self.read(text, Roles(id="no", classes=("year",), replicate="lot"))
        self.assertEqual(table.ids, ("7", "8"))
        self.assertEqual(table.classes[0].values, ("2025", "2026"))
        self.assertEqual(table.replicates, ("L1", "L1"))

    def test_the_same_table_in_other_clothes(self):
        wanted = self.read(GOOD)
        clothes = {
            "tabs": GOOD.replace(",", "\t"),
            "semicolons": GOOD.replace(",", ";"),
            "decimal comma": GOOD.replace(",", ";").replace(".", ","),
            "byte-order mark": b"\xef\xbb\xbf" + GOOD.encode(),
            "windows line ends": GOOD.replace("\n", "\r\n"),
            "quotes": GOOD.replace("kind", '"kind"').replace("a,x", '"a","x"'),
            "blank line at the end": GOOD + "\n",
            "no line end at the end": GOOD.rstrip("\n"),
            "comments": "# from the mill\n#\n" + GOOD.replace("b,y", "# again\nb,y"),
            "UTF-16": GOOD.encode("utf-16"),
            "blanks after the delimiter": GOOD.replace(",", ", "),
            "NA for a gap": GOOD.replace("x,,4", "x,NA,4"),
        }
        for name, text in clothes.items():
            with self.subTest(name):
                table = self.read(text)
                np.testing.assert_array_equal(table.values, wanted.values)
                self.assertEqual(table.ids, wanted.ids)
                self.assertEqual(table.axis.labels, wanted.axis.labels)
                self.assertEqual(table.classes[0].values, wanted.classes[0].values)

    def test_windows_encoding(self):
        table = self.read("id,1,2\nRöste,1,2\nb,3,1\n".encode("cp1252"))
        self.assertEqual(table.ids[0], "Röste")

    def test_without_a_header(self):
        table = self.read("0.5,0.4,0.9\n0.6,0.3,0.8\n0.1,0.2,0.5\n")
        self.assertEqual(table.shape, (3, 3))
        self.assertEqual(table.axis.labels, ("1", "2", "3"))
        self.assertEqual(table.values[0].tolist(), [0.5, 0.4, 0.9])

    def test_mixed_variables_without_id(self):
        table = self.read("lignin,pectin\n1,2\n3,5\n")
        self.assertFalse(table.axis.ordered)
        self.assertEqual(table.ids, ("1", "2"))

    def test_constant_column_is_measured_all_the_same(self):
        table = self.read("id,a,b,c\nu,1,7,2\nv,2,7,5\n")
        self.assertEqual(dict(table.left_out), {})

    def test_empty_cells_are_gaps(self):
        table = self.read("id,1,2,3\nu,1,,2\nv,2,7,5\nw,3,8,5\n")
        self.assertTrue(np.isnan(table.values[0, 1]))

    def test_demo_set_reads_back_to_the_last_digit(self):
        table = demo_set("intake-nir")[0]
        path = self.folder / "demo.csv"
        write_csv(table, path)
        again = read_delimited(path, Roles(classes=("year",), replicate="lot"))
        np.testing.assert_array_equal(again.values, table.values)
        self.assertEqual(again.ids, table.ids)
        self.assertEqual(again.replicates, table.replicates)
        np.testing.assert_array_equal(again.properties[1].values, table.properties[1].values)
        self.assertEqual({c.name for c in again.classes}, {"retting", "field", "year"})

    def test_every_digit_of_a_number_counts(self):
        value = 0.1234567890123456789
        table = self.read(f"id,1,2\nu,{value!r},1\nv,1e-300,2\n")
        self.assertEqual(table.values[0, 0], value)
        self.assertEqual(table.values[1, 0], 1e-300)


class Asking(WithFile):
    """Where two readings are as good as each other nobody guesses; an answer settles it."""

    def asked(self, content):
        with self.assertRaises(Unclear) as caught:
            self.read(content)
        return caught.exception

    def test_a_comma_that_may_be_two_things(self):
        content = "id;a;b\n" + "".join(f"s{n};1,{200 + n};3,{100 + 7 * n}\n" for n in range(8))
        error = self.asked(content)
        self.assertIn("its comma may stand before decimals or between thousands", error.problem)
        values = [self.read(content, Roles(reading=said)).values[1, 0] for _, said in error.answers]
        self.assertEqual(values, [1.201, 1201.0])

    def test_a_row_that_may_be_a_value(self):
        rows = "".join(f"{c},{d},{ord(c) * d}\n" for c in "abc" for d in (1, 2, 3, 4))
        error = self.asked("class,dose,value\n" + rows)
        shapes = []
        for _, said in error.answers:
            mends = ("number-ids",) if said.form == "table" else ()
            shapes.append(self.read("class,dose,value\n" + rows, Roles(reading=said, mends=mends)).shape)
        self.assertEqual(shapes, [(12, 2), (3, 4)])

    def test_times_before_columns_that_may_be_samples_or_sensors(self):
        times = "".join(f"{n},{n * 0.1:.2f},{n * 0.2:.2f},{n * 0.3:.2f}\n" for n in range(1, 30))
        error = self.asked("time,S1,S2,S3\n" + times)
        shapes = [
            self.read("time,S1,S2,S3\n" + times, Roles(reading=said)).shape for _, said in error.answers
        ]
        self.assertEqual(shapes, [(29, 4), (3, 29)])

    def test_a_class_called_n_is_no_number_of_samples(self):
        rows = "".join(f"{'yn'[n % 2]},L{n},{n},{n * n}\n" for n in range(8))
        table = self.read("wet,lot,a,b\n" + rows)
        self.assertEqual((len(table.ids), table.origin.remarks), (8, ()))
        self.assertEqual(table.classes[0].values[-1], "n")

    def test_what_somebody_says_goes_before_what_was_found(self):
        content = "made in spring\nid,1,2\na,1,2\nb,2,4\nc,3,5\n"
        self.assertEqual(self.read(content).shape, (3, 2))
        said = Reading(header=(2,), first=4, last=4)
        self.assertEqual(self.read(content, Roles(reading=said)).ids, ("b",))
        headless = self.read("5,1,2\n1,3,4\n9,5,6\n", Roles(reading=Reading(header=())))
        self.assertEqual(headless.shape, (3, 3))
        bars = self.read("id|1|2\na|1,5|2,5\nb|2|4\n", Roles(reading=Reading(delimiter="|", decimal=",")))
        self.assertEqual(bars.values[0].tolist(), [1.5, 2.5])


class Large(WithFile):
    """Files of which the beginning and the end are looked at, and the library reads the rest."""

    def rows(self, count=1400):
        values = [[f"{(n * 31 + c * 7) % 997}.5" for c in range(60)] for n in range(count)]
        return [f"L{n:04d},{'xyz'[n % 3]}," + ",".join(cells) for n, cells in enumerate(values)]

    def test_title_units_mean_and_note(self):
        header = "lot,kind," + ",".join(f"{1100 + 2 * c} nm" for c in range(60))
        mean = "mean,," + ",".join(["500"] * 60)
        rows = self.rows()
        lines = ["Intake", "", header, *rows[:350], header, *rows[350:], mean, "", "end of export"]
        content = "\n".join(lines) + "\n"
        self.assertGreater(len(content), HEAD)
        table = self.read(content)
        self.assertEqual((table.shape, table.axis.title), ((1400, 60), "wavelength / nm"))
        self.assertEqual(table.ids[-1], "L1399")
        self.assertEqual(table.values[1399, 3], (1399 * 31 + 21) % 997 + 0.5)
        remarks = " ".join(table.origin.remarks)
        self.assertIn("1 row of mean below the data: not read", remarks)
        self.assertIn("'end of export'", remarks)
        again = self.read(content, Roles(reading=reading_of_pairs(table.origin.reading)))
        self.assertEqual(again.ids, table.ids)

    def test_turned_and_per_cent(self):
        rows = [row.split(",") for row in ["lot,kind," + ",".join(map(str, range(1100, 1160))), *self.rows()]]
        content = "\n".join(",".join(row) for row in zip(*rows, strict=True)) + "\n"
        table = self.read(content)
        self.assertEqual((table.shape, table.classes[0].name), ((1400, 60), "kind"))
        lines = [",".join([row[0], f"{n}.5%" if n else "moist", *row[2:]]) for n, row in enumerate(rows)]
        table = self.read("\n".join(lines) + "\n")
        self.assertEqual(table.properties[0].header, "moist / %")
        self.assertEqual(table.properties[0].values[1399], 1400.5)


class Refusing(WithFile):
    def test_words(self):
        cases = {
            "empty": ("", "t.csv is empty. Choose a file with a header row and one row per sample."),
            "blank": (" \n\n", "t.csv is empty. Choose a file with a header row and one row per sample."),
            "binary": (b"\x89PNG\0\0\x01", "t.csv is not a text file. Save the table as CSV or TSV."),
            "comments": ("# a\n", "t.csv holds comments only. Choose a file with one row per sample."),
            "header only": ("id,1,2\n", "t.csv has a header and no samples. Add one row per sample."),
            "one column": (
                "a\n1\n",
                "t.csv has a single column ('a'). Use comma, semicolon or tab between columns, and at least "
                "two variables.",
            ),
            "too long a row": (
                "id,1,2\na,1,2\nb,1,2,3\n",
                "Row 3 of t.csv has 4 values, the header 3. Correct the row and import again; nothing was "
                "imported.",
            ),
            "too short a row": (
                "id,1,2\na,1\n",
                "Row 2 of t.csv has 2 values, the header 3. Correct the row and import again; nothing was "
                "imported.",
            ),
            "text among numbers": (
                "id,1,2\na,1,2\nb,x,2\nc,1,3\n",
                "Row 3 of t.csv has 'x' in column '1', among numbers. Correct the cell or leave it empty; "
                "nothing was imported.",
            ),
            "infinite": (
                "id,1,2\na,1,2\nb,inf,2\n",
                "t.csv: The value of 1 of sample b is infinite. Correct it or leave the cell empty.",
            ),
            "header twice": (
                "id,1,1\na,1,2\n",
                "The header '1' of t.csv stands in columns 2 and 3. Rename or remove one of them.",
            ),
            "no header": ("id,,2\na,1,2\n", "Column 2 of t.csv has no header. Give it a name."),
            "only text": (
                "id,kind\na,x\n",
                "t.csv has no column of numbers. Check the delimiter, or whether rows are samples.",
            ),
        }
        for name, (content, words) in cases.items():
            with self.subTest(name):
                self.assertEqual(self.words(content), words)

    def test_duplicate_ids_name_the_file_and_rows(self):
        words = self.words("id,1,2\na,1,2\na,2,3\n")
        self.assertTrue(words.startswith("t.csv: The id 'a' stands at samples 1 and 2."))

    def test_what_can_be_mended_is_mended_when_asked(self):
        content = "id,kind,1,2\na,x,1,2\na,y,n.d.,inf\nb,x,?,<1\na,x,4,-inf\n"
        asked = []
        while True:
            try:
                table = self.read(content, Roles(mends=tuple(asked)))
                break
            except InputError as error:
                asked.append(error.mends[-1])
        self.assertEqual(asked, ["text-as-gaps", "number-ids", "infinite-as-gaps"])
        self.assertEqual(table.ids, ("a", "a (2)", "b", "a (3)"))
        self.assertIsNone(table.replicates)
        nan = np.nan
        np.testing.assert_array_equal(table.values, [[1, 2], [nan, nan], [nan, nan], [4, nan]])
        repeated = self.read(content, Roles(mends=("text-as-gaps", "infinite-as-gaps", "ids-as-replicates")))
        self.assertEqual((repeated.ids, repeated.replicates), (table.ids, ("a", "a", "b", "a")))

    def test_how_much_is_wrong_is_said(self):
        self.assertIn(
            "among numbers; 2 other cells too.",
            self.words("id,1,2\na,1,x\nb,y,2\nc,z,1\nd,1,2\ne,1,3\nf,2,2\ng,2,1\n"),
        )
        self.assertIn("is infinite; 1 other value too.", self.words("id,1,2\na,1,inf\nb,inf,2\n"))

    def test_axis_that_turns_back(self):
        self.assertIn("turns back or repeats itself at 3 → 2", self.words("id,1,3,2\na,1,2,3\n"))

    def test_column_that_is_not_there(self):
        self.assertEqual(
            self.words(GOOD, Roles(id="nr")),
            "t.csv has no column 'nr'. Its columns begin id, kind, moisture / %, 1000, 1002, 1004.",
        )

    def test_missing_file_and_folder_and_ending(self):
        with self.assertRaises(InputError) as caught:
            read_delimited(self.folder / "no.csv")
        self.assertIn("There is no file no.csv in", str(caught.exception))
        (self.folder / "d.csv").mkdir()
        with self.assertRaises(InputError) as caught:
            read_delimited(self.folder / "d.csv")
        self.assertEqual(str(caught.exception), "d.csv is a folder. Name a file in it.")
        with self.assertRaises(InputError) as caught:
            read_table(self.file("x", "t.doc"))
        self.assertIn("t.doc ends in '.doc'", str(caught.exception))


class Stacking(WithFile):
    def test_same_axis(self):
        first = self.file("id,kind,1,2\na,x,1,2\nb,y,2,4\n", "one.csv")
        second = self.file("id,1,2\nc,3,4\n", "two.csv")
        table = read_tables([first, second])
        self.assertEqual(table.ids, ("a", "b", "c"))
        self.assertEqual(table.classes[0].values, ("x", "y", ""))

    def test_other_axis_gives_both_figures(self):
        first = self.file("id,1,2\na,1,2\n", "one.csv")
        second = self.file("id,1,2,3\nc,3,4,5\n", "two.csv")
        with self.assertRaises(InputError) as caught:
            read_tables([first, second])
        self.assertIn("one has 2 from 1 to 2; two has 3 from 1 to 3", str(caught.exception))


class BareArrays(WithFile):
    def test_npy(self):
        path = self.folder / "x.npy"
        np.save(path, np.arange(12.0).reshape(3, 4))
        table = read_table(path)
        self.assertEqual(table.ids, ("1", "2", "3"))
        np.testing.assert_array_equal(table.axis.positions, [1, 2, 3, 4])

    def test_pickled_and_flat_arrays_are_refused(self):
        path = self.folder / "x.npy"
        for content in (np.array([{"a": 1}], dtype=object), np.arange(3.0)):
            np.save(path, content, allow_pickle=True)
            with self.assertRaises(InputError):
                read_table(path)
