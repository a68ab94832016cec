"""Held-out distances against a slow version by hand, and limits that hold for samples nobody has seen."""

import unittest

import numpy as np
from scipy import stats

from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.distances.held_out_limits import FEW, held_out_limits
from scutcher.core.distances.long_tails import tail_ratio
from scutcher.core.recipes.recipe import (
    ModelSettings,
    Recipe,
    ScaleSettings,
    ValidateSettings,
    recipe_from_plain,
)
from scutcher.core.validation.cross_validation import validate
from scutcher.core.validation.limit_coverage import Simulated, coverage
from scutcher.core.validation.segments import make_segments


def table_of(values, replicates=None):
    p = values.shape[1]
    return Table(
        values=values,
        axis=Axis(tuple(map(str, range(1, p + 1))), np.arange(1.0, p + 1)),
        ids=tuple(f"s{row}" for row in range(len(values))),
        replicates=replicates,
    )


def by_hand(table, recipe, k):
    """T², h and Q of every left-out sample with k components, by a plain decomposition of each segment."""
    found = []
    for repeat in make_segments(table, recipe.validate).parts:
        for rows in repeat:
            kept = np.setdiff1d(np.arange(len(table.ids)), rows)
            values = table.values
            if any(step.method == "snv" for step in recipe.treat):
                values = (values - values.mean(axis=1, keepdims=True)) / values.std(
                    axis=1, ddof=1, keepdims=True
                )
            mean = values[kept].mean(axis=0)
            spread = values[kept].std(axis=0, ddof=1) if recipe.scale.method == "sd" else 1.0
            z = (values[kept] - mean) / spread
            _, singular, right = np.linalg.svd(z, full_matrices=False)
            for row in rows:
                new = (values[row] - mean) / spread
                scores = right[:k] @ new
                t2 = float((scores**2 / (singular[:k] ** 2 / (len(kept) - 1))).sum())
                away = new - scores @ right[:k]
                found.append((int(row), t2, t2 / (len(kept) - 1) + 1 / len(kept), float(away @ away)))
    return sorted(found)


class Distances(unittest.TestCase):
    def check(self, table, recipe, k):
        found = validate(table, recipe, k).distances
        order = np.lexsort((found.t2[:, k - 1], found.rows))
        wanted = by_hand(table, recipe, k)
        np.testing.assert_array_equal(found.rows[order], [row for row, *_ in wanted])
        for values, place in ((found.t2, 1), (found.h, 2), (found.q, 3)):
            np.testing.assert_allclose(values[order, k - 1], [line[place] for line in wanted], rtol=1e-7)
        return found

    def test_against_a_plain_decomposition_of_each_segment(self):
        values, groups = Simulated(40, replicates=2).draw(36, np.random.default_rng(3))
        names = tuple(f"g{g}" for g in groups)
        for method, treat in (("none", ()), ("sd", ()), ("none", ({"method": "snv"},))):
            for scheme in ("random", "blinds", "one-out"):
                with self.subTest(method, treat=treat, scheme=scheme):
                    plain = {"treat": list(treat), "validate": {"scheme": scheme, "repeats": 2}}
                    recipe = recipe_from_plain(plain)
                    recipe = Recipe(
                        treat=recipe.treat,
                        scale=ScaleSettings(centre="mean", method=method),
                        model=ModelSettings(components=3),
                        validate=recipe.validate,
                    )
                    found = self.check(table_of(values, names), recipe, 3)
                    self.assertEqual(found.groups, 18)

    def test_more_samples_than_channels(self):
        values, _ = Simulated(8).draw(90, np.random.default_rng(5))
        recipe = Recipe(scale=ScaleSettings(centre="mean", method="none"), model=ModelSettings(components=2))
        self.check(table_of(values), recipe, 2)

    def test_of_samples_is_the_mean_over_repeats(self):
        values, _ = Simulated(10).draw(30, np.random.default_rng(6))
        recipe = Recipe(
            scale=ScaleSettings(centre="mean", method="none"), validate=ValidateSettings(repeats=3)
        )
        found = validate(table_of(values), recipe, 2).distances
        _, _, q = found.of_samples(2, 30)
        for row in (0, 17, 29):
            self.assertAlmostEqual(q[row], found.q[found.rows == row, 1].mean())


