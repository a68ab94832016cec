"""The library: the numbers of the window, frames that agree with arrays, files that come back, its docs."""

import os
import re
import subprocess
import sys
import unittest
from pathlib import Path

import numpy as np
import pandas
from matplotlib.backends.backend_agg import FigureCanvasAgg

import scutcher as sc
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.verification import verified
from tests.folder import InFolder

DOCS = Path(__file__).parents[2] / "docs" / "library.md"
PLAIN = {"treat": [{"method": "snv"}], "model": {"components": 3}}
CHECKED = {"validate": {"segments": 4}, "evidence": {"permutations": 19, "halves": 1}}


class Models(InFolder):
    @classmethod
    def setUpClass(cls):
        cls.lots = sc.example("intake-nir")
        cls.model = sc.fit(cls.lots, sc.Recipe(**PLAIN, **CHECKED), validate=True)

    def test_the_numbers_are_those_of_the_window(self):
        found = Evaluator().evaluate(self.lots.table, recipe_from_plain(PLAIN))
        np.testing.assert_array_equal(self.model.scores.to_numpy(), found.model.scores)
        np.testing.assert_array_equal(self.model.loadings["PC2"], found.model.loadings[:, 1])
        frame = self.model.distances
        np.testing.assert_array_equal(frame["t2"], found.model.t2)
        np.testing.assert_array_equal(frame["q_past"], found.model.q > found.model.q_limit.value)
        self.assertEqual(list(frame.index), list(found.treated.ids))
        self.assertIn("q_held_out", frame)
        self.assertAlmostEqual(self.model.explained["together"].iloc[-1], self.model.explained["share"].sum())
        np.testing.assert_array_equal(self.model.treated.to_numpy(), found.treated.values)

    def test_validation_and_evidence(self):
        checked = self.model.checked
        np.testing.assert_array_equal(self.model.validation["q2"], checked.validation.q2)
        self.assertEqual(
            self.model.evidence["one-standard-error"], checked.lines["one-standard-error"].suggested
        )
        with self.assertRaisesRegex(sc.InputError, "not validated: it was not asked for"):
            _ = sc.fit(self.lots).validation

    def test_new_samples_and_the_way_through_a_file(self):
        new = sc.example("new-lots")
        here = self.model.project(new)
        path = self.folder / "model.json"
        self.model.save(path)
        there = sc.load(path).project(new)
        pandas.testing.assert_frame_equal(here.scores, there.scores)
        pandas.testing.assert_frame_equal(here.distances, there.distances)
        self.assertEqual(list(here.belongs), list(~here.distances["joint_past"]))
        self.assertLess(here.belongs.sum(), len(here.belongs))
        self.assertTrue(all(one.holds for one in verified(path)))
        sc.load(path).save(self.folder / "again.json")
        self.assertEqual(sc.load(self.folder / "again.json").components, 3)

    def test_every_chart_is_drawn(self):
        for what in ("signals", "treated", "scores", "loadings", "distances", "run-order"):
            figure = self.model.figure(what)
            canvas = FigureCanvasAgg(figure)
            canvas.draw()
            shades = np.asarray(canvas.buffer_rgba())[:, :, :3]
            self.assertGreater((shades < 250).any(axis=2).mean(), 0.005, what)
        with self.assertRaisesRegex(sc.InputError, "no chart 'pie'"):
            self.model.figure("pie")
        with self.assertRaisesRegex(sc.InputError, "no column 'colour'"):
            self.model.figure(colour_by="colour")


class Files(InFolder):
    def write(self, name, text):
        path = self.folder / name
        path.write_text(text, encoding="utf-8")
        return path

    def test_data_of_files_and_frames(self):
        path = self.write("t.csv", "id,kind,1100,1102,1104\na,x,1,2,4\nb,y,2,1,5\nc,x,4,4,4\n")
        data = sc.read(path, classes=["kind"])
        self.assertEqual(
            (data.ids, list(data.axis), len(data)), (("a", "b", "c"), [1100.0, 1102.0, 1104.0], 3)
        )
        frame = data.frame()
        self.assertEqual(list(frame.columns), ["kind", "1100", "1102", "1104"])
        back = sc.from_frame(frame, classes=["kind"], quantity="wavelength", unit="nm")
        np.testing.assert_array_equal(back.values, data.values)
        self.assertEqual(back.table.axis.title, "wavelength / nm")
        mixed = sc.from_frame(pandas.DataFrame({"ash": [1.0, 2], "wax": [3.0, 4]}, index=["p", "q"]))
        self.assertFalse(mixed.table.axis.ordered)
        self.assertEqual(repr(mixed.set_aside(["p"], "wet")), "<Data data: 2 samples × 2 variables>")

    def test_what_cannot_be_done_is_a_sentence(self):
        for wrong, words in (
            (lambda: sc.read(self.folder / "none.csv"), "no file none.csv"),
            (lambda: sc.read(), "No file was named"),
            (lambda: sc.from_frame(pandas.DataFrame({"a": ["x"]})), "does not hold numbers"),
            (lambda: sc.from_frame(pandas.DataFrame({"a": [1.0]}), classes=["b"]), "no column 'b'"),
            (lambda: sc.example("bench").set_aside(["nobody"], "x"), "no sample nobody"),
            (lambda: sc.Recipe(treat=[{"method": "snw"}]), "snw"),
            (lambda: sc.Recipe(components=0), "components"),
            (lambda: sc.load(self.write("m.json", "{}")), "m.json"),
        ):
            with self.subTest(words), self.assertRaisesRegex(sc.InputError, words):
                wrong()

    def test_recipes_come_back(self):
        recipe = sc.Recipe(treat=[{"method": "savitzky-golay", "window": 21}], components=2)
        recipe.write(self.folder / "r.toml")
        self.assertEqual(sc.Recipe.read(self.folder / "r.toml"), recipe)
        self.assertEqual(sc.Recipe(**recipe.plain), recipe)
        self.assertEqual(eval(repr(recipe), {"Recipe": sc.Recipe}), recipe)
        self.assertEqual(len({recipe, sc.Recipe(**recipe.plain)}), 1)

    def test_the_examples_of_the_docs_run(self):
        code = "\n".join(re.findall(r"```python\n(.*?)```", DOCS.read_text(encoding="utf-8"), re.DOTALL))
        self.assertLess(code.index("savefig"), code.index("query"))
        done = subprocess.run(
            [sys.executable, "-c", code], cwd=self.folder, capture_output=True, text=True, env=os.environ
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("<Data intake-nir: 144 samples × 700 channels>", done.stdout)
        self.assertGreater((self.folder / "scores.png").stat().st_size, 10_000)

    def test_nothing_is_brought_in_before_it_is_asked_for(self):
        code = "import sys, scutcher; scutcher.__version__; print('numpy' in sys.modules, dir(scutcher))"
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=os.environ)
        self.assertTrue(done.stdout.startswith("False"), done.stdout + done.stderr)
        self.assertIn("'fit'", done.stdout)
        with self.assertRaises(AttributeError):
            _ = sc.pie


if __name__ == "__main__":
    unittest.main()
