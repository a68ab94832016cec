"""Stability of loadings, scores and planes, and the influence of groups, against slow versions by hand."""

import unittest
from unittest import mock

import numpy as np
from scipy.linalg import orthogonal_procrustes, subspace_angles

from scutcher.core.models.pca.engines.choice import decompose, decompose_up_to
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings, recipe_from_plain
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.validation.cross_validation import validate
from scutcher.core.validation.influence import influence
from scutcher.core.validation.limit_coverage import Simulated
from scutcher.core.validation.segments import groups_of, make_segments
from scutcher.core.validation.stability import planes, stability, turned_onto
from tests.core.validation.test_held_out_limits import table_of


def leading(values, k):
    """Mean and first k loadings by a plain decomposition."""
    mean = values.mean(axis=0)
    return mean, np.linalg.svd(values - mean, full_matrices=False)[2][:k].T


class Moves(unittest.TestCase):
    def setUp(self):
        self.values, groups = Simulated(25, replicates=2).draw(36, np.random.default_rng(3))
        self.table = table_of(self.values, tuple(f"g{g}" for g in groups))

    def recipe(self, **validation):
        return Recipe(
            scale=ScaleSettings(centre="mean", method="none"),
            model=ModelSettings(components=3),
            validate=recipe_from_plain({"validate": validation}).validate,
        )

    def test_against_each_segment_by_hand(self):
        k = 3
        full = leading(self.values, k)[1]
        for scheme, repeats in (("random", 3), ("blinds", 1), ("one-out", 1)):
            with self.subTest(scheme):
                recipe = self.recipe(scheme=scheme, repeats=repeats)
                found = stability(validate(self.table, recipe, k).models, full, 36)
                variances, places, counts = [], np.zeros((36, k)), np.zeros((36, 1))
                for repeat in make_segments(self.table, recipe.validate).parts:
                    turned = []
                    for rows in repeat:
                        mean, loadings = leading(np.delete(self.values, rows, axis=0), k)
                        loadings = loadings @ orthogonal_procrustes(loadings, full)[0]
                        turned.append(loadings)
                        places[rows] += (self.values[rows] - mean) @ loadings
                        counts[rows] += 1
                    m, turned = len(turned), np.array(turned)
                    away = turned - turned.mean(axis=0)
                    variances.append((m - 1) / m * (away**2).sum(axis=0))
                np.testing.assert_allclose(found.errors, np.sqrt(np.mean(variances, axis=0)), rtol=1e-6)
                np.testing.assert_allclose(found.places, places / counts, rtol=1e-6, atol=1e-9)

    def test_a_sign_or_an_order_of_the_full_model_changes_no_error(self):
        models = validate(self.table, self.recipe(), 3).models
        full = leading(self.values, 3)[1]
        one, two = stability(models, full, 36), stability(models, full[:, [1, 0, 2]] * [-1, 1, 1], 36)
        np.testing.assert_allclose(one.errors[:, [1, 0, 2]], two.errors, atol=1e-12)
        np.testing.assert_allclose(one.places[:, 0], two.places[:, 1], atol=1e-9)

    def test_noise_is_faint_and_structure_is_not(self):
        rng = np.random.default_rng(8)
        band = np.exp(-0.5 * ((np.arange(60) - 15) / 4.0) ** 2)
        values = np.outer(rng.normal(size=80), band) + 0.02 * rng.normal(size=(80, 60))
        table, full = table_of(values), leading(values, 1)[1]
        faint = stability(validate(table, self.recipe(), 1).models, full, 80).faint(full)[:, 0]
        self.assertFalse(faint[10:21].any())
        self.assertGreater(faint[35:].mean(), 0.75)

    def test_more_components_than_the_segments_have(self):
        models = validate(self.table, self.recipe(), 3).models
        self.assertIsNone(stability(models, np.eye(25)[:, :20], 36))

    def test_a_turn_is_undone(self):
        rng = np.random.default_rng(1)
        full = np.linalg.qr(rng.normal(size=(30, 4)))[0]
        turn = np.linalg.qr(rng.normal(size=(4, 4)))[0]
        np.testing.assert_allclose((full @ turn) @ turned_onto(full @ turn, full), full, atol=1e-12)


