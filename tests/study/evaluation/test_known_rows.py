"""Where samples come or go, row-wise treatments see only those that they did not see before."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from scutcher.core.errors import TableError
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.study.evaluation import known_rows
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import classes_of, ordered_table, random_spectra

ROW_WISE = ({"method": "savitzky-golay", "window": 5}, {"method": "snv"}, {"method": "thin"})


class KnownRows(unittest.TestCase):
    def setUp(self):
        self.table = ordered_table(random_spectra(24, 40), classes=(classes_of(24),))
        self.evaluator = Evaluator()
        self.seen = []

    def evaluate(self, aside, steps=ROW_WISE, table=None):
        """The evaluation, with the samples that each treatment saw in `seen`."""
        self.seen = []

        def watched(table, step, watch):
            self.seen.append((step.method, [*table.ids]))
            return run_step(table, step, watch)

        table = replace(self.table if table is None else table, set_aside=dict.fromkeys(aside, "odd"))
        recipe = recipe_from_plain({"treat": list(steps), "model": {"components": 3}})
        with mock.patch.object(known_rows, "run_step", watched):
            found = self.evaluator.evaluate(table, recipe)
        anew = Evaluator(keeps=False).evaluate(table, recipe)
        self.assertEqual(found.treated.ids, anew.treated.ids)
        self.assertEqual(found.treated.axis.fingerprint, anew.treated.axis.fingerprint)
        self.assertEqual(
            (found.treated.signal, found.treated.signal_unit), (anew.treated.signal, anew.treated.signal_unit)
        )
        for stage, other in zip(found.stages, anew.stages, strict=True):
            np.testing.assert_allclose(stage.values, other.values, rtol=1e-12, atol=1e-12)
        np.testing.assert_allclose(found.model.scores, anew.model.scores, atol=1e-9)
        return found

    def names(self, *rows):
        return [self.table.ids[row] for row in rows]

    def test_nothing_is_treated_again_when_samples_are_set_aside(self):
        self.evaluate(())
        self.assertEqual([len(ids) for _, ids in self.seen], [24, 24, 24])
        self.evaluate((3, 7, 23))
        self.assertEqual(self.seen, [])
        self.evaluate((0, 3, 7, 23))
        self.assertEqual(self.seen, [])

    def test_only_those_that_come_back_are_treated(self):
        self.evaluate((0, 3, 7, 23))
        self.evaluate((5, 7))
        self.assertEqual([method for method, _ in self.seen], ["savitzky-golay", "snv", "thin"])
        for _, ids in self.seen:
            self.assertEqual(ids, self.names(0, 3, 23))

    def test_a_new_set_is_treated_as_a_whole(self):
        self.evaluate(range(12, 24))
        self.evaluate(range(11))
        self.assertEqual([len(ids) for _, ids in self.seen], [13, 13, 13])

    def test_what_learns_sees_all_samples_and_so_does_all_behind_it(self):
        steps = ({"method": "snv"}, {"method": "msc"}, {"method": "savitzky-golay", "window": 5})
        self.evaluate((), steps)
        self.evaluate((4,), steps)
        self.assertEqual(
            [(method, len(ids)) for method, ids in self.seen], [("msc", 23), ("savitzky-golay", 23)]
        )

    def test_other_settings_other_data_and_filled_gaps_are_other_chains(self):
        self.evaluate(())
        self.evaluate((4,), ({"method": "savitzky-golay", "window": 7},))
        self.assertEqual([len(ids) for _, ids in self.seen], [23])
        other = replace(self.table, values=self.table.values + 1.0)
        self.evaluate((4,), table=other)
        self.assertEqual([len(ids) for _, ids in self.seen], [23, 23, 23])

    def test_a_sample_that_cannot_be_treated_is_said_when_it_comes_back(self):
        flat = self.table.values.copy()
        flat[5] = 1.0
        table = replace(self.table, values=flat)
        self.evaluate((5,), ({"method": "snv"},), table)
        with self.assertRaisesRegex(TableError, table.ids[5]):
            self.evaluate((), ({"method": "snv"},), table)

    def test_what_nobody_keeps_is_treated_again(self):
        self.evaluate(())
        self.evaluator.cache._entries.clear()
        self.evaluate((4,))
        self.assertEqual([len(ids) for _, ids in self.seen], [23, 23, 23])

    def test_it_is_not_counted_as_work(self):
        steps = [{"method": "arpls"}, {"method": "snv"}]
        recipe = recipe_from_plain({"treat": steps, "model": {"components": 3}})
        fewer = replace(self.table, set_aside={4: "odd"})
        before = self.evaluator.work_left(fewer, recipe)
        self.evaluator.evaluate(self.table, recipe)
        self.assertLess(self.evaluator.work_left(fewer, recipe), before / 20)
        self.assertLessEqual(self.evaluator.work_left(fewer, recipe), 24 * 40 * 24)


if __name__ == "__main__":
    unittest.main()
