"""Centring and scaling against plain loops over the variables."""

import statistics
import unittest

import numpy as np

from scutcher.core.errors import TableError
from scutcher.core.recipes.recipe import ScaleSettings
from scutcher.core.scaling.scaler import fit_scaler
from tests.core.making import mixed_table, random_spectra


def divisor(column, method):
    """One variable, the slow way."""
    values = [float(value) for value in column]
    mean = statistics.fmean(values)
    if method == "sd":
        return statistics.stdev(values)
    if method == "pareto":
        return statistics.stdev(values) ** 0.5
    if method == "range":
        return max(values) - min(values)
    if method == "level":
        return mean
    if method == "sqrt-mean":
        return mean**0.5
    if method == "mad":
        middle = statistics.median(values)
        return 1.4826 * statistics.median([abs(value - middle) for value in values])
    return 1.0


class Scaling(unittest.TestCase):
    def setUp(self):
        self.x = random_spectra(12, 6)
        self.axis = mixed_table(self.x).axis

    def test_every_method_and_centre(self):
        centres = {"mean": statistics.fmean, "median": statistics.median, "none": lambda values: 0.0}
        for method in ("none", "sd", "pareto", "range", "level", "mad", "sqrt-mean"):
            for centre, middle in centres.items():
                with self.subTest(method=method, centre=centre):
                    scaler = fit_scaler(self.x, ScaleSettings(centre=centre, method=method), self.axis)
                    expected = np.column_stack(
                        [(column - middle(column.tolist())) / divisor(column, method) for column in self.x.T]
                    )
                    np.testing.assert_allclose(scaler.apply(self.x), expected, rtol=1e-10, atol=1e-12)
                    self.assertEqual(scaler.centred, centre != "none")

    def test_constant_variable_gets_no_weight_and_is_listed(self):
        self.x[:, 2] = 0.1 + 1e-17
        for method in ("none", "sd", "mad"):
            with self.subTest(method):
                scaler = fit_scaler(self.x, ScaleSettings(method=method), self.axis)
                np.testing.assert_array_equal(scaler.constant, [2])
                self.assertTrue(np.isfinite(scaler.apply(self.x)).all())
                np.testing.assert_array_equal(scaler.apply(self.x)[:, 2], 0.0)

    def test_divisor_that_is_not_positive_names_the_variable(self):
        self.x[:, 3] -= 10.0
        for method in ("level", "sqrt-mean"):
            with self.subTest(method), self.assertRaises(TableError) as caught:
                fit_scaler(self.x, ScaleSettings(method=method), self.axis)
            self.assertIn("the divisor of d is −".replace("−", "-"), str(caught.exception))

    def test_divisor_that_cannot_be_squared_names_the_variable(self):
        for size in (1e-200, 1e155):
            self.x[:, 2] = size * np.arange(12)
            with self.subTest(size), np.errstate(over="ignore"), self.assertRaises(TableError) as caught:
                fit_scaler(self.x, ScaleSettings(method="sd"), self.axis)
            self.assertIn("The values of c are too far from 1 to be scaled by sd.", caught.exception.problem)

    def test_stored_values_scale_new_rows(self):
        scaler = fit_scaler(self.x, ScaleSettings(method="sd"), self.axis)
        new = self.x[:2] + 1.0
        expected = (new - self.x.mean(axis=0)) / self.x.std(axis=0, ddof=1)
        np.testing.assert_allclose(scaler.apply(new), expected)
