"""Channels missing from an even axis: found, filled with cubics, taken out again."""

import unittest

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.treatments.support.bridging import find_holes, is_even, with_holes_filled, without_filled


def table_at(places, values):
    labels = tuple(f"{place:g}" for place in places)
    ids = tuple(map(str, range(len(values))))
    return Table(values, Axis(labels, np.asarray(places, dtype=float), "wavelength", "nm"), ids)


class Holes(unittest.TestCase):
    def setUp(self):
        self.whole = np.linspace(1100.0, 1160.0, 31)
        self.there = np.ones(31, dtype=bool)
        self.there[[4, 11, 12, 29]] = False

    def test_found_on_a_rising_and_a_falling_axis(self):
        for whole in (self.whole, self.whole[::-1]):
            holes = find_holes(whole[self.there])
            np.testing.assert_allclose(holes.places, whole)
            np.testing.assert_array_equal(holes.there, self.there)

    def test_positions_rounded_in_a_file_are_even_still(self):
        rounded = np.round(np.linspace(4000.0, 3000.0, 260), 2)
        self.assertTrue(is_even(rounded))
        there = np.ones(260, dtype=bool)
        there[100] = False
        np.testing.assert_array_equal(find_holes(rounded[there]).there, there)

    def test_none_where_the_axis_is_not_mostly_even_or_too_much_is_missing(self):
        self.assertIsNone(find_holes(np.geomspace(1.0, 50.0, 30)))
        wide = self.there.copy()
        wide[10:14] = False  # four in a row
        self.assertIsNone(find_holes(self.whole[wide]))
        self.assertIsNone(find_holes(np.array([1.0, 2.0, 3.0, 5.0])))
        self.assertIsNone(find_holes(np.array([1.0, 2.0, 3.0, 2.0, 3.0, 4.0])))
        self.assertIsNone(find_holes(np.full(9, 5.0)))
        self.assertFalse(is_even(self.whole[self.there]))
        self.assertTrue(is_even(np.array([7.0])))

    def test_cubics_are_filled_exactly_and_the_values_there_are_kept(self):
        u = (self.whole - 1130.0) / 30.0
        exact = np.array([np.polyval(c, u) for c in ([2.0, -1.0, 0.5, 3.0], [0.0, 1.0, -2.0, 0.1])])
        table = table_at(self.whole[self.there], exact[:, self.there])
        filled = with_holes_filled(table, find_holes(table.axis.places()))
        np.testing.assert_allclose(filled.values, exact, atol=1e-12)
        np.testing.assert_array_equal(filled.values[:, self.there], table.values)
        self.assertEqual(len(filled.axis.labels), 31)
        self.assertEqual(filled.axis.labels[4], "1108")

    def test_taken_out_again_also_of_a_part(self):
        table = table_at(self.whole[self.there], np.arange(54.0).reshape(2, 27))
        holes = find_holes(table.axis.places())
        back = without_filled(with_holes_filled(table, holes), holes)
        np.testing.assert_array_equal(back.values, table.values)
        self.assertEqual(back.axis.labels, table.axis.labels)
        filled = with_holes_filled(table, holes)
        part = table_at(filled.axis.places()[2:20], filled.values[:, 2:20])
        np.testing.assert_array_equal(
            without_filled(part, holes).axis.places(), self.whole[2:20][self.there[2:20]]
        )


if __name__ == "__main__":
    unittest.main()
