"""The queue: the newest of a slot wins, the urgent goes first, what nobody wants ends, errors arrive."""

import gc
import os
import threading
import time
import traceback
import unittest
import weakref
from functools import partial
from unittest import mock

import numpy as np

from scutcher.core.errors import InputError
from scutcher.core.progress import tell
from scutcher.study import work as work_module
from scutcher.study.work import Priority, Queue, Request

PATIENCE = 120.0


class Bench(unittest.TestCase):
    """What was posted is run by the test, as an event loop would."""

    def setUp(self):
        self.posted, self.ready = [], threading.Condition()
        self.queue = Queue(self.post)
        self.addCleanup(self.queue.close)
        self.answers = []

    def post(self, work):
        with self.ready:
            self.posted.append(work)
            self.ready.notify()

    def run_posted(self):
        with self.ready:
            self.assertTrue(self.ready.wait_for(lambda: self.posted, PATIENCE))
            work = self.posted.pop(0)
        work()

    def ask(self, work, slot="a", key=None, priority=Priority.CHECKS, told=None):
        self.queue.ask(Request(slot, key, priority, work, self.answers.append, told))

    def until(self, true):
        end = time.monotonic() + PATIENCE
        while not true() and time.monotonic() < end:
            time.sleep(0.002)
        self.assertTrue(true())

    def all_posted(self):
        while self.posted:
            self.run_posted()


class Giving(Bench):
    def test_work_lets_the_thread_of_the_window_have_a_processor_first(self):
        self.ask(lambda watch: os.getpriority(os.PRIO_PROCESS, threading.get_native_id()))
        self.run_posted()
        self.assertGreater(self.answers[0], os.getpriority(os.PRIO_PROCESS, os.getpid()))


class Newest(Bench):
    def test_the_newest_of_a_slot_wins_also_over_one_under_way(self):
        started, go, ran = threading.Event(), threading.Event(), []

        def slow(watch):
            started.set()
            go.wait(PATIENCE)
            tell(watch, 0.5)
            ran.append("slow")

        self.ask(slow)
        started.wait(PATIENCE)
        for name in ("second", "third"):
            self.ask(lambda watch, name=name: ran.append(name) or name)
        go.set()
        self.run_posted()
        self.until(lambda: not self.queue.has("a"))
        self.assertEqual(ran, ["third"])  # the first ended where it asked, the second never began
        self.assertEqual(self.answers, ["third"])

    def test_the_same_request_is_not_begun_again(self):
        go, ran = threading.Event(), []

        def work(watch):
            go.wait(PATIENCE)
            ran.append(1)
            return len(ran)

        for _ in range(3):
            self.ask(work, key=("data", 3))
        go.set()
        self.run_posted()
        self.assertEqual((ran, self.answers), ([1], [1]))
        self.ask(work, key=("data", 3))  # it is done: asked for again it is done again
        self.run_posted()
        self.assertEqual(self.answers, [1, 2])

    def test_an_answer_that_is_overtaken_on_its_way_is_not_handed_over(self):
        for overtake in (lambda: self.ask(lambda watch: "new"), lambda: self.queue.drop("a")):
            self.ask(lambda watch: "old")
            self.until(lambda: self.posted)
            self.assertTrue(self.queue.has("a"))
            overtake()
            self.run_posted()
            self.assertEqual(self.answers, [])
            self.queue.drop("a")
            self.until(lambda: not self.queue._threads)
            self.all_posted()

    def test_slots_do_not_know_each_other(self):
        for slot in ("a", "b", "c"):
            self.ask(lambda watch, slot=slot: slot, slot)
        for _ in range(3):
            self.run_posted()
        self.assertEqual(sorted(self.answers), ["a", "b", "c"])

    def test_a_dropped_request_is_not_answered(self):
        inside, go = threading.Event(), threading.Event()

        def work(watch):
            inside.set()
            go.wait(PATIENCE)
            return 1

        self.ask(work)
        inside.wait(PATIENCE)
        self.queue.drop("a")
        self.assertFalse(self.queue.has("a"))
        go.set()
        self.queue.wait_for("a")
        self.all_posted()
        self.assertEqual(self.answers, [])

    def test_of_many_steps_some_a_second_are_told(self):
        heard, steps = [], []

        def quick(watch):
            end = time.perf_counter() + 3 * work_module.BETWEEN
            while time.perf_counter() < end:
                steps.append(watch(0.5))

        self.ask(quick, told=heard.append)
        self.queue.wait_for("a")
        self.all_posted()
        self.assertTrue(1 <= len(heard) <= 4, heard)
        self.assertGreater(len(steps), 100)

    def test_how_far_it_is_is_told(self):
        heard = []
        with mock.patch.object(work_module, "BETWEEN", -1.0):
            self.ask(lambda watch: [watch(share) for share in (0.0, 0.25, 1.0)], told=heard.append)
            for _ in range(3):
                self.run_posted()
        self.assertEqual(heard, [0.25, 1.0])  # 0 only asks whether to go on


