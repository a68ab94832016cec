"""Smoothing and derivatives against a polynomial, a mean or a dense system at every channel."""

import unittest

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError, TableError
from tests.core.making import ordered_table, random_spectra
from tests.core.treatments.doing import treated, values


def on_axis(x, places):
    axis = Axis(tuple(f"{p:g}" for p in places), places, "wavenumber", "cm⁻¹")
    return Table(x, axis, tuple(f"s{row}" for row in range(len(x))))


class SavitzkyGolay(unittest.TestCase):
    def test_published_weights(self):
        """Table I of the 1964 paper: quadratic, 5 points, and the first derivative's −2 −1 0 1 2 over 10."""
        impulse = np.zeros((1, 21))
        impulse[0, 10] = 1.0
        table = on_axis(impulse, np.arange(21.0))
        smooth = values(table, "savitzky-golay", window=5, degree=2, derivative=0)[0, 8:13]
        np.testing.assert_allclose(smooth, np.array([-3, 12, 17, 12, -3]) / 35, atol=1e-14)
        slope = values(table, "savitzky-golay", window=5, degree=2, derivative=1)[0, 8:13]
        np.testing.assert_allclose(slope, np.array([2, 1, 0, -1, -2]) / 10, atol=1e-14)

    def test_against_a_polynomial_at_each_channel(self):
        x = random_spectra(3, 40)
        places = 1000.0 + 2.0 * np.arange(40)
        for derivative, degree, window in ((0, 2, 7), (1, 2, 9), (2, 3, 11), (3, 4, 9)):
            found = values(
                ordered_table(x), "savitzky-golay", window=window, degree=degree, derivative=derivative
            )
            half = window // 2
            for channel in (0, 2, 17, 38, 39):
                middle = min(max(channel, half), 39 - half)
                near = slice(middle - half, middle + half + 1)
                for row in range(3):
                    fitted = np.polynomial.Polynomial.fit(places[near], x[row, near], degree)
                    want = (
                        fitted.deriv(derivative)(places[channel]) if derivative else fitted(places[channel])
                    )
                    self.assertAlmostEqual(found[row, channel], want, places=9)

    def test_a_falling_axis_gives_the_slope_over_the_axis(self):
        places = np.linspace(4000.0, 400.0, 61)
        found = values(
            on_axis(0.5 * places[np.newaxis, :], places), "savitzky-golay", window=7, degree=2, derivative=1
        )
        np.testing.assert_allclose(found, 0.5, rtol=1e-9)

    def test_unit_is_per_axis_unit(self):
        self.assertEqual(treated(ordered_table(random_spectra(3, 40)), "savitzky-golay").signal_unit, "1/nm")
        second = treated(ordered_table(random_spectra(3, 40)), "savitzky-golay", derivative=2)
        self.assertEqual(second.signal_unit, "1/nm²")

    def test_refusals(self):
        table = ordered_table(random_spectra(3, 41))
        said = {
            "The window is 4 channels; it must be odd, from 3 to 41. Choose 3 or 5.": {"window": 4},
            "The window is 61 channels; it must be odd, from 3 to 41. Choose 41.": {"window": 61},
            "The degree is 5; it must be below the window of 5 channels. Choose a degree up to 4.": {
                "window": 5,
                "degree": 5,
            },
            "The derivative is 3, the degree 2: a polynomial of that degree has none. "
            "Choose a degree of at least 3.": {"derivative": 3},
        }
        for words, parameters in said.items():
            with self.subTest(words), self.assertRaises(RecipeError) as caught:
                values(table, "savitzky-golay", **parameters)
            self.assertEqual(str(caught.exception), words)

    def test_uneven_spacing_offers_interpolation(self):
        places = np.array([1.0, 2, 3, 4, 5.5, 7, 8, 9, 10, 11, 12])
        with self.assertRaises(TableError) as caught:
            values(on_axis(np.ones((2, 11)), places), "savitzky-golay", window=5)
        self.assertEqual(
            str(caught.exception),
            "Savitzky–Golay needs evenly spaced channels; from 4 cm⁻¹ to 5.5 cm⁻¹ it is 1.5, usually 1. "
            "Put it before the step that cuts the axis, or add the step resample (interpolation onto an "
            "even axis) before it.",
        )

    def test_a_few_channels_that_were_left_out_do_not_matter(self):
        places = np.delete(np.arange(0.0, 40.0), [11, 25, 26])
        cubic = 2.0 + 0.5 * places - 0.03 * places**2 + 0.001 * places**3
        found = treated(on_axis(cubic[np.newaxis, :], places), "savitzky-golay", window=7, degree=3)
        np.testing.assert_allclose(found.values[0], 0.5 - 0.06 * places + 0.003 * places**2, atol=1e-9)
        np.testing.assert_array_equal(found.axis.places(), places)

    def test_a_wide_gap_is_not_bridged(self):
        places = np.r_[np.arange(0.0, 20.0), np.arange(30.0, 50.0)]
        with self.assertRaises(TableError):
            values(on_axis(np.ones((2, 40)), places), "savitzky-golay", window=5)


class WeightedMeans(unittest.TestCase):
    def test_moving_mean_against_a_loop(self):
        x = random_spectra(3, 25)
        found = values(ordered_table(x), "moving-mean", window=7)
        for channel in range(25):
            near = x[:, max(0, channel - 3) : channel + 4]
            np.testing.assert_allclose(found[:, channel], near.mean(axis=1), rtol=1e-12)

    def test_gaussian_against_a_loop(self):
        x = random_spectra(3, 25)
        found = values(ordered_table(x), "gaussian-smooth", sd=1.5)
        for channel in range(25):
            away = np.arange(25) - channel
            weights = np.where(np.abs(away) <= 6, np.exp(-0.5 * (away / 1.5) ** 2), 0.0)
            np.testing.assert_allclose(found[:, channel], x @ weights / weights.sum(), rtol=1e-12)

    def test_median_against_a_loop(self):
        x = random_spectra(3, 25)
        x[1, 12] += 50.0
        wide = values(ordered_table(x), "median-filter", window=15)
        far = np.pad(x, ((0, 0), (7, 7)), mode="edge")
        np.testing.assert_array_equal(wide[:, 3], np.median(far[:, 3:18], axis=1))
        found = values(ordered_table(x), "median-filter", window=5)
        padded = np.pad(x, ((0, 0), (2, 2)), mode="edge")
        for channel in range(25):
            np.testing.assert_array_equal(
                found[:, channel], np.median(padded[:, channel : channel + 5], axis=1)
            )
        self.assertLess(found[1].max(), 10.0)


class Whittaker(unittest.TestCase):
    def test_against_the_dense_system(self):
        x = random_spectra(4, 30)
        found = values(ordered_table(x), "whittaker", smoothness=50.0)
        d = np.diff(np.eye(30), 2, axis=0)
        np.testing.assert_allclose(found, np.linalg.solve(np.eye(30) + 50.0 * d.T @ d, x.T).T, rtol=1e-10)

    def test_a_line_stays_a_line(self):
        line = np.linspace(1.0, 3.0, 40)[np.newaxis, :]
        np.testing.assert_allclose(values(ordered_table(line), "whittaker", smoothness=1e6), line, rtol=1e-6)
