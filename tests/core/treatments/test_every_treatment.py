"""What every treatment promises, read off its declaration."""

import importlib
import json
import unittest
from pathlib import Path
from unittest import mock

import msgspec
import numpy as np

from scutcher.core.errors import InputError, TableError
from scutcher.core.progress import Stopped
from scutcher.core.recipes.chain import apply_chain, learned_from_plain, learned_to_plain, run_step
from scutcher.core.recipes.recipe import Recipe, Step, recipe_from_plain, recipe_to_plain
from scutcher.core.treatments import all_treatments, treatment
from scutcher.core.treatments.base import Treatment, fields_of
from scutcher.core.treatments.support.manual import entry, guide
from scutcher.core.treatments.support.requirements import check_needs
from tests.core.making import classes_of, mixed_table, moisture_of, ordered_table, random_spectra


def table_for(declared, n: int = 12, p: int = 81, gap: bool = False):
    """Spectra that the treatment can work on, or a table of mixed variables where it needs one."""
    values = random_spectra(n, p)
    values += 3.0 * np.exp(-0.5 * ((np.arange(p) - p // 2) / 3.0) ** 2)  # a sharp peak, for those that align
    if gap:
        values[3, 4] = np.nan
    make = mixed_table if "mixed" in declared.needs else ordered_table
    return make(values, classes=(classes_of(n),), properties=(moisture_of(n),))


def step_for(declared):
    """The treatment as it is put into a recipe for such a table."""
    suggest = declared.suggest
    return Step(declared.key, suggest(table_for(declared)) if suggest else declared.parameters())


EXTREMES = (0, 1, 2, 5, 21, 80, 81, 999, 10**6, 10**15, 5e-324, 1e-300, 1e-9, 0.3, 0.999, 1e9, 1e300, -1e300)


def numbers_of(declared, step):
    """The step with each of its numbers at each extreme that its declaration lets pass."""
    plain = msgspec.to_builtins(step.parameters)
    for name, value in plain.items():
        if isinstance(value, bool) or not isinstance(value, int | float):
            continue
        for extreme in EXTREMES:
            try:
                parameters = msgspec.convert({**plain, name: extreme}, declared.parameters)
            except msgspec.ValidationError:
                continue
            yield name, extreme, Step(declared.key, parameters)


class EveryTreatment(unittest.TestCase):
    def each(self):
        for key, declared in all_treatments().items():
            with self.subTest(key):
                yield declared, step_for(declared)

    def test_key_is_the_file_name_and_source_is_cited(self):
        for declared, _ in self.each():
            module = importlib.import_module(f"scutcher.core.treatments.{declared.key.replace('-', '_')}")
            self.assertIs(module.TREATMENT, declared)
            self.assertRegex(declared.source, r"\(\d{4}\)")
            self.assertTrue(declared.purpose and declared.help and declared.name)
            self.assertIn(declared.source, entry(declared))

    def test_the_guide_is_made_from_the_declarations(self):
        page = Path(__file__).parents[3] / "docs" / "treatments.md"
        self.assertEqual(
            page.read_text(),
            guide(all_treatments().values()),
            "run: ./run cli treatments --markdown > docs/treatments.md",
        )

    def test_parameters_have_defaults_and_help(self):
        for declared, _ in self.each():
            for field in fields_of(declared.parameters):
                self.assertIsNotNone(field.default)
                self.assertTrue(field.help)

    def test_input_is_not_changed_and_output_is_finite(self):
        for declared, step in self.each():
            table = table_for(declared)
            before = table.values.copy()
            treated = run_step(table, step).table
            np.testing.assert_array_equal(table.values, before)
            self.assertTrue(np.isfinite(treated.values).all())
            self.assertEqual(treated.ids, table.ids)

    def test_numbers_at_their_extremes_give_a_result_or_a_sentence(self):
        tried = 0
        for declared, step in self.each():
            table = table_for(declared)
            for name, extreme, tried_step in numbers_of(declared, step):
                tried += 1
                with self.subTest(name=name, extreme=extreme), np.errstate(all="ignore"):
                    try:
                        treated = run_step(table, tried_step).table
                    except InputError as said:
                        self.assertTrue(said.problem and said.remedy)
                        continue
                    self.assertFalse(treated.has_gaps)
                    self.assertLessEqual(treated.values.size, 10_000 * len(table.ids))
        self.assertGreater(tried, 200)

    def test_apply_after_fit_is_the_direct_result(self):
        for declared, step in self.each():
            table = table_for(declared)
            direct = run_step(table, step)
            again = apply_chain(table, [step], [direct.learned])
            np.testing.assert_array_equal(again.values, direct.table.values)

    def test_row_wise_ones_do_not_look_at_other_rows(self):
        for declared, step in self.each():
            if declared.learns:
                continue
            table = table_for(declared)
            whole = run_step(table, step).table.values
            for row in (0, 7):
                alone = run_step(table.take(np.array([row])), step).table.values
                np.testing.assert_allclose(alone[0], whole[row], rtol=1e-12, atol=1e-12)

    def test_switched_off_does_nothing(self):
        for declared, _ in self.each():
            table = table_for(declared)
            self.assertIs(run_step(table, Step(declared.key, declared.parameters(), on=False)).table, table)

    def test_what_was_learned_survives_a_file(self):
        for declared, step in self.each():
            table = table_for(declared)
            direct = run_step(table, step)
            self.assertEqual(direct.learned is not None, declared.learns)
            kept = learned_from_plain(json.loads(json.dumps(learned_to_plain(direct.learned))))
            np.testing.assert_array_equal(apply_chain(table, [step], [kept]).values, direct.table.values)

    def test_learned_values_are_those_of_the_training_set(self):
        for declared, step in self.each():
            if not declared.learns:
                continue
            table = table_for(declared)
            direct = run_step(table, step)
            few = apply_chain(table.take(np.array([2, 5])), [step], [direct.learned])
            np.testing.assert_allclose(few.values, direct.table.values[[2, 5]], rtol=1e-12, atol=1e-12)

    def test_in_parts_it_is_the_same(self):
        for declared, step in self.each():
            if declared.slow:
                table = table_for(declared)
                watch = mock.Mock(return_value=True)
                with mock.patch("scutcher.core.recipes.chain.CELLS_AT_ONCE", 200):
                    parts = run_step(table, step, watch).table
                shares = [call.args[0] for call in watch.call_args_list]
                self.assertEqual(shares, sorted(shares))
                self.assertGreater(len(shares), 3)
                whole = run_step(table, step).table
                np.testing.assert_allclose(parts.values, whole.values, rtol=1e-10, atol=1e-12)
                self.assertEqual((parts.signal, parts.axis.labels), (whole.signal, whole.axis.labels))

    def test_it_can_be_stopped(self):
        declared = treatment("arpls")
        with mock.patch("scutcher.core.recipes.chain.CELLS_AT_ONCE", 200), self.assertRaises(Stopped):
            run_step(table_for(declared), step_for(declared), lambda share: share < 0.3)

    def test_what_it_shows_of_its_work(self):
        for declared, step in self.each():
            if declared.inside is None:
                continue
            table = table_for(declared)
            done = run_step(table, step)
            shown = declared.inside(table, done.table, step.parameters, done.learned)
            if shown.baseline is not None and declared.family == "baseline":
                np.testing.assert_allclose(table.values - shown.baseline, done.table.values)
            if shown.per_sample is not None:
                self.assertEqual(shown.per_sample.shape, (12,))
                self.assertTrue(shown.per_sample_name)

    def test_recipe_round_trip(self):
        for _, step in self.each():
            recipe = Recipe(treat=(step,))
            self.assertEqual(recipe_from_plain(recipe_to_plain(recipe)), recipe)

    def test_gaps_are_refused_or_passed_through(self):
        for declared, step in self.each():
            table = table_for(declared, gap=True)
            if "no-gaps" in declared.needs:
                with self.assertRaises(TableError) as caught:
                    run_step(table, step)
                self.assertIn("sample s4 has 1 gaps", str(caught.exception))
            else:
                self.assertTrue(np.isnan(run_step(table, step).table.values[3]).any())


class Needs(unittest.TestCase):
    def test_ordered_axis(self):
        class Nothing(msgspec.Struct):
            pass

        declared = Treatment("x", "Example", "", "", "", "", Nothing, lambda *a: None, needs=("ordered",))
        with self.assertRaises(TableError) as caught:
            check_needs(declared, mixed_table(np.eye(3)))
        self.assertIn("Example needs an ordered axis", str(caught.exception))
