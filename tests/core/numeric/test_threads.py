"""Work shared by two threads gives what one gives, and an error in either half is raised."""

import gc
import os
import queue
import subprocess
import sys
import threading
import time
import unittest
import weakref
from unittest import mock

import numpy as np
from threadpoolctl import ThreadpoolController, threadpool_info

from scutcher.core.numeric import threads
from scutcher.core.numeric.threads import fitting_threads, give_way, in_parts, one_thread, resting, sums
from scutcher.core.progress import Stopped
from scutcher.core.scaling.scaler import Scaler
from scutcher.study.work import Priority, Queue, Request


def niceness(thread=None):
    """How much a thread of this program lets others go first, above the first thread."""
    own = os.getpriority(os.PRIO_PROCESS, thread or threading.get_native_id())
    return own - os.getpriority(os.PRIO_PROCESS, os.getpid())


OTHERS = "import os; from scutcher.desk.shell.start import application; made = application(); "
OTHERS += "own = {int(t): os.getpriority(os.PRIO_PROCESS, int(t)) for t in os.listdir('/proc/self/task')}; "
OTHERS += "first = own.pop(os.getpid()); print(*(nice - first for nice in own.values()))"


class GivingWay(unittest.TestCase):
    """The thread of the interface has a processor first: with two at work it waited for a frame and more."""

    def test_a_thread_and_those_it_makes_let_the_first_one_go_before(self):
        seen = []

        def made_by_it():
            seen.append(niceness())

        def behind():
            seen.append(niceness())
            for _ in range(2):  # no more for being asked twice
                give_way()
                seen.append(niceness())
            made = threading.Thread(target=made_by_it)
            made.start()
            made.join()

        thread = threading.Thread(target=behind)
        thread.start()
        thread.join()
        self.assertEqual(seen, [0, threads.BEHIND, threads.BEHIND, threads.BEHIND])
        self.assertEqual(niceness(), 0)

    def test_where_the_system_forbids_it_nothing_is_lost(self):
        with mock.patch.object(os, "setpriority", side_effect=PermissionError):
            give_way()
        self.assertEqual(niceness(), 0)

    def test_in_the_application_only_the_first_thread_goes_before_all_others(self):
        told = subprocess.run([sys.executable, "-c", OTHERS], capture_output=True, text=True, check=True)
        self.assertEqual(set(told.stdout.split()) - {str(threads.BEHIND)}, set())  # none where one core is