class Planes(unittest.TestCase):
    def segments(self, turn_of):
        return np.array([turn_of(place) for place in range(8)])

    def turn(self, k, first, second, degrees):
        found = np.eye(k)
        c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
        found[np.ix_([first, second], [first, second])] = [[c, -s], [s, c]]
        return found

    def test_what_stands_still_is_told_apart(self):
        self.assertEqual(planes(self.segments(lambda s: self.turn(4, 0, 1, 10))), ((), ()))

    def test_two_that_turn_in_their_plane(self):
        self.assertEqual(planes(self.segments(lambda s: self.turn(5, 1, 2, 45))), (((2, 3),), ()))

    def test_two_that_swap_in_a_third_of_the_segments(self):
        found = planes(self.segments(lambda s: self.turn(4, 2, 3, 90 * (s % 3 == 0))))
        self.assertEqual(found, (((3, 4),), ()))
        found = planes(self.segments(lambda s: self.turn(4, 2, 3, 90 * (s % 4 == 0))))
        self.assertEqual(found, ((), ()), "a quarter is not more than a quarter")

    def test_two_planes_side_by_side_are_two(self):
        both = self.turn(5, 0, 1, 60) @ self.turn(5, 2, 3, 70)
        self.assertEqual(planes(self.segments(lambda s: both)), (((1, 2), (3, 4)), ()))

    def test_the_last_one_that_turns_out_of_the_model(self):
        def lost(s):
            found = np.eye(3)
            found[2, 2] = 0.3
            return found

        self.assertEqual(planes(self.segments(lost)), ((), (3,)))

    def test_words(self):
        rng = np.random.default_rng(4)
        round_ = np.linalg.qr(rng.normal(size=(30, 2)) - 0.0)[0] * 30**0.5  # two of one size
        values = np.hstack([round_ - round_.mean(axis=0), 0.05 * rng.normal(size=(30, 12))])
        recipe = Recipe(scale=ScaleSettings(centre="mean", method="none"))
        full = leading(values, 2)[1]
        found = stability(validate(table_of(values), recipe, 2).models, full, 30)
        self.assertEqual(found.words, "1 and 2 are not told apart")


class Influences(unittest.TestCase):
    def angles(self, values, groups, k):
        full = leading(values, k)[1]
        without = [leading(np.delete(values, rows, axis=0), k)[1] for rows in groups]
        return [np.degrees(subspace_angles(full, one)[0]) for one in without]

    def check(self, n, p, computed, tolerance):
        values, codes = Simulated(p, replicates=3).draw(n, np.random.default_rng(11))
        values[:3] += 4 * np.random.default_rng(2).normal(size=p)  # one lot that the model leans on
        table = table_of(values, tuple(f"g{g}" for g in codes))
        groups = groups_of(table)
        z = values - values.mean(axis=0)
        found = influence(z, decompose_up_to(Scaled(z), True, computed, "exact"), groups, True)
        for k in (1, 2, 4):
            wanted = self.angles(values, groups, k)
            for place, rows in enumerate(groups):
                degrees = found.of_samples(k)[rows]
                self.assertEqual(len(set(degrees)), 1)
                away = abs(degrees[0] - wanted[place])
                self.assertLess(away, tolerance * max(wanted[place], 1.0), (k, place))
        self.assertEqual(int(np.argmax(found.degrees[:, 1])), 0)

    def test_exact_where_all_components_are_there(self):
        self.check(30, 12, 12, 1e-6)
        self.check(24, 60, 23, 1e-6)

    def test_near_where_they_are_not(self):
        self.check(60, 200, 20, 0.03)

    def test_of_very_many_groups_those_that_the_model_leans_on(self):
        rng = np.random.default_rng(5)
        values = rng.normal(size=(80, 6)) * [5, 3, 2, 1, 1, 1]
        values[:4] *= 4.0
        z = values - values.mean(axis=0)
        groups = [np.array([row]) for row in range(80)]
        found = decompose_up_to(Scaled(z), True, 6, "exact")
        every = influence(z, found, groups, True)
        with mock.patch.multiple("scutcher.core.validation.influence", MOST_GROUPS=10, MOST_SAMPLES=10):
            some = influence(z, found, groups, True)
        known = np.isfinite(some.degrees[:, 1])
        self.assertEqual(int(known.sum()), 10)
        self.assertTrue(known[:4].all())
        np.testing.assert_allclose(some.degrees[known], every.degrees[known], atol=1e-6)

    def test_too_few_left(self):
        z = np.random.default_rng(1).normal(size=(4, 6))
        z -= z.mean(axis=0)
        found = influence(z, decompose(Scaled(z), True, 3), [np.arange(3), np.arange(3, 4)], True)
        self.assertTrue(np.isnan(found.degrees[0]).all())
        self.assertTrue(np.isfinite(found.degrees[1, :2]).all())
        self.assertTrue(np.isnan(found.of_samples(9)).all())