class Limits(unittest.TestCase):
    def limits(self, n=40, p=30, k=3, level=0.95, method="moments", **kind):
        values, groups = Simulated(p, **kind).draw(n, np.random.default_rng(8))
        recipe = Recipe(scale=ScaleSettings(centre="mean", method="none"), model=ModelSettings(components=k))
        found = validate(table_of(values, tuple(f"g{g}" for g in groups)), recipe, k).distances
        return found, held_out_limits(found, k, level, method)

    def test_the_definition(self):
        found, limits = self.limits()
        h, q = found.h[:, 2], found.q[:, 2]
        nh, nq = 2 * h.mean() ** 2 / h.var(ddof=1), 2 * q.mean() ** 2 / q.var(ddof=1)
        scale = limits.scale
        np.testing.assert_allclose([scale.h0, scale.q0, scale.nh, scale.nq], [h.mean(), q.mean(), nh, nq])
        spread = q.var(ddof=1) / (2 * q.mean())
        self.assertAlmostEqual(limits.q_limit.value, spread * stats.chi2.ppf(0.95, nq), places=10)
        self.assertAlmostEqual(limits.joint_limit.value, stats.chi2.ppf(0.95, nh + nq), places=8)

    def test_beyond_95_per_cent_the_tail_is_longer_with_few_samples_and_skew(self):
        for freedom in (0.7, 4.0, 60.0, 1e6):
            chi2 = stats.chi2.ppf(0.99, freedom) / stats.chi2.ppf(0.95, freedom)
            self.assertAlmostEqual(tail_ratio(0.95, 20, freedom), 1.0)
            self.assertAlmostEqual(tail_ratio(0.99, 10**8, freedom) / chi2, 1.0, places=5)
            self.assertGreater(tail_ratio(0.99, 40, freedom), tail_ratio(0.99, 100, freedom))
        skewed = stats.pearson3(1.4, loc=10, scale=np.sqrt(20))
        found = tail_ratio(0.99, 10**8, 10.0, 1.4)
        self.assertAlmostEqual(found, skewed.ppf(0.99) / skewed.ppf(0.95), places=5)

    def test_limits_rise_with_the_level(self):
        every = [self.limits(level=level)[1] for level in (0.9, 0.95, 0.951, 0.99, 0.999)]
        for values in ([x.q_limit.value for x in every], [x.joint_limit.value for x in every],
                       [x.t2_limit.value for x in every]):  # fmt: skip
            self.assertEqual(values, sorted(values))

    def test_the_robust_form_does_not_follow_a_few_strangers(self):
        values, _ = Simulated(30).draw(60, np.random.default_rng(9))
        wild = values.copy()
        wild[:6] += 0.2 * np.random.default_rng(1).normal(size=(6, 30))
        recipe = Recipe(scale=ScaleSettings(centre="mean", method="none"), model=ModelSettings(components=3))
        found = {}
        for name, data in (("clean", values), ("wild", wild)):
            distances = validate(table_of(data), recipe, 3).distances
            for method in ("moments", "robust"):
                found[name, method] = held_out_limits(distances, 3, 0.95, method).q_limit.value
        self.assertGreater(found["wild", "moments"], 4 * found["clean", "moments"])
        self.assertLess(found["wild", "robust"], 1.5 * found["clean", "robust"])

    def test_few_groups_are_said(self):
        self.assertEqual(self.limits(n=60)[1].caution, "")
        self.assertIn("15 groups only", self.limits(n=45, replicates=3)[1].caution)
        self.assertEqual(FEW, 20)

    def test_nothing_left_over_has_no_limit(self):
        rng = np.random.default_rng(2)
        exact = rng.normal(size=(30, 2)) @ rng.normal(size=(2, 12))
        recipe = Recipe(scale=ScaleSettings(centre="mean", method="none"), model=ModelSettings(components=2))
        limits = held_out_limits(validate(table_of(exact), recipe, 2).distances, 2, 0.95, "moments")
        self.assertIsNone(limits.q_limit.value)
        self.assertIn("nothing is left over", limits.q_limit.reason)
        self.assertIsNone(limits.joint_limit)


class Coverage(unittest.TestCase):
    """The sentence "95 %" is true: few sets here, `./run bench coverage` has the whole table."""

    def test_95_per_cent_is_95_per_cent(self):
        for samples, channels, kind in (
            (30, 10, {}),
            (30, 200, {}),
            (60, 200, {"heavy": True}),
            (60, 10, {"replicates": 3}),
            (100, 200, {"classes": 3}),
            (60, 1000, {}),
        ):
            with self.subTest(samples=samples, channels=channels, **kind):
                draw = Simulated(channels, **kind).draw
                found = coverage(draw, 3, samples, 40, seed=11)
                for name in ("t2 held-out", "q held-out", "joint held-out"):
                    self.assertGreaterEqual(found[name], 0.93, name)
                    self.assertLessEqual(found[name], 0.97, name)

    def test_99_per_cent(self):
        for samples, channels, kind in (
            (100, 10, {}),
            (30, 10, {"heavy": True}),
            (30, 200, {"replicates": 3}),
            (60, 200, {"classes": 3}),
        ):
            with self.subTest(samples=samples, channels=channels, **kind):
                found = coverage(Simulated(channels, **kind).draw, 3, samples, 40, seed=12, level=0.99)
                for name in ("t2 held-out", "q held-out", "joint held-out"):
                    self.assertTrue(0.975 <= found[name] <= 0.997, (name, found[name]))

    def test_the_limits_of_the_fit_do_not_hold_with_many_channels(self):
        found = coverage(Simulated(200).draw, 3, 30, 20, seed=13)
        self.assertLess(found["joint"], 0.6)


if __name__ == "__main__":
    unittest.main()