class Parts(unittest.TestCase):
    def test_a_large_array_is_shared_and_the_result_is_the_same(self):
        rng = np.random.default_rng(0)
        values, centre, weight = rng.normal(size=(31, 7)), rng.normal(size=7), rng.uniform(1, 2, 7)
        scaler = Scaler(centre, weight, np.empty(0, dtype=int), True)
        alone = scaler.apply(values)
        np.testing.assert_array_equal(alone, (values - centre) * weight)
        with mock.patch.object(threads, "MUCH", 10):
            np.testing.assert_array_equal(scaler.apply(values), alone)

    LARGE = (1100, threads.MUCH // 1100 + 1)

    def test_every_row_is_done_once_by_either_of_two_threads(self):
        seen, met, names = np.zeros(1100), threading.Barrier(2, timeout=60), set()

        def work(rows, own):
            name = threading.current_thread().name
            if name not in names:
                names.add(name)
                met.wait()  # nobody goes on before both are at work
            own.append(rows)
            seen[rows] += 1

        owns = in_parts(work, self.LARGE, list)
        np.testing.assert_array_equal(seen, 1)
        self.assertEqual(len(names), 2)
        self.assertEqual([rows.start for own in owns for rows in own], list(range(0, 1100, 256)))

    def test_parts_are_put_together_in_order_whoever_is_faster(self):
        for slow in range(5):
            with self.subTest(slow):

                def work(rows, own, slow=slow):
                    if rows.start == 256 * slow:
                        time.sleep(0.05)
                    own.append(rows.start)

                owns = in_parts(work, self.LARGE, list, most=2)
                self.assertEqual(owns, [[0, 256], [512, 768, 1024]])

    def test_sums_of_a_large_array(self):
        values = np.random.default_rng(0).normal(size=self.LARGE)
        for axis in (None, 0):
            np.testing.assert_allclose(sums(values, axis), values.sum(axis=axis), rtol=1e-10)
            np.testing.assert_allclose(sums(values[:9], axis), values[:9].sum(axis=axis), rtol=1e-10)
        gaps = np.array([[1.0, np.nan], [2.0, np.inf]])
        self.assertTrue(np.isnan(sums(gaps)))
        np.testing.assert_array_equal(sums(gaps, 0), [3.0, np.nan])

    def test_little_work_is_done_on_the_spot(self):
        seen = []
        self.assertEqual(in_parts(lambda rows, own: seen.append(rows), (11, 3), lambda: "own"), ["own"])
        self.assertEqual(seen, [slice(0, 11)])

    def test_an_error_in_any_part_is_raised(self):
        for bad in (0, 1099):
            with self.subTest(bad), self.assertRaises(ZeroDivisionError):
                in_parts(lambda rows, own, bad=bad: 1 // (bad not in range(1100)[rows]), self.LARGE, list)

    def test_after_an_error_no_further_part_is_begun(self):
        begun, failed = [], threading.Event()

        def work(rows, own):
            begun.append(rows)
            if rows.start == 0:
                failed.set()
                raise ZeroDivisionError
            failed.wait(60)
            time.sleep(0.5)  # meanwhile the error has been seen

        with self.assertRaises(ZeroDivisionError):
            in_parts(work, self.LARGE, list)
        self.assertLessEqual(len(begun), 2)

    def test_a_watch_stops_it(self):
        with self.assertRaises(Stopped):
            in_parts(lambda rows, own: None, self.LARGE, list, lambda share: False)

    def test_a_pass_that_was_stopped_holds_nothing_of_what_it_was_over(self):
        gc.disable()  # not when somebody tidies up, which may take minutes
        self.addCleanup(gc.enable)
        asked = threading.Barrier(2, timeout=60)

        def stopped(share):
            asked.wait()  # both are told
            return False

        values = np.zeros(5)
        kept = weakref.ref(values)
        with self.assertRaises(Stopped) as caught:
            in_parts(lambda rows, own, values=values: values[0], self.LARGE, list, stopped)
        del caught, values
        self.assertIsNone(kept())


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

    def test_the_limit_holds_whichever_thread_set_one_before(self):
        """Behind the window it did not: small decompositions took up to 200 times as long."""
        before, seen = self.threads(), []
        with one_thread():
            pass

        def behind():
            with one_thread():
                seen.append(self.threads())
                entered.set()
                go.wait(60)

        for _ in range(2):
            entered, go = threading.Event(), threading.Event()
            thread = threading.Thread(target=behind)
            thread.start()
            entered.wait(60)
            with one_thread():  # comes in later and goes out last: this thread takes off what that one set
                go.set()
                thread.join()
                seen.append(self.threads())
            self.assertEqual(self.threads(), before)
        self.assertEqual(seen, [{1}] * 4)

    def test_no_library_of_linear_algebra_is_passed_over(self):
        import scipy.linalg  # noqa: F401  # brings a second one

        every = {library.filepath for library in ThreadpoolController().lib_controllers}
        self.assertGreater(len(every), 1)
        threads._controller.cache_clear()
        with one_thread():
            limited = {library.filepath for library in threads._limit.libraries.lib_controllers}
        self.assertEqual(limited, every)

    def test_an_error_inside_takes_the_limit_off(self):
        before = self.threads()
        with self.assertRaises(ZeroDivisionError), one_thread():
            raise ZeroDivisionError
        self.assertEqual(self.threads(), before)

    def test_who_rests_does_not_hold_others_to_one_thread(self):
        before = self.threads()
        with one_thread():
            with resting():
                self.assertEqual(self.threads(), before)
            self.assertEqual(self.threads(), {1})
        with resting():
            self.assertEqual(self.threads(), before)

    def test_large_work_has_all_threads(self):
        before = self.threads()
        with fitting_threads(1e12):
            self.assertEqual(self.threads(), before)
        with fitting_threads(1e3):
            self.assertEqual(self.threads(), {1})
        with one_thread():
            with fitting_threads(1e12):  # large work of a piece that is small but for it
                self.assertEqual(self.threads(), before)
            self.assertEqual(self.threads(), {1})

    def test_what_is_done_behind_has_one_thread(self):
        """Small products of a comparison of tables took six times as long beside another program."""
        before, seen, posted = self.threads(), [], queue.Queue()
        behind = Queue(posted.put)
        self.addCleanup(behind.close)

        def work(watch):
            seen.append(self.threads())
            with fitting_threads(1e12):
                seen.append(self.threads())

        behind.ask(Request("slot", None, Priority.MODEL, work, seen.append))
        posted.get(timeout=60)()
        self.assertEqual(seen, [{1}, before, None])
        self.assertEqual(self.threads(), before)


if __name__ == "__main__":
    unittest.main()
