"""Constant channels: treatments see them as measured, the model does not; left-out ones nobody sees."""

import unittest

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.constant_variables import constant_after, leave_out_dead
from scutcher.core.data.table import Table
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.study.evaluation.checks import validated
from scutcher.study.evaluation.evaluator import Evaluator

RNG = np.random.default_rng(8)
VALUES = 2.0 + RNG.normal(size=(24, 3)) @ RNG.normal(size=(3, 12)) + 0.1 * RNG.normal(size=(24, 12))
VALUES[:, 4] = 1.25
RECIPE = {
    "treat": [{"method": "snv"}],
    "scale": {"centre": "mean", "method": "none"},
    "model": {"components": 2},
}


def table(values=VALUES):
    places = 1100.0 + 2.0 * np.arange(values.shape[1])
    ids = tuple(f"s{row}" for row in range(len(values)))
    return Table(values, Axis(tuple(f"{x:g}" for x in places), places), ids)


def snv(values):
    return (values - values.mean(axis=1, keepdims=True)) / values.std(axis=1, ddof=1, keepdims=True)


class Constant(unittest.TestCase):
    def model(self, data):
        return Evaluator(keeps=False).evaluate(data, recipe_from_plain(RECIPE))

    def test_it_takes_part_in_the_treatment_and_not_in_the_model(self):
        found = self.model(table())
        np.testing.assert_allclose(found.treated.values, snv(VALUES))
        self.assertEqual(found.scaler.weight[4], 0.0)
        np.testing.assert_array_equal(found.scaler.constant, [4])
        np.testing.assert_array_equal(found.model.loadings[4], [0.0, 0.0])
        z = np.delete(snv(VALUES) - snv(VALUES).mean(axis=0), 4, axis=1)
        eigenvalues = np.linalg.svd(z, compute_uv=False) ** 2 / 23
        np.testing.assert_allclose(found.decomposition.eigenvalues[:2], eigenvalues[:2])
        self.assertAlmostEqual(found.decomposition.total_variance, eigenvalues.sum())

    def test_one_that_was_left_out_takes_part_in_nothing(self):
        found = self.model(leave_out_dead(table()))
        np.testing.assert_allclose(found.treated.values, snv(np.delete(VALUES, 4, axis=1)))

    def test_validation_leaves_it_out_as_well(self):
        press = validated(self.model(table())).validation.press
        self.assertTrue(np.isfinite(press[:3]).all())
        with_other = VALUES.copy()
        with_other[:, 4] = 9.0  # another constant changes what SNV makes, and is in no sum itself
        self.assertFalse(
            np.allclose(validated(self.model(table(with_other))).validation.press[:3], press[:3])
        )

    def test_which_channels_those_are_after_treatment(self):
        part = table()
        np.testing.assert_array_equal(constant_after(part, part.axis, ["snv"]), [4])
        cut = part.axis.take(np.arange(3, 9))
        np.testing.assert_array_equal(constant_after(part, cut, ["channels"]), [1])
        self.assertEqual(len(constant_after(part, cut, ["bin-equal"])), 0)


if __name__ == "__main__":
    unittest.main()
