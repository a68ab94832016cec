"""Replicates against a loop."""

import unittest
from dataclasses import replace

import numpy as np

from scutcher.core.data.replicates import averaged, replicate_spread
from scutcher.core.errors import TableError
from tests.core.making import classes_of, moisture_of, ordered_table


class Replicates(unittest.TestCase):
    def setUp(self):
        self.values = np.array([[1.0, 2.0], [3.0, 4.0], [10.0, np.nan], [12.0, 8.0], [5.0, 5.0], [9.0, 9.0]])
        self.table = ordered_table(
            self.values,
            classes=(classes_of(6),),
            properties=(moisture_of(6),),
            replicates=("a", "a", "b", "b", "c", "d"),
            set_aside={5: "wet"},
        )

    def test_spread_by_hand(self):
        spread = replicate_spread(self.values, self.table.replicates)
        self.assertAlmostEqual(spread[0], 1.0)  # (1, 1) from the mean, over two variables
        self.assertAlmostEqual(spread[2], 1.0)  # one variable known
        self.assertTrue(np.isnan(spread[4]))

    def test_averages(self):
        found = averaged(self.table)
        self.assertEqual(found.ids, ("a", "b", "c"))
        np.testing.assert_allclose(found.values, [[2.0, 3.0], [11.0, 8.0], [5.0, 5.0]])
        self.assertEqual(found.classes[0].values, ("", "", "x"))
        np.testing.assert_allclose(found.properties[0].values, [1.5, 3.5, 5.0])
        self.assertIsNone(found.replicates)

    def test_samples_without_an_id_are_not_repeats_of_each_other(self):
        table = ordered_table(self.values, replicates=("a", "a", "", "", "c", ""))
        self.assertTrue(np.isnan(replicate_spread(self.values, table.replicates)[2:]).all())
        found = averaged(table)
        self.assertEqual(found.ids, ("a", table.ids[2], table.ids[3], "c", table.ids[5]))
        np.testing.assert_allclose(found.values[1:3], self.values[2:4])

    def test_a_sample_that_is_called_as_a_replicate_id_is_not_lost(self):
        table = ordered_table(self.values, replicates=("a", "a", "", "b", "b", "b"))
        table = replace(table, ids=("s1", "s2", "a", "s4", "s5", "s6"))
        with self.assertRaises(TableError) as caught:
            averaged(table)
        self.assertIn("The id 'a' stands at samples 1 and 2", str(caught.exception))

    def test_without_replicates(self):
        with self.assertRaises(TableError):
            averaged(ordered_table(self.values))