class Memory(Bench):
    """What was computed with is free at once: a check of large data holds some hundred megabytes."""

    def setUp(self):
        super().setUp()
        gc.disable()  # not when somebody tidies up, which may take minutes
        self.addCleanup(gc.enable)
        self.kept = []

    def data(self):
        made = np.zeros(5)
        self.kept.append(weakref.ref(made))
        return made

    def test_what_was_stopped_holds_nothing(self):
        started, go = threading.Event(), threading.Event()

        def work(watch, data):
            started.set()
            go.wait(PATIENCE)
            tell(lambda share: watch(share), float(data[0]) + 0.5)

        self.ask(partial(work, data=self.data()))
        self.assertTrue(started.wait(PATIENCE))
        self.queue.drop("a")
        go.set()
        self.until(lambda: self.kept[0]() is None)

    def test_nor_does_an_answer_that_is_what_is_wrong_with_the_input(self):
        def work(watch, data):
            raise InputError(f"{len(data)} values are wrong", "Look.")

        self.ask(partial(work, data=self.data()))
        self.run_posted()
        self.assertIsInstance(self.answers[0], InputError)
        self.until(lambda: self.kept[0]() is None)

    def test_a_mistake_says_where_it_was_made(self):
        def work(watch):
            return 1 / 0

        self.ask(work)
        self.run_posted()
        self.assertIn("return 1 / 0", "".join(traceback.format_exception(self.answers[0])))


class Urgent(Bench):
    def test_work_rests_while_something_more_urgent_is_there(self):
        order, begun, release = [], threading.Event(), threading.Event()

        def long(watch):
            begun.set()
            for place in range(4):
                release.wait(PATIENCE)
                watch(0.0)
                order.append(f"check {place}")

        def model(watch):
            order.append("model")

        self.ask(long, "checks")
        begun.wait(PATIENCE)
        self.ask(model, "model", priority=Priority.MODEL)
        self.ask(lambda watch: order.append("grid"), "grid", priority=Priority.GRIDS)
        self.ask(lambda watch: order.append("looked at"), "look", priority=Priority.LOOKED_AT)
        release.set()
        for _ in range(4):
            self.run_posted()
        self.assertEqual(order[:2], ["model", "looked at"])
        self.assertEqual(order[2:6], [f"check {place}" for place in range(4)])
        self.assertEqual(order[6], "grid")

    def test_of_one_priority_what_is_new_goes_first_for_a_moment(self):
        order, begun = [], threading.Event()

        def old(watch):
            begun.set()
            while len(order) < 1:
                time.sleep(0.002)
                watch(0.0)
            order.append("old")

        with mock.patch.object(work_module, "FIRST", 0.01):
            self.ask(old, "a")
            begun.wait(PATIENCE)
            time.sleep(0.05)
            self.ask(lambda watch: order.append("new"), "b")
            self.run_posted()
            self.run_posted()
        self.assertEqual(order, ["new", "old"])

    def test_files_wait_for_nobody(self):
        begun, go = threading.Event(), threading.Event()

        def model(watch):
            begun.set()
            go.wait(PATIENCE)

        self.ask(model, "model", priority=Priority.MODEL)
        begun.wait(PATIENCE)
        self.ask(lambda watch: "read", "reading", priority=Priority.FILES)
        self.run_posted()
        self.assertEqual(self.answers, ["read"])
        go.set()


