"""JCAMP-DX: every packed form, the cases that break readers, and checks that must refuse."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from scutcher.core.errors import FileError
from scutcher.files.jcamp import read_jcamp, spectra_of
from tests.files.jcamp_writing import FORMS, block

RNG = np.random.default_rng(6)
VALUES = [int(value) for value in (RNG.normal(size=60) * 400).cumsum()]
FLAT = [5, 5, 5, 5, *range(10, 40, 3), *([7] * 25), -3, -3, 0, 0, 0, 120]


class Reading(unittest.TestCase):
    def test_every_form_says_the_same(self):
        for name, values in (("rough", VALUES), ("with runs", FLAT)):
            for form in FORMS:
                with self.subTest(name, form=form):
                    (found,) = spectra_of(block(values, form))
                    np.testing.assert_allclose(found.y, np.array(values) * 0.001, rtol=1e-12)
                    np.testing.assert_allclose(found.x, 4000.0 - 2.0 * np.arange(len(values)))
                    self.assertEqual((found.quantity, found.unit), ("wavenumber", "cm⁻¹"))
                    self.assertEqual(found.signal, "absorbance")

    def test_published_example_of_the_standard(self):
        # McDonald & Wilks 1988, table VII: the same data in four forms
        wanted = [1, 2, 3, 3, 2, 1, 0, -1, -2, -3]
        forms = ("1+1+2+3+3+2+1+0-1-2-3", "1ABCCBA@abc", "1AJJ%jjjjjj", "1AJT%jX")
        for text in forms:
            with self.subTest(text):
                source = block(
                    [0], XYDATA="(X++(Y..Y))\n" + text, FIRSTX="1", LASTX="10", NPOINTS="10", YFACTOR="1"
                )
                source = source.replace("\n4000 0\n", "\n")
                (found,) = spectra_of(source)
                self.assertEqual(found.y.tolist(), wanted)

    def test_e_as_a_digit_and_as_an_exponent(self):
        head = {"FIRSTX": "400", "LASTX": "402", "NPOINTS": "3", "YFACTOR": "1"}
        for line, wanted in (
            ("400E1E2E3", [51.0, 52.0, 53.0]),
            ("400 1.5E+1 2E0 3e-1", [15.0, 2.0, 0.3]),
            ("400 1E1 2E1 3E1", [10.0, 20.0, 30.0]),
        ):
            with self.subTest(line):
                text = block([0], XYDATA="(X++(Y..Y))\n" + line, **head).replace("\n4000 0\n", "\n")
                self.assertEqual(spectra_of(text)[0].y.tolist(), wanted)

    def test_awkward_but_sound(self):
        plain = block(VALUES)
        clothes = {
            "comments": plain.replace("##XUNITS=1/CM", "##XUNITS=1/CM $$ as ever").replace(" ", "  "),
            "lower-case form": plain.replace("(X++(Y..Y))", "(x++(y..y))"),
            "indented labels": plain.replace("##", "  ##"),
            "labels with marks": plain.replace("##FIRSTX", "##FIRST_X").replace("##NPOINTS", "##N POINTS"),
            "windows line ends": plain.replace("\n", "\r\n"),
            "x of the next point after a check": block(VALUES, "DIF"),
        }
        for name, text in clothes.items():
            with self.subTest(name):
                np.testing.assert_allclose(spectra_of(text)[0].y, np.array(VALUES) * 0.001)

    def test_linked_blocks_nested(self):
        text = "##TITLE=all\n##DATA TYPE=LINK\n##BLOCKS=3\n" + block(VALUES, title="a")
        text += "##TITLE=inner\n##DATA TYPE=LINK\n" + block(VALUES, "DIFDUP", title="b") + "##END=\n##END=\n"
        self.assertEqual([found.name for found in spectra_of(text)], ["a", "b"])

    def test_pairs_and_gaps(self):
        text = block([1], XYDATA="(XY..XY)\n1.0, 5; 2.5, ?\n4,7").replace("##XYDATA", "##XYPOINTS")
        text = text.replace("\n4000 1\n", "\n").replace("##NPOINTS=1", "##NPOINTS=3").replace("=0.001", "=1")
        (found,) = spectra_of(text)
        self.assertEqual(found.x.tolist(), [1.0, 2.5, 4.0])
        self.assertEqual(found.y[[0, 2]].tolist(), [5.0, 7.0])
        self.assertTrue(np.isnan(found.y[1]))

    def test_peak_table(self):
        text = block([1], XYDATA="(XY..XY)\n500,20 700,100\n900,35").replace("##XYDATA", "##PEAK TABLE")
        text = text.replace("\n4000 1\n", "\n").replace("##NPOINTS=1", "##NPOINTS=3").replace("=0.001", "=1")
        (found,) = spectra_of(text)
        self.assertEqual((found.x.tolist(), found.y.tolist()), ([500.0, 700.0, 900.0], [20.0, 100.0, 35.0]))

    def test_pages_of_an_ntuple(self):
        pages = "".join(
            f"##PAGE=T={page}\n##DATA TABLE=(X++(Y..Y)), XYDATA\n100 {page} {page + 1}\n102 {page + 2}\n"
            for page in (1, 5)
        )
        text = (
            "##TITLE=run\n##JCAMP-DX=5.01\n##NTUPLES=SPECTRUM\n##VAR_NAME=SHIFT, COUNTS, T\n"
            "##SYMBOL=X, Y, T\n##VAR_DIM=3, 3, 2\n##UNITS=1/CM, COUNTS, S\n##FIRST=100, , \n##LAST=102, , \n"
            f"##FACTOR=1, 2, 1\n{pages}##END NTUPLES=SPECTRUM\n##END=\n"
        )
        found = spectra_of(text)
        self.assertEqual([spectrum.name for spectrum in found], ["run T=1", "run T=5"])
        self.assertEqual(found[1].y.tolist(), [10.0, 12.0, 14.0])


def without_line(text, which):
    """A text that lost a line of data."""
    lines = text.splitlines()
    data = next(place for place, line in enumerate(lines) if line.startswith("##XYDATA")) + 1
    return "\n".join([*lines[: data + which], *lines[data + which + 1 :]]) + "\n"


class Tolerating(unittest.TestCase):
    """What instruments write: header and lines disagree a little, and every point is there."""

    def read(self, text, mended=False):
        (found,) = spectra_of(text, mended)
        return found

    def test_labels_a_channel_off(self):
        for form in FORMS:
            for off in (-2.0, 2.0):
                with self.subTest(form, off=off):
                    text = block(VALUES, form, first=4000.0 + off, FIRSTX="4000", LASTX="3882")
                    found = self.read(text)
                    np.testing.assert_allclose(found.x, 4000.0 + off - 2.0 * np.arange(60))
                    np.testing.assert_allclose(found.y, np.array(VALUES) * 0.001)
                    self.assertIn(f"begins at {4000 + off:g}, 2 away from what ##FIRSTX=", found.remarks[0])

    def test_a_last_x_that_is_a_channel_off(self):
        for last in ("3880", "3884"):
            found = self.read(block(VALUES, LASTX=last))
            self.assertAlmostEqual(found.x[0], 4000.0)
            self.assertAlmostEqual(found.x[-1], 3882.0, delta=2.1)

    def test_labels_of_few_digits_are_no_disagreement(self):
        step = -1.928461
        lines = [
            f"{round(float(line.split()[0]))} {' '.join(line.split()[1:])}" if line[:1].isdigit() else line
            for line in block(VALUES, step=step, LASTX=f"{4000 + 59 * step}").splitlines()
        ]
        found = self.read("\n".join(lines) + "\n")
        np.testing.assert_allclose(found.x, 4000.0 + step * np.arange(60), atol=1e-9)
        self.assertEqual(found.remarks, ())

    def test_a_number_of_points_that_is_one_off(self):
        for said in ("59", "61"):
            found = self.read(block(VALUES, NPOINTS=said))
            self.assertEqual(len(found.y), 60)
            self.assertIn(f"##NPOINTS= says {said}, the lines hold 60 points", found.remarks[0])

    def test_a_maximum_that_disagrees_is_no_matter(self):
        self.assertEqual(len(self.read(block(VALUES, MAXX="4000.1", MAXY="9")).y), 60)

    def test_a_lost_line_is_refused_and_can_be_left_as_a_gap(self):
        for form in ("AFFN", "SQZ"):
            for which in (1, 4):
                with self.subTest(form, which=which):
                    text = without_line(block(VALUES, form), which)
                    with self.assertRaises(FileError) as caught:
                        spectra_of(text)
                    self.assertEqual(caught.exception.mends, ("sound-part",))
                    found = self.read(text, mended=True)
                    gap = slice(8 * which, 8 * which + 8)
                    self.assertTrue(np.isnan(found.y[gap]).all())
                    kept = np.delete(np.arange(60), np.arange(60)[gap])
                    np.testing.assert_allclose(found.y[kept], np.array(VALUES)[kept] * 0.001)
                    self.assertIn("8 points of 60 are lost", found.remarks[0])

    def test_a_doubled_line_is_refused_and_can_be_taken_once(self):
        lines = block(VALUES).splitlines()
        data = next(place for place, line in enumerate(lines) if line.startswith("##XYDATA")) + 2
        text = "\n".join([*lines[: data + 1], *lines[data:]]) + "\n"
        with self.assertRaises(FileError):
            spectra_of(text)
        np.testing.assert_allclose(self.read(text, mended=True).y, np.array(VALUES) * 0.001)

    def test_the_end_that_is_lost_is_not_taken_for_a_small_difference(self):
        with self.assertRaises(FileError):
            spectra_of(without_line(block(VALUES), 7))


class Refusing(unittest.TestCase):
    def refused(self, text):
        with self.assertRaises(FileError) as caught:
            spectra_of(text)
        return caught.exception.problem

    def test_words(self):
        lines = block(VALUES).splitlines()
        data = next(place for place, line in enumerate(lines) if line.startswith("##XYDATA")) + 1
        cases = {
            "a line lost": (
                "\n".join([*lines[: data + 1], *lines[data + 2 :]]),
                "have 52 points, ##NPOINTS= says 60",
            ),
            "cut off": ("\n".join(lines[:-3]), "The block 'one' has no ##END=: it is cut off."),
            "another x": (
                block(VALUES).replace("\n3984 ", "\n3964 "),
                "The x check of line 13 fails: 3964 is not 3984.",
            ),
            "a number of points that lies": (
                block(VALUES, NPOINTS="1000000000"),
                "have 60 points, ##NPOINTS= says 1000000000.",
            ),
            "text": (
                block(VALUES, XYDATA="(X++(Y..Y))\nno numbers!"),
                "is not JCAMP-DX numbers: 'no numbers!'",
            ),
            "nothing": ("hello", "It does not begin with ##TITLE=."),
            "no data": ("##TITLE=x\n##END=\n", "There is no spectrum in it."),
            "no first x": (block(VALUES).replace("##FIRSTX", "##FIRSTY"), "lack ##FIRSTX= or ##LASTX="),
            "a factor that is none": (block(VALUES, YFACTOR="big"), "##YFACTOR= is 'big', not a number."),
            "odd pairs": (block([1, 2], XYDATA="(XY..XY)"), "do not come in pairs"),
        }
        for name, (text, words) in cases.items():
            with self.subTest(name):
                self.assertIn(words, self.refused(text))

    def test_a_changed_digit_fails_the_y_check(self):
        text = block(VALUES, "DIF")
        lines = text.splitlines()
        place = next(n for n, line in enumerate(lines) if line.startswith("##XYDATA")) + 2
        letter = next(c for c in lines[place][6:] if c in "JKLMNOPQ")
        at = lines[place].index(letter, 6)
        lines[place] = lines[place][:at] + chr(ord(letter) + 1) + lines[place][at + 1 :]
        self.assertIn(f"The y check of line {place + 2} fails", self.refused("\n".join(lines)))

    def test_repeats_do_not_take_the_memory(self):
        text = block([1], XYDATA="(X++(Y..Y))\n1AT999999999").replace("\n4000 1\n", "\n")
        self.assertIn("is not JCAMP-DX numbers", self.refused(text))


class Files(unittest.TestCase):
    def test_a_table_of_several_and_other_axes(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "s.dx"
            path.write_text(
                block(VALUES, title="a") + block(FLAT[:60] + VALUES[: 60 - len(FLAT[:60])], title="a")
            )
            table = read_jcamp(path)
            self.assertEqual(table.ids, ("a", "a (2)"))
            self.assertEqual(table.axis.positions[0], 4000.0)
            path.write_text(block(VALUES, title="a") + block(VALUES[:50], title="b"))
            with self.assertRaises(FileError) as caught:
                read_jcamp(path)
            self.assertIn(
                "a has 60 channels from 4000 to 3882 cm⁻¹; b has 50 channels", str(caught.exception)
            )
