"""A program that ends while something is computed that nobody can stop ends all the same, and well."""

import subprocess
import sys
import threading
import time
import unittest
from unittest import mock

from scutcher.desk.shell import ending
from scutcher.study.work import NAME

PROGRAM = """
import sys, threading, time
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from scutcher.desk.shell.ending import leave
from scutcher.study.work import Priority, Queue, Request
begun = threading.Event()
def draw(watch):
    end = time.monotonic() + 2.0
    while time.monotonic() < end:  # and asks nobody whether to go on
        figure = Figure(figsize=(12, 9))
        figure.add_subplot().plot(list(range(20000)))
        FigureCanvasAgg(figure).draw()
        begun.set()
queue = Queue(lambda work: None)
for name in "abc":
    queue.ask(Request(name, None, Priority.OUT, draw, print))
begun.wait()
queue.close()
sys.exit(leave(3))
"""


class Leaving(unittest.TestCase):
    def begin(self, seconds):
        work = threading.Thread(target=time.sleep, args=(seconds,), name=NAME, daemon=True)
        work.start()
        self.addCleanup(work.join)
        return work

    def test_a_figure_that_is_being_drawn_does_not_abort_the_program(self):
        done = subprocess.run([sys.executable, "-c", PROGRAM], capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stderr), (3, ""))

    def test_it_waits_for_work_but_not_for_ever(self):
        work = self.begin(0.2)
        self.assertEqual(ending.leave(2), 2)
        self.assertFalse(work.is_alive())
        self.begin(1.0)
        with (
            mock.patch.object(ending, "PATIENCE", 0.05),
            mock.patch.object(ending.os, "_exit", side_effect=SystemExit) as at_once,
            self.assertRaises(SystemExit),
        ):
            ending.leave(2)
        at_once.assert_called_once_with(2)


if __name__ == "__main__":
    unittest.main()
