"""Squares of pixels and shifted images against plain NumPy."""

import unittest

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Folded, Stacked
from scutcher.core.errors import InputError
from scutcher.core.images.alignment import aligned, shift_between
from scutcher.core.images.binning import binned
from scutcher.core.images.image import Image
from scutcher.core.images.streamed_model import fit_image
from scutcher.core.recipes.recipe import recipe_from_plain

AXIS = Axis(tuple("abcd"), np.arange(4.0))


def values(rows=11, columns=13, seed=1):
    return np.random.default_rng(seed).normal(size=(rows, columns, 4))


class Binning(unittest.TestCase):
    def test_means_of_squares_of_two_images(self):
        cubes = [values(), values(seed=2)]
        image = Image(Stacked(tuple(map(Folded, cubes))), GridLayout(11, 13, 2.0, "µm"), AXIS)
        found = binned(image, 3)
        self.assertEqual((found.layout.rows, found.layout.columns, found.layout.pixel), (3, 4, 6.0))
        wanted = np.concatenate(
            [cube[:9, :12].reshape(3, 3, 4, 3, 4).mean(axis=(1, 3)).reshape(-1, 4) for cube in cubes]
        )
        np.testing.assert_allclose(found.matrix.rows(0, 24), wanted)
        np.testing.assert_allclose(found.matrix.rows(5, 19), wanted[5:19])

    def test_a_square_counts_where_most_of_its_pixels_do(self):
        mask = np.ones((11, 13), dtype=bool)
        mask[:2, :2] = False  # four of the nine pixels of the first square
        mask[3:6, 3:5] = False  # six of nine
        found = binned(Image(Folded(values()), GridLayout(11, 13), AXIS, mask.ravel()), 3)
        self.assertTrue(found.mask.reshape(3, 4)[0, 0])
        self.assertFalse(found.mask.reshape(3, 4)[1, 1])

    def test_too_large(self):
        with self.assertRaisesRegex(InputError, "do not fit 11 × 13"):
            binned(Image(Folded(values()), GridLayout(11, 13), AXIS), 12)


class Alignment(unittest.TestCase):
    def test_a_known_shift_is_found(self):
        rng = np.random.default_rng(5)
        scene = rng.normal(size=(60, 70))
        scene[25:32, 20:40] += 6.0
        for down, right in ((0, 0), (3, -5), (-7, 2)):
            first = scene[10:50, 10:60]
            other = scene[10 - down : 50 - down, 10 - right : 60 - right] + 0.3 * rng.normal(size=(40, 50))
            self.assertEqual(shift_between(first, other), (down, right))

    def test_shifted_images_lie_over_one_another(self):
        scene = values(40, 50)
        scene[15:20, 10:30] += 5.0
        first, other = scene[5:30, 5:40], scene[3:28, 8:43]  # the second looks two rows higher, three further
        image = Image(Stacked((Folded(first), Folded(other))), GridLayout(25, 35), AXIS)
        moved, shifts = aligned(image)
        self.assertEqual(shifts, ((0, 0), (2, -3)))
        second = moved.matrix.rows(25 * 35, 2 * 25 * 35).reshape(25, 35, 4)
        np.testing.assert_allclose(second[:23, 3:], first[:23, 3:])
        self.assertTrue(np.isnan(second[23:]).all() and np.isnan(second[:, :3]).all())
        recipe = recipe_from_plain(
            {"model": {"components": 2}, "validate": {"scheme": "none"}, "scale": {"method": "none"}}
        )
        model, _ = fit_image(moved, recipe)
        self.assertEqual(model.counted, 25 * 35 + 23 * 32)


if __name__ == "__main__":
    unittest.main()
