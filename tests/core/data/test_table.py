"""Tables: what they refuse, what they keep, and that nobody can change them."""

import unittest

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.constant_variables import constant_variables, leave_out_dead, leave_out_empty
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from tests.core.making import classes_of, mixed_table, moisture_of, ordered_table


class Refusals(unittest.TestCase):
    def test_duplicate_ids_name_both_rows(self):
        with self.assertRaises(TableError) as caught:
            Table(np.zeros((3, 2)), Axis(("a", "b")), ("u", "v", "u"))
        self.assertEqual(caught.exception.problem, "The id 'u' stands at samples 1 and 3.")

    def test_infinite_value_names_variable_and_sample(self):
        values = np.zeros((3, 4))
        values[1, 2] = np.inf
        with self.assertRaises(TableError) as caught:
            ordered_table(values)
        self.assertEqual(caught.exception.problem, "The value of 1004 nm of sample s2 is infinite.")

    def test_values_that_cannot_be_squared_are_refused(self):
        values = np.ones((3, 4))
        values[2, 1] = -6e300
        with self.assertRaisesRegex(TableError, "1002 nm of sample s3 is -6e.300, too large"):
            ordered_table(values)
        with self.assertRaisesRegex(TableError, "larger than 1e-200: they are too small"):
            ordered_table(np.full((3, 4), 1e-200))
        values[2, 1] = 1e-300  # one small value among others is as good as zero
        self.assertEqual(ordered_table(values).values[2, 1], 1e-300)

    def test_axis_that_turns_back_names_the_place(self):
        with self.assertRaises(TableError) as caught:
            Axis(("1", "2", "2", "3"), np.array([1.0, 2.0, 2.0, 3.0]))
        self.assertIn("2 → 2 (channel 2)", caught.exception.problem)

    def test_falling_axis_is_fine(self):
        self.assertTrue(Axis(("3", "2", "1"), np.array([3.0, 2.0, 1.0])).ordered)

    def test_columns_of_another_length(self):
        with self.assertRaises(TableError):
            Table(np.zeros((3, 2)), Axis(("a", "b")), ("u", "v", "w"), classes=(classes_of(4),))


class Keeping(unittest.TestCase):
    def test_values_are_read_only_and_the_source_stays_writable(self):
        source = np.arange(6.0).reshape(2, 3)
        table = ordered_table(source)
        with self.assertRaises(ValueError):
            table.values[0, 0] = 5.0
        source[0, 0] = 1.0

    def test_take_keeps_what_is_known_of_the_samples(self):
        table = ordered_table(
            np.arange(20.0).reshape(4, 5), classes=(classes_of(4),), properties=(moisture_of(4),)
        )
        part = table.take(np.array([3, 1]), np.array([0, 4]))
        self.assertEqual(part.ids, ("s4", "s2"))
        self.assertEqual(part.classes[0].values, ("y", "y"))
        self.assertEqual(part.classes[0].levels, ("x", "y"))
        np.testing.assert_array_equal(part.properties[0].values, [4.0, 2.0])
        np.testing.assert_array_equal(part.values, [[15.0, 19.0], [5.0, 9.0]])
        self.assertEqual(part.axis.labels, ("1000", "1008"))

    def test_used_rows_and_columns(self):
        table = ordered_table(np.eye(4), set_aside={1: "spilled"}, left_out={0: "dead"})
        np.testing.assert_array_equal(table.used_rows(), [0, 2, 3])
        np.testing.assert_array_equal(table.used_columns(), [1, 2, 3])

    def test_class_codes_with_unknowns(self):
        column = ClassColumn("kind", ("b", "", "a", "b"), ("a", "b"))
        np.testing.assert_array_equal(column.codes(), [1, -1, 0, 1])


class ImportCheck(unittest.TestCase):
    def test_constant_and_empty_columns_are_named(self):
        values = np.array([[1.0, 5.0, np.nan, 0.1], [2.0, 5.0, np.nan, 0.1], [3.0, 5.0, np.nan, 0.1]])
        values[:, 3] += np.array([0.0, 1e-16, 0.0])  # a trace of rounding is still constant
        table = leave_out_empty(mixed_table(values))
        self.assertEqual(set(table.left_out), {2})
        np.testing.assert_array_equal(constant_variables(table), [1, 3])
        left_out = leave_out_dead(mixed_table(values)).left_out
        self.assertEqual(set(left_out), {1, 2, 3})
        self.assertIn("dead", left_out[1])
        self.assertIn("empty", left_out[2])
