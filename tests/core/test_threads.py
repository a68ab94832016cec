"""Work shared by two threads gives what one gives, and an error in either half is raised."""

import threading
import unittest
from unittest import mock

import numpy as np

from scutcher.core import threads
from scutcher.core.scaling import Scaler
from scutcher.core.threads import in_halves


class Halves(unittest.TestCase):
    def test_a_large_array_is_shared_and_the_result_is_the_same(self):
        rng = np.random.default_rng(0)
        values, centre, weight = rng.normal(size=(31, 7)), rng.normal(size=7), rng.uniform(1, 2, 7)
        scaler = Scaler(centre, weight, np.empty(0, dtype=int), True)
        alone = scaler.apply(values)
        np.testing.assert_array_equal(alone, (values - centre) * weight)
        with mock.patch.object(threads, "MUCH", 10):
            np.testing.assert_array_equal(scaler.apply(values), alone)

    def test_both_halves_are_done_on_threads_of_their_own(self):
        seen, names = np.zeros(11), set()

        def work(rows):
            seen[rows] += 1
            names.add(threading.current_thread().name)

        in_halves(work, 11, threads.MUCH)
        np.testing.assert_array_equal(seen, 1)
        self.assertEqual(len(names), 2)
        in_halves(work, 11, 11)
        np.testing.assert_array_equal(seen, 2)

    def test_an_error_in_either_half_is_raised(self):
        for bad in (0, 10):
            with self.subTest(bad), self.assertRaises(ZeroDivisionError):
                in_halves(lambda rows, bad=bad: 1 // (bad not in range(11)[rows]), 11, threads.MUCH)


if __name__ == "__main__":
    unittest.main()
