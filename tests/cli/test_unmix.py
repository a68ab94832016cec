"""`unmix` on the command line: amounts with bands, shapes found, what is refused."""

import csv
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from tests.cli.test_commands import call
from tests.core.unmixing.test_shape_sums import bands


class Unmix(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.axis = np.linspace(1000.0, 1790.0, 80)
        self.shapes = bands(80, 0.35, 0.6)
        t = np.linspace(0.0, 1.0, 30)
        self.amounts = np.column_stack([1 - t, t])
        noise = 0.005 * np.random.default_rng(1).normal(size=(30, 80))
        self.write("series.csv", [f"s{k}" for k in range(30)], self.amounts @ self.shapes + 0.2 + noise)
        self.write("shapes.csv", ["green", "dry"], self.shapes)

    def write(self, name, ids, values):
        with (self.folder / name).open("w", newline="") as stream:
            out = csv.writer(stream)
            out.writerow(["sample", *(f"{place:g}" for place in self.axis)])
            for sample, row in zip(ids, values, strict=True):
                out.writerow([sample, *(f"{value:.10g}" for value in row)])

    def run_it(self, *more):
        out = self.folder / "out"
        code, _, error = call("unmix", self.folder / "series.csv", *more, "--out", out)
        self.assertEqual((code, error), (0, ""))
        with (out / "amounts.csv").open() as stream:
            header, *rows = list(csv.reader(stream))
        return (
            header,
            np.array([[float(c) for c in row[1:]] for row in rows]),
            json.loads((out / "summary.json").read_text()),
        )

    def test_amounts_of_given_shapes(self):
        header, found, summary = self.run_it("--shapes", self.folder / "shapes.csv")
        self.assertEqual(header[:4], ["sample", "green", "green low", "green high"])
        np.testing.assert_allclose(found[:, [0, 3]], self.amounts, atol=0.02)
        inside = (found[:, [1, 4]] <= self.amounts + 1e-12) & (self.amounts <= found[:, [2, 5]] + 1e-12)
        self.assertGreater(inside.mean(), 0.85)
        self.assertFalse(summary["another_shape"]["needed"])
        self.write("one.csv", ["green"], self.shapes[:1])
        _, _, short = self.run_it("--shapes", self.folder / "one.csv")
        self.assertTrue(short["another_shape"]["needed"])

    def test_shapes_that_are_found(self):
        values = self.amounts @ self.shapes
        self.write("series.csv", [f"s{k}" for k in range(30)], values)
        _, found, summary = self.run_it("--number", "2")
        self.assertEqual((summary["state"], summary["range"]), ("converged", "exact"))
        self.assertTrue(
            (found[:, 1] <= found[:, 0] + 1e-12).all() and (found[:, 0] <= found[:, 2] + 1e-12).all()
        )
        correlation = np.corrcoef(found[:, [0, 3]].T, self.amounts.T)[:2, 2:]
        self.assertGreater(np.abs(correlation).max(axis=1).min(), 0.99)
        shapes = np.genfromtxt(self.folder / "out" / "shapes.csv", delimiter=",", skip_header=1)[:, 1:]
        np.testing.assert_allclose(shapes.max(axis=0), 1.0)
        rest = np.genfromtxt(self.folder / "out" / "residuals.csv", delimiter=",", skip_header=1)[:, 1:]
        np.testing.assert_allclose(rest, values - found[:, [0, 3]] @ shapes.T, atol=1e-9)

    def test_the_recipe_alone_says_it_and_fit_does_the_same(self):
        recipe = self.folder / "unmix.toml"
        recipe.write_text(
            '[unmix]\nrule = "free"\nbackground = 0\n[[unmix.shapes]]\nname = "early"\n'
            'samples = ["s0", "s1", "s2"]\n[[unmix.shapes]]\nname = "late"\nsamples = ["s28", "s29"]\n'
        )
        header, _, summary = self.run_it("--recipe", recipe)
        self.assertEqual(summary["shapes"], ["early", "late"])
        self.assertEqual(header[1], "early")
        code, _, error = call(
            "fit", self.folder / "series.csv", "--kind", "unmix", "--recipe", recipe,
            "--out", self.folder / "fitted",
        )  # fmt: skip
        self.assertEqual((code, error), (0, ""))
        same = (self.folder / "fitted" / "amounts.csv").read_text()
        self.assertEqual(same, (self.folder / "out" / "amounts.csv").read_text())

    def test_new_spectra_on_the_model(self):
        self.run_it("--shapes", self.folder / "shapes.csv")
        model, new = self.folder / "out" / "model.json", self.folder / "new.csv"
        strange = self.amounts[:3] @ self.shapes + 0.2 + bands(80, 0.8)[0] * np.array([[0], [0], [0.5]])
        self.write("new.csv", ["n1", "n2", "n3"], strange)
        code, _, error = call("apply", model, new, "--out", self.folder / "applied")
        self.assertEqual((code, error), (0, ""))
        rows = np.genfromtxt(self.folder / "applied" / "amounts.csv", delimiter=",", skip_header=1)
        np.testing.assert_allclose(rows[:2, [1, 4]], self.amounts[:2], atol=1e-6)
        summary = json.loads((self.folder / "applied" / "summary.json").read_text())
        self.assertEqual(summary["past_limit"], ["n3"])
        plain = json.loads(model.read_text())
        for key, value in (("shapes", [[1.0]]), ("names", ["one"]), ("rule", "any"), ("version", 9)):
            model.write_text(json.dumps({**plain, key: value}))
            code, _, error = call("apply", model, new, "--out", self.folder / "no")
            self.assertEqual((code, len(error.strip().splitlines())), (1, 1), error)

    def test_known_and_found_shapes(self):
        self.write("one.csv", ["green"], self.shapes[:1])
        values = self.amounts @ self.shapes
        self.write("series.csv", [f"s{k}" for k in range(30)], values)
        _, found, summary = self.run_it("--shapes", self.folder / "one.csv", "--number", "2")
        self.assertEqual(summary["shapes"], ["green", "shape 2"])
        self.assertGreater(np.corrcoef(found[:, 0], self.amounts[:, 0])[0, 1], 0.999)
        self.assertTrue((self.folder / "out" / "shape-ranges.csv").exists())
        self.run_it("--number", "2", "--start", "purest", "--humps")

    def test_refused_in_one_line(self):
        self.write("same.csv", ["a", "b"], np.vstack([self.shapes[0], 2 * self.shapes[0]]))
        (self.folder / "r.toml").write_text('[[treat]]\nmethod = "snv"\n')
        for given, said in (
            (["--shapes", self.folder / "same.csv"], "cannot be told apart"),
            (["--shapes", self.folder / "none.csv"], "none.csv"),
            (["--number", "9"], "Ask for 2 to 8"),
            (["--number", "2", "--rule", "free"], "free amounts"),
            (["--number", "2", "--recipe", self.folder / "r.toml"], "is negative"),
            (["--shapes", self.folder / "shapes.csv", "--background", "7"], "Choose -1 to 4"),
            ([], "Name --shapes FILE or --number K"),
            (["--number", "2", "--order", "when"], "no property 'when'"),
        ):
            with self.subTest(said):
                code, _, error = call(
                    "unmix", self.folder / "series.csv", *given, "--out", self.folder / "no"
                )
                self.assertEqual(code, 1)
                self.assertIn(said, error)
                self.assertEqual(len(error.strip().splitlines()), 1, error)


if __name__ == "__main__":
    unittest.main()
