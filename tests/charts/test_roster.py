"""The figures of variables in the roster, against loops."""

import unittest
from unittest import mock

import numpy as np
from bench.fitting import data, table_of

from scutcher.charts import roster
from scutcher.charts.roster import BINS, variable_figures


class VariableFigures(unittest.TestCase):
    def setUp(self):
        values = data(37, 5)
        values[3, 2] = values[30, 2] = values[8, 0] = np.nan
        values[:, 4] = 1.5
        self.table = table_of(values)

    def test_against_loops(self):
        found = variable_figures(self.table)
        for variable, column in enumerate(self.table.values.T):
            there = [float(value) for value in column if not np.isnan(value)]
            low, high = min(there), max(there)
            self.assertEqual((found.low[variable], found.high[variable]), (low, high))
            self.assertEqual(found.gaps[variable], len(column) - len(there))
            mean = sum(there) / len(there)
            self.assertAlmostEqual(found.mean[variable], mean, 12)
            squares = sum((value - mean) ** 2 for value in there)
            self.assertAlmostEqual(found.deviation[variable], (squares / (len(there) - 1)) ** 0.5, 12)
            counts = [0] * BINS
            for value in there:
                share = (value - low) / (high - low) if high > low else 0.0
                counts[min(int(share * BINS), BINS - 1)] += 1
            self.assertEqual(found.histogram[variable].tolist(), counts)

    def test_counted_in_parts_or_at_once_it_is_the_same(self):
        whole = variable_figures(self.table).histogram
        self.assertEqual(int(whole.sum()), 37 * 5 - 3)
        for cells in (1, 12, 40, 184):
            with mock.patch.object(roster, "COUNTED", cells):
                np.testing.assert_array_equal(variable_figures(self.table).histogram, whole)


if __name__ == "__main__":
    unittest.main()
