"""Numbers that a person decides, what comes back in part of the samples, tables predicted from others."""

import unittest

import numpy as np

from scutcher.core.blocks.checking import steady_blocks
from scutcher.core.blocks.common import Search
from scutcher.core.blocks.consensus import block_model
from scutcher.core.blocks.fitting import decided_counts, fit_blocks
from scutcher.core.blocks.held_out import shares_held_out
from scutcher.core.blocks.matching import match
from scutcher.core.blocks.prediction import expected_z, foretold, in_units
from scutcher.core.blocks.reduced import reduced
from scutcher.core.blocks.stability import resampled
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import Recipe, ValidateSettings, recipe_from_plain, recipe_to_plain
from scutcher.study.evaluation.blocks import source_of
from tests.core.blocks.test_blocks import model_of, pattern, planted
from tests.core.blocks.test_saved_blocks import tables

ALL = (0, 1, 2)


def decided(blocks, counts, ranks=(4, 4, 3)):
    parts = [reduced(f"b{b}", z, r) for b, (z, r) in enumerate(zip(blocks, ranks, strict=True))]
    return block_model(parts, counts=counts)


class Decided(unittest.TestCase):
    def test_the_number_that_was_found_changes_nothing(self):
        blocks, _ = planted(3)
        free, held = model_of(blocks), decided(blocks, {ALL: 2})
        self.assertEqual(pattern(free), pattern(held))
        for one, other in zip(free.components, held.components, strict=True):
            np.testing.assert_allclose(one.consensus, other.consensus, atol=1e-9)

    def test_fewer_and_more_than_found(self):
        blocks, scores = planted(3)
        fewer = decided(blocks, {ALL: 1})
        self.assertEqual(len(fewer.of(ALL)), 1)
        self.assertIn((0, 1), pattern(fewer))  # what is common to all is shared by pairs, once it may not be
        more = decided(blocks, {ALL: 3})
        self.assertEqual(len(more.of(ALL)), 3)
        self.assertEqual(more.of_block(2), more.of(ALL))  # nothing of its own is left to a table of three
        known = np.linalg.qr(scores[:, :2])[0]
        space = np.linalg.qr(np.column_stack([one.consensus for one in more.of(ALL)]))[0]
        self.assertGreater(np.linalg.svd(known.T @ space, compute_uv=False).min(), 0.99)
        self.assertLess(min(one.agreement for one in more.of(ALL)), 0.5)

    def test_never_more_than_the_smallest_table_has(self):
        blocks, _ = planted(3)
        self.assertEqual(len(decided(blocks, {ALL: 9}).of(ALL)), 3)
        self.assertEqual(decided(blocks, {ALL: 0, (0, 1): 0, (0, 2): 0, (1, 2): 0}).sets, ())

    def test_what_would_come_next_is_the_nearest_direction(self):
        blocks, _ = planted(5)
        model = model_of(blocks)
        left = [basis.copy() for basis in model.search.bases]
        (first,) = model.next_of((0, 1), 1)
        rng = np.random.default_rng(1)
        best = 0.0
        for _ in range(4000):
            a, b = (basis @ rng.normal(size=basis.shape[1]) for basis in left[:2])
            best = max(best, abs(float(a @ b)) / np.linalg.norm(a) / np.linalg.norm(b))
        cosine = abs(float(first.scores[0] @ first.scores[1]))
        self.assertGreaterEqual(cosine, best - 1e-3)
        self.assertLess(cosine**2, first.chance)  # the rule had a reason
        for basis, before in zip(model.search.bases, left, strict=True):
            np.testing.assert_array_equal(basis, before)  # looking takes nothing

    def test_the_chance_limit_is_reached_as_often_as_said(self):
        rng = np.random.default_rng(4)
        past = 0
        for _ in range(300):
            bases = [np.linalg.qr(rng.normal(size=(40, 3)))[0] for _ in range(2)]
            search = Search(bases, [np.eye(3), np.eye(3)], 40.0)
            largest = np.linalg.svd(bases[0].T @ bases[1], compute_uv=False)[0] ** 2
            past += largest > search.chance((0, 1))
        self.assertLessEqual(past, 27)
        self.assertGreaterEqual(past, 4)

    def test_sets_of_tables_that_are_not_there_decide_nothing(self):
        settings = BlocksSettings(counts=((("nir", "bench"), 1), (("nir", "gone"), 2), (("nir",), 1)))
        self.assertEqual(decided_counts(("bench", "nir", "curves"), settings), {(0, 1): 1})

    def test_decisions_go_into_the_recipe_and_back(self):
        plain = {"blocks": {"counts": [[["nir", "bench"], 1]]}}
        recipe = recipe_from_plain(plain)
        self.assertEqual(recipe.blocks.counts, ((("nir", "bench"), 1),))
        self.assertEqual(recipe_from_plain(recipe_to_plain(recipe)).blocks, recipe.blocks)


