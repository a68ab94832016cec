"""Places of rows, against a dictionary."""

import unittest

import numpy as np

from scutcher.core.data.row_places import RowPlaces


class Places(unittest.TestCase):
    def test_as_a_dictionary(self):
        for rows in ([], [0], [7, 2, 5, 0], range(3, 40, 3)):
            rows = np.array(rows, dtype=np.intp)
            found, wanted = RowPlaces(rows), {int(row): place for place, row in enumerate(rows)}
            self.assertEqual(dict(found), wanted)
            self.assertEqual(len(found), len(wanted))
            for row in range(-3, 45):
                self.assertEqual(row in found, row in wanted)
                self.assertEqual(found.get(row), wanted.get(row))
                if row not in wanted:
                    with self.assertRaises(KeyError):
                        found[row]
            self.assertEqual([np.intp(row) in found for row in rows], [True] * len(rows))
            self.assertNotIn(10**9, found)
            self.assertNotIn("0", found)


if __name__ == "__main__":
    unittest.main()
