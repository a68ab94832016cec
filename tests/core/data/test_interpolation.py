"""Reading between channels and shifting by parts of a channel, against known curves."""

import unittest

import numpy as np

from scutcher.core.data.bins import binned
from scutcher.core.data.interpolation import interpolator, shifted
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.support.windows import check_window, weighted_window


class Interpolators(unittest.TestCase):
    def setUp(self):
        self.x = np.array([0.0, 1.0, 2.5, 4.0, 5.0, 7.0, 8.0])
        self.onto = np.array([0.0, 0.4, 2.5, 3.1, 6.9, 8.0])

    def test_exact_for_what_each_can_follow(self):
        curves = {
            "linear": np.array([1.0 - 2.0 * self.x, self.x]),
            "spline": np.array([self.x**3 - self.x, 2.0 + self.x**2]),
            "monotone-cubic": np.array([3.0 * self.x, 5.0 - self.x]),
        }
        wanted = {
            "linear": np.array([1.0 - 2.0 * self.onto, self.onto]),
            "spline": np.array([self.onto**3 - self.onto, 2.0 + self.onto**2]),
            "monotone-cubic": np.array([3.0 * self.onto, 5.0 - self.onto]),
        }
        for kind, values in curves.items():
            for x, y in ((self.x, values), (self.x[::-1], values[:, ::-1])):
                with self.subTest(kind, falling=x[0] > x[-1]):
                    np.testing.assert_allclose(interpolator(kind, x, y)(self.onto), wanted[kind], atol=1e-12)

    def test_monotone_cubic_does_not_overshoot(self):
        step = np.array([[0.0, 0.0, 0.0, 1.0, 1.0, 1.0, 1.0]])
        fine = np.linspace(0.0, 8.0, 400)
        found = interpolator("monotone-cubic", self.x, step)(fine)
        self.assertTrue((found >= 0.0).all() and (found <= 1.0).all())
        self.assertGreater(interpolator("spline", self.x, step)(fine).max(), 1.01)


class Shifts(unittest.TestCase):
    def test_every_spectrum_by_its_own_part_of_a_channel(self):
        j = np.arange(120.0)

        def curve(x):
            return np.exp(-0.5 * ((x - 60.0) / 9.0) ** 2)

        shifts = np.array([0.0, 0.37, -2.81, 3.0, -4.0])
        values = np.tile(curve(j), (5, 1))
        found = shifted(values, shifts, 4)
        self.assertEqual(found.shape, (5, 112))
        for row, shift in enumerate(shifts):
            np.testing.assert_allclose(found[row], curve(j[4:-4] + shift), atol=2e-5)
        np.testing.assert_allclose(found[0], values[0, 4:-4], atol=1e-14)

    def test_there_and_back(self):
        x = np.linspace(0.0, 6.0, 200)
        values = np.array([np.sin(x), np.cos(2.0 * x)])
        shifts = np.array([1.3, -0.7])
        back = shifted(shifted(values, shifts, 2), -shifts, 2)
        np.testing.assert_allclose(back, values[:, 4:-4], atol=1e-5)


class Bins(unittest.TestCase):
    def test_sums_and_means_with_the_last_run_to_the_end(self):
        values = np.arange(14.0).reshape(2, 7)
        starts = np.array([0, 2, 3])
        np.testing.assert_array_equal(binned(values, starts, False), [[1, 2, 18], [15, 9, 46]])
        np.testing.assert_allclose(binned(values, starts, True), [[0.5, 2, 4.5], [7.5, 9, 11.5]])
        values[0, 5] = np.nan
        np.testing.assert_array_equal(np.isnan(binned(values, starts, True)), [[0, 0, 1], [0, 0, 0]])


class Windows(unittest.TestCase):
    def test_weighted_mean_over_the_channels_there_are(self):
        rng = np.random.default_rng(2)
        values, weights = rng.normal(size=(3, 11)), np.array([0.2, 0.5, 1.0, 0.5, 0.2])
        found = weighted_window(values, weights)
        for row in range(3):
            for j in range(11):
                pairs = [(values[row, j + o], weights[o + 2]) for o in range(-2, 3) if 0 <= j + o < 11]
                wanted = sum(v * w for v, w in pairs) / sum(w for _, w in pairs)
                self.assertAlmostEqual(found[row, j], wanted)

    def test_windows_that_cannot_be_name_those_that_can(self):
        said = {
            (4, 701): "The window is 4 channels; it must be odd, from 3 to 701. Choose 3 or 5.",
            (1, 10): "The window is 1 channels; it must be odd, from 3 to 9. Choose 3.",
            (99, 20): "The window is 99 channels; it must be odd, from 3 to 19. Choose 19.",
        }
        for (window, channels), words in said.items():
            with self.assertRaises(RecipeError) as caught:
                check_window(window, channels)
            self.assertEqual(str(caught.exception), words)
        check_window(9, 10)


if __name__ == "__main__":
    unittest.main()
