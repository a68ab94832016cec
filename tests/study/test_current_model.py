"""The live model: at once or behind, the newest wins, trouble keeps the last good model."""

import threading
import time
import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from msgspec import structs

from scutcher.core.models.pca.engines import gram as gram_module
from scutcher.core.progress import tell
from scutcher.core.recipes.recipe import EvidenceSettings, ModelSettings, Recipe, recipe_from_plain
from scutcher.core.validation.evidence import KEYS
from scutcher.demo.sets import demo_set
from scutcher.study import current_model as live_module
from scutcher.study import running_checks
from scutcher.study.current_model import AT_ONCE, CurrentModel
from scutcher.study.document.commands.classes import AssignClass
from scutcher.study.document.commands.data import BringIn, ReadAgain
from scutcher.study.document.commands.recipe import (
    AddStep,
    KeepComponents,
    ScaleBy,
    ScaleSettings,
    UseRecipe,
    ValidateBy,
)
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.parts import NOWHERE
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation import fitting
from scutcher.study.evaluation.cache import Cache
from scutcher.study.evaluation.checks import check
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import classes_of, mixed_table, ordered_table, random_spectra


class Pump:
    """Stands in for the event loop: holds what was posted until it is run."""

    def __init__(self):
        self.posted = []
        self.ready = threading.Condition()

    def post(self, work):
        with self.ready:
            self.posted.append(work)
            self.ready.notify()

    def run_next(self, timeout=180.0):
        with self.ready:
            self.ready.wait_for(lambda: self.posted, timeout)
            work = self.posted.pop(0)
        work()


def study_of(values):
    return Study(State.of("t", ordered_table(values), Recipe(model=ModelSettings(components=2))))


class AtOnce(unittest.TestCase):
    def setUp(self):
        self.study = study_of(random_spectra(12, 8))
        self.live = CurrentModel(self.study, lambda work: None)  # nothing behind is waited for
        self.addCleanup(self.live.close)
        self.heard = []
        self.live.subscribe(lambda changed: self.heard.append(changed))

    def test_follows_commands_and_undo(self):
        self.study.do(KeepComponents(3))
        self.assertEqual(self.live.evaluation.model.k, 3)
        self.study.undo()
        self.assertEqual(self.live.evaluation.model.k, 2)
        models = [changed for changed in self.heard if "evaluation" in changed]
        self.assertEqual(models, [frozenset({"state", "recipe", "evaluation"})] * 2)

    def test_a_state_without_a_model_has_none_and_trouble_goes_with_its_cause(self):
        self.study.do(KeepComponents(50))
        self.assertIn("50 components were asked for; these data have rank 8", str(self.live.trouble))
        self.assertIsNone(self.live.evaluation)
        self.study.undo()
        self.assertIsNone(self.live.trouble)
        self.assertEqual(self.live.evaluation.model.k, 2)

    def test_a_held_handle_that_goes_too_far_leaves_the_moment_as_it_is(self):
        good = self.live.moment
        self.live.preview(Recipe(model=ModelSettings(components=50)))
        self.assertIn("50 components were asked for", str(self.live.trouble))
        self.assertIs(self.live.evaluation, good.found)
        self.assertIs(self.live.moment.recipe, good.recipe)
        self.live.refresh()
        self.assertIsNone(self.live.trouble)

    def test_preview_does_not_touch_the_study(self):
        self.live.preview(Recipe(model=ModelSettings(components=4)))
        self.assertEqual(self.live.evaluation.model.k, 4)
        self.assertEqual(self.study.state.recipe.model.components, 2)

    def test_components_do_not_mirror_when_refitted(self):
        found = self.live.evaluation
        flipped = -found.decomposition.loadings
        turned = replace(found.decomposition, loadings=flipped)
        mirrored = replace(found, model=replace(found.model, decomposition=turned))
        self.live.moment = replace(self.live.moment, found=mirrored)
        before = self.live.moment
        self.study.do(ScaleBy(ScaleSettings(method="pareto")))
        fresh = self.live.evaluation.decomposition.loadings
        products = np.sum(fresh * flipped, axis=0)
        same = np.abs(products) > 0.7
        self.assertTrue(same[:2].all() and (products[same] > 0).all())
        other = ~same & (np.abs(fresh.T @ flipped).max(axis=1) < 0.7)
        largest = fresh[np.abs(fresh).argmax(axis=0), np.arange(fresh.shape[1])]
        self.assertTrue((largest[other] > 0).all())
        self.assertIs(before.found, mirrored)

    def test_a_state_that_was_seen_before_comes_back_as_it_was(self):
        seen = []
        for command in (None, ScaleBy(ScaleSettings(method="sd")), AddStep("snv"), SetAside((1, 2), "x")):
            if command is not None:
                self.study.do(command)
            seen.append(self.live.evaluation.model.scores.copy())
        for scores in reversed(seen[:-1]):
            self.study.undo()
            np.testing.assert_array_equal(self.live.evaluation.model.scores, scores)
        for scores in seen[1:]:
            self.study.redo()
            np.testing.assert_array_equal(self.live.evaluation.model.scores, scores)

    def test_other_data_start_with_the_sign_rule(self):
        self.study.do(BringIn("u", mixed_table(random_spectra(9, 8)), Recipe()))
        loadings = self.live.evaluation.decomposition.loadings
        largest = loadings[np.abs(loadings).argmax(axis=0), np.arange(loadings.shape[1])]
        self.assertTrue((largest > 0).all())


