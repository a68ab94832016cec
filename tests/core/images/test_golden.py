"""The numbers of the definitions: an image of 14 × 12 pixels and 6 channels with a mask."""

import unittest
from pathlib import Path

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Folded
from scutcher.core.images.image import Image
from scutcher.core.images.map_structure import map_structure
from scutcher.core.images.pixel_groups import settled, split_start
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.smooth_order import smooth_order
from scutcher.core.images.spectral_angle import spectral_angle
from scutcher.core.images.streamed_model import fit_image
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings, ValidateSettings

FOLDER = Path(__file__).parent / "golden"
MEAN = (10.501513540407897, 9.762764609948857, 8.910863689005506, 11.016156703273962, 9.916730200134818,
        9.767955016670173)  # fmt: skip
EIGENVALUES = (1.6346629746396537, 0.6461117586098635, 0.4523051352962458, 0.4139307076348459,
               0.370403941730553, 0.2572542828939419)  # fmt: skip
LOADING = (0.32393053090732027, -0.41238798739267635, -0.4338931315878121, 0.6025670846201726,
           -0.3577566414532319, -0.21369371396859388)  # fmt: skip
KAPPA = (0.4287579111287207, 0.9085596027996177, 1.154807958175011, 1.4324759125244075,
         1.752934940535402, 2.0394181495487778)  # fmt: skip
SMOOTH = (0.36355591571962653, -0.20677519689380952, -0.4376301981808901, 0.485813946502912,
          -0.10376665643122775, -0.23645408057817915)  # fmt: skip
MORAN = (0.7647443003740794, -0.006211180124223602, 0.0033330879628293876, 13.353832130490515)
STARTS = ((-0.9503208707307399, 0.024365745991759436), (1.036563112487161, 0.5635554951237677),
          (1.3880577662513642, -0.8160868528817226))  # fmt: skip


def the_image():
    values = np.loadtxt(FOLDER / "image.csv", delimiter=",").reshape(14, 12, 6)
    mask = np.loadtxt(FOLDER / "mask.csv", delimiter=",").ravel() > 0
    return Image(Folded(values), GridLayout(14, 12), Axis(tuple("abcdef"), np.arange(6.0)), mask)


def the_model(k=2):
    recipe = Recipe(
        scale=ScaleSettings(method="none"),
        model=ModelSettings(components=k),
        validate=ValidateSettings(scheme="tiles"),
    )
    return fit_image(the_image(), recipe)


class Golden(unittest.TestCase):
    def test_the_model(self):
        model, maps = the_model()
        self.assertEqual(model.counted, 162)
        np.testing.assert_allclose(model.components.centre, MEAN, rtol=1e-12)
        np.testing.assert_allclose(model.components.eigenvalues, EIGENVALUES, rtol=1e-10)
        np.testing.assert_allclose(model.components.loadings[:, 0], LOADING, atol=1e-10)
        self.assertAlmostEqual(maps.t2[0], 0.9988208754284159, places=9)
        self.assertAlmostEqual(maps.q[0], 0.7527725641510037, places=9)

    def test_the_order_by_smoothness(self):
        found = smooth_order(PixelTreatment(the_image()))
        self.assertEqual(found.pairs, (146, 147))
        np.testing.assert_allclose(found.kappa, KAPPA, rtol=1e-10)
        np.testing.assert_allclose(found.weights[:, 0], SMOOTH, atol=1e-9)
        self.assertIn("proves nothing", smooth_order(PixelTreatment(the_image().masked(few()))).warnings[0])

    def test_the_structure_of_a_map(self):
        image = the_image()
        model, _ = the_model()
        values = (image.spectra(np.arange(168)) - model.components.centre) @ model.components.loadings[:, 0]
        values[~image.mask] = np.nan
        found = map_structure(image.as_map(values))
        np.testing.assert_allclose(
            (found.agreement, found.expected, found.variance, found.z), MORAN, rtol=1e-9
        )

    def test_the_spectral_angle(self):
        two = the_image().spectra(np.array([0, 1]))
        self.assertAlmostEqual(spectral_angle(two[1:], two[0])[0], 0.05225765151087074, places=12)

    def test_groups_from_the_split_start(self):
        image = the_image()
        model, _ = the_model()
        z = image.spectra(np.flatnonzero(image.mask)) - model.components.centre
        points = z @ model.components.loadings[:, :2]
        centres = split_start(points, 3)
        np.testing.assert_allclose(sorted(map(tuple, centres)), STARTS, atol=1e-9)
        self.assertAlmostEqual(settled(points, centres, 100)[2], 143.80441546073973, places=8)


def few():
    mask = np.zeros(168, dtype=bool)
    mask[:60] = True
    return mask


if __name__ == "__main__":
    unittest.main()
