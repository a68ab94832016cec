"""Work shared by two threads gives what one gives, and an error in either half is raised."""

import threading
import unittest
from unittest import mock

import numpy as np
from threadpoolctl import threadpool_info

from scutcher.core import threads
from scutcher.core.scaling import Scaler
from scutcher.core.threads import fitting_threads, in_halves, one_thread


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


class OneThread(unittest.TestCase):
    def threads(self):
        return {pool["num_threads"] for pool in threadpool_info() if pool["user_api"] == "blas"}

    def test_two_that_overlap_leave_it_as_it_was(self):
        before = self.threads()
        first, second = one_thread(), one_thread()
        first.__enter__()
        self.assertEqual(self.threads(), {1})
        second.__enter__()
        first.__exit__(None, None, None)
        self.assertEqual(self.threads(), {1})  # the second is still inside
        second.__exit__(None, None, None)
        self.assertEqual(self.threads(), before)

    def test_an_error_inside_takes_the_limit_off(self):
        before = self.threads()
        with self.assertRaises(ZeroDivisionError), one_thread():
            raise ZeroDivisionError
        self.assertEqual(self.threads(), before)

    def test_large_work_has_all_threads(self):
        before = self.threads()
        with fitting_threads(1e12):
            self.assertEqual(self.threads(), before)
        with fitting_threads(1e3):
            self.assertEqual(self.threads(), {1})


if __name__ == "__main__":
    unittest.main()
