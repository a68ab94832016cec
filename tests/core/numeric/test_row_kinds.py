"""Which rows are alike, against NumPy's slow way; and that nobody waits for it."""

import threading
import time
import unittest

import numpy as np

from scutcher.core.numeric.row_kinds import kinds_of_rows


class RowKinds(unittest.TestCase):
    def check(self, values):
        first, kind = kinds_of_rows(values)
        whole, first_there, kind_there = np.unique(values, axis=0, return_index=True, return_inverse=True)
        np.testing.assert_array_equal(first, first_there)
        np.testing.assert_array_equal(kind, kind_there.ravel())
        np.testing.assert_array_equal(values[first], whole)

    def test_as_numpy_does(self):
        rng = np.random.default_rng(3)
        self.check(rng.integers(-3, 4, (400, 3)))
        self.check(rng.integers(-(2**40), 2**40, (50, 2)))
        self.check(np.repeat(rng.integers(0, 9, (30, 4)), 3, axis=0))
        self.check(rng.random((200, 5)) < 0.3)
        self.check(np.array([[True], [False], [True]]))

    def test_no_rows_and_no_columns(self):
        first, kind = kinds_of_rows(np.empty((0, 3), dtype=int))
        self.assertEqual((len(first), len(kind)), (0, 0))
        first, kind = kinds_of_rows(np.empty((4, 0), dtype=bool))
        self.assertEqual((first.tolist(), kind.tolist()), ([0], [0, 0, 0, 0]))

    def test_other_threads_go_on_meanwhile(self):
        values = np.random.default_rng(0).integers(0, 2_000, (400_000, 3))
        longest = {}
        for words, work in (("ours", kinds_of_rows), ("NumPy's", lambda of: np.unique(of, axis=0))):
            thread = threading.Thread(target=work, args=(values,))
            last, longest[words] = time.perf_counter(), 0.0
            thread.start()
            while thread.is_alive():
                time.sleep(0.001)
                now = time.perf_counter()
                longest[words], last = max(longest[words], now - last), now
        self.assertLess(longest["ours"], longest["NumPy's"] / 2.0)


if __name__ == "__main__":
    unittest.main()