class Steady(unittest.TestCase):
    def test_planted_components_come_back_and_a_forced_one_wanders(self):
        blocks, _ = planted(3, noise=0.2)
        for one in resampled(model_of(blocks)):
            self.assertGreaterEqual(one.found, 0.9 * one.draws)
            self.assertGreater(one.alike, 0.97)
            self.assertLessEqual(one.low, one.alike)
        forced = next(
            one for one in resampled(decided(blocks, {ALL: 2, (0, 2): 1, (1, 2): 0})) if one.blocks == (0, 2)
        )
        self.assertEqual(forced.found, forced.draws)  # it is asked for in every draw
        self.assertLess(forced.low, 0.9)

    def test_products_of_samples_say_the_same_as_the_values(self):
        blocks, _ = planted(7, n=30, sizes=(90, 12, 40))
        model = model_of(blocks)
        wide = resampled(model, draws=6)
        rows = np.sort(np.random.default_rng(1).choice(30, 24, replace=False))
        own = model_of([z[rows] - z[rows].mean(axis=0) for z in blocks])
        one = model.of(ALL)[0]
        part = one.consensus[rows] - one.consensus[rows].mean()
        space = np.linalg.qr(np.column_stack([found.consensus for found in own.of(ALL)]))[0]
        cosine = np.linalg.norm(space.T @ part) / np.linalg.norm(part)
        first = next(found for found in resampled(model, draws=1) if (found.blocks, found.order) == (ALL, 0))
        self.assertAlmostEqual(first.alike, cosine, places=6)
        self.assertEqual({found.draws for found in wide}, {6})


class Predicted(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tables = tables(60, 5)
        sources = [source_of(table, Recipe(), table.name) for table in cls.tables]
        cls.fitted = fit_blocks(match(sources), BlocksSettings())

    def test_a_table_from_the_others_against_least_squares_on_what_is_hidden(self):
        new = tables(40, 8, first=100)
        z = {b: self.fitted.treated[b].z_of_table(table) for b, table in enumerate(new)}
        bench = self.fitted.names.index("bench")
        guess = expected_z(self.fitted.model, bench, {b: own for b, own in z.items() if b != bench})
        values = in_units(self.fitted, bench, guess)
        wrong = new[bench].values - values
        self.assertLess(np.sqrt(np.mean(wrong**2)), 0.3)  # the noise alone has 0.2
        self.assertIsNone(expected_z(self.fitted.model, bench, {bench: z[bench]}))

    def test_how_well_is_said_by_samples_that_were_left_out(self):
        segments = [np.arange(60)[place::5] for place in range(5)]
        told = foretold(self.fitted, segments, self.fitted.matched.refit)
        bench = self.fitted.names.index("bench")
        new = tables(300, 11, first=1000)
        z = {b: self.fitted.treated[b].z_of_table(table) for b, table in enumerate(new)}
        guess = expected_z(self.fitted.model, bench, {b: own for b, own in z.items() if b != bench})
        real = 1.0 - float(((z[bench] - guess) ** 2).sum() / (z[bench] ** 2).sum())
        self.assertAlmostEqual(told[bench].share, real, delta=0.06)
        error = np.sqrt(np.mean((new[bench].values - in_units(self.fitted, bench, guess)) ** 2, axis=0))
        np.testing.assert_allclose(told[bench].error, error, rtol=0.5)
        nir = self.fitted.names.index("nir")
        self.assertLess(told[nir].share, told[bench].share)  # a third of it is its own

    def test_one_sample_far_outside_says_nothing_of_the_rest(self):
        away = np.zeros_like(self.tables[1].values)
        away[7] = 400.0
        far = [self.tables[0], self.tables[1].with_values(self.tables[1].values + away), self.tables[2]]
        sources = [source_of(table, Recipe(), table.name) for table in far]
        fitted = fit_blocks(match(sources), BlocksSettings())
        segments = [np.arange(60)[place::5] for place in range(5)]
        share = foretold(fitted, segments, fitted.matched.refit)[fitted.names.index("curves")].share
        self.assertGreater(share, 0.8)

    def test_what_each_kind_explains_of_left_out_samples_adds_up_to_the_whole(self):
        segments = [np.arange(60)[place::5] for place in range(5)]
        told = foretold(self.fitted, segments, self.fitted.matched.refit)
        whole = shares_held_out(self.fitted.model, segments, self.fitted.matched.refit)
        for one, share in zip(told, whole, strict=True):
            self.assertAlmostEqual(float(one.explained.sum()), share, places=9)
        nir, bench = (self.fitted.names.index(name) for name in ("nir", "bench"))
        self.assertGreater(told[bench].explained[0], 0.9)  # nearly all of it is common
        self.assertGreater(told[nir].explained[2], 0.1)  # a third was planted as its own
        self.assertEqual(told[bench].explained[1], 0.0)  # nothing is shared by some

    def test_both_are_asked_for_together(self):
        found = steady_blocks(self.fitted, ValidateSettings())
        self.assertEqual({one.blocks for one in found.stability}, {ALL})
        self.assertEqual(len(found.foretold), 3)
        without = steady_blocks(self.fitted, ValidateSettings(scheme="none"))
        self.assertEqual(without.foretold, ())


if __name__ == "__main__":
    unittest.main()
