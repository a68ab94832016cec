"""Peaks on a straight baseline: recovered from curves that are known, and against a general optimiser."""

import unittest

import numpy as np
from scipy.optimize import curve_fit

from scutcher.core.numeric.peak_fit import fit_peaks


def curve(x, offset, slope, height, centre, width):
    return offset + slope * x + height * np.exp(-4.0 * np.log(2.0) * ((x - centre) / width) ** 2)


class Peaks(unittest.TestCase):
    def setUp(self):
        self.x = np.arange(1500.0, 1561.0, 2.0)
        rng = np.random.default_rng(7)
        self.truth = np.column_stack(
            [
                rng.uniform(-2.0, 2.0, 40),
                rng.uniform(-0.02, 0.02, 40),
                rng.uniform(0.3, 3.0, 40),
                rng.uniform(1520.0, 1540.0, 40),
                rng.uniform(9.0, 22.0, 40),
            ]
        )
        self.values = np.array([curve(self.x, *row) for row in self.truth])

    def test_known_peaks_on_a_rising_and_a_falling_axis(self):
        for order in (slice(None), slice(None, None, -1)):
            found = fit_peaks(self.x[order], self.values[:, order])
            self.assertTrue(found.found.all())
            np.testing.assert_allclose(found.centre, self.truth[:, 3], atol=1e-6)
            np.testing.assert_allclose(found.height, self.truth[:, 2], rtol=1e-6)
            np.testing.assert_allclose(found.width, self.truth[:, 4], rtol=1e-6)
            np.testing.assert_allclose(found.curve, self.values[:, order], atol=1e-7)
            line = self.truth[:, :1] + self.truth[:, 1:2] * self.x[order]
            np.testing.assert_allclose(found.baseline, line, atol=1e-6)

    def test_troughs(self):
        found = fit_peaks(self.x, -self.values)
        np.testing.assert_allclose(found.height, -self.truth[:, 2], rtol=1e-6)
        np.testing.assert_allclose(found.centre, self.truth[:, 3], atol=1e-6)

    def test_with_noise_it_is_the_least_squares_fit(self):
        noisy = self.values[:12] + 0.01 * np.random.default_rng(8).normal(size=(12, len(self.x)))
        found = fit_peaks(self.x, noisy)
        for row in range(12):
            wanted, _ = curve_fit(curve, self.x, noisy[row], self.truth[row])
            self.assertAlmostEqual(found.centre[row], wanted[3], places=4)
            self.assertAlmostEqual(found.height[row] / wanted[2], 1.0, places=4)
            self.assertAlmostEqual(found.width[row] / abs(wanted[4]), 1.0, places=4)

    def test_a_straight_line_has_no_peak(self):
        found = fit_peaks(self.x, np.array([2.0 + 0.1 * self.x, np.full(len(self.x), 3.0)]))
        self.assertFalse(found.found.any())
        self.assertTrue(np.isfinite(found.curve).all())

    def test_scale_and_offset_of_the_signal_do_not_matter(self):
        plain, scaled = fit_peaks(self.x, self.values), fit_peaks(self.x, 1e6 * self.values - 4e6)
        np.testing.assert_allclose(plain.centre, scaled.centre, atol=1e-6)
        np.testing.assert_allclose(1e6 * plain.height, scaled.height, rtol=1e-6)


if __name__ == "__main__":
    unittest.main()