class ChecksOfNow(unittest.TestCase):
    """Validation is of the samples, replicates and classes of now."""

    def setUp(self):
        values = np.repeat(random_spectra(10, 8), 3, axis=0)
        values += 0.05 * np.random.default_rng(2).normal(size=values.shape)
        replicates = tuple(f"r{row // 3}" for row in range(30))
        recipe = Recipe(model=ModelSettings(components=2))
        self.table = ordered_table(values, replicates=replicates, classes=(classes_of(30),))
        self.study = Study(State.of("t", self.table, recipe))
        self.pump = Pump()
        quiet = mock.patch.object(running_checks, "QUIET", 0.0)
        quiet.start()
        self.addCleanup(quiet.stop)
        self.live = CurrentModel(self.study, self.pump.post)
        self.addCleanup(self.live.close)

    def checked(self):
        while self.live.checked is None or self.live.checking is not None:
            self.pump.run_next()
        return self.live.checked

    def test_without_the_replicates_it_is_validated_anew(self):
        together = self.checked().validation.q2[1]
        bare = replace(self.table, replicates=None)
        self.study.do(ReadAgain(bare, NOWHERE))
        self.assertIsNone(self.live.checked)  # what is not true any more is not shown
        apart = self.checked().validation.q2[1]
        self.assertNotAlmostEqual(together, apart, places=3)
        fresh = check(Evaluator().evaluate(self.study.state.table, self.study.state.recipe))
        self.assertEqual(apart, fresh.validation.q2[1])

    def test_other_classes_are_other_segments(self):
        by_class = structs.replace(self.study.state.recipe.validate, scheme="class")
        bare = replace(self.table, replicates=None)
        self.study.do(ReadAgain(bare, NOWHERE))
        self.study.do(ValidateBy(by_class))
        before = self.checked().validation.q2[1]
        self.study.do(AssignClass("kind", tuple(range(0, 30, 4)), "z"))
        self.assertIsNone(self.live.checked)
        self.assertNotEqual(self.checked().validation.q2[1], before)

    def test_a_validation_that_is_overtaken_on_its_way_is_not_that_of_the_next_model(self):
        end = time.monotonic() + 120.0
        while self.live.queue._threads and time.monotonic() < end:
            time.sleep(0.002)
        self.assertTrue(self.pump.posted)  # the answer is there, and waits to be handed over
        self.study.do(ScaleBy(ScaleSettings(method="pareto")))
        self.assertIsNone(self.live.checked)
        shown = self.checked()
        fresh = check(Evaluator().evaluate(self.study.state.table, self.study.state.recipe))
        np.testing.assert_array_equal(shown.validation.q2, fresh.validation.q2)

    def test_another_number_of_components_needs_no_new_validation(self):
        known = self.checked()
        self.study.do(KeepComponents(3))
        self.assertIs(self.live.checked, known)


