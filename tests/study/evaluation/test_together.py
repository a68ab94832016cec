"""Comparisons of several tables on the shelf: put by, kept, opened, compared with other models."""

import unittest
from dataclasses import replace

import numpy as np

from scutcher.charts.comparing.planes import loadings_over
from scutcher.core.errors import InputError
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.blocks import BlocksBy, OpenTogether, PutTogetherBy
from scutcher.study.document.commands.recipe import UseRecipe
from scutcher.study.document.commands.shelf import OpenModel, PutBy, RemoveModel, RenameModel
from scutcher.study.document.parts import TOGETHER
from scutcher.study.document.state import changed_fields
from scutcher.study.evaluation.blocks import checked_blocks, fitted_blocks, members_of, reached_by
from scutcher.study.evaluation.comparison import compare
from scutcher.study.evaluation.comparison_sides import side_of, with_checks
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.together_side import consensus_table, together_side
from scutcher.study.storage.plain_state import state_from_plain, state_to_plain


def stored(state):
    """Written and read again."""
    kept = {}

    def put(content):
        kept[f"h{len(kept)}"] = content if isinstance(content, np.ndarray) else tuple(content)
        return f"h{len(kept) - 1}"

    return state_from_plain(state_to_plain(state, put, put), kept.__getitem__)


