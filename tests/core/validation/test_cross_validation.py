"""Segments as CLI.md fixes them, and held-out error against least squares without the variables left out."""

import unittest
from collections import Counter

import numpy as np

from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import ModelError, RecipeError, TableError
from scutcher.core.progress import Stopped
from scutcher.core.recipes.recipe import ValidateSettings, recipe_from_plain
from scutcher.core.validation.cross_validation import validate
from scutcher.core.validation.press import predicted_squares, rowwise_squares
from scutcher.core.validation.segments import group_codes, make_segments
from tests.core.making import mixed_table, ordered_table, random_spectra


def parts_of(table, **settings):
    return [
        [part.tolist() for part in repeat]
        for repeat in make_segments(table, ValidateSettings(**settings)).parts
    ]


class SegmentsTest(unittest.TestCase):
    def setUp(self):
        self.table = ordered_table(random_spectra(10, 5))

    def test_blocks_and_blinds(self):
        self.assertEqual(
            parts_of(self.table, scheme="blocks", segments=3), [[[0, 1, 2, 3], [4, 5, 6], [7, 8, 9]]]
        )
        self.assertEqual(
            parts_of(self.table, scheme="blinds", segments=3), [[[0, 3, 6, 9], [1, 4, 7], [2, 5, 8]]]
        )

    def test_one_out_and_the_usual_number(self):
        self.assertEqual(parts_of(self.table, scheme="one-out"), [[[row] for row in range(10)]])
        self.assertEqual(len(parts_of(self.table)[0]), 7)
        self.assertEqual(len(parts_of(ordered_table(random_spectra(4, 5)))[0]), 4)

    def test_random_is_a_seeded_permutation_dealt_out_in_turn(self):
        order = np.random.default_rng(5).permutation(10)
        wanted = [sorted(order[place::3].tolist()) for place in range(3)]
        found = parts_of(self.table, segments=3, seed=5, repeats=2)
        self.assertEqual(found[0], wanted)
        self.assertNotEqual(found[1], found[0])

    def test_replicates_stay_together_in_every_scheme(self):
        replicates = tuple("aabbbcdddd")
        table = ordered_table(random_spectra(10, 5), replicates=replicates)
        for scheme in ("random", "blinds", "blocks", "one-out"):
            with self.subTest(scheme):
                (parts,) = parts_of(table, scheme=scheme)
                self.assertEqual(sorted(row for part in parts for row in part), list(range(10)))
                homes = Counter(name for part in parts for name in {replicates[row] for row in part})
                self.assertEqual(set(homes.values()), {1})

    def test_by_class(self):
        kind = ClassColumn("kind", ("x", "y", "", "x", "z", "z", "y", "x", "x", "x"))
        table = ordered_table(random_spectra(10, 5), classes=(kind,))
        found = make_segments(table, ValidateSettings(scheme="class"))
        self.assertEqual([part.tolist() for part in found.parts[0]], [[0, 3, 7, 8, 9], [1, 6], [4, 5]])
        self.assertEqual(found.never.tolist(), [2])

    def test_refusals(self):
        kind = ClassColumn("kind", tuple("xyxyxyxyxy"))
        table = ordered_table(random_spectra(10, 5), classes=(kind,), replicates=tuple("aabbccddee"))
        said = {
            "The replicate 'a' is in two classes of kind: x and y. "
            "Correct the class, or choose another scheme of segments.": {"scheme": "class"},
            "6 segments were asked for; there are 5 groups of samples that stay together. Choose 2 to 5.": {
                "segments": 6
            },
        }
        for words, settings in said.items():
            with self.subTest(words), self.assertRaises((TableError, RecipeError)) as caught:
                parts_of(table, **settings)
            self.assertEqual(str(caught.exception), words)


