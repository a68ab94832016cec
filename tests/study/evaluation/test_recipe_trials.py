"""Recipes tried one after the other; the shelf in the study and its file; live checks."""

import tempfile
import time
import unittest
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from scutcher.core.data.constant_variables import leave_out_dead
from scutcher.core.errors import InputError
from scutcher.core.progress import Stopped
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.demo.sets import demo_recipe, demo_set
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.commands.recipe import ChangeStep, DuplicateStep, MoveStep, UseRecipe
from scutcher.study.document.commands.shelf import OpenModel, PutBy, RemoveModel, RenameModel
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.recipe_trials import Outcome, folded, outcomes, sensible_grid
from scutcher.study.evaluation.shelved_model import reached, recipe_name, with_kept


def state_of(name="practice"):
    return State.of(name, leave_out_dead(demo_set(name)[0]), demo_recipe(name))


class Trying(unittest.TestCase):
    def setUp(self):
        self.state = state_of()
        self.codes = self.state.table.classes[0].codes()

    def test_outcomes_have_figures_or_a_reason(self):
        recipes = [
            recipe_from_plain({}),
            recipe_from_plain({"treat": [{"method": "log10"}]}),
            recipe_from_plain({"treat": [{"method": "normalise-property"}]}),
        ]
        found = list(outcomes(self.state.table, recipes, self.codes))
        self.assertGreater(found[0].model.figure("separation"), 0.7)
        self.assertGreater(found[0].model.figure("q2"), 0.8)
        self.assertIn("needs a property column", found[2].reason)

    def test_twins_are_folded_and_named(self):
        recipes = [
            recipe_from_plain({"treat": [{"method": "snv"}]}),
            recipe_from_plain({"treat": [{"method": "baseline-offset"}, {"method": "snv"}]}),
            recipe_from_plain({}),
        ]
        found = folded(list(outcomes(self.state.table, recipes, self.codes)))
        self.assertEqual([outcome.name for outcome in found], ["SNV", "untreated"])
        self.assertEqual(found[0].same_as, ("baseline offset · SNV",))
        self.assertEqual(len(folded([Outcome(recipes[0], None, "a"), Outcome(recipes[1], None, "b")])), 2)

    def test_the_grid_suits_the_axis(self):
        grid = sensible_grid(self.state.table, self.state.recipe)
        self.assertEqual(len(grid), 15)
        bench = demo_set("bench")[0]
        self.assertTrue(
            all(recipe.scale is not None for recipe in sensible_grid(bench, demo_recipe("bench")))
        )

    def test_it_can_be_stopped(self):
        grid = sensible_grid(self.state.table, self.state.recipe)
        with self.assertRaises(Stopped):
            list(outcomes(self.state.table, grid, self.codes, lambda share: share < 0.1))


class Shelf(unittest.TestCase):
    def model(self, name=""):
        state = state_of()
        found = Evaluator().evaluate(state.table, state.recipe)
        return PutBy(name, reached(found, np.zeros(120, int), None), with_kept(found))

    def test_put_rename_take_away_and_back_in_the_file(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "s.scutch"
            study = Study(state_of())
            study.keep_in(path)
            study.do(self.model("first"))
            study.do(self.model("first"))
            study.do(RenameModel(study.state.shelf[0].id, "older"))
            self.assertEqual([m.name for m in study.state.shelf], ["older", "first (2)"])
            study.close()
            again = Study.open(path)
            kept = again.state.shelf[1]
            self.assertEqual((kept.name, kept.figure("components")), ("first (2)", 3.0))
            np.testing.assert_array_equal(kept.reached.scores, self.model().reached.scores)
            self.assertEqual(kept.recipe, self.model().recipe)
            again.do(RemoveModel(again.state.shelf[0].id))
            again.undo()
            self.assertEqual(len(again.state.shelf), 2)
            again.close()

    def test_refusals(self):
        study = Study(state_of())
        study.do(self.model("one"))
        for command in (
            RemoveModel("m9"),
            RemoveModel(study.state.current),
            RenameModel(study.state.current, "  "),
            RenameModel("m9", "x"),
            OpenModel("m9", ""),
        ):
            with self.subTest(command=command), self.assertRaises(InputError):
                study.do(command)

    def test_names_say_what_was_done(self):
        plain = {"treat": [{"method": "snv"}, {"method": "savitzky-golay", "derivative": 2}]}
        self.assertEqual(recipe_name(recipe_from_plain(plain)), "SNV · SG 2nd")
        self.assertEqual(recipe_name(recipe_from_plain({"scale": {"method": "sd"}})), "sd")


class Steps(unittest.TestCase):
    def test_move_duplicate_change_and_back(self):
        study = Study(state_of("intake-nir"))
        recipe = recipe_from_plain({"treat": [{"method": "snv"}, {"method": "thin"}, {"method": "msc"}]})
        study.do(UseRecipe(recipe, "a test"))
        study.do(MoveStep(2, 0))
        study.do(DuplicateStep(1))
        methods = [step.method for step in study.state.recipe.treat]
        self.assertEqual(methods, ["msc", "snv", "snv", "thin"])
        thin = study.state.recipe.treat[3].parameters
        study.do(ChangeStep(3, replace(thin, every=5)))
        self.assertEqual(study.state.recipe.treat[3].parameters.every, 5)
        for _ in range(3):
            study.undo()
        self.assertEqual(study.state.recipe, recipe)


class Live(unittest.TestCase):
    def test_validation_follows_and_is_kept(self):
        waiting = []
        study = Study(state_of())
        live = CurrentModel(study, waiting.append)
        self.addCleanup(live.close)

        def until(true):
            end = time.monotonic() + 180
            while not true() and time.monotonic() < end:
                while waiting:
                    waiting.pop(0)()
                time.sleep(0.01)
            self.assertTrue(true())

        until(lambda: live.checked is not None and len(live.checked.lines) == 9)
        first = live.checked
        self.assertAlmostEqual(first.validation.q2[2], 0.97, delta=0.03)
        study.do(UseRecipe(recipe_from_plain({"treat": [{"method": "snv"}]}), "a test"))
        self.assertIsNone(live.checked)
        until(lambda: live.checked is not None)
        study.undo()
        self.assertIs(live.checked, first)

    def test_a_step_that_does_not_fit_is_passed_over(self):
        study = Study(state_of())
        live = CurrentModel(study, lambda work: None)
        self.addCleanup(live.close)
        plain = {"treat": [{"method": "snv"}, {"method": "normalise-property"}, {"method": "thin"}]}
        study.do(UseRecipe(recipe_from_plain(plain), "a test"))
        found = live.evaluation
        self.assertEqual(list(found.passed_over), [1])
        self.assertEqual(found.treated.shape[1], 100)
        self.assertEqual([step.on for step in found.run_recipe.treat], [True, False, True])
