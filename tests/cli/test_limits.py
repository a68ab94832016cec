"""Limits for new samples on the command line: written by fit, used by apply, and true."""

import csv
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from scipy import stats

from scutcher.core.validation.limit_coverage import Simulated
from tests.cli.test_commands import call


def write(path, values, first=0, groups=None):
    with path.open("w") as stream:
        out = csv.writer(stream)
        out.writerow(
            ["id", *(["lot"] if groups is not None else []), *(f"{1100 + c}" for c in range(values.shape[1]))]
        )
        for row, cells in enumerate(values.tolist()):
            lot = [f"g{groups[row]}"] if groups is not None else []
            out.writerow([f"s{first + row}", *lot, *map(repr, cells)])


def column(path, name):
    with path.open() as stream:
        return np.array([float(row[name]) if row[name] else np.nan for row in csv.DictReader(stream)])


class Limits(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        rng = np.random.default_rng(21)
        draw = Simulated(200).draw
        write(self.folder / "train.csv", draw(60, rng)[0])
        write(self.folder / "new.csv", draw(1500, rng)[0], 1000)

    def fit(self, *options):
        out = self.folder / "out"
        code, _, said = call("fit", self.folder / "train.csv", "--components", 3, "--out", out, *options)
        self.assertEqual(code, 0, said)
        return json.loads((out / "summary.json").read_text())

    def apply(self, *options):
        out = self.folder / "applied"
        code, _, said = call(
            "apply", self.folder / "out/model.json", self.folder / "new.csv", "--out", out, *options
        )
        self.assertEqual(code, 0, said)
        with (out / "distances.csv").open() as stream:
            rows = list(csv.DictReader(stream))
        shares = {
            name: np.mean([row[f"{name}_past"] == "no" for row in rows]) for name in ("t2", "q", "joint")
        }
        return json.loads((out / "summary.json").read_text()), shares

    def test_fit_writes_them_and_they_follow_from_the_columns(self):
        summary = self.fit()
        held = summary["held_out"]
        self.assertEqual((held["level"], held["groups"], held["method"]), (0.95, 60, "moments"))
        q = column(self.folder / "out/distances.csv", "q_held_out")
        t2 = column(self.folder / "out/distances.csv", "t2_held_out")
        joint = column(self.folder / "out/distances.csv", "joint_held_out")
        self.assertAlmostEqual(held["q0"], q.mean())
        freedom = 2 * q.mean() ** 2 / q.var(ddof=1)
        self.assertAlmostEqual(held["nq"], freedom, places=8)
        self.assertAlmostEqual(held["q_limit"], q.mean() / freedom * stats.chi2.ppf(0.95, freedom), places=8)
        self.assertAlmostEqual(held["joint_limit"], stats.chi2.ppf(0.95, held["nh"] + held["nq"]), places=6)
        self.assertTrue((t2 > column(self.folder / "out/distances.csv", "t2")).mean() > 0.7)
        self.assertAlmostEqual(joint.mean(), held["nh"] + held["nq"], places=6)
        model = json.loads((self.folder / "out/model.json").read_text())
        self.assertEqual(model["held_out"], held)

    def test_apply_uses_them_and_95_per_cent_is_95_per_cent(self):
        self.fit()
        summary, shares = self.apply()
        self.assertEqual(summary["limits"]["basis"], "held-out")
        for name, share in shares.items():
            self.assertTrue(0.92 <= share <= 0.98, (name, share))
        summary, shares = self.apply("--limits", "fitted")
        self.assertEqual(summary["limits"]["basis"], "fitted")
        self.assertLess(shares["joint"], 0.8)

    def test_without_validation_there_are_none(self):
        recipe = self.folder / "r.toml"
        recipe.write_text('[validate]\nscheme = "none"\n')
        summary = self.fit("--recipe", recipe)
        self.assertIsNone(summary["held_out"])
        self.assertTrue(np.isnan(column(self.folder / "out/distances.csv", "q_held_out")).all())
        self.assertEqual(self.apply()[0]["limits"]["basis"], "fitted")

    def test_a_study_as_the_model(self):
        self.fit("--study", self.folder / "s.scutch")
        first, _ = self.apply()
        out = self.folder / "by-study"
        code, _, said = call("apply", self.folder / "s.scutch", self.folder / "new.csv", "--out", out)
        self.assertEqual(code, 0, said)
        second = json.loads((out / "summary.json").read_text())
        self.assertEqual(second["q_limit"], first["q_limit"])
        self.assertEqual(second["limits"]["basis"], "held-out")

    def test_models_of_before_still_work(self):
        self.fit()
        path = self.folder / "out/model.json"
        plain = json.loads(path.read_text())
        del plain["held_out"], plain["sha256"]
        path.write_text(json.dumps(plain))
        self.assertEqual(self.apply()[0]["limits"]["basis"], "fitted")


if __name__ == "__main__":
    unittest.main()
