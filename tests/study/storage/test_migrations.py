"""Files of former formats: written by the former version, opened, gone on with, rescued."""

import shutil
import sqlite3
import unittest
from pathlib import Path

import numpy as np

from scutcher.core.errors import FileError
from scutcher.demo.sets import demo_set
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.commands.samples import BringBack
from scutcher.study.document.study import Study
from scutcher.study.storage.rescue import rescue
from scutcher.study.storage.study_file import StudyFile
from tests.folder import InFolder

FORMER = Path(__file__).parent / "former"


class FormatOne(InFolder):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "old.scutch"
        shutil.copy(FORMER / "format-1.scutch", self.path)

    def opened(self, path=None) -> Study:
        study = Study.open(path or self.path)
        self.addCleanup(study.close)
        return study

    def sql(self, *statements):
        link = sqlite3.connect(self.path)
        for statement in statements:
            link.execute(statement)
        link.commit()
        link.close()

    def check_whole(self, study):
        state = study.state
        now, truth = demo_set("bench")  # one lot has another one's values since then
        same = [row for row, lot in enumerate(now.ids) if lot not in truth["values_of_another_lot"]]
        np.testing.assert_array_equal(state.table.values[same], now.values[same])
        self.assertEqual(dict(state.table.set_aside), {3: "spilled", 5: "spilled"})
        self.assertEqual(list(state.table.left_out), [12])
        self.assertEqual(state.recipe.model.components, 3)
        self.assertEqual([step.method for step in state.recipe.treat], ["log10"])
        self.assertEqual(state.source.roles, (("lot", "id"),))
        self.assertEqual(state.source.mends, ("infinite-as-gaps",))
        self.assertEqual(len(state.shelf), 1)
        self.assertEqual(state.shelf[0].reached.scores.shape[1], 2)
        self.assertEqual(dict(state.shelf[0].use.set_aside), {3: "spilled", 5: "spilled"})

    def test_it_opens_with_all_that_was_in_it(self):
        study = self.opened()
        self.check_whole(study)
        self.assertEqual(study.redo_label, "Switch treatment 1 off")
        self.assertEqual(list(study.file.history.snapshots), ["before"])
        self.assertEqual(
            [entry.kind for entry in study.file.history.log()],
            ["start", "do", "do", "do", "do", "do", "undo", "undo"],
        )
        self.assertEqual(study.file.altered, "")
        self.assertEqual(study.file.read_only_reason, "")

    def test_its_history_goes_both_ways_and_on(self):
        study = self.opened()
        while study.redo():
            pass
        self.assertIn("odd", study.state.table.classes[0].names)
        while study.undo():
            pass
        self.assertEqual(dict(study.state.table.set_aside), {})
        study.redo()
        study.do(BringBack((3,)))
        study.close()
        again = self.opened()
        self.assertEqual(list(again.state.table.set_aside), [5])
        self.assertEqual(again.undo_label, f"Bring back {again.state.table.ids[3]}")

    def test_an_empty_study(self):
        shutil.copy(FORMER / "format-1-empty.scutch", self.path)
        self.assertIsNone(self.opened().state.table)

    def test_one_that_may_not_be_written_is_read_and_left_as_it_is(self):
        before = self.path.read_bytes()
        holder = StudyFile.open(self.path)  # migrates, and holds the lock
        shutil.copy(FORMER / "format-1.scutch", self.folder / "other.scutch")
        (self.folder / "other.scutch").replace(self.path)  # another file in its place
        self.addCleanup(holder.close)
        self.assertEqual(self.path.read_bytes(), before)
        import fcntl

        with self.path.open("rb") as handle:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            study = self.opened()
            self.check_whole(study)
            with self.assertRaises(FileError):
                study.do(KeepComponents(2))
        self.assertEqual(self.path.read_bytes(), before)

    def test_a_damaged_one_is_said_left_and_rescued(self):
        self.sql("UPDATE blobs SET data = zeroblob(length(data)) WHERE kind = '<f8' AND length(data) > 4000")
        before = self.path.read_bytes()
        with self.assertRaises(FileError) as caught:
            Study.open(self.path)
        self.assertIn("has changed bytes", str(caught.exception))
        self.assertEqual(self.path.read_bytes(), before)

    def test_what_is_sound_of_a_damaged_one_comes_back(self):
        self.sql("UPDATE revisions SET state = '{' WHERE id = (SELECT max(id) FROM revisions)")
        with self.assertRaises(FileError):
            Study.open(self.path)
        state = rescue(self.path, self.folder / "copy.scutch").state
        self.assertEqual(state.recipe.model.components, 3)
        self.opened(self.folder / "copy.scutch")


class FormatTwo(InFolder):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "old.scutch"
        shutil.copy(FORMER / "format-2.scutch", self.path)

    def test_it_opens_with_its_history_and_gets_marks(self):
        study = Study.open(self.path)
        self.addCleanup(study.close)
        self.assertEqual(dict(study.state.table.set_aside), {3: "spilled", 5: "spilled"})
        self.assertEqual(study.redo_label, "Keep 3 → 2 components")
        self.assertEqual(list(study.file.history.snapshots), ["before"])
        self.assertEqual(study.file.altered, "")
        link = sqlite3.connect(self.path)
        pieces, marked = (
            link.execute(f"SELECT count(*) FROM {name}").fetchone()[0] for name in ("pieces", "grains")
        )
        link.close()
        self.assertEqual(pieces, marked)

    def test_a_damaged_one_gives_back_what_is_whole(self):
        link = sqlite3.connect(self.path)
        link.execute("UPDATE pieces SET data = zeroblob(length(data)) WHERE length(data) = 48 * 8 * 13")
        link.execute("UPDATE revisions SET state = '{' WHERE id = (SELECT max(id) FROM revisions)")
        self.assertEqual(link.execute("SELECT changes()").fetchone()[0], 1)
        link.commit()
        link.close()
        with self.assertRaises(FileError):
            Study.open(self.path)
        with self.assertRaisesRegex(FileError, "Nothing in old.scutch is sound"):
            rescue(self.path, self.folder / "copy.scutch")  # all its values are gone, and it had no marks


if __name__ == "__main__":
    unittest.main()