class Behind(unittest.TestCase):
    def test_engines_that_go_in_rounds_count_their_rounds(self):
        """What the monkey found: NIPALS held the window for seven seconds, and for one on 48 × 13."""
        evaluator = Evaluator(ahead=30, cache=Cache())
        table, _ = demo_set("intake-nir")
        whole = table.take(np.flatnonzero(np.isfinite(table.values).all(axis=1)))
        for engine, gaps, given, light in (
            ("auto", "leave-out-samples", table, True),
            ("nipals", "leave-out-samples", table, False),
            ("nipals", "leave-out-samples", ordered_table(random_spectra(20, 6)), False),
            ("auto", "leave-out-samples", ordered_table(random_spectra(20, 6)), True),
            ("auto", "em", table, False),
            ("auto", "em", whole, True),
        ):
            recipe = recipe_from_plain({"model": {"engine": engine, "gaps": gaps}})
            work = evaluator.work_left(given, recipe)
            self.assertEqual(work <= AT_ONCE, light, (engine, gaps))

    def test_large_data_are_not_hashed_to_find_out_that_they_are_large(self):
        evaluator = Evaluator(ahead=30, cache=Cache())
        with mock.patch.object(evaluator, "_begin", side_effect=AssertionError):
            recipe = recipe_from_plain({"treat": [{"method": "snv"}]})
            work = evaluator.work_left(ordered_table(np.zeros((1000, 300))), recipe, AT_ONCE)
        self.assertGreater(work, AT_ONCE)

    def test_large_work_is_done_behind_and_delivered(self):
        with mock.patch.object(live_module, "AT_ONCE", 0):
            pump = Pump()
            live = CurrentModel(study_of(random_spectra(12, 8)), pump.post)
            self.addCleanup(live.close)
            self.assertTrue(live.busy)
            self.assertIsNone(live.evaluation)
            pump.run_next()
            self.assertIsNotNone(live.coming.staged)
            pump.run_next()
            self.assertFalse(live.busy)
            self.assertEqual(live.evaluation.model.k, 2)


