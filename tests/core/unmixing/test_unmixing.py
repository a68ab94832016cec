"""Unmixing without references: starts, one hump, what is found again, what stays open."""

import unittest
from pathlib import Path

import numpy as np

from scutcher.core.errors import ModelError
from scutcher.core.unmixing.alternating import leading_scores, projected_start, unmix
from scutcher.core.unmixing.one_hump import one_hump
from scutcher.core.unmixing.turning import at_largest_one, turned
from scutcher.core.unmixing.two_shapes import two_range
from tests.core.unmixing.test_shape_sums import bands

SERIES = np.loadtxt(Path(__file__).parent / "golden" / "series.csv", delimiter=",", skiprows=1)


def kinetics(q=3, n=50, p=90, noise=0.0, seed=1):
    """Shapes that come and go, well apart, with selective channels and samples."""
    t = np.linspace(0, 1, n)
    amounts = np.array([np.exp(-(((t - c) / 0.22) ** 2)) for c in np.linspace(0, 1, q)]).T
    shapes = bands(p, *np.linspace(0.2, 0.8, q), width=0.1)
    return amounts @ shapes + noise * np.random.default_rng(seed).normal(size=(n, p)), amounts, shapes


class Starts(unittest.TestCase):
    def test_golden(self):
        scores, _ = leading_scores(SERIES, 2)
        self.assertEqual(projected_start(scores).tolist(), [0, 29])
        found = unmix(SERIES, 2)
        self.assertEqual(found.state, "converged")
        self.assertLess(found.misfit, 1e-14)
        self.assertAlmostEqual(found.amounts[0, 0] / 3.2632263613677988, 1.0, places=6)

    def test_the_nearest_with_one_hump(self):
        values = np.array([1.0, 3, 2, 5, 4, 4.5, 1, 2, -1])
        np.testing.assert_allclose(one_hump(values), [1, 2.5, 2.5, 5, 4.25, 4.25, 1.5, 1.5, 0])
        rng = np.random.default_rng(2)
        for _ in range(20):
            values = rng.normal(size=7)
            fit = one_hump(values)
            at = int(fit.argmax())
            self.assertTrue((np.diff(fit[: at + 1]) >= 0).all() and (np.diff(fit[at:]) <= 0).all())
            cost = ((fit - values) ** 2).sum()
            for _ in range(200):  # nothing that rises, falls and is not negative is nearer
                k = rng.integers(8)
                other = np.concatenate([np.sort(rng.random(k) * 3), -np.sort(-rng.random(7 - k) * 3)])
                self.assertGreaterEqual(((other - values) ** 2).sum(), cost - 1e-12)


class Found(unittest.TestCase):
    def test_shapes_that_stand_apart_are_found(self):
        spectra, _, shapes = kinetics(noise=0.002)
        for rule, humps in (("not-negative", False), ("not-negative", True)):
            found = unmix(spectra, 3, rule, humps)
            alike = found.shapes @ (shapes / np.linalg.norm(shapes, axis=1, keepdims=True)).T
            self.assertTrue((alike.max(axis=0) > 0.97).all(), (humps, alike))
            if humps:
                for column in found.amounts.T:
                    at = int(column.argmax())
                    self.assertTrue((np.diff(column[: at + 1]) >= -1e-12).all())
        self.assertLess(unmix(spectra, 3).leftover, 1e-3)

    def test_closure(self):
        t = np.linspace(0.02, 0.98, 40)
        shapes = bands(80, 0.3, 0.7)
        found = unmix(np.column_stack([1 - t, t]) @ shapes, 2, "sum-to-one")
        np.testing.assert_allclose(found.amounts.sum(axis=1), 1.0)

    def test_the_error_never_rises_with_more_rounds(self):
        spectra, *_ = kinetics(noise=0.01)
        self.assertIn(unmix(spectra, 3).state, ("converged", "limit"))

    def test_what_is_refused(self):
        spectra, *_ = kinetics()
        with self.assertRaisesRegex(ModelError, "negative"):
            unmix(spectra - spectra.mean(axis=0), 2)
        for q in (1, 9):
            with self.assertRaisesRegex(ModelError, "Ask for 2 to 8"):
                unmix(spectra, q)

    def test_collapsed_is_said(self):
        spectra = np.outer(np.linspace(1, 2, 20), bands(50, 0.4)[0])
        found = unmix(spectra + 1e-12 * np.random.default_rng(1).random((20, 50)), 2)
        self.assertTrue(found.state == "collapsed" or found.leftover < 1e-8)


class Open(unittest.TestCase):
    def test_two_shapes_exactly_against_a_raster(self):
        t = np.linspace(0.15, 0.85, 25)
        spectra = np.column_stack([1 - t, t]) @ (bands(60, 0.35, 0.6, width=0.2) + 0.1)
        found = two_range(spectra)
        scores, (one, two) = leading_scores(spectra, 2)
        raster = np.linspace(-3, 3, 6001)
        fine = [b for b in raster if (one + b * two).min() >= 0.0]
        self.assertAlmostEqual(found.outer[0], min(fine), delta=2e-3)
        self.assertAlmostEqual(found.outer[1], max(fine), delta=2e-3)
        places = scores[:, 1] / scores[:, 0]
        np.testing.assert_allclose(found.inner, (places.min(), places.max()))
        self.assertTrue((found.low <= found.high + 1e-12).all())
        self.assertGreater(found.width, 0.05)

    def test_many_starts_reach_less_than_the_exact_range(self):
        t = np.linspace(0.15, 0.85, 25)
        spectra = np.column_stack([1 - t, t]) @ (bands(60, 0.35, 0.6, width=0.2) + 0.1)
        found = unmix(spectra, 2)
        lower = turned(spectra, found, "not-negative")
        exact = two_range(spectra)
        self.assertGreater(lower.as_good, 3)
        self.assertGreater(lower.width, 0.0)
        self.assertLessEqual(lower.width, exact.width + 1e-6)
        amounts, _ = at_largest_one(found)
        self.assertTrue((lower.amounts_low <= amounts + 1e-12).all())


if __name__ == "__main__":
    unittest.main()
