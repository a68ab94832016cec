"""What is left when values are missing, and what is said about it."""

import unittest
from dataclasses import replace

import numpy as np

from scutcher.core.errors import TableError
from scutcher.core.models.missing_values import usable_part
from scutcher.core.recipes.recipe import ModelSettings
from tests.core.making import mixed_table, ordered_table, random_spectra


class UsablePart(unittest.TestCase):
    def setUp(self):
        values = random_spectra(10, 6)
        values[2, 1] = values[4, 1] = values[6, 1] = np.nan
        values[8, 5] = np.nan
        self.table = ordered_table(values, set_aside={0: "spilled"})

    def test_samples_with_gaps_are_left_out_with_the_reason(self):
        found = usable_part(self.table, ModelSettings())
        np.testing.assert_array_equal(found.rows, [1, 3, 5, 7, 9])
        self.assertEqual(found.left_out_rows[2], "gaps: 1 of 6 variables")
        self.assertEqual(found.left_out_rows[0], "spilled")
        self.assertEqual(found.gap_count, 4)

    def test_variables_with_many_gaps_go_first(self):
        found = usable_part(self.table, ModelSettings(gaps="leave-out-variables", gap_share=0.2))
        np.testing.assert_array_equal(found.columns, [0, 2, 3, 4, 5])
        np.testing.assert_array_equal(found.rows, [1, 2, 3, 4, 5, 6, 7, 9])
        self.assertEqual(found.left_out_columns[1], "gaps: 3 of 9 samples")

    def test_one_sample_or_one_variable(self):
        with self.assertRaises(TableError) as caught:
            usable_part(mixed_table(np.ones((1, 3))), ModelSettings())
        self.assertIn("1 sample of 1 can be used; a component model needs at least 2", str(caught.exception))
        table = replace(mixed_table(random_spectra(5, 2)), left_out={0: "constant"})
        with self.assertRaises(TableError) as caught:
            usable_part(table, ModelSettings())
        self.assertIn("1 variable of 2 can be used", str(caught.exception))
