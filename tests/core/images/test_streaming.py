"""An image in parts gives what it gives in memory, however it is cut; and what cannot be is refused."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import PropertyColumn
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Columns, Folded, Stacked
from scutcher.core.data.names import Names
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.images import image as image_module
from scutcher.core.images.image import Image
from scutcher.core.images.of_table import image_of_table
from scutcher.core.images.pixel_treatment import PixelTreatment, learn
from scutcher.core.images.projecting import project_image
from scutcher.core.images.smooth_order import smooth_order
from scutcher.core.images.streamed_model import fit_image
from scutcher.core.images.tile_work import Here
from scutcher.core.progress import Stopped
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.validation.cross_validation import validate
from scutcher.study.evaluation.evaluator import Evaluator

ROWS, COLUMNS, P = 11, 9, 12
AXIS = Axis(tuple(f"{1000 + 10 * j}" for j in range(P)), 1000.0 + 10.0 * np.arange(P), "wavelength", "nm")


def cube(offset=0.0, rows=ROWS, seed=3):
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:rows, 0:COLUMNS]
    shapes = np.array([np.exp(-(((np.arange(P) - c) / 2.0) ** 2)) for c in (2, 6, 9)])
    amounts = np.stack([1 + np.sin(y / 3.0), 1 + np.cos(x / 2.0), 0.2 * (x > 5)], axis=-1)
    return offset + 2.0 + amounts @ shapes + 0.02 * rng.normal(size=(rows, COLUMNS, P))


def an_image(values=None, mask=None):
    values = cube() if values is None else values
    return Image(Folded(values), GridLayout(values.shape[0], COLUMNS), AXIS, mask, "picture")


def a_table(values=None):
    values = cube() if values is None else values
    n = values.shape[0] * COLUMNS
    row, column = np.divmod(np.arange(n), COLUMNS)
    return Table(
        values.reshape(n, P), AXIS, Names(f"s{i}" for i in range(n)), "picture",
        properties=(PropertyColumn("x", column + 1.0, "px"), PropertyColumn("y", row + 1.0, "px")),
    )  # fmt: skip


def recipe(*treat, scheme="tiles", **scale):
    plain = {"treat": list(treat), "model": {"components": 3}, "validate": {"scheme": scheme, "segments": 4}}
    return recipe_from_plain(plain | {"scale": {"centre": "mean", "method": "none"} | scale})


def in_tiles(rows):
    """Tiles of so many rows of the picture."""
    return mock.patch.object(image_module.Image.tiles, "__defaults__", (rows * COLUMNS * P * 8,))


RECIPES = {
    "plain": recipe(),
    "sd": recipe(method="sd"),
    "pareto, not centred": recipe(method="pareto", centre="none"),
    "snv": recipe({"method": "snv"}),
    "msc": recipe({"method": "msc"}),
    "chain": recipe(
        {"method": "msc"},
        {"method": "savitzky-golay", "window": 5, "degree": 2, "derivative": 1},
        method="sd",
    ),
}


class InPartsAsInMemory(unittest.TestCase):
    def test_every_cut_gives_the_model_of_the_table(self):
        for name, how in RECIPES.items():
            wanted = Evaluator(keeps=False).evaluate(a_table(), how)
            for rows in (1, 2, 3, 5, 11):
                with self.subTest(name, rows=rows), in_tiles(rows):
                    model, maps = fit_image(an_image(), how)
                    self.check(wanted, model, maps)

    def check(self, wanted, model, maps):
        own = wanted.model
        np.testing.assert_allclose(model.saved.eigenvalues, own.eigenvalues, rtol=1e-10)
        np.testing.assert_allclose(np.abs(model.saved.loadings.T @ own.loadings), np.eye(3), atol=1e-9)
        signs = np.sign(np.diag(model.saved.loadings.T @ own.loadings))
        np.testing.assert_allclose(maps.scores * signs, own.scores, atol=1e-6, rtol=1e-6)
        np.testing.assert_allclose(maps.t2, own.t2, rtol=1e-9)
        np.testing.assert_allclose(maps.q, own.q, rtol=1e-9, atol=1e-14)
        np.testing.assert_allclose(maps.joint, own.joint, rtol=1e-8)
        self.assertAlmostEqual(maps.t2_limit.value, own.t2_limit.value, places=9)
        self.assertAlmostEqual(maps.q_limit.value / own.q_limit.value, 1.0, places=8)

    def test_held_out_error_is_that_of_leaving_out_pixels(self):
        for name in ("plain", "sd"):
            for scheme in ("tiles", "blocks", "blinds"):
                with self.subTest(name, scheme=scheme):
                    how = recipe(scheme=scheme, method="sd" if name == "sd" else "none")
                    model, _ = fit_image(an_image(), how)
                    wanted = validate(a_table(), how, 3)
                    np.testing.assert_allclose(model.q2[:3], wanted.q2[:3], rtol=1e-8)
                    np.testing.assert_allclose(model.press[:3], wanted.press[:3], rtol=1e-8)
                    held = model.saved.held_out
                    self.assertAlmostEqual(held.scale.q0 / wanted.distances.q[:, 2].mean(), 1.0, places=8)
                    self.assertAlmostEqual(held.scale.h0 / wanted.distances.h[:, 2].mean(), 1.0, places=8)

    def test_counting_noise_both_ways(self):
        """Products of pixels over their mean, weighted by the roots of the channel means."""
        counts = np.random.default_rng(4).poisson(40.0 * cube()).astype(float)
        flat = counts.reshape(-1, P)
        a, b = flat.mean(axis=1), flat.mean(axis=0)
        products = (flat / a[:, np.newaxis]).T @ flat / np.sqrt(np.outer(b, b)) / len(flat)
        wanted = np.sort(np.linalg.eigvalsh(products))[::-1]
        how = recipe({"method": "counting-noise"}, centre="none", scheme="none")
        with in_tiles(2):
            model, _ = fit_image(an_image(counts), how)
        np.testing.assert_allclose(model.components.eigenvalues, wanted, rtol=1e-10)
        np.testing.assert_allclose(
            model.components.loadings[:, 0], np.sqrt(b) / np.linalg.norm(np.sqrt(b)), atol=0.02
        )  # the first component is the mean

    def test_a_large_offset_loses_nothing(self):
        """Raw sums of squares lose everything at an offset of 1e5 times the spread."""
        near = fit_image(an_image(), recipe())[0].components.eigenvalues
        far = fit_image(an_image(cube(1e5)), recipe())[0].components.eigenvalues
        np.testing.assert_allclose(far[:6], near[:6], rtol=1e-8)

    def test_float32_in_the_file_float64_in_sums(self):
        single = cube().astype(np.float32)
        wanted = fit_image(an_image(single.astype(np.float64)), recipe())[0].components.eigenvalues
        found = fit_image(an_image(single), recipe())[0].components.eigenvalues
        np.testing.assert_allclose(found, wanted, rtol=1e-12)

    def test_mapped_from_a_file(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "cube.npy"
            np.save(path, np.moveaxis(cube(), 2, 0))
            mapped = np.load(path, mmap_mode="r")
            image = replace(an_image(), matrix=Folded(mapped, 0))
            with in_tiles(2):
                found = fit_image(image, recipe())[0]
        wanted = fit_image(an_image(), recipe())[0]
        np.testing.assert_allclose(found.components.eigenvalues, wanted.components.eigenvalues, rtol=1e-10)

    def test_smoothness_does_not_depend_on_the_cut(self):
        mask = np.ones(ROWS * COLUMNS, dtype=bool)
        mask[[5, 17, 40, 41]] = False
        wanted = smooth_order(PixelTreatment(an_image(mask=mask)))
        for rows in (1, 2, 4):
            with in_tiles(rows):
                found = smooth_order(PixelTreatment(an_image(mask=mask)))
            self.assertEqual(found.pairs, wanted.pairs)
            np.testing.assert_allclose(found.kappa, wanted.kappa, rtol=1e-10)

    def test_smoothness_by_hand(self):
        values = cube()
        across = np.diff(values, axis=1).reshape(-1, P)
        down = np.diff(values, axis=0).reshape(-1, P)
        found = smooth_order(PixelTreatment(an_image()))
        a = found.weights[:, 0]
        self.assertAlmostEqual(a @ np.cov(values.reshape(-1, P).T) @ a, 1.0, places=8)
        both = np.concatenate([across @ a, down @ a])
        self.assertAlmostEqual((both**2).mean(), found.kappa[0], places=8)
        self.assertAlmostEqual(((across @ a) ** 2).mean(), found.along[0, 0], places=8)
        self.assertGreater(found.autocorrelation[0], found.limit)

    def test_the_smoothest_of_noise_stays_under_its_limit(self):
        rng = np.random.default_rng(8)
        past = 0
        for _ in range(60):
            noise = rng.normal(size=(30, COLUMNS * 4, 8))
            axis = Axis(tuple("abcdefgh"), np.arange(8.0))
            found = smooth_order(PixelTreatment(Image(Folded(noise), GridLayout(30, COLUMNS * 4), axis)))
            past += found.autocorrelation[0] > found.limit
        self.assertLessEqual(past, 10)

    def test_side_by_side(self):
        two = Image(Stacked((Folded(cube()), Folded(cube(seed=5)))), GridLayout(ROWS, COLUMNS), AXIS)
        self.assertEqual((two.images, two.shape), (2, (ROWS, 2 * COLUMNS)))
        pixel = two.pixel_at(COLUMNS + 2, 4)
        self.assertEqual(two.place_of(pixel), (COLUMNS + 2, 4))
        np.testing.assert_allclose(two.spectra(np.array([pixel]))[0], cube(seed=5)[4, 2])
        flat = np.concatenate([cube().reshape(-1, P), cube(seed=5).reshape(-1, P)])
        picture = two.as_map(flat[:, 3])
        np.testing.assert_allclose(picture[:, COLUMNS:], cube(seed=5)[:, :, 3])
        found = smooth_order(PixelTreatment(two))
        self.assertEqual(found.pairs, (2 * ROWS * (COLUMNS - 1), 2 * (ROWS - 1) * COLUMNS))
        model, _ = fit_image(two, recipe(scheme="images"))
        self.assertEqual(model.segments, 2)


class NewImages(unittest.TestCase):
    def test_the_same_image_gives_its_own_maps(self):
        model, maps = fit_image(an_image(), RECIPES["chain"])
        found = project_image(model.saved, an_image())
        np.testing.assert_allclose(found.t2, maps.t2, rtol=1e-9)
        np.testing.assert_allclose(found.q, maps.q, rtol=1e-9)

    def test_channels_in_another_order_and_more_of_them(self):
        model, maps = fit_image(an_image(), recipe())
        order = np.arange(P)[::-1]
        turned = replace(an_image(), matrix=Columns(Folded(cube()), order), axis=AXIS.take(order))
        np.testing.assert_allclose(project_image(model.saved, turned).q, maps.q, rtol=1e-9)
        fewer = replace(an_image(), matrix=Columns(Folded(cube()), order[:5]), axis=AXIS.take(order[:5]))
        with self.assertRaisesRegex(InputError, "lacks 7 of the model's 12 channels: 1000 nm"):
            project_image(model.saved, fewer)


class WhatDoesNotCount(unittest.TestCase):
    def test_gaps_and_pixels_that_cannot_be_treated_are_left_out_and_counted(self):
        values = cube()
        values[2, 3, 5] = np.nan
        values[4, 4] = 7.0  # no slope, no spread: SNV cannot divide
        model, maps = fit_image(an_image(values), RECIPES["snv"])
        self.assertEqual(model.counted, ROWS * COLUMNS - 2)
        self.assertIn("2 pixels with gaps or that could not be treated", model.remarks[-1])
        self.assertEqual(sorted(np.flatnonzero(~maps.known)), [2 * COLUMNS + 3, 4 * COLUMNS + 4])

    def test_pixels_outside_the_mask(self):
        mask = np.zeros(ROWS * COLUMNS, dtype=bool)
        mask[: 6 * COLUMNS] = True
        model, maps = fit_image(an_image(mask=mask), recipe())
        wanted, _ = fit_image(an_image(cube()[:6]), recipe())
        np.testing.assert_allclose(model.saved.eigenvalues, wanted.saved.eigenvalues, rtol=1e-10)
        np.testing.assert_array_equal(maps.known, mask)

    def test_constant_channels_have_no_weight(self):
        values = cube()
        values[:, :, 4] = 3.25
        model, _ = fit_image(an_image(values), recipe(method="sd"))
        self.assertEqual(model.components.weight[4], 0.0)
        self.assertTrue(
            (model.components.loadings[4] == 0.0).all() or abs(model.saved.loadings[4]).max() < 1e-12
        )

    def test_refused_with_a_sentence(self):
        with self.assertRaisesRegex(InputError, "no multiple"):
            Image(Folded(cube()), GridLayout(4, 7), AXIS)
        with self.assertRaisesRegex(InputError, "mask leaves no pixel"):
            an_image(mask=np.zeros(ROWS * COLUMNS, dtype=bool))
        with self.assertRaisesRegex(InputError, "mask has 5 pixels"):
            an_image(mask=np.ones(5, dtype=bool))
        for how, said in (
            (recipe(method="mad"), "scaling mad"),
            (recipe(centre="median"), "the median"),
            (recipe(scheme="images"), "one image only"),
            (recipe(scheme="class"), "does not suit an image"),
        ):
            with self.subTest(said), self.assertRaisesRegex(InputError, said):
                fit_image(an_image(), how)

    def test_it_can_be_stopped(self):
        for stop_at in (0.0, 0.3, 0.7):
            with in_tiles(1), self.assertRaises(Stopped):
                fit_image(an_image(), RECIPES["chain"], lambda share, at=stop_at: share < at)

    def test_more_than_the_mean_is_learned_from_a_sample_and_said(self):
        steps = recipe({"method": "probabilistic-quotient"}).treat
        with mock.patch("scutcher.core.images.pixel_treatment.SAMPLE", 40):
            found = learn(an_image(), steps, Here().mean)
        self.assertIn("learned from 40 evenly spaced pixels", found.remarks[0])


class OfATable(unittest.TestCase):
    def test_places_in_any_order_and_missing_ones(self):
        table = a_table().take(np.random.default_rng(1).permutation(ROWS * COLUMNS)[5:])
        image = image_of_table(table)
        self.assertEqual((image.layout.rows, image.layout.columns), (ROWS, COLUMNS))
        self.assertEqual(int(image.mask.sum()), ROWS * COLUMNS - 5)
        pixel = int(np.flatnonzero(image.mask)[17])
        np.testing.assert_array_equal(image.spectra(np.array([pixel]))[0], cube().reshape(-1, P)[pixel])

    def test_what_is_no_picture(self):
        with self.assertRaisesRegex(InputError, "no two columns of places"):
            image_of_table(replace(a_table(), properties=()))
        with self.assertRaisesRegex(InputError, "no column of places 'u'"):
            image_of_table(a_table(), ("u", "y"))
        twice = a_table().take(np.array([0, 1, 2, 3, 4, 9, 10, 11, 12, 13]))
        same = replace(twice, properties=tuple(
            PropertyColumn(c.name, np.where(np.arange(10) == 9, c.values[0], c.values), c.unit)
            for c in twice.properties
        ))  # fmt: skip
        with self.assertRaisesRegex(InputError, "two samples are at x 1, y 1"):
            image_of_table(same, ("x", "y"))


if __name__ == "__main__":
    unittest.main()