class Overtaken(unittest.TestCase):
    """A fit that nobody waits for any more is given up in the middle, and what runs behind gives way."""

    def setUp(self):
        kept = Cache()
        for module, name, value in (
            (live_module, "AT_ONCE", 0),
            (live_module, "shared", lambda: kept),
            (running_checks, "QUIET", 0.0),
        ):
            patch = mock.patch.object(module, name, value)
            patch.start()
            self.addCleanup(patch.stop)
        self.pump = Pump()
        self.study = study_of(random_spectra(400, 380))
        self.live = CurrentModel(self.study, self.pump.post)
        self.addCleanup(self.live.close)

    def run_until(self, true):
        end = time.monotonic() + 180
        while not true() and time.monotonic() < end:
            self.pump.run_next()
        self.assertTrue(true())

    def coming(self, name):
        """A part of what is being computed."""
        return None if self.live.coming is None else getattr(self.live.coming, name)

    def changed_hearing(self, name):
        """Add a step once there is a model: that model, and what each announcement from then on shows."""
        self.run_until(lambda: self.live.evaluation is not None)
        first, heard = self.live.evaluation, []
        self.live.subscribe(lambda changed: heard.append((changed, self.coming(name))))
        self.study.do(AddStep("snv"))
        return first, heard

    def test_a_fit_is_left_in_the_middle(self):
        self.run_until(lambda: self.live.evaluation is not None)
        inside, go, finished = threading.Event(), threading.Event(), []
        iterate = gram_module.leading_eigenvectors

        def slow(product, k, watch=None, shown=None):
            inside.set()
            go.wait(60)
            found = iterate(product, k, watch=watch, shown=shown)
            finished.append(k)
            return found

        self.live.stop_checking()
        with mock.patch.object(gram_module, "leading_eigenvectors", slow):
            self.study.do(ScaleBy(ScaleSettings(method="pareto")))
            self.assertTrue(inside.wait(60))
            self.study.do(ScaleBy(ScaleSettings(method="sd")))
            go.set()
            self.run_until(lambda: self.live.evaluation.scaling.method == "sd")
        self.assertEqual(len(finished), 1)  # the fit of "sd" only
        self.assertIsNone(self.live.trouble)

    def test_the_treated_tables_are_there_before_their_model(self):
        first, heard = self.changed_hearing("staged")
        self.run_until(lambda: self.coming("staged") is not None)
        staged = self.live.coming.staged
        self.assertIn((frozenset({"staged"}), staged), heard)
        self.assertIs(self.live.evaluation, first)  # the moment is whole, and that before
        self.assertEqual(self.live.moment.state.recipe.treat, ())
        self.assertEqual(len(self.live.coming.state.recipe.treat), 1)
        values = self.study.state.table.values
        wanted = (values - values.mean(axis=1, keepdims=True)) / values.std(axis=1, ddof=1, keepdims=True)
        np.testing.assert_allclose(staged.treated.values, wanted)
        self.run_until(lambda: self.live.evaluation is not first)
        self.assertIsNone(self.live.coming)
        np.testing.assert_array_equal(self.live.evaluation.treated.values, staged.treated.values)

    def test_the_components_asked_for_are_there_before_those_ahead(self):
        first, heard = self.changed_hearing("staged")
        self.run_until(lambda: self.live.evaluation is not first)
        few = self.live.evaluation
        self.assertFalse(self.live.busy)
        self.run_until(lambda: self.live.evaluation is not few)
        whole = self.live.evaluation
        self.assertEqual((few.decomposition.computed, whole.decomposition.computed), (2, live_module.AHEAD))
        self.assertEqual(few.model.k, whole.model.k)
        for name in ("scores", "loadings", "t2", "q"):  # the same signs too
            np.testing.assert_allclose(getattr(few.model, name), getattr(whole.model, name), atol=1e-6)
        self.assertAlmostEqual(few.model.q_limit.value, whole.model.q_limit.value, 6)
        self.assertIn({"evaluation"}, [changed for changed, _ in heard])  # and nothing else is other

    def test_what_was_computed_ahead_is_taken_when_the_handle_moves(self):
        first, _ = self.changed_hearing("staged")
        self.run_until(lambda: self.live.evaluation is not first)
        self.run_until(lambda: self.live.evaluation.decomposition.computed == live_module.AHEAD)
        with (
            mock.patch.object(fitting, "decompose", side_effect=AssertionError),
            mock.patch.object(fitting, "decompose_up_to", side_effect=AssertionError),
        ):
            self.study.do(KeepComponents(7))
            self.run_until(lambda: not self.live.busy)
        self.assertEqual(self.live.evaluation.model.k, 7)
        self.assertEqual(self.live.evaluation.decomposition.computed, live_module.AHEAD)

    def test_what_is_computed_ahead_of_a_former_model_is_left(self):
        first, _ = self.changed_hearing("staged")
        inside, left = threading.Event(), []
        evaluate = self.live._evaluator.evaluate

        def slow(table, recipe, lenient, watch, staged=None, ahead=True):
            if ahead and recipe.treat:
                inside.set()
                try:
                    while True:
                        tell(watch, 0.0)
                        time.sleep(0.005)
                finally:
                    left.append(recipe)
            return evaluate(table, recipe, lenient, watch, staged, ahead)

        with mock.patch.object(self.live._evaluator, "evaluate", slow):
            self.run_until(lambda: self.live.evaluation is not first)
            few = self.live.evaluation
            self.assertTrue(inside.wait(60))
            self.study.undo()
            self.run_until(lambda: self.live.evaluation is not few)
            self.run_until(lambda: self.live.evaluation.decomposition.computed == live_module.AHEAD)
        self.assertEqual((self.live.evaluation.recipe.treat, len(left)), ((), 1))

    def test_of_much_data_the_validation_comes_before_the_lines_of_evidence(self):
        seen = []
        self.live.subscribe(
            lambda changed: (
                seen.append(self.live.checked) if "checked" in changed and self.live.checked else None
            )
        )
        with mock.patch.object(running_checks, "LIGHT", 0):
            self.study.do(KeepComponents(3))
            self.run_until(lambda: self.live.checked is not None and self.live.checking is None)
        first, last = next(one for one in seen if one is not None), self.live.checked
        self.assertEqual(set(first.lines), {"lowest-press", "one-standard-error"})
        self.assertIn(first.components.computed, (3, live_module.AHEAD))
        self.assertEqual(
            len(last.lines), running_checks.QUICK
        )  # the slow lines wait until they are asked for
        self.assertIs(first.validation, last.validation)
        for key, line in first.lines.items():
            self.assertEqual(last.lines[key].suggested, line.suggested)
        self.assertGreaterEqual(last.components.computed, 20)

    def test_lines_that_are_asked_for_later_need_no_second_validation(self):
        evidence = EvidenceSettings(permutations=19, halves=1)
        self.study.do(UseRecipe(structs.replace(self.study.state.recipe, evidence=evidence), "quick"))
        with mock.patch.object(running_checks, "LIGHT", 0):
            self.study.do(KeepComponents(3))
            self.run_until(lambda: self.live.checked is not None and self.live.checking is None)
            first, shown = self.live.checked, []
            self.live.subscribe(lambda changed: shown.append(self.live.checked))
            self.live.check(thorough=True)
            self.assertIs(self.live.checked, first)  # what is known stays on screen
            self.assertIsNotNone(self.live.checking)
            self.run_until(lambda: self.live.checking is None)
        self.assertNotIn(None, shown)
        self.assertIs(self.live.checked.validation, first.validation)
        self.assertEqual(len(self.live.checked.lines), len(KEYS))

    def test_validation_arrives_though_the_model_changed_meanwhile(self):
        self.run_until(lambda: self.live.evaluation is not None)
        for k in (3, 4, 5):
            self.study.do(KeepComponents(k))
        self.run_until(lambda: self.live.checked is not None and self.live.evaluation.model.k == 5)
        self.assertGreaterEqual(len(self.live.checked.validation.q2), 5)