class Errors(Bench):
    def test_an_error_of_any_type_is_an_answer(self):
        for error in (ZeroDivisionError("z"), MemoryError(), KeyError("k"), ValueError("v")):

            def fail(watch, error=error):
                raise error

            self.ask(fail)
            self.run_posted()
            self.assertIs(self.answers[-1], error)

    def test_a_mistake_that_nobody_waits_for_is_raised_all_the_same(self):
        inside, go = threading.Event(), threading.Event()

        def fail(watch):
            inside.set()
            go.wait(PATIENCE)
            raise ZeroDivisionError

        self.ask(fail)
        inside.wait(PATIENCE)
        self.queue.drop("a")
        go.set()
        with self.assertRaises(ZeroDivisionError):
            self.run_posted()
        self.assertEqual(self.answers, [])

    def test_what_is_on_its_way_out_is_finished_and_answered_once(self):
        go, ran = threading.Event(), []

        def slow(watch):
            go.wait(PATIENCE)
            tell(watch, 0.5)
            ran.append("slow")
            return "written"

        self.ask(slow, "out", priority=Priority.OUT)
        self.ask(lambda watch: go.wait(PATIENCE) and "read", "in", priority=Priority.FILES)
        threading.Timer(0.1, go.set).start()
        self.assertTrue(self.queue.finish())
        self.assertEqual((ran, self.answers[:1]), (["slow"], ["written"]))
        self.until(lambda: len(self.posted) == 2)
        self.all_posted()
        self.assertEqual(sorted(self.answers), ["read", "written"])
        self.assertTrue(self.queue.finish())

    def test_what_could_not_go_out_is_told_before_the_end(self):
        def full(watch):
            raise InputError("The disk is full.", "Make room.")

        self.ask(full, "out", priority=Priority.OUT)
        self.assertFalse(self.queue.finish())
        self.assertEqual([str(answer.problem) for answer in self.answers], ["The disk is full."])
        self.assertTrue(self.queue.finish())  # it was said once

    def test_nobody_who_closes_waits_for_work_that_does_not_ask(self):
        """What the monkey found: a window that stood still for more than a minute while it closed."""
        begun, end = threading.Event(), threading.Event()
        self.addCleanup(end.set)

        def deaf(watch):
            begun.set()
            end.wait(PATIENCE)
            raise ValueError("a mistake that nobody is left to hear of")

        self.ask(deaf)
        begun.wait(PATIENCE)
        with mock.patch.object(work_module, "LINGER", 0.01):
            self.queue.close()
        deaf_one = next(iter(self.queue._threads))
        self.assertTrue(deaf_one.is_alive())
        end.set()
        deaf_one.join(PATIENCE)
        self.assertEqual((self.answers, self.posted), ([], []))

    def test_closing_ends_what_rests_and_answers_nothing(self):
        begun = threading.Event()

        def work(watch):
            begun.set()
            while True:
                time.sleep(0.001)
                tell(watch, 0.0)

        self.ask(work)
        begun.wait(PATIENCE)
        self.ask(lambda watch: 1, "later", priority=Priority.GRIDS)
        before = threading.active_count()
        self.queue.close()
        self.assertLess(threading.active_count(), before)
        self.all_posted()
        self.ask(lambda watch: 1)  # closed: nothing is begun
        self.assertEqual((self.answers, self.posted), ([], []))


if __name__ == "__main__":
    unittest.main()
