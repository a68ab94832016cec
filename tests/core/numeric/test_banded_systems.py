"""Penalised least squares: the banded system against the dense one."""

import unittest

import numpy as np

from scutcher.core.errors import RecipeError
from scutcher.core.numeric.banded_systems import reweighted_fit, second_difference_penalty, whittaker_fit
from tests.core.making import random_spectra


def dense(y, weights, smoothness):
    """The same minimum from the normal equations written out."""
    differences = np.diff(np.eye(len(y)), 2, axis=0)
    return np.linalg.solve(np.diag(weights) + smoothness * differences.T @ differences, weights * y)


def orthogonal(y, weights, smoothness):
    """The same minimum without normal equations, so that stiff ones keep their digits."""
    differences = np.sqrt(smoothness) * np.diff(np.eye(len(y)), 2, axis=0)
    q, r = np.linalg.qr(np.vstack([differences, np.diag(np.sqrt(weights))]))
    right = np.r_[np.zeros(len(y) - 2), np.sqrt(weights) * y]
    return np.linalg.solve(r, q.T @ right)


class Whittaker(unittest.TestCase):
    def test_stiff_ones_are_solved_to_a_millionth_or_refused(self):
        rng = np.random.default_rng(4)
        p = 400
        at = np.linspace(0.0, 1.0, p)
        y = 2.0 + 3.0 * at + np.exp(-(((at - 0.5) / 0.02) ** 2)) + 0.01 * rng.normal(size=p)
        for weights in (np.ones(p), np.where(rng.random(p) < 0.5, 0.001, 0.999)):
            for smoothness in (1e7, 1e8, 1e10, 1e13, 1e15):
                with self.subTest(f"{smoothness:g}"):
                    found = whittaker_fit(np.array([y, 5.0 - 2.0 * y]), np.array([weights] * 2), smoothness)
                    wanted = orthogonal(y, weights, smoothness)
                    np.testing.assert_allclose(found, [wanted, 5.0 - 2.0 * wanted], rtol=0.0, atol=1e-6)
        with self.assertRaisesRegex(RecipeError, "1e.20 over 400 channels is too stiff"):
            whittaker_fit(y[np.newaxis], np.ones((1, p)), 1e20)

    def test_penalty_is_that_of_second_differences(self):
        for p in (3, 4, 9):
            differences = np.diff(np.eye(p), 2, axis=0)
            wanted, bands = differences.T @ differences, second_difference_penalty(p)
            for offset in range(3):
                np.testing.assert_array_equal(bands[offset, : p - offset], np.diagonal(wanted, -offset))

    def test_against_the_dense_system(self):
        rng = np.random.default_rng(1)
        for n, p in ((1, 3), (4, 25), (7, 60)):
            values, weights = rng.normal(size=(n, p)), rng.uniform(0.1, 2.0, (n, p))
            kept = values.copy(), weights.copy()
            for smoothness in (1e-3, 1.0, 1e5):
                with self.subTest(n=n, p=p, smoothness=smoothness):
                    found = whittaker_fit(values, weights, smoothness)
                    wanted = [dense(y, w, smoothness) for y, w in zip(values, weights, strict=True)]
                    np.testing.assert_allclose(found, wanted, rtol=1e-7, atol=1e-9)
            np.testing.assert_array_equal(values, kept[0])
            np.testing.assert_array_equal(weights, kept[1])

    def test_a_line_is_kept_and_great_smoothness_gives_the_line_of_least_squares(self):
        x = np.arange(30.0)
        line = 2.0 + 0.3 * x
        np.testing.assert_allclose(whittaker_fit(line[np.newaxis], np.ones((1, 30)), 1e4)[0], line, rtol=1e-6)
        y = line + np.sin(x)
        fitted = whittaker_fit(y[np.newaxis], np.ones((1, 30)), 1e8)[0]
        np.testing.assert_allclose(fitted, np.polyval(np.polyfit(x, y, 1), x), atol=1e-4)

    def test_channels_without_weight_are_bridged(self):
        x = np.linspace(-1.0, 1.0, 21)
        weights = np.ones((1, 21))
        weights[0, 8:13] = 0.0
        y = (3.0 - x)[np.newaxis].copy()
        y[0, 8:13] += 50.0
        np.testing.assert_allclose(whittaker_fit(y, weights, 10.0)[0], 3.0 - x, atol=1e-6)


class Reweighted(unittest.TestCase):
    def test_each_spectrum_stops_on_its_own(self):
        spectra, rounds = random_spectra(5, 40), []

        def weigh(away):
            rounds.append(len(away))
            return np.where(away > 0.0, 0.01, 0.99)

        def settled(before, after):
            return (before == after).all(axis=1)

        together = reweighted_fit(spectra, 50.0, 60, weigh, settled)
        self.assertEqual(rounds[0], 5)
        self.assertLess(rounds[-1], 5)  # those that are done take no part any more
        for row, spectrum in enumerate(spectra):
            alone = reweighted_fit(spectra[row : row + 1], 50.0, 60, weigh, settled)
            np.testing.assert_allclose(together[row], alone[0], atol=1e-10)
            weights = np.where(spectrum - alone[0] > 0.0, 0.01, 0.99)
            np.testing.assert_allclose(alone[0], dense(spectrum, weights, 50.0), atol=1e-8)

    def test_no_more_rounds_than_allowed(self):
        rounds = []
        reweighted_fit(
            random_spectra(2, 20),
            1.0,
            3,
            lambda away: rounds.append(1) or np.full(away.shape, 1.0 + len(rounds)),
            lambda before, after: np.zeros(len(before), dtype=bool),
        )
        self.assertEqual(len(rounds), 3)


if __name__ == "__main__":
    unittest.main()
