"""Held-out assignment against segments by hand; guessing, permuted and doubtful labels, the demo's truth."""

import itertools
import unittest

import numpy as np

from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import ModelError
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings, recipe_from_plain
from scutcher.core.validation.held_out_assignment import (
    assign_held_out,
    judged_codes,
)
from scutcher.core.validation.held_out_scores import held_out_scores
from scutcher.core.validation.permuted_labels import p_value, permuted_share
from scutcher.core.validation.segments import make_segments
from scutcher.demo.sets import demo_set
from tests.core.validation.test_held_out_limits import table_of

CENTRED = ScaleSettings(centre="mean", method="none")


def lots(n=60, p=20, classes=3, apart=2.0, seed=1):
    """Lots of three scans, in classes a good deal apart."""
    rng = np.random.default_rng(seed)
    codes = np.repeat(np.arange(n // 3) % classes, 3)
    centres = apart * rng.normal(size=(classes, p))
    of_lots = np.repeat(rng.normal(size=(n // 3, p)), 3, axis=0)
    values = centres[codes] + of_lots + 0.2 * rng.normal(size=(n, p))
    return table_of(values, tuple(f"lot{place // 3}" for place in range(n))), codes


def recipe(**validation):
    plain = recipe_from_plain({"validate": validation})
    return Recipe(scale=CENTRED, model=ModelSettings(components=3), validate=plain.validate)


class Assigned(unittest.TestCase):
    def test_against_segments_by_hand(self):
        table, codes = lots()
        rules = recipe(scheme="random", repeats=2)
        found = assign_held_out(held_out_scores(table, rules, 3), codes, 3)
        for turn, repeat in enumerate(make_segments(table, rules.validate).parts):
            for rows in repeat:
                kept = np.setdiff1d(np.arange(60), rows)
                mean = table.values[kept].mean(axis=0)
                loadings = np.linalg.svd(table.values[kept] - mean, full_matrices=False)[2][:4].T
                taught, new = (table.values[some] - mean for some in (kept, rows))
                for k in (1, 4):
                    t, u = taught @ loadings[:, :k], new @ loadings[:, :k]
                    middles = np.array([t[codes[kept] == c].mean(axis=0) for c in range(3)])
                    away = t - middles[codes[kept]]
                    inverse = np.linalg.inv(away.T @ away / (len(kept) - 3))
                    far = [np.einsum("ij,jk,ik->i", u - m, inverse, u - m) for m in middles]
                    np.testing.assert_array_equal(found.assigned[turn, k - 1, rows], np.argmin(far, axis=0))
        right = (found.assigned[:, 3] == codes).mean()
        self.assertAlmostEqual(found.share_right[3], right)
        mixed = found.mixups(4, 3)
        self.assertAlmostEqual(np.trace(mixed), right * 60)
        self.assertAlmostEqual(mixed.sum(), 60)

    def test_replicates_are_never_split(self):
        """Lots without any class structure: the scans of a lot would vouch for each other."""
        table, codes = lots(apart=0.0)
        codes = np.repeat(np.random.default_rng(0).integers(0, 2, 20), 3)
        found = assign_held_out(held_out_scores(table, recipe(), 3), codes, 3, "nearest-neighbours", 1)
        self.assertLess(found.share_right[9], 0.8)
        loose = table_of(table.values)
        leaking = assign_held_out(held_out_scores(loose, recipe(), 3), codes, 3, "nearest-neighbours", 1)
        self.assertGreater(leaking.share_right[9], 0.95)

    def test_permuted_labels_reach_what_guessing_reaches(self):
        table, codes = lots(n=90, apart=1.0)
        scores = held_out_scores(table, recipe(), 3)
        found = assign_held_out(scores, codes, 3)
        self.assertAlmostEqual(found.guessing, 1 / 3)
        permuted = permuted_share(scores, codes, 3, "nearest-centre", 5, 99)
        self.assertAlmostEqual(permuted.mean(), 1 / 3, delta=0.06)
        self.assertEqual(p_value(found.share_right[2], permuted), 0.01)
        self.assertEqual(p_value(permuted.min(), permuted), 1.0)
        np.testing.assert_array_equal(permuted, permuted_share(scores, codes, 3, "nearest-centre", 5, 99))

    def test_a_wrong_label_is_doubtful_with_all_its_scans(self):
        table, codes = lots(n=90, apart=2.0)
        said = codes.copy()
        said[12:15] = (codes[12:15] + 1) % 3
        found = assign_held_out(held_out_scores(table, recipe(repeats=4), 3), said, 3)
        np.testing.assert_array_equal(found.doubtful.members(0), [12, 13, 14])
        self.assertEqual(found.doubtful.classes[0], codes[12])
        self.assertGreater(found.margins[12], 1.0)

    def test_the_doubtful_come_by_group_and_by_distance(self):
        table, codes = lots(n=90, apart=0.3)
        found = assign_held_out(held_out_scores(table, recipe(repeats=4), 3), codes, 3)
        rows = found.doubtful.rows.tolist()
        self.assertGreater(len(rows), 10)

        def place(row):
            members = [one for one in rows if found.groups[one] == found.groups[row]]
            size = np.count_nonzero(found.judged & (found.groups == found.groups[row]))
            return -len(members) / size, -float(np.mean([found.margins[one] for one in members])), row

        places = [place(row) for row in rows]
        for one, two in itertools.pairwise(places):
            self.assertTrue(one[:2] < two[:2] or np.allclose(one[:2], two[:2]), (one, two))

    def test_a_class_of_one_group_is_named_and_left_out(self):
        table, codes = lots()
        codes[:3] = 7
        judged, alone = judged_codes(codes, np.arange(60) // 3)
        self.assertEqual(alone, (7,))
        self.assertTrue((judged[:3] == -1).all())
        found = assign_held_out(held_out_scores(table, recipe(), 3), codes, 3)
        self.assertFalse(found.judged[:3].any())
        self.assertFalse((found.assigned == 7).any())
        with self.assertRaisesRegex(ModelError, "1 class has two"):
            judged_codes(np.where(np.arange(60) < 3, 1, 0), np.arange(60) // 3)

    def test_a_treatment_that_learns_from_classes(self):
        table, codes = lots()
        names = tuple("abc"[code] for code in codes)
        from dataclasses import replace

        table = replace(table, values=table.values + 20.0, classes=(ClassColumn("kind", names),))
        steps = recipe_from_plain({"treat": [{"method": "msc", "reference": "class", "level": "a"}]}).treat
        scores = held_out_scores(table, Recipe(treat=steps, scale=CENTRED), 3)
        self.assertTrue(scores.learns_classes)
        with self.assertRaisesRegex(ModelError, "learns from the classes"):
            permuted_share(scores, codes, 3, "nearest-centre", 5)


class TheDemo(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.made = demo_set("intake-nir")

    def test_planted_labels_are_found(self):
        table, truth = self.made
        whole = np.flatnonzero(~np.isnan(table.values).any(axis=1))
        used = table.take(whole, np.flatnonzero(table.values[whole].std(axis=0) > 0))
        column = used.class_column("retting")
        plain = {"treat": [{"method": "snv"}], "validate": {"repeats": 4}}
        rules = recipe_from_plain(plain)
        found = assign_held_out(held_out_scores(used, rules, 5), column.codes(), 5)
        doubtful = [used.ids[row] for row in found.doubtful.rows]
        wrong = truth["mislabelled_lot"]["lot"]
        self.assertTrue(doubtful[0].startswith(wrong), doubtful)
        for scan in truth["swapped_scans"]:
            self.assertIn(scan, doubtful)


if __name__ == "__main__":
    unittest.main()
