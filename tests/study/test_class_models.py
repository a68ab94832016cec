"""One model per class: against models made by hand of each class alone; powers; new samples; refusals."""

import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from scipy import stats

from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import ModelError, TableError
from scutcher.core.groups.acceptance import Acceptance, discriminating_power, modelling_power
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings
from scutcher.core.validation.segments import make_segments
from scutcher.study.evaluation.class_models import FEWEST, class_models
from tests.cli.test_commands import call, rows_of
from tests.cli.test_groups import write_lots
from tests.core.validation.test_held_out_limits import table_of

RULES = Recipe(scale=ScaleSettings(centre="mean", method="none"), model=ModelSettings(components=2))


def drawn(n=90, p=12, seed=4):
    """Three classes, each in a plane of its own."""
    rng = np.random.default_rng(seed)
    codes = np.arange(n) % 3
    planes = rng.normal(size=(3, 2, p))
    scores = rng.normal(size=(n, 2)) * [2.0, 1.0]
    values = np.einsum("na,nap->np", scores, planes[codes]) + 0.2 * rng.normal(size=(n, p))
    names = tuple("abc"[code] for code in codes)
    return replace(table_of(values), classes=(ClassColumn("kind", names),)), codes


class Models(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.table, cls.codes = drawn()
        cls.found = class_models(cls.table, RULES)

    def distances_by_hand(self, training, new):
        """Joint distance and limit of new samples, from the held-out distances of the training samples."""
        held = []
        for rows in make_segments(training, RULES.validate).parts[0]:
            kept = np.delete(training.values, rows, axis=0)
            held.append(self.to_model(kept, training.values[rows]))
        h, q = np.concatenate(held, axis=1)
        nh, nq = 2 * h.mean() ** 2 / h.var(ddof=1), 2 * q.mean() ** 2 / q.var(ddof=1)
        limit = stats.chi2.ppf(0.95, nh + nq)
        far_h, far_q = self.to_model(training.values, new)
        return (nh * far_h / h.mean() + nq * far_q / q.mean()) / limit

    def to_model(self, training, new):
        n, mean = len(training), training.mean(axis=0)
        _, singular, right = np.linalg.svd(training - mean, full_matrices=False)
        scores = (new - mean) @ right[:2].T
        away = new - mean - scores @ right[:2]
        t2 = (scores**2 / (singular[:2] ** 2 / (n - 1))).sum(axis=1)
        return np.array([t2 / (n - 1) + 1 / n, (away**2).sum(axis=1)])

    def test_strangers_against_a_model_by_hand(self):
        for place in range(3):
            rows = np.flatnonzero(self.codes == place)
            others = np.flatnonzero(self.codes != place)
            wanted = self.distances_by_hand(self.table.take(rows), self.table.values[others])
            np.testing.assert_allclose(self.found.acceptance.ratios[others, place], wanted, rtol=1e-6)

    def test_own_samples_are_held_out(self):
        rows = np.flatnonzero(self.codes == 0)
        fitted = self.distances_by_hand(self.table.take(rows), self.table.values[rows])
        held = self.found.acceptance.ratios[rows, 0]
        self.assertGreater((held > fitted).mean(), 0.8)
        self.assertAlmostEqual(self.found.acceptance.table()[0, 0], (held <= 1).mean())

    def test_classes_in_planes_of_their_own_are_told_apart(self):
        shares = self.found.acceptance.table()
        self.assertGreater(np.diag(shares).min(), 0.85)
        self.assertLess((shares - np.diag(np.diag(shares))).max(), 0.15)

    def test_powers_by_hand(self):
        one, two, power = self.found.powers(0, 1)
        a, b = (self.table.values[self.codes == code] for code in (0, 1))

        def left(training, new):
            mean = training.mean(axis=0)
            right = np.linalg.svd(training - mean, full_matrices=False)[2][:2]
            return (new - mean) - (new - mean) @ right.T @ right

        z = a - a.mean(axis=0)
        np.testing.assert_allclose(one, 1 - np.sqrt((left(a, a) ** 2).mean(0) / (z**2).mean(0)), rtol=1e-7)
        own = (left(a, a) ** 2).mean(axis=0) + (left(b, b) ** 2).mean(axis=0)
        other = (left(a, b) ** 2).mean(axis=0) + (left(b, a) ** 2).mean(axis=0)
        np.testing.assert_allclose(power, np.sqrt(other / own), rtol=1e-7)
        self.assertTrue((two > 0).any())

    def test_each_class_has_its_own_number(self):
        found = class_models(self.table, Recipe(scale=ScaleSettings(centre="mean", method="none")))
        self.assertEqual([model.k for model in found.models], [2, 2, 2])
        for model in found.models:
            self.assertEqual(model.saved.basis, "held-out")

    def test_a_class_with_too_few_says_how_many_it_needs(self):
        names = tuple(
            "d" if row in (0, 3, 6) else name for row, name in enumerate(self.table.classes[0].values)
        )
        found = class_models(replace(self.table, classes=(ClassColumn("kind", names),)), RULES)
        self.assertEqual(set(found.names), {"a", "b", "c"})
        self.assertEqual(found.too_few, {"d": f"d has 3 samples; a model takes at least {FEWEST}"})
        self.assertEqual(found.acceptance.codes[0], -1)
        self.assertTrue(np.isfinite(found.acceptance.ratios[0]).all())
        few = self.table.take(np.arange(9))
        with self.assertRaisesRegex(ModelError, "a has 3 samples"):
            class_models(few, RULES)
        with self.assertRaises(TableError):
            class_models(replace(self.table, classes=()), RULES)

    def test_a_sample_with_gaps_is_left_out_and_said(self):
        values = self.table.values.copy()
        values[4, 3] = np.nan
        found = class_models(replace(self.table, values=values), RULES)
        self.assertEqual(list(found.left_out), [4])


class Figures(unittest.TestCase):
    def test_verdicts(self):
        ratios = np.array([[0.5, 2], [0.5, 0.9], [3, 2], [2, 0.5], [np.nan, np.nan]])
        found = Acceptance(ratios, np.array([0, 0, 1, 0, 1]))
        self.assertEqual(found.verdicts(), (2, 1, 1, 1))
        np.testing.assert_array_equal(found.nearest, [0, 0, 1, 1, -1])
        counts, sizes = found.numbers()
        np.testing.assert_array_equal(counts, [[2, 2], [0, 0]])
        np.testing.assert_array_equal(sizes, [3, 1])

    def test_powers_of_what_is_clear(self):
        z = np.random.default_rng(0).normal(size=(50, 3))
        np.testing.assert_allclose(modelling_power(z * [0.0, 1.0, 0.5], z), [1.0, 0.0, 0.5])
        self.assertTrue(np.isnan(modelling_power(z * 0, z * 0)).all())
        np.testing.assert_allclose(discriminating_power(z, z, z, z), 1.0)
        np.testing.assert_allclose(discriminating_power(z, z, 3 * z, 3 * z), 3.0)


class Commands(unittest.TestCase):
    def test_fit_and_apply(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            write_lots(folder / "wood.csv", n=72)
            common = ("--class", "wood", "--replicate", "lot")
            code, said, err = call(
                "fit", "--kind", "class-models", folder / "wood.csv", *common, "--out", folder
            )
            self.assertEqual((code, err), (0, ""))
            names = {Path(line).name for line in said.split()}
            tables = {f"{name}.csv" for name in ("assignments", "acceptance", "powers")}
            self.assertEqual(names, tables | {"model.json", "summary.json"})
            fitted = rows_of(folder / "assignments.csv")
            self.assertEqual(list(fitted[0])[:4], ["sample", "class", "belongs_to", "nearest"])
            summary = json.loads((folder / "summary.json").read_text())
            self.assertEqual(summary["classes"], ["ash", "birch", "cedar"])
            code, _, err = call(
                "apply", folder / "model.json", folder / "wood.csv", *common, "--out", folder / "new"
            )
            self.assertEqual((code, err), (0, ""))
            applied = rows_of(folder / "new" / "assignments.csv")
            self.assertEqual(list(applied[0])[:3], ["sample", "belongs_to", "nearest"])
            for one, two in zip(fitted, applied, strict=True):
                for wood in ("ash", "birch", "cedar"):
                    if one["class"] != wood:  # own samples were held out in the fit
                        key = f"distance {wood}"
                        self.assertAlmostEqual(float(one[key]), float(two[key]), places=9)
            (folder / "model.json").write_text(
                '{"format": "scutcher class models", "version": 1, "models": [{}]}'
            )
            code, _, err = call("apply", folder / "model.json", folder / "wood.csv", "--out", folder / "new")
            self.assertEqual(code, 1)
            self.assertIn("damaged", err)


if __name__ == "__main__":
    unittest.main()
