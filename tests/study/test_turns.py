"""Work behind: one at a time, in turns, none while a model is computed, and it stops when unwanted."""

import threading
import time
import unittest
from contextlib import suppress
from unittest import mock

import numpy as np
from threadpoolctl import threadpool_info

from scutcher.core.numeric.threads import one_thread
from scutcher.core.progress import Stopped
from scutcher.study import turns as turns_module
from scutcher.study.turns import Turns

PATIENCE = 60.0


def wait_until(true):
    end = time.monotonic() + PATIENCE
    while not true() and time.monotonic() < end:
        time.sleep(0.002)
    return true()


class Behind:
    """Work on a thread of its own that asks as often as it is let."""

    def __init__(self, turns, steps=10**6):
        self.turns, self.steps = turns, steps
        self.asked, self.wanted, self.answer = 0, True, None
        self.thread = threading.Thread(target=self.run, daemon=True)
        self.thread.start()

    def run(self):
        try:
            self.answer = self.turns.take(self.work, lambda share: self.wanted)
        except Stopped as stopped:
            self.answer = stopped

    def work(self, watch):
        for _ in range(self.steps):
            if not watch(0.0):
                raise Stopped
            self.asked += 1
            time.sleep(0.001)
        return "done"

    def end(self):
        self.wanted = False
        self.thread.join(PATIENCE)


class TakingTurns(unittest.TestCase):
    def setUp(self):
        self.held_up = False
        self.turns = Turns(lambda: self.held_up)

    def begin(self, **more):
        work = Behind(self.turns, **more)
        self.addCleanup(work.end)
        return work

    def test_one_alone_is_done(self):
        work = self.begin(steps=3)
        work.thread.join(PATIENCE)
        self.assertEqual(work.answer, "done")

    def test_nothing_goes_on_while_a_model_is_computed(self):
        work = self.begin()
        self.assertTrue(wait_until(lambda: work.asked > 3))
        self.held_up = True
        time.sleep(0.05)
        rested = work.asked
        time.sleep(0.1)
        self.assertLessEqual(work.asked, rested + 1)  # a step that was begun may end
        self.held_up = False
        self.assertTrue(wait_until(lambda: work.asked > rested))

    def test_two_are_never_at_work_at_once(self):
        inside, most, wanted, threads = [], [0], [True], []

        def busy(watch):
            while watch(0.0):
                inside.append(1)
                most[0] = max(most[0], len(inside))
                time.sleep(0.002)
                inside.pop()
            raise Stopped

        with mock.patch.object(turns_module, "FIRST", 0.02):
            for _ in range(3):
                threads.append(threading.Thread(target=self.quietly, args=(busy, wanted), daemon=True))
                threads[-1].start()
            time.sleep(0.3)
            wanted[0] = False
            for thread in threads:
                thread.join(PATIENCE)
        self.assertEqual(most, [1])

    def test_new_work_goes_first_for_a_moment_and_long_work_is_done_in_the_order_of_coming(self):
        with mock.patch.object(turns_module, "FIRST", 0.1):
            first = self.begin()
            self.assertTrue(wait_until(lambda: len(self.turns._long) == 1))
            second = self.begin()
            self.assertTrue(wait_until(lambda: second.asked > 3))  # before the end of the first
            rested = first.asked
            self.assertTrue(wait_until(lambda: len(self.turns._long) == 2))
            self.assertTrue(wait_until(lambda: first.asked > rested + 20))
            rested = second.asked
            time.sleep(0.1)
            self.assertLessEqual(second.asked, rested + 1)  # the first is done to its end
            short = self.begin(steps=2)
            short.thread.join(PATIENCE)
            self.assertEqual(short.answer, "done")
            first.end()
            self.assertTrue(wait_until(lambda: second.asked > rested))

    def quietly(self, work, wanted):
        with suppress(Stopped):
            self.turns.take(work, lambda share: wanted[0])

    def test_one_that_waits_stops_when_it_is_unwanted(self):
        self.held_up = True
        work = self.begin()
        work.end()
        self.assertIsInstance(work.answer, Stopped)
        self.assertEqual(work.asked, 0)
        self.held_up = False
        after = self.begin(steps=2)  # the line is free again
        after.thread.join(PATIENCE)
        self.assertEqual(after.answer, "done")

    def test_one_that_fails_leaves_the_line(self):
        with self.assertRaises(ZeroDivisionError):
            self.turns.take(lambda watch: 1 // 0, lambda share: True)
        self.assertEqual(self.turns.take(lambda watch: watch(0.5), lambda share: share == 0.5), True)

    def test_who_waits_holds_nobody_to_one_thread(self):
        def threads():
            return {pool["num_threads"] for pool in threadpool_info() if pool["user_api"] == "blas"}

        np.ones((2, 2)) @ np.ones((2, 2))  # a library is there to be limited
        before, seen = threads(), []

        def work(watch):
            with one_thread():
                seen.append(threads())
                self.held_up = True
                watch(0.0)
                seen.append(threads())

        behind = threading.Thread(target=self.turns.take, args=(work, lambda share: True), daemon=True)
        behind.start()
        self.assertTrue(wait_until(lambda: self.held_up and threads() == before))
        self.held_up = False
        behind.join(PATIENCE)
        self.assertEqual(seen, [{1}, {1}])
        self.assertEqual(threads(), before)


if __name__ == "__main__":
    unittest.main()