class OnTheShelf(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.start = demo_study("three-tables").state
        cls.fitted = fitted_blocks(cls.start)
        members = tuple(one.model for one in members_of(cls.start))
        cls.reached = reached_by(cls.fitted, None, np.full(cls.fitted.model.n, -1))
        cls.state = PutTogetherBy("all three", members, cls.reached).apply(cls.start)

    def other(self, state):
        """Another treatment of the current table, another floor."""
        recipe = replace_treat(state.recipe)
        state = UseRecipe(recipe, "bare").apply(state)
        return BlocksBy(type(state.blocks)(floor=0.8)).apply(state)

    def test_it_stands_there_with_its_figures_and_nothing_else_changes(self):
        (put,) = self.state.together
        self.assertEqual((put.model.kind, put.model.name), (TOGETHER, "all three"))
        self.assertEqual(put.model.figure("common"), 2.0)
        self.assertEqual(put.model.figure("tables"), 3.0)
        self.assertIs(self.state.shelf[-1], put.model)
        self.assertEqual(self.state.models, self.start.models)
        self.assertIn("shelf", changed_fields(self.start, self.state))

    def test_held_out_agreement_is_among_the_figures(self):
        checked = checked_blocks(self.start, self.fitted)
        reached = reached_by(self.fitted, checked, np.full(self.fitted.model.n, -1))
        least = min(one.agreement for one in checked.held_out)
        self.assertAlmostEqual(reached.figure("agreement"), least)

    def test_it_is_the_same_after_it_was_stored(self):
        again = stored(self.state)
        (one,), (other,) = self.state.together, again.together
        self.assertEqual(one.settings, other.settings)
        self.assertEqual(one.model.name, other.model.name)
        np.testing.assert_array_equal(one.model.reached.scores, other.model.reached.scores)
        for mine, theirs in zip(one.members, other.members, strict=True):
            self.assertTrue(mine.same_inputs(theirs))

    def test_what_is_not_whole_is_refused(self):
        (put,) = self.state.together
        first = put.members[0]
        for members in ((first,), (first, first), (first, replace(first, dataset="d99"))):
            broken = replace(self.state, together=(replace(put, members=members),))
            with self.assertRaises(InputError):
                stored(broken)
        twice = replace(self.state, together=(put, put))
        with self.assertRaises(InputError):
            stored(twice)

    def test_opening_brings_treatments_and_settings_back(self):
        changed = self.other(self.state)
        self.assertNotEqual(fitted_blocks(changed).model.floor, self.fitted.model.floor)
        opened = OpenTogether(self.state.together[0].model.id).apply(changed)
        self.assertEqual(opened.blocks, replace_without(self.start.blocks))
        again = fitted_blocks(opened)
        for one, other in zip(self.fitted.model.components, again.model.components, strict=True):
            np.testing.assert_allclose(np.abs(one.consensus @ other.consensus), 1.0, atol=1e-9)
        left = [model for model in opened.shelf if model.recipe.treat == ()]
        self.assertTrue(any(model.dataset == changed.dataset.id for model in left))  # the bare one stays

    def test_opening_what_is_open_changes_nothing(self):
        opened = OpenTogether(self.state.together[0].model.id).apply(self.state)
        self.assertEqual({m.id for m in opened.models}, {m.id for m in self.state.models})
        self.assertEqual(opened.current, self.state.current)

    def test_rename_remove_and_the_data_stay_as_long_as_they_are_needed(self):
        ident = self.state.together[0].model.id
        named = RenameModel(ident, "lots").apply(self.state)
        self.assertEqual(named.together[0].model.name, "lots")
        bare = named
        for model in named.models:
            if model.id != named.current:
                bare = RemoveModel(model.id).apply(bare)
        self.assertEqual(len(bare.datasets), 3)  # the comparison is made of them
        opened = OpenTogether(ident).apply(bare)
        self.assertEqual(len(fitted_blocks(opened).names), 3)
        self.assertEqual(len(RemoveModel(ident).apply(bare).datasets), 1)

    def test_names_are_taken_by_both_kinds(self):
        put = PutBy("all three", self.reached).apply(self.state)
        self.assertEqual(put.models[-1].name, "all three (2)")
        with self.assertRaisesRegex(InputError, "not in the study any more"):
            OpenModel("m99", "").apply(self.state)
        with self.assertRaisesRegex(InputError, "not in the study any more"):
            OpenTogether("m99").apply(self.state)


class Compared(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        state = demo_study("three-tables").state
        members = tuple(one.model for one in members_of(state))
        reached = reached_by(fitted_blocks(state), None, np.full(48, -1))
        cls.state = PutTogetherBy("all three", members, reached).apply(state)
        cls.put = cls.state.together[0]
        cls.evaluate = staticmethod(
            lambda table, recipe, watch: Evaluator().evaluate(table, recipe, True, watch)
        )

    def sides(self):
        model = self.state.model
        table = self.state.table
        a = side_of(model, table, lambda data, told: self.evaluate(data, model.recipe, told), None)
        return a, together_side(self.state, self.put, model, self.evaluate)

    def test_with_a_model_of_one_table(self):
        a, b = self.sides()
        compared = compare(a, b, np.full(self.state.table.shape[0], -1))
        self.assertEqual(len(compared.rows_a), 143)  # all scans but the one that was never measured
        self.assertGreater(compared.turned.agreement, compared.turned.by_chance)
        keys = [figure.key for figure in compared.figures]
        self.assertNotIn("r2", keys)
        self.assertNotIn("q2", keys)
        self.assertNotIn("replicates", keys)  # averaged in the tables: no figure of theirs
        chart = loadings_over(compared, 0)
        self.assertEqual(chart.lines.ys.shape, (2, 698))
        own = a.found.model.loadings[:, 0]
        self.assertGreater(abs(float(chart.lines.ys[0] @ own)), 0.999)
        turned = compare(b, a, np.full(self.state.table.shape[0], -1))
        self.assertEqual(loadings_over(turned, 0).lines.ys.shape, (2, 698))
        self.assertFalse(compared.same_data)
        self.assertIs(with_checks(b), b)  # shared scores are not validated as if they were data

    def test_its_components_are_the_consensus_by_variance(self):
        _, b = self.sides()
        fitted = fitted_blocks(self.state)
        scores = b.found.model.scores
        lots = consensus_table(fitted, self.state.table)
        shared = [one.consensus for one in fitted.model.components if len(one.blocks) > 1]
        self.assertEqual(scores.shape[1], len(shared))
        inside = np.linalg.svd(np.linalg.qr(scores)[0].T @ centred(lots.take(b.found.usable.rows).values))[1]
        whole = np.linalg.norm(centred(lots.take(b.found.usable.rows).values))
        self.assertAlmostEqual(float(np.linalg.norm(inside)), float(whole), places=6)

    def test_with_itself(self):
        one = together_side(self.state, self.put, self.put.model, self.evaluate)
        compared = compare(one, one, np.full(48, -1))
        self.assertIsNotNone(loadings_over(compared, 0).lines)  # the same components on both sides
        self.assertAlmostEqual(compared.turned.agreement, 1.0, places=9)


def centred(values):
    scores = values - values.mean(axis=0)
    return np.linalg.qr(scores)[0]


def replace_treat(recipe):
    from msgspec.structs import replace as changed

    return changed(recipe, treat=())


def replace_without(settings):
    from msgspec.structs import replace as changed

    return changed(settings, without=())


if __name__ == "__main__":
    unittest.main()
