"""Mixtures: shapes that are means of the spectra themselves, bands that hold, limits, saved shapes."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError
from scutcher.core.recipes.recipe import Recipe, recipe_from_plain, recipe_to_plain
from scutcher.core.recipes.unmix_settings import Shape, UnmixSettings
from scutcher.core.unmixing.leftover_limit import leftover_limit
from scutcher.core.unmixing.mixture import mixture, shape_values
from scutcher.core.unmixing.saved_mixture import SavedMixture, amounts_in
from scutcher.demo.sets import demo_set
from scutcher.files.class_models_json import read_any_model
from scutcher.files.mixture_json import write_mixture_model
from tests.core.unmixing.test_shape_sums import bands


def states(seed, n=48, third=0.0, noise=0.02, smooth=0):
    """Spectra that go from one state to another; `third` of a shape that comes in between."""
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 1, n)
    one = 1 / (1 + np.exp((t - 0.5) / 0.1))
    shapes = bands(150, 0.3, 0.5, 0.7)
    away = rng.normal(size=(n, 150))
    if smooth:
        away = np.apply_along_axis(np.convolve, 1, away, np.ones(smooth) / smooth, "same")
    values = np.column_stack([one, 1 - one]) @ shapes[:2] + noise * away
    values += third * np.outer(np.exp(-(((t - 0.5) / 0.1) ** 2)), shapes[2])
    axis = np.arange(1000.0, 1150.0)
    labels = tuple(f"{place:g}" for place in axis)
    return Table(values, Axis(labels, axis, "wavelength", "nm"), tuple(f"s{k}" for k in range(n))), one


def ends(table, m=3):
    ids = table.ids
    return (Shape(name="early", samples=tuple(ids[:m])), Shape(name="late", samples=tuple(ids[-m:])))


class OfTheSpectraThemselves(unittest.TestCase):
    def test_noise_of_the_shapes_is_not_taken_for_another_shape(self):
        false, found = 0, 0
        for seed in range(20):
            table, _ = states(seed)
            false += mixture(table, UnmixSettings(shapes=ends(table), rule="free")).another_is_needed
            table, _ = states(seed, third=0.08)
            found += mixture(table, UnmixSettings(shapes=ends(table), rule="free")).another_is_needed
        self.assertLessEqual(false, 2)
        self.assertGreaterEqual(found, 18)

    def test_bands_allow_for_it(self):
        inside, count = 0, 0
        for seed in range(30):
            table, one = states(seed, noise=0.03)
            shapes = UnmixSettings(shapes=ends(table, 3), rule="free", background=-1)
            found = mixture(table, shapes)
            scale = one[:3].mean() - one[-3:].mean()
            truth = (one - one[-3:].mean()) / scale  # in units of shapes that are mixtures themselves
            rows = slice(6, 42)
            inside += int(((found.low[rows, 0] <= truth[rows]) & (truth[rows] <= found.high[rows, 0])).sum())
            count += 36
        self.assertGreater(inside / count, 0.9)

    def test_a_missing_sample_is_named(self):
        table, _ = states(1)
        with self.assertRaisesRegex(ModelError, "which is not in the model"):
            mixture(table, UnmixSettings(shapes=(Shape(name="x", samples=("nobody",)),)))
        with self.assertRaisesRegex(ModelError, "2 places and 1 values"):
            shape_values(Shape(name="x", places=(1.0, 2.0), values=(1.0,)), table)
        with self.assertRaisesRegex(ModelError, "The reference goes from 1010"):
            shape_values(Shape(name="x", places=(1010.0, 1020.0), values=(1.0, 2.0)), table)

    def test_differences_and_values(self):
        table, _ = states(2)
        ids = table.ids
        line, count = shape_values(Shape(name="d", samples=ids[:2], less=ids[5:8]), table)
        np.testing.assert_allclose(line, table.values[:2].mean(axis=0) - table.values[5:8].mean(axis=0))
        self.assertEqual(count, 2)
        places = tuple(np.linspace(900.0, 1200.0, 40))
        line, count = shape_values(Shape(name="v", places=places, values=tuple(np.sin(places))), table)
        self.assertEqual((count, len(line)), (0, 150))


class Limits(unittest.TestCase):
    def test_five_of_a_hundred_are_past_whether_or_not_a_shape_is_missing(self):
        for smooth in (0, 9):
            past, early = [], []
            for seed in range(20):
                rng = np.random.default_rng(seed)
                away = rng.normal(size=(60, 150))
                if smooth:
                    away = np.apply_along_axis(np.convolve, 1, away, np.ones(smooth) / smooth, "same")
                q = (away**2).sum(axis=1)
                past.append((q > leftover_limit(away, True).value).mean())
                late = np.clip(np.linspace(-2, 1, 60), 0, None)
                more = away + 8 * np.outer(late, bands(150, 0.5)[0])
                q = (more**2).sum(axis=1)
                limit = leftover_limit(more, True).value
                early.append((q[:40] > limit).mean())
                self.assertTrue((q[-5:] > limit).all())
            self.assertLess(np.mean(past), 0.1)
            self.assertLess(np.mean(early), 0.12)

    def test_without_an_order_it_is_box(self):
        away = np.random.default_rng(1).normal(size=(40, 30))
        q = (away**2).sum(axis=1)
        self.assertAlmostEqual((q > leftover_limit(away, False).value).mean(), 0.05, delta=0.08)


class DemoAnswers(unittest.TestCase):
    def test_drying_when_half_is_gone_and_the_third_change(self):
        from scutcher.core.recipes.chain import run_step
        from scutcher.core.recipes.recipe import Step
        from scutcher.core.series.evolving_rank import evolving_rank
        from scutcher.core.treatments import treatment

        table, truth = demo_set("drying")
        how = treatment("shift-to-peak").parameters(position=1386.0, half_width=10.0)
        aligned = run_step(table, Step("shift-to-peak", how)).table
        found = mixture(aligned, UnmixSettings(shapes=ends(aligned), rule="free"))
        crossed = int(np.flatnonzero(found.amounts[:, 0] < 0.5)[0])
        self.assertAlmostEqual(4.0 * crossed, truth["half_gone_min"], delta=4.0)
        shares = np.array(list(truth["share_of_wet_state"].values()))
        np.testing.assert_allclose(found.amounts[:, 0], shares, atol=0.03)
        self.assertTrue(found.another_is_needed)
        begins = truth["third_change"]["begins_after_min"]
        appears = 4.0 * evolving_rank(aligned.values, 3).appears()[2]
        self.assertTrue(begins < appears <= begins + 12.0, appears)
        ids = aligned.ids
        before = (Shape(name="wet", samples=ids[:3]), Shape(name="dry", samples=ids[18:21]))
        found = mixture(aligned, UnmixSettings(shapes=before, rule="free", background=1))
        past = 4.0 * np.flatnonzero(found.q > 2.0 * found.q_limit.value)
        self.assertEqual(past.tolist(), list(range(int(begins) + 4, 121, 4)))

    def test_bark_profile_three_layers(self):
        table, truth = demo_set("bark-profile")
        found = mixture(table, UnmixSettings(number=3))
        bark = np.array(list(truth["share_of_bark"].values()))
        glue = np.array(list(truth["share_of_glue"].values()))
        for wanted in (bark, glue, 1.0 - bark):
            alike = [abs(np.corrcoef(found.amounts[:, k], wanted)[0, 1]) for k in range(3)]
            self.assertGreater(max(alike), 0.85)
        place = int(np.argmax([np.corrcoef(found.amounts[:, k], glue)[0, 1] for k in range(3)]))
        depth = table.properties[0].values[int(found.amounts[:, place].argmax())]
        self.assertAlmostEqual(depth, truth["glue_most_at_um"], delta=2.0)


class Windows(unittest.TestCase):
    def series(self):
        rng = np.random.default_rng(4)
        t = np.arange(60)
        amounts = np.column_stack(
            [np.clip(1 - t / 30, 0, None), np.exp(-(((t - 28) / 9) ** 2)), np.clip((t - 26) / 33, 0, None)]
        )
        shapes = bands(120, 0.35, 0.5, 0.65, width=0.12)
        axis = np.arange(1000.0, 1120.0)
        table = Table(
            amounts @ shapes + 0.002 * rng.normal(size=(60, 120)),
            Axis(tuple(f"{place:g}" for place in axis), axis, "wavelength", "nm"),
            tuple(f"s{k}" for k in range(60)),
        )
        return table, amounts, shapes

    def test_shapes_are_absent_outside_their_windows_and_nearer_to_the_truth(self):
        table, _, shapes = self.series()
        free = mixture(table, UnmixSettings(number=3))
        local = mixture(table, UnmixSettings(number=3, windows=True))
        self.assertTrue((local.amounts[-8:, 0] == 0.0).all())
        self.assertTrue((local.amounts[:8, 2] == 0.0).all())
        worst = []
        for found in (free, local):
            unit = found.shapes / np.linalg.norm(found.shapes, axis=1, keepdims=True)
            wanted = shapes / np.linalg.norm(shapes, axis=1, keepdims=True)
            worst.append((unit @ wanted.T).max(axis=0).min())
        self.assertGreaterEqual(worst[1], worst[0] - 1e-6)
        self.assertGreater(worst[1], 0.97)
        self.assertFalse(local.opened.exact)

    def test_given_and_found_shapes_that_are_nearly_one(self):
        table = demo_set("drying")[0]
        known = ends(table)
        for number in (2, 3, 4):
            try:
                found = mixture(table, UnmixSettings(shapes=known, number=number))
                self.assertTrue(np.isfinite(found.amounts).all())
            except ModelError as error:
                self.assertIn("shape", str(error))

    def test_too_few_changes_are_said(self):
        table, _ = states(1)
        with self.assertRaisesRegex(ModelError, "changes above noise, not 4"):
            mixture(table, UnmixSettings(number=4, windows=True))


class Saved(unittest.TestCase):
    def test_there_and_back_and_on_new_spectra(self):
        table, _ = states(3)
        found = mixture(table, UnmixSettings(shapes=ends(table), rule="free", background=0))
        model = SavedMixture(
            table.axis, (), (), table.axis.labels, found.names, found.shapes, "free", 0, found.q_limit,
            found.means_of,
        )  # fmt: skip
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "model.json"
            write_mixture_model(path, model)
            again = read_any_model(path)
        np.testing.assert_array_equal(again.shapes, model.shapes)
        new, one = states(4)
        amounts = amounts_in(again, new)
        np.testing.assert_allclose(amounts.sums.amounts[:, 0], one, atol=0.06)
        self.assertLess(amounts.past.mean(), 0.15)
        self.assertEqual(again.means_of, (3, 3))

    def test_the_recipe_there_and_back(self):
        table, _ = states(1)
        recipe = Recipe(unmix=UnmixSettings(shapes=ends(table), rule="sum-to-one", background=1))
        plain = recipe_to_plain(recipe)
        self.assertEqual(recipe_from_plain(plain), recipe)
        self.assertNotIn("unmix", recipe_to_plain(Recipe()))


if __name__ == "__main__":
    unittest.main()
