"""Random actions of fixed seeds: nothing raised; undone to the start, redone to the end, opened the same."""

import tempfile
import time
import unittest
from functools import partialmethod
from pathlib import Path
from unittest import mock

from bench.monkey import Monkey, plain_of
from bench.own_time import OwnTime
from PySide6.QtCore import QEventLoop, QTimer

from scutcher.core.errors import InputError
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.start import application
from scutcher.study import running_checks
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study
from tests.desk.driving import WindowCase, settle

SEEDS, STRETCH = range(1, 9), 250
"""2,000 actions together."""

SMALL = ("practice", "bench", "drying")
"""Sets of which most is there at once: what takes long has its own tests."""


class Actions(unittest.TestCase):
    def of_seed(self, seed):
        application()
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.multiple(running_checks, QUIET=6.0, QUIET_STEPS=300),
        ):
            monkey = Monkey(seed, Path(folder), STRETCH, SMALL)
            monkey.run(STRETCH)
        self.assertEqual(monkey.troubles, [])


for number in SEEDS:  # a test for each, lest a slow machine takes one for hung
    name = f"test_nothing_breaks_and_nothing_is_lost_with_seed_{number}"
    setattr(Actions, name, partialmethod(Actions.of_seed, number))


class TheOracle(unittest.TestCase):
    def test_it_sees_a_state_that_is_another(self):
        with tempfile.TemporaryDirectory() as folder:
            monkey, path = Monkey(1, Path(folder)), Path(folder) / "a.scutch"
            study = demo_study("practice")
            study.keep_in(path)
            first = plain_of(study.state)
            study.do(SetAside((1,), "x"))
            last = plain_of(study.state)
            study.close()
            monkey._check(path, first, last)
            self.assertEqual(monkey.troubles, [])
            monkey._check(path, last, last)
            self.assertIn("undone to the start it is another", monkey.troubles[0])
            monkey._check(path, first, first)
            self.assertIn("opened again it is another", monkey.troubles[1])

    def test_equal_states_are_equal_and_values_count(self):
        one, other = demo_study("practice").state, demo_study("practice").state
        self.assertEqual(plain_of(one), plain_of(other))
        self.assertNotEqual(plain_of(one), plain_of(demo_study("drying").state))
        study = Study(one)
        with self.assertRaises(InputError):
            study.do(SetAside((999_999,), "nobody"))


class OneGo(unittest.TestCase):
    def test_what_the_loop_of_a_menu_does_one_after_the_other_is_not_one_go(self):
        application()
        own, loop, done = OwnTime(), QEventLoop(), []

        def work():
            end = time.thread_time() + 0.1
            while time.thread_time() < end:
                pass
            done.append(end)
            QTimer.singleShot(0, work if len(done) < 8 else loop.quit)

        QTimer.singleShot(0, work)
        with own.of_every_loop():
            own.begin()
            loop.exec()
            own.turn()
        self.assertGreaterEqual(own.longest, 0.1)
        self.assertLess(own.longest, 0.4)


class PagesThatDoNotSuit(WindowCase):
    def test_their_actions_say_so_and_run_on_no_other_page(self):
        """What the monkey found first."""
        for name, page in self.window.stack.pages.items():
            if self.window.stack.suits(name):
                continue
            for act in page.acts:
                action = next(one for one in self.window.actions_list if one.words == act.words)
                action.run()
                settle()
                self.assertEqual(self.window.stack.current, "Inspect")
                self.assertTrue(self.window.message.isVisible())


if __name__ == "__main__":
    unittest.main()
