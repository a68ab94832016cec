"""One thing is said in the singular."""

import unittest

import numpy as np

from scutcher.core.words import count_of, first_of


class Counts(unittest.TestCase):
    def test_of_a_number_and_of_what_can_be_counted(self):
        for things, word, wanted in (
            (1, "sample", "1 sample"),
            (0, "sample", "0 samples"),
            ((4, 7), "variable", "2 variables"),
            (np.array([3]), "constant variable", "1 constant variable"),
            ({"a", "b", "c"}, "copy", "3 copies"),
            (["a"], "copy", "1 copy"),
            (2, "matrix", "2 matrices"),
        ):
            with self.subTest(wanted):
                self.assertEqual(count_of(things, word), wanted)

    def test_of_many_names_the_first(self):
        self.assertEqual(first_of(["a", "b", "c"]), "a, b, c")
        self.assertEqual(first_of(["a", "b", "c", "d"]), "a, b, c …")
        self.assertEqual(first_of(["a", "b"], 1), "a …")


if __name__ == "__main__":
    unittest.main()
