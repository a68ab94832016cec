"""What every treatment promises, read off its declaration."""

import importlib
import unittest

import msgspec
import numpy as np

from scutcher.core.chain import apply_chain, run_step
from scutcher.core.errors import TableError
from scutcher.core.manual import entry
from scutcher.core.recipe import Recipe, Step, recipe_from_plain, recipe_to_plain
from scutcher.core.treatments import all_treatments
from scutcher.core.treatments.base import Treatment, check_needs, fields_of
from tests.core.making import classes_of, mixed_table, moisture_of, ordered_table, random_spectra


def spectra_table(n: int = 12, p: int = 25):
    return ordered_table(random_spectra(n, p), classes=(classes_of(n),), properties=(moisture_of(n),))


class EveryTreatment(unittest.TestCase):
    def each(self):
        for key, declared in all_treatments().items():
            with self.subTest(key):
                yield declared, Step(key, declared.parameters())

    def test_key_is_the_file_name_and_source_is_cited(self):
        for declared, _ in self.each():
            module = importlib.import_module(f"scutcher.core.treatments.{declared.key.replace('-', '_')}")
            self.assertIs(module.TREATMENT, declared)
            self.assertRegex(declared.source, r"\(\d{4}\)")
            self.assertTrue(declared.purpose and declared.help and declared.name)
            self.assertIn(declared.source, entry(declared))

    def test_parameters_have_defaults_and_help(self):
        for declared, _ in self.each():
            for field in fields_of(declared.parameters):
                self.assertIsNotNone(field.default)
                self.assertTrue(field.help)

    def test_input_is_not_changed_and_output_is_finite(self):
        for _, step in self.each():
            table = spectra_table()
            before = table.values.copy()
            treated = run_step(table, step).table
            np.testing.assert_array_equal(table.values, before)
            self.assertTrue(np.isfinite(treated.values).all())
            self.assertEqual(treated.ids, table.ids)

    def test_apply_after_fit_is_the_direct_result(self):
        for _, step in self.each():
            table = spectra_table()
            direct = run_step(table, step)
            again = apply_chain(table, [step], [direct.learned])
            np.testing.assert_array_equal(again.values, direct.table.values)

    def test_row_wise_ones_do_not_look_at_other_rows(self):
        for declared, step in self.each():
            if declared.learns:
                continue
            table = spectra_table()
            whole = run_step(table, step).table.values
            for row in (0, 7):
                alone = run_step(table.take(np.array([row])), step).table.values
                np.testing.assert_array_equal(alone[0], whole[row])

    def test_switched_off_does_nothing(self):
        for declared, _ in self.each():
            table = spectra_table()
            self.assertIs(run_step(table, Step(declared.key, declared.parameters(), on=False)).table, table)

    def test_recipe_round_trip(self):
        for _, step in self.each():
            recipe = Recipe(treat=(step,))
            self.assertEqual(recipe_from_plain(recipe_to_plain(recipe)), recipe)

    def test_gaps_are_refused_or_passed_through(self):
        for declared, step in self.each():
            values = random_spectra(12, 25)
            values[3, 4] = np.nan
            table = ordered_table(values, classes=(classes_of(12),), properties=(moisture_of(12),))
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

        declared = Treatment("x", "Example", "", "", "", Nothing, lambda *a: None, needs=("ordered",))
        with self.assertRaises(TableError) as caught:
            check_needs(declared, mixed_table(np.eye(3)))
        self.assertIn("Example needs an ordered axis", str(caught.exception))
