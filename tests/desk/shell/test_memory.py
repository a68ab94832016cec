"""Memory while the desk is open: what was freed serves the next frame; garbage waits for the event loop."""

import gc
import subprocess
import sys
import unittest
import weakref

from PySide6.QtCore import QObject

from scutcher.desk.shell.memory import MANY, YOUNG, Tidy
from scutcher.desk.shell.start import application

FRAMES = """
import resource
import numpy as np
from scutcher.desk.shell.memory import hold_memory
hold_memory()
faults = lambda: resource.getrusage(resource.RUSAGE_SELF).ru_minflt
for _ in range(3):
    pictures = [np.ones(230_000) for _ in range(8)]
    del pictures
before = faults()
for _ in range(20):
    pictures = [np.ones(230_000) for _ in range(8)]
    del pictures
print(faults() - before)
"""

HOLES = """
import resource
import numpy as np
from bench.memory import in_use
from scutcher.desk.shell.memory import give_back, hold_memory
hold_memory()
here, gone = [], []
for place in range(4000):
    gone.append(np.ones(25_000))
    here.append(np.ones(200))
gone.clear()
before = in_use()
give_back()
print(before - in_use())
"""


class Held(unittest.TestCase):
    @unittest.skipUnless(sys.platform.startswith("linux"), "a setting of this C library")
    def test_the_next_frame_asks_the_system_for_nothing(self):
        out = subprocess.run(
            [sys.executable, "-c", FRAMES], capture_output=True, text=True, check=True
        ).stdout
        self.assertLess(int(out), 2000)  # 71,875 pages if each were given back and asked for again

    @unittest.skipUnless(sys.platform.startswith("linux"), "a setting of this C library")
    def test_what_a_long_session_has_freed_goes_back(self):
        """Holes between what is still there: 800 MB."""
        out = subprocess.run([sys.executable, "-c", HOLES], capture_output=True, text=True, check=True).stdout
        self.assertGreater(int(out), 600_000_000)


class Ring:
    """Something that only a collection finds."""

    def __init__(self):
        self.itself = self


class Garbage(unittest.TestCase):
    def setUp(self):
        application()
        self.parent = QObject()
        self.tidy = Tidy(self.parent)
        self.addCleanup(self.parent.deleteLater)

    def test_nothing_is_collected_in_the_middle_of_something_else(self):
        self.assertFalse(gc.isenabled())
        gone = weakref.ref(Ring())
        many = [[place] for place in range(3 * YOUNG)]
        self.assertIsNotNone(gone())
        self.tidy.collect_some()
        self.assertIsNone(gone())
        del many

    def test_what_outlived_some_collections_does_not_pile_up(self):
        """Reports that were set stayed until everything was collected, all of them in one go: seconds."""
        gc.collect()
        gone = []
        for _ in range(4):
            report = [Ring() for _ in range(MANY // 2)]
            gone.append(weakref.ref(report[0]))
            self.tidy.collect_some()  # while it is still being made
            self.tidy.collect_some()
            del report
        many = [[place] for place in range(3 * YOUNG)]
        self.tidy.collect_some()
        self.assertLessEqual(sum(one() is not None for one in gone), 2)
        del many

    def test_a_little_garbage_waits(self):
        gc.collect()
        gone = weakref.ref(Ring())
        self.tidy.collect_some()
        self.assertIsNotNone(gone())


if __name__ == "__main__":
    unittest.main()
