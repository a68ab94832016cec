"""Only what changed is computed again, and what is kept is right."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from msgspec.structs import replace as changed

from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import ModelError, TableError
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings, Step, recipe_from_plain
from scutcher.core.treatments.snv import SnvParameters, snv
from scutcher.study.document.commands.classes import with_class_column
from scutcher.study.evaluation import known_rows
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import classes_of, mixed_table, ordered_table, random_spectra

SNV = Recipe(treat=(Step("snv", SnvParameters()),), model=ModelSettings(components=2))


class Evaluating(unittest.TestCase):
    def setUp(self):
        self.x = random_spectra(20, 15)
        self.table = ordered_table(self.x, classes=(classes_of(20),))
        self.evaluator = Evaluator(ahead=10)

    def computed(self, table, recipe):
        before = self.evaluator.cache.computed
        found = self.evaluator.evaluate(table, recipe)
        return found, self.evaluator.cache.computed - before

    def test_the_chain_end_to_end(self):
        found, _ = self.computed(self.table, SNV)
        z = snv(self.x)
        z = z - z.mean(axis=0)
        np.testing.assert_allclose(found.z, z)
        left, singular, _ = np.linalg.svd(z)
        np.testing.assert_allclose(np.abs(found.model.scores), np.abs(left[:, :2] * singular[:2]), atol=1e-9)

    def test_what_was_counted_as_kept_is_kept_until_it_is_used(self):
        """In a full cache the first step of a chain would throw out the second, which was counted as done."""
        recipe = recipe_from_plain({"treat": [{"method": "snv"}, {"method": "msc"}]})
        cache = self.evaluator.cache
        self.evaluator.evaluate(self.table, recipe)
        second = next(key for key in cache._entries if "'msc'" in repr(key))
        kept, weight = cache._entries[second]
        cache._entries.clear()
        cache._held = 0
        for key, what in ((second, kept), ("later", object()), ("last", object())):
            cache.put(key, what, weight)
        cache._limit = cache._held
        ran = []

        def counted(table, step, watch):
            ran.append(step.method)
            return run_step(table, step, watch)

        with mock.patch.object(known_rows, "run_step", counted):
            self.evaluator.work_left(self.table, recipe)
            self.evaluator.evaluate(self.table, recipe)
        self.assertEqual(ran, ["snv"])

    def test_what_did_not_change_is_not_computed_again(self):
        self.computed(self.table, SNV)
        cases = {
            "the same": (self.table, SNV, 0),
            "components": (self.table, changed(SNV, model=ModelSettings(components=3)), 0),
            "SNV off": (self.table, changed(SNV, treat=(changed(SNV.treat[0], on=False),)), 2),
            "SNV on again": (self.table, SNV, 0),
            "scaling": (self.table, changed(SNV, scale=ScaleSettings(method="sd")), 2),
            "a sample set aside": (replace(self.table, set_aside={3: "x"}), SNV, 4),
            "the axis named": (replace(self.table, set_aside={}), SNV, 0),
        }
        for name, (table, recipe, expected) in cases.items():
            with self.subTest(name):
                self.assertEqual(self.computed(table, recipe)[1], expected)

    def test_class_edits_cost_nothing_and_are_seen(self):
        self.computed(self.table, SNV)
        column = replace(classes_of(20), values=("z",) * 20)
        found, cost = self.computed(with_class_column(self.table, column), SNV)
        self.assertEqual(cost, 0)
        self.assertEqual(found.treated.classes[0].values[0], "z")

    def test_other_values_are_never_taken_for_the_old_ones(self):
        first, _ = self.computed(self.table, SNV)
        second, cost = self.computed(ordered_table(self.x + np.eye(20, 15)), SNV)
        self.assertEqual(cost, 4)
        self.assertFalse(np.allclose(first.z, second.z))

    def test_an_error_is_not_kept(self):
        with self.assertRaises(ModelError):
            self.evaluator.evaluate(self.table, changed(SNV, model=ModelSettings(components=99)))
        self.assertEqual(self.evaluator.evaluate(self.table, SNV).model.k, 2)

    def test_rows_of_the_table_and_of_the_model(self):
        found, _ = self.computed(replace(self.table, set_aside={0: "x"}), SNV)
        self.assertEqual(found.places()[1], 0)
        self.assertNotIn(0, found.places())


class GapsOnTheWay(unittest.TestCase):
    def test_a_step_that_makes_gaps_is_seen_though_the_data_had_none(self):
        kind = ClassColumn("kind", ("a", "", *"b" * 10))
        table = mixed_table(random_spectra(12, 6), classes=(kind,))
        recipe = recipe_from_plain({"treat": [{"method": "indicator-columns"}]})
        for evaluator in (Evaluator(), Evaluator(keeps=False)):
            with self.assertRaises(TableError) as caught:
                evaluator.evaluate(table, recipe)
            self.assertEqual(
                str(caught.exception),
                "After treatment sample s2 has gaps. "
                "Fill gaps before, or fit around them (gaps nipals or em).",
            )