class ClosedForm(unittest.TestCase):
    """The residual without the variables left out, against actual least squares without them."""

    def setUp(self):
        rng = np.random.default_rng(8)
        self.loadings = np.linalg.qr(rng.normal(size=(23, 4)))[0]
        self.z = rng.normal(size=(6, 23))

    def by_least_squares(self, block):
        sums = []
        for k in range(1, 5):
            p, total = self.loadings[:, :k], 0.0
            for start in range(0, 23, block):
                out = np.zeros(23, dtype=bool)
                out[start : start + block] = True
                for row in self.z:
                    scores = np.linalg.lstsq(p[~out], row[~out], rcond=None)[0]
                    total += ((row[out] - p[out] @ scores) ** 2).sum()
            sums.append(total)
        return sums

    def test_single_variables_and_blocks(self):
        for block in (1, 3, 5):
            with self.subTest(block):
                np.testing.assert_allclose(
                    predicted_squares(self.z, self.loadings, block), self.by_least_squares(block), rtol=1e-10
                )

    def test_residuals_a_billionth_of_the_signal_are_not_lost(self):
        """What is left of 1e6 is 1e-3: a difference of squares would keep no digit of it."""
        rng = np.random.default_rng(9)
        self.z = 1e6 * rng.normal(size=(6, 4)) @ self.loadings.T + 1e-3 * rng.normal(size=(6, 23))
        for block in (1, 3, 5):
            with self.subTest(block):
                found = predicted_squares(self.z, self.loadings, block)
                np.testing.assert_allclose(found, self.by_least_squares(block), rtol=1e-5)
        left = self.z - self.z @ self.loadings @ self.loadings.T
        self.assertAlmostEqual(rowwise_squares(self.z, self.loadings)[-1] / (left**2).sum(), 1.0, places=5)

    def test_rowwise_is_the_plain_residual_and_smaller(self):
        for k, found in enumerate(rowwise_squares(self.z, self.loadings), start=1):
            p = self.loadings[:, :k]
            self.assertAlmostEqual(found, ((self.z - self.z @ p @ p.T) ** 2).sum())
        self.assertTrue(
            (rowwise_squares(self.z, self.loadings) < predicted_squares(self.z, self.loadings, 1)).all()
        )

    def test_a_variable_that_is_a_component_of_its_own_is_undefined(self):
        loadings = np.eye(6)[:, :3]
        for block in (1, 2):
            self.assertTrue(np.isnan(predicted_squares(np.ones((2, 6)), loadings, block)).all())

    def test_only_the_components_from_there_on_are_undefined(self):
        loadings = np.linalg.qr(np.c_[np.r_[0.0, np.ones(8)], np.r_[1.0, np.zeros(8)]])[0]
        for scores in ([1.0, 1.0], [1e7, 1e7]):  # the second leaves nothing over
            z = np.outer([1.0, 2.0], loadings @ scores) + 1e-4 * np.arange(18.0).reshape(2, 9)
            for block in (1, 2):
                found = predicted_squares(z, loadings, block)
                self.assertTrue(np.isfinite(found[0]), found)
                self.assertTrue(np.isnan(found[1]), found)


