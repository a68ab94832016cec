"""Numbers that stand for missing values are noticed; true values are not taken for them."""

import unittest

import numpy as np

from scutcher.core.data.columns import PropertyColumn
from scutcher.core.data.findings import findings
from scutcher.core.data.missing_marks import missing_marks, with_gaps
from tests.core.making import ordered_table, random_spectra


def with_property(values):
    return ordered_table(random_spectra(len(values), 5), properties=(PropertyColumn("protein", values),))


class Marks(unittest.TestCase):
    def test_in_a_property(self):
        values = np.linspace(8.0, 15.0, 12)
        values[[3, 7]] = -999.0
        found = missing_marks(with_property(values))
        told = [(mark.value, mark.where, mark.rows) for mark in found]
        self.assertEqual(told, [(-999.0, "protein", (3, 7))])
        text = findings(with_property(values))[0].text
        self.assertEqual(text, "−999 in protein of 2 samples (s4, s8), read as a number: is it a gap?")

    def test_in_channels(self):
        values = random_spectra(20, 6)
        values[4, 2] = values[5, 3] = -9999.0
        (mark,) = missing_marks(ordered_table(values))
        self.assertEqual((mark.value, mark.rows, mark.columns), (-9999.0, (4, 5), (2, 3)))

    def test_taken_for_gaps(self):
        values = random_spectra(20, 6)
        values[4, 2] = values[5, 3] = -9999.0
        measured = np.linspace(8.0, 15.0, 20)
        measured[3] = -9999.0
        table = ordered_table(values, properties=(PropertyColumn("protein", measured),))
        taken = with_gaps(table, -9999.0)
        self.assertTrue(np.isnan(taken.values[[4, 5], [2, 3]]).all())
        self.assertEqual((int(np.isnan(taken.values).sum()), int(taken.has_gaps)), (2, 1))
        self.assertTrue(np.isnan(taken.properties[0].values[3]))
        self.assertEqual(taken.origin.remarks[-1], "3 values −9999 taken for a gap")
        self.assertEqual(missing_marks(taken), [])
        self.assertEqual(table.values[4, 2], -9999.0)  # the one of before stays as it was
        self.assertIs(with_gaps(table, -1.0), table)

    def test_true_values_are_not_marks(self):
        for values in (
            np.linspace(-999.0, 400.0, 12),  # within the range of the others
            np.linspace(990.0, 999.0, 12),
            np.array([999.0] * 8 + [1.0, 2.0, 3.0, 4.0]),  # more often than not
            np.array([5.0, np.nan, 999.0]),  # nothing to compare with
        ):
            self.assertEqual(missing_marks(with_property(values)), [])

    def test_two_marks_side_by_side(self):
        values = np.linspace(8.0, 15.0, 12)
        values[3], values[7] = -99.0, 9999.0
        found = missing_marks(with_property(values))
        self.assertEqual({(mark.value, mark.rows) for mark in found}, {(-99.0, (3,)), (9999.0, (7,))})


if __name__ == "__main__":
    unittest.main()
