"""Results are kept within a limit of memory, the last used longest."""

import unittest

from scutcher.core.errors import TableError
from scutcher.study.evaluation.cache import Cache


class Kept(unittest.TestCase):
    def setUp(self):
        self.memo = Cache(limit=100)

    def put(self, key, size=40):
        return self.memo.get(key, object, lambda result: size)

    def is_kept(self, key):
        computed = self.memo.computed
        self.put(key)
        return self.memo.computed == computed

    def test_the_same_again_is_not_computed(self):
        self.assertIs(self.put("a"), self.memo.get("a", self.fail, None))
        self.assertEqual(self.memo.computed, 1)

    def test_what_was_used_longest_ago_goes_first(self):
        self.put("a")
        self.put("b")
        self.put("a")
        self.put("c")  # 120 in all: one has to go
        self.assertTrue(self.is_kept("a"))
        self.assertFalse(self.is_kept("b"))

    def test_one_that_is_larger_than_all_memory_is_kept_alone(self):
        self.put("a")
        self.put("large", 1000)
        self.assertTrue(self.is_kept("large"))
        self.assertFalse(self.is_kept("a"))

    def test_an_error_is_not_kept(self):
        def refuse():
            raise TableError("It cannot be done.", "Do something else.")

        for _ in range(2):
            with self.assertRaises(TableError):
                self.memo.get("a", refuse, lambda result: 1)
        self.assertFalse(self.is_kept("a"))


if __name__ == "__main__":
    unittest.main()