class Validating(unittest.TestCase):
    def brute(self, x, parts, k, scaled, snv_first=False):
        """PRESS and the total by refitting everything and leaving out each variable in turn."""
        press, total = np.zeros(k), 0.0
        for rows in parts:
            kept = np.setdiff1d(np.arange(len(x)), rows)
            mean = x[kept].mean(axis=0)
            deviation = x[kept].std(axis=0, ddof=1) if scaled else np.ones(x.shape[1])
            train, left = (x[kept] - mean) / deviation, (x[rows] - mean) / deviation
            v = np.linalg.svd(train, full_matrices=False)[2].T
            total += (left**2).sum()
            for a in range(1, k + 1):
                for j in range(x.shape[1]):
                    others = np.arange(x.shape[1]) != j
                    scores = np.linalg.lstsq(v[others, :a], left[:, others].T, rcond=None)[0]
                    press[a - 1] += ((left[:, j] - scores.T @ v[j, :a]) ** 2).sum()
        return press, total

    def test_against_refitting(self):
        rng = np.random.default_rng(2)
        x = rng.normal(size=(24, 3)) @ rng.normal(size=(3, 8)) + 0.3 * rng.normal(size=(24, 8)) + 4.0
        table = mixed_table(x)
        for scaled in (True, False):
            recipe = recipe_from_plain(
                {
                    "scale": {"method": "sd" if scaled else "none"},
                    "validate": {"scheme": "blinds", "segments": 4},
                }
            )
            found = validate(table, recipe, 3)
            press, total = self.brute(x, [np.arange(s, 24, 4) for s in range(4)], 3, scaled)
            np.testing.assert_allclose(found.press[:3], press, rtol=1e-8)
            self.assertAlmostEqual(found.total, total)
            np.testing.assert_allclose(found.q2[:3], 1.0 - press / total, rtol=1e-8)
            self.assertTrue((found.error[:3] > 0).all())

    def test_what_learns_is_learned_again_without_the_segment(self):
        """MSC's reference must not know the row that is left out."""
        x = random_spectra(20, 30)
        recipe = recipe_from_plain(
            {
                "treat": [{"method": "msc"}],
                "validate": {"scheme": "blocks", "segments": 2, "block": 1},
            }
        )
        found = validate(ordered_table(x), recipe, 2)
        press, total = np.zeros(2), 0.0
        for rows in (np.arange(10), np.arange(10, 20)):
            kept = np.setdiff1d(np.arange(20), rows)
            reference = x[kept].mean(axis=0)

            def corrected(part, reference=reference):
                lines = [np.polyfit(reference, row, 1) for row in part]
                return np.array([(row - b) / a for row, (a, b) in zip(part, lines, strict=True)])

            train, left = corrected(x[kept]), corrected(x[rows])
            mean = train.mean(axis=0)
            v = np.linalg.svd(train - mean, full_matrices=False)[2].T
            total += ((left - mean) ** 2).sum()
            press += predicted_squares(left - mean, v[:, :2], 1)
        np.testing.assert_allclose(found.press[:2], press, rtol=1e-7)
        self.assertAlmostEqual(found.total, total, places=9)

    def test_rowwise_steps_before_the_first_learning_one_do_not_matter_where_they_run(self):
        x = random_spectra(20, 40)
        settings = {"scheme": "random", "segments": 5, "seed": 3}
        one = validate(
            ordered_table(x), recipe_from_plain({"treat": [{"method": "snv"}], "validate": settings}), 2
        )
        treated = (x - x.mean(1, keepdims=True)) / x.std(1, ddof=1, keepdims=True)
        two = validate(ordered_table(treated), recipe_from_plain({"validate": settings}), 2)
        np.testing.assert_allclose(one.press[:2], two.press[:2], rtol=1e-9)
        self.assertEqual(one.block, 2)

    def test_pure_noise_has_no_held_out_share(self):
        x = np.random.default_rng(0).normal(size=(60, 20))
        found = validate(mixed_table(x), recipe_from_plain({}), 5)
        self.assertLess(found.q2[:5].max(), 0.0)
        self.assertGreater(found.q2_rowwise[4], 0.1)

    def test_repeats_are_averaged(self):
        x = random_spectra(30, 20)
        once = validate(ordered_table(x), recipe_from_plain({"validate": {"repeats": 1}}), 2)
        often = validate(ordered_table(x), recipe_from_plain({"validate": {"repeats": 4}}), 2)
        self.assertAlmostEqual(often.total / once.total, 1.0, delta=0.05)
        self.assertEqual(often.segments, 7)

    def test_it_can_be_stopped_and_tells_how_far_it_is(self):
        table, shares = ordered_table(random_spectra(30, 20)), []
        validate(table, recipe_from_plain({}), 2, lambda share: shares.append(share) or True)
        told = [share for share in shares if share]  # 0 only asks whether to go on
        np.testing.assert_allclose(told, np.arange(1, 7) / 7)
        with self.assertRaises(Stopped):
            validate(table, recipe_from_plain({}), 2, lambda share: share < 0.4)

    def test_gaps_filled_anew_and_around_gaps_refused(self):
        x = random_spectra(20, 10)
        x[3, 4] = np.nan
        filled = validate(ordered_table(x), recipe_from_plain({"model": {"gaps": "fill-mean"}}), 2)
        self.assertTrue(np.isfinite(filled.press[:2]).all())
        with self.assertRaises(ModelError):
            validate(ordered_table(x), recipe_from_plain({"model": {"gaps": "em"}}), 2)

    def test_a_block_as_wide_as_the_table_is_refused(self):
        recipe = recipe_from_plain({"validate": {"block": 20}})
        with self.assertRaises(RecipeError) as caught:
            validate(ordered_table(random_spectra(20, 20)), recipe, 2)
        self.assertEqual(
            str(caught.exception), "Blocks of 20 variables leave none of 20 to predict from. Choose 1 to 19."
        )


class Groups(unittest.TestCase):
    def test_samples_without_a_replicate_id_are_their_own_group(self):
        table = ordered_table(random_spectra(6, 5), replicates=("a", "", "b", "", "a", "b"))
        self.assertEqual(group_codes(table).tolist(), [0, 1, 2, 3, 0, 2])
