"""A few hundred mutated files of every format; the bench reads twenty thousand."""

import unittest

from bench.fuzzing import run


class Fuzzing(unittest.TestCase):
    def test_only_clear_errors(self):
        found = run(400, seed=77)
        self.assertEqual(sum(found.values()), 400)
        self.assertGreater(found["refused"], 100)
        self.assertGreater(found["read"], 20)
