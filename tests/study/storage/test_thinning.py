"""A study file without its earlier states: small, sound, with snapshots and log."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np

from scutcher.core.errors import FileError
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.data import AddDataSet, GoBackTo
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.study import Study
from scutcher.study.storage import thinning
from scutcher.study.storage.plain_state import state_to_plain


def plain(state):
    kept = []

    def put(value):
        kept.append(np.asarray(value).tobytes() if isinstance(value, np.ndarray) else tuple(value))
        return f"k{hash(kept[-1])}"

    return state_to_plain(state, put, put)


class Forgetting(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "long.scutch"
        study = demo_study("practice")
        study.keep_in(self.path)
        study.close()
        self.study = Study.open(self.path)
        self.addCleanup(lambda: self.study.close())

    def long_day(self):
        table = self.study.state.table
        for turn in range(30):
            self.study.do(KeepComponents(2 + turn % 3))
            if turn == 10:
                self.study.file.snapshot("at ten")
                self.ten = self.study.state
        big = replace(table, values=table.values + np.random.default_rng(1).random(table.shape), name="more")
        self.study.do(AddDataSet("more", big, self.study.state.recipe))
        self.study.undo()

    def forget(self):
        gone = self.study.file.forget_steps()
        self.study.forget_steps()
        return gone

    def test_what_is_now_snapshots_and_log_stay_and_the_file_is_small(self):
        self.long_day()
        now, size, lines = (
            plain(self.study.state),
            self.path.stat().st_size,
            len(self.study.file.history.log()),
        )
        self.assertEqual(self.forget(), 30)
        self.assertLess(self.path.stat().st_size, 0.8 * size)
        self.assertIsNone(self.study.undo())
        self.assertIsNone(self.study.redo())
        for _ in range(2):  # as it is open, and opened again
            self.assertEqual(plain(self.study.state), now)
            self.assertEqual(self.study.file.altered, "")
            log = self.study.file.history.log()
            self.assertEqual(len(log), lines + 1)
            self.assertEqual(log[-1].what, "Forget 30 earlier states")
            revision = self.study.file.history.snapshots["at ten"]
            self.assertEqual(plain(self.study.file.state(revision)), plain(self.ten))
            self.study.close()
            self.study = Study.open(self.path)
        self.study.do(KeepComponents(4))
        self.study.do(GoBackTo("at ten", self.study.file.state(revision)))
        self.assertEqual(plain(self.study.state), plain(self.ten))
        self.study.undo()
        self.assertEqual(self.study.state.recipe.model.components, 4)

    def test_where_it_cannot_be_written_nothing_has_changed(self):
        self.long_day()
        before, undo = self.path.read_bytes(), self.study.undo_label
        with mock.patch.object(thinning, "_drop_unused", side_effect=OSError(28, "No space left on device")):
            with self.assertRaises((FileError, OSError)):
                self.study.file.forget_steps()
        self.assertEqual(self.path.read_bytes(), before)
        self.assertEqual(self.study.undo_label, undo)
        self.study.undo()
        self.study.redo()


if __name__ == "__main__":
    unittest.main()
