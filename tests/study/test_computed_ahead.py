"""What is computed before anybody asks: a switched treatment finds its model there, and holds nobody up."""

import unittest
from contextlib import ExitStack
from unittest import mock

import numpy as np

from scutcher.core.recipes.recipe import Recipe, recipe_from_plain
from scutcher.study import computed_ahead, current_model, running_checks
from scutcher.study.computed_ahead import SWITCHED, one_switch_away
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.commands.recipe import SwitchStep
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation import fitting, known_rows
from scutcher.study.evaluation.cache import Cache
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import ordered_table, random_spectra
from tests.study.test_current_model import Pump

RECIPE = recipe_from_plain(
    {
        "treat": [
            {"method": "snv"},
            {"method": "savitzky-golay", "window": 5},
            {"method": "gaussian-smooth", "on": False},
        ],
        "model": {"components": 3},
    }
)


class OneSwitchAway(unittest.TestCase):
    def test_each_treatment_is_switched_once_and_the_last_comes_first(self):
        ons = [tuple(step.on for step in recipe.treat) for recipe in one_switch_away(RECIPE)]
        self.assertEqual(ons, [(True, True, True), (True, False, False), (False, True, False)])
        self.assertEqual({recipe.model for recipe in one_switch_away(RECIPE)}, {RECIPE.model})
        self.assertEqual(list(one_switch_away(Recipe())), [])


class Switched(unittest.TestCase):
    def setUp(self):
        self.cache = Cache()
        for module, name, value in (
            (current_model, "shared", lambda: self.cache),
            (running_checks, "QUIET", 0.0),
        ):
            self.patch(module, name, value)
        self.pump = Pump()

    def patch(self, module, name, value):
        patch = mock.patch.object(module, name, value)
        patch.start()
        self.addCleanup(patch.stop)

    def begin(self, recipe=RECIPE, values=None):
        values = 2.0 + random_spectra(40, 30) if values is None else values
        self.study = Study(State.of("t", ordered_table(values), recipe))
        self.live = CurrentModel(self.study, self.pump.post)
        self.addCleanup(self.live.close)
        while self.live.busy:
            self.pump.run_next()
        self.live.stop_checking()

    def until_at_rest(self):
        self.live.queue.wait_for(SWITCHED)
        while self.pump.posted:
            self.pump.run_next()

    def switched_without_computing(self, place, on):
        with ExitStack() as nothing:
            for module, name in (
                (fitting, "decompose"),
                (fitting, "decompose_up_to"),
                (known_rows, "run_step"),
            ):
                nothing.enter_context(mock.patch.object(module, name, side_effect=AssertionError(name)))
            self.study.do(SwitchStep(place, on))
            while self.live.busy:
                self.pump.run_next()
        return self.live.evaluation

    def test_a_switch_finds_its_model_there_and_it_is_the_right_one(self):
        for place, on in ((0, False), (1, False), (2, True)):
            self.begin()
            self.until_at_rest()
            found = self.switched_without_computing(place, on)
            self.assertIsNone(self.live.trouble)
            self.assertEqual(found.recipe.treat[place].on, on)
            alone = Evaluator(keeps=False).evaluate(self.study.state.table, found.recipe)
            np.testing.assert_allclose(found.treated.values, alone.treated.values, rtol=1e-12)
            np.testing.assert_allclose(np.abs(found.model.scores), np.abs(alone.model.scores), atol=1e-9)
            np.testing.assert_allclose(found.model.q, alone.model.q, atol=1e-9)

    def test_of_heavy_data_too(self):
        self.patch(current_model, "AT_ONCE", 0)
        self.begin()
        self.until_at_rest()
        self.assertEqual(self.switched_without_computing(0, False).model.k, 3)

    def test_what_cannot_be_computed_is_said_when_it_is_switched_and_not_before(self):
        few = {"method": "bin-equal", "width": 25.0, "on": False}
        with mock.patch.object(Evaluator, "evaluate", autospec=True, side_effect=Evaluator.evaluate) as asked:
            self.begin(recipe_from_plain({"treat": [few], "model": {"components": 5}}))
            self.until_at_rest()
        self.assertTrue(any(call.args[2].treat[0].on for call in asked.call_args_list))
        self.assertIsNone(self.live.trouble)
        self.study.do(SwitchStep(0, True))
        self.assertIn("5 components were asked for", str(self.live.trouble))

    def test_a_mistake_arrives(self):
        self.begin()
        self.until_at_rest()
        with mock.patch.object(computed_ahead, "one_switch_away", side_effect=ZeroDivisionError):
            self.live.refresh()
            with self.assertRaises(ZeroDivisionError):
                self.live.queue.wait_for(SWITCHED)
                while True:
                    self.pump.run_next(5.0)

    def test_only_what_memory_and_time_allow(self):
        for name, value, wanted in (("MEMORY", 0.0, 0), ("WORK", 0.0, 0), ("WORK", 1e11, 3)):
            self.begin()
            with mock.patch.object(computed_ahead, name, value):
                found = self.live.evaluation
                self.assertEqual(len(list(self.live._ahead._affordable(found))), wanted, name)

    def test_a_held_handle_has_nothing_computed_ahead_and_stops_what_was(self):
        self.begin()
        self.until_at_rest()
        with mock.patch.object(self.live._ahead, "switches") as asked:
            self.live.preview(next(one_switch_away(RECIPE)))
            asked.assert_not_called()
            self.live.refresh()
            asked.assert_called_once()
        self.assertFalse(self.live.queue.has(SWITCHED))
