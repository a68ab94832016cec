"""Unmixing without references: starts, one hump, what is found again, what stays open."""

import unittest
from pathlib import Path

import numpy as np

from scutcher.core.errors import ModelError
from scutcher.core.unmixing.alternating import Demands, unmix
from scutcher.core.unmixing.first_shapes import leading_scores, projected_start
from scutcher.core.unmixing.left_open import left_open
from scutcher.core.unmixing.one_hump import one_hump
from scutcher.core.unmixing.purest import purest_channels, purest_start
from scutcher.core.unmixing.three_shapes import plane_of, three_range
from scutcher.core.unmixing.turning import at_largest_one, turned
from scutcher.core.unmixing.two_shapes import two_range
from tests.core.unmixing.test_shape_sums import bands

SERIES = np.loadtxt(Path(__file__).parent / "golden" / "series.csv", delimiter=",", skiprows=1)


def wall_points(plane, number):
    """Points all along the border of what is not negative."""
    angles = 2 * np.pi * np.arange(number) / number
    rays = np.column_stack([np.cos(angles), np.sin(angles)])
    return plane.distance(np.zeros((number, 2)), rays)[:, np.newaxis] * rays


def some_triangle(plane, x, edge):
    """Whether any two points of the border make a triangle with x that holds all samples."""
    if not plane.inside(x[np.newaxis])[0]:
        return False

    def left(a, b, c):
        return (b[..., 0] - a[..., 0]) * (c[..., 1] - a[..., 1]) - (b[..., 1] - a[..., 1]) * (
            c[..., 0] - a[..., 0]
        )

    hull = plane.hull
    from_x = left(x, edge[:, np.newaxis], hull[np.newaxis])  # (edge, hull)
    right_of, left_of = edge[(from_x <= 1e-9).all(axis=1)], edge[(from_x >= -1e-9).all(axis=1)]
    for y in right_of:  # x, z, y with all samples to the left of xz, zy and yx
        inside = (left(left_of[:, np.newaxis], y, hull[np.newaxis]) >= -1e-9).all(axis=1)
        if (inside & (left(x, left_of, y) > 0.0)).any():
            return True
    return False


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
            found = unmix(spectra, 3, Demands(rule, humps))
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
        found = unmix(np.column_stack([1 - t, t]) @ shapes, 2, Demands("sum-to-one"))
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


class Demanded(unittest.TestCase):
    def test_known_shapes_stay(self):
        spectra, _, shapes = kinetics(noise=0.002)
        known = shapes[1:2] / np.linalg.norm(shapes[1])
        found = unmix(spectra, 3, Demands(known=shapes[1:2]))
        np.testing.assert_allclose(found.shapes[0], known[0], atol=1e-12)
        self.assertLess(found.leftover, 2e-3)
        with self.assertRaisesRegex(ModelError, "known shapes do not fit"):
            unmix(spectra, 3, Demands(known=-shapes))

    def test_shapes_that_are_not_there_have_no_amount(self):
        spectra, amounts, _ = kinetics(noise=0.001)
        absent = amounts < 0.02
        found = unmix(spectra, 3, Demands(absent=absent), start=kinetics()[2])
        self.assertTrue((found.amounts[absent] == 0.0).all())
        self.assertLess(found.leftover, 2e-3)

    def test_the_purest_channels(self):
        self.assertEqual(purest_channels(SERIES, 2).tolist(), [27, 13])
        spectra, *_ = kinetics()
        found = unmix(spectra, 3, start=purest_start(spectra, 3))
        self.assertLess(found.misfit, 1e-6)
        with self.assertRaisesRegex(ModelError, "not positive"):
            purest_channels(spectra - 5.0, 2)


class Open(unittest.TestCase):
    def test_two_shapes_golden(self):
        shapes = np.loadtxt(Path(__file__).parent / "golden" / "shapes.csv", delimiter=",")
        late = 1.0 / (1.0 + np.exp(-(np.linspace(0, 1, 30) - 0.5) / 0.12))
        found = two_range(np.column_stack([1.0 - late, late]) @ shapes)
        outer, inner = (-0.6074188775955003, 0.8521484514270838), (-0.5866650076991777, 0.8161235393650685)
        for own, wanted in ((found.outer, outer), (found.inner, inner)):
            np.testing.assert_allclose(sorted(np.abs(own)), sorted(np.abs(wanted)), rtol=1e-9)

    def test_three_shapes_exactly_against_every_triangle_of_a_raster(self):
        t = np.linspace(0, 1, 30)
        one, two = np.exp(-4 * t), 2 * (np.exp(-2 * t) - np.exp(-4 * t))
        amounts = np.column_stack([one, two, np.maximum(1 - one - two, 0)])
        spectra = amounts @ (bands(40, 0.3, 0.5, 0.68, width=0.16) + 0.03)
        scores, directions = leading_scores(spectra, 3)
        plane = plane_of(scores, directions, 0.0)
        borders = three_range(spectra, unmix(spectra, 3).shapes).borders.reshape(-1, 2)
        low, high = borders.min(axis=0), borders.max(axis=0)
        sides = [
            np.linspace(a - 0.1 * (b - a), b + 0.1 * (b - a), 25) for a, b in zip(low, high, strict=True)
        ]
        raster = np.stack(np.meshgrid(*sides), axis=-1).reshape(-1, 2)
        edge = wall_points(plane, 600)
        possible = plane.partners(raster)[0]
        wrong = 0
        for x, said in zip(raster, possible, strict=True):
            wrong += said != some_triangle(plane, x, edge)
        self.assertGreater(possible.sum(), 10)
        self.assertLess(possible.sum(), len(raster) - 10)
        self.assertLessEqual(wrong, 3)

    def test_three_shapes_hold_the_truth_and_more_than_many_starts_reach(self):
        spectra, _, shapes = kinetics(3, 40, 60, noise=1e-4)
        found = unmix(spectra, 3)
        exact = left_open(spectra, found)
        self.assertTrue(exact.exact, exact.said)
        truth = shapes / shapes.max(axis=1, keepdims=True)
        _, own = at_largest_one(found)
        for place in range(3):
            nearest = int(np.argmin(np.abs(truth - own[place]).mean(axis=1)))
            inside = (truth[nearest] >= exact.low[place] - 0.03) & (
                truth[nearest] <= exact.high[place] + 0.03
            )
            self.assertGreater(inside.mean(), 0.95)
        lower = turned(spectra, found)
        self.assertLessEqual((lower.high - lower.low).mean(axis=1).max(), exact.width + 0.02)
        self.assertTrue((exact.amounts_low <= exact.amounts_high).all())

    def test_more_shapes_are_a_lower_bound(self):
        spectra, *_ = kinetics(4, 24, 30, noise=1e-3)
        found = unmix(spectra, 4)
        opened = left_open(spectra, found, starts=3)
        self.assertFalse(opened.exact)
        self.assertFalse(opened.determined)
        self.assertIn("lower bound", opened.said)

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
        lower = turned(spectra, found)
        exact = two_range(spectra)
        self.assertGreater(lower.as_good, 3)
        self.assertGreater(lower.width, 0.0)
        self.assertLessEqual(lower.width, exact.width + 1e-6)
        amounts, _ = at_largest_one(found)
        self.assertTrue((lower.amounts_low <= amounts + 1e-12).all())


if __name__ == "__main__":
    unittest.main()
