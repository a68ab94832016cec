"""The same model without one step: computed behind, its short figures first, dropped when overtaken."""

import threading
import time
import unittest
from unittest import mock

import numpy as np
from msgspec.structs import replace

from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.validation.cross_validation import validate
from scutcher.study import running_checks
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.commands.recipe import KeepComponents, SwitchStep
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.step_comparison import Without
from tests.core.making import ordered_table, random_spectra

PATIENCE = 120.0


class Mail:
    """Functions for this thread, run when it asks for them."""

    def __init__(self):
        self.waiting, self.lock = [], threading.Lock()

    def post(self, work):
        with self.lock:
            self.waiting.append(work)

    def run_until(self, true):
        end = time.monotonic() + PATIENCE
        while not true() and time.monotonic() < end:
            with self.lock:
                works, self.waiting = self.waiting, []
            for work in works:
                work()
            time.sleep(0.002)
        return true()


class WithoutStep(unittest.TestCase):
    def setUp(self):
        quiet = mock.patch.object(running_checks, "QUIET", 0.0)
        quiet.start()
        self.addCleanup(quiet.stop)
        self.mail, self.heard, self.also = Mail(), [], []
        self.table = ordered_table(random_spectra(24, 30))
        recipe = recipe_from_plain({"treat": [{"method": "snv"}, {"method": "savitzky-golay", "window": 5}]})
        self.study = Study(State.of("t", self.table, recipe))
        self.study.do(KeepComponents(2))
        self.live = CurrentModel(self.study, self.mail.post)
        self.addCleanup(self.live.close)
        self.without = Without(
            self.live,
            lambda: self.heard.append((len(self.also), self.without.q2)),
            lambda found, place: self.also.append(place),
        )

    def want(self, place):
        self.without.want(self.live.evaluation, place)

    def test_it_is_the_model_of_the_other_steps(self):
        self.want(0)
        self.assertTrue(self.without.busy)
        self.assertTrue(self.mail.run_until(lambda: not self.without.busy))
        other = self.without.evaluation
        self.assertEqual([step.on for step in other.recipe.treat], [False, True])
        recipe = recipe_from_plain({"treat": [{"method": "savitzky-golay", "window": 5}]})
        wanted = validate(self.table, recipe, 2)
        self.assertAlmostEqual(self.without.q2, wanted.q2[1])
        self.assertEqual(other.model.k, 2)

    def test_what_is_short_is_told_before_the_end(self):
        self.want(1)
        self.assertTrue(self.mail.run_until(lambda: not self.without.busy))
        self.assertEqual(self.heard[0], (1, None))
        self.assertEqual(self.also, [1])
        self.assertIsNotNone(self.heard[-1][1])
        self.assertEqual(len(self.heard), 2)

    def test_the_same_again_costs_nothing_and_another_place_wins(self):
        self.want(0)
        self.want(0)
        self.want(1)
        self.assertTrue(self.mail.run_until(lambda: not self.without.busy))
        self.assertEqual([step.on for step in self.without.evaluation.recipe.treat], [True, False])
        told = len(self.heard)
        self.want(1)
        self.mail.run_until(lambda: True)
        self.assertEqual(len(self.heard), told)

    def test_a_step_that_is_off_changes_nothing(self):
        self.study.do(SwitchStep(0, False))
        self.want(0)
        self.assertTrue(self.mail.run_until(lambda: not self.without.busy))
        np.testing.assert_allclose(
            self.without.evaluation.model.scores, self.live.evaluation.model.scores, atol=1e-12
        )

    def test_no_validation_no_figure(self):
        none = recipe_from_plain({"validate": {"scheme": "none"}}).validate
        state = self.study.state
        self.study = Study(State.of("u", state.table, replace(state.recipe, validate=none)))
        self.live.close()
        self.live = CurrentModel(self.study, self.mail.post)
        self.addCleanup(self.live.close)
        self.without = Without(self.live, lambda: None)
        self.want(0)
        self.assertTrue(self.mail.run_until(lambda: not self.without.busy))
        self.assertIsNotNone(self.without.evaluation)
        self.assertIsNone(self.without.q2)


if __name__ == "__main__":
    unittest.main()
