"""Sums of shapes: the numbers of the definitions, brute force, and bands that hold."""

import unittest
from pathlib import Path

import numpy as np
from scipy.optimize import nnls

from scutcher.core.errors import ModelError
from scutcher.core.numeric.background import background
from scutcher.core.numeric.order_structure import order_structure
from scutcher.core.unmixing.shape_sums import shape_sums

FOLDER = Path(__file__).parent / "golden"
SERIES = np.loadtxt(FOLDER / "series.csv", delimiter=",", skiprows=1)
SMOOTHED = np.loadtxt(FOLDER / "series_smoothed.csv", delimiter=",")
SHAPES = np.loadtxt(FOLDER / "shapes.csv", delimiter=",")


def bands(p, *centres, width=0.09):
    u = np.linspace(0.0, 1.0, p)
    return np.array([np.exp(-(((u - centre) / width) ** 2)) for centre in centres])


class Golden(unittest.TestCase):
    def test_amounts(self):
        free = shape_sums(SERIES, SHAPES, "free").amounts
        np.testing.assert_allclose(free[0], (0.9880182004991097, 0.014997184026944065), atol=1e-9)
        np.testing.assert_allclose(free[29], (0.008676057322295034, 0.985254804027722), atol=1e-9)
        closed = shape_sums(SERIES, SHAPES, "sum-to-one").amounts
        np.testing.assert_allclose(closed[0], (0.9863521555362792, 0.013647844463720832), atol=1e-9)
        np.testing.assert_allclose(closed[29], (0.012029347023544659, 0.9879706529764554), atol=1e-9)

    def test_errors_under_white_and_under_smoothed_noise(self):
        found = shape_sums(SERIES, SHAPES, "free")
        self.assertEqual(found.noise.window, 0)
        np.testing.assert_allclose(found.errors[0], (0.004036922306772648, 0.0035792375507290625), rtol=1e-6)
        np.testing.assert_allclose(found.errors[29], (0.003770377235564506, 0.0033429119404418933), rtol=1e-6)
        smoothed = shape_sums(SMOOTHED, SHAPES, "free")
        self.assertEqual(smoothed.noise.window, 5)
        np.testing.assert_allclose(
            smoothed.errors[0], (0.007070909596924948, 0.006297033829587372), rtol=1e-6
        )

    def test_structure_along_an_order(self):
        z = SERIES - SERIES.mean(axis=0)
        u, _, v = np.linalg.svd(z, full_matrices=False)
        score, loading = order_structure(u[:, 0], True), order_structure(v[0], False)
        np.testing.assert_allclose(
            (score.products, score.expected, score.variance, score.z),
            (0.9360966137782417, -0.03333333333333333, 0.030038314176245213, 5.593435750893768),
        )
        self.assertAlmostEqual(loading.z, 8.889157536599706, places=9)
        self.assertIsNone(order_structure(np.ones(4), False))
        self.assertIsNone(order_structure(np.ones(9), True))

    def test_structure_of_chance(self):
        rng = np.random.default_rng(1)
        past = [order_structure(v - v.mean(), True).z > 1.645 for v in rng.normal(size=(4000, 30))]
        self.assertAlmostEqual(np.mean(past), 0.05, delta=0.012)


class Exact(unittest.TestCase):
    def test_not_negative_as_an_active_set_solver_finds_it(self):
        rng = np.random.default_rng(2)
        shapes = bands(60, 0.3, 0.4, 0.55, 0.7)
        amounts = np.maximum(rng.normal(0.3, 0.6, (40, 4)), 0.0)
        spectra = amounts @ shapes + 0.05 * rng.normal(size=(40, 60)) + 0.4
        found = shape_sums(spectra, shapes, "not-negative", degree=0)
        base = background(60, 0)
        rest = np.eye(60) - base @ base.T
        wanted = [nnls((shapes @ rest).T, rest @ row)[0] for row in spectra]
        np.testing.assert_allclose(found.amounts, wanted, atol=1e-9)
        self.assertTrue((found.amounts[found.at_bound] == 0.0).all())
        self.assertTrue(np.isfinite(found.bounds[found.at_bound]).all())

    def test_sum_to_one(self):
        rng = np.random.default_rng(3)
        shapes = bands(60, 0.3, 0.5, 0.7)
        found = shape_sums(rng.random((20, 3)) @ shapes, shapes, "sum-to-one", degree=-1)
        np.testing.assert_allclose(found.amounts.sum(axis=1), 1.0)
        self.assertTrue((found.amounts >= 0.0).all())

    def test_a_background_of_any_sign_is_taken_off(self):
        shapes = bands(80, 0.3, 0.6)
        amounts = np.random.default_rng(4).random((12, 2))
        slope = np.outer(np.linspace(-2, 2, 12), np.linspace(-1, 1, 80)) - 3.0
        found = shape_sums(amounts @ shapes + slope, shapes, "not-negative", degree=1)
        np.testing.assert_allclose(found.amounts, amounts, atol=1e-10)

    def test_what_cannot_be_told_apart(self):
        shapes = bands(50, 0.3, 0.6)
        for bad in (np.vstack([shapes, shapes.sum(axis=0)]), np.vstack([shapes, np.ones(50)])):
            with self.assertRaisesRegex(ModelError, "cannot be told apart"):
                shape_sums(np.ones((4, 50)), bad)
        with self.assertRaisesRegex(ModelError, "Give 1 to 10"):
            shape_sums(np.ones((4, 50)), np.ones((11, 50)))


class BandsThatHold(unittest.TestCase):
    def test_coverage_of_95_per_cent_bands(self):
        """White and smoothed noise: the plain formula covers half of smoothed data."""
        rng = np.random.default_rng(6)
        shapes = bands(200, 0.35, 0.5, 0.7)
        for smooth in (1, 9):
            inside = []
            for _ in range(12):
                amounts = 0.5 + rng.random((30, 3))
                noise = rng.normal(size=(30, 208))
                noise = np.apply_along_axis(np.convolve, 1, noise, np.ones(smooth) / smooth, "same")[:, :200]
                found = shape_sums(amounts @ shapes + 0.05 * noise, shapes, "free")
                inside.append(np.abs(found.amounts - amounts) <= 1.96 * found.errors)
            self.assertTrue(0.92 <= np.mean(inside) <= 0.97, (smooth, np.mean(inside)))

    def test_another_shape_is_asked_for_where_one_is_missing(self):
        rng = np.random.default_rng(7)
        t = np.linspace(0, 1, 60)
        shapes = bands(120, 0.3, 0.5, 0.75)
        amounts = np.column_stack([1 - t, t, 0.3 * t**3])
        spectra = amounts @ shapes + 0.01 * rng.normal(size=(60, 120))
        self.assertTrue(shape_sums(spectra, shapes[:2]).another_is_needed)
        self.assertFalse(shape_sums(spectra, shapes).another_is_needed)
        false = [
            shape_sums(amounts @ shapes + 0.01 * rng.normal(size=(60, 120)), shapes).another_is_needed
            for _ in range(60)
        ]
        self.assertLessEqual(sum(false), 4)


if __name__ == "__main__":
    unittest.main()
