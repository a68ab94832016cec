"""A study file that others replace, move, delete or write while it is open: seen, said, never overwritten."""

import os
import shutil
import sqlite3
import unittest

from scutcher.core.errors import FileError
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.study import Study
from tests.folder import InFolder


class Disturbed(InFolder):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "a.scutch"
        self.study = demo_study("bench")
        self.study.keep_in(self.path)
        self.study.do(KeepComponents(2))
        self.addCleanup(lambda: self.study.close())

    def refused(self, words):
        """The next command is refused in a sentence, and what is here can be saved elsewhere."""
        state = self.study.state
        with self.assertRaises(FileError) as caught:
            self.study.do(KeepComponents(3))
        self.assertIn(f"a.scutch {words} while it was open here.", str(caught.exception))
        self.assertIs(self.study.state, state)
        with self.assertRaises(FileError):
            self.study.undo()
        self.study.move_to(self.folder / "saved.scutch")
        self.study.do(KeepComponents(3))
        self.study.close()
        again = Study.open(self.folder / "saved.scutch")
        self.assertEqual(again.state.recipe.model.components, 3)
        self.assertIsNotNone(again.undo())
        again.close()

    def test_replaced_as_synchronising_programs_do(self):
        older = self.folder / "older"
        shutil.copy(self.path, older)
        os.replace(older, self.path)
        before = self.path.read_bytes()
        self.refused("was replaced by another program")
        self.assertEqual(self.path.read_bytes(), before)

    def test_deleted(self):
        self.path.unlink()
        self.refused("has gone from its place")
        self.assertFalse(self.path.exists())

    def test_its_folder_moved_away(self):
        inside = self.folder / "inside"
        inside.mkdir()
        self.study.move_to(inside / "a.scutch")
        inside.rename(self.folder / "outside")
        self.refused("has gone from its place")

    def test_written_by_another_program(self):
        other = sqlite3.connect(self.path)
        other.execute("INSERT INTO meta VALUES ('other', 'hand')")
        other.commit()
        other.close()
        self.refused("was changed by another program")

    def test_written_over_in_place_byte_by_byte(self):
        data = bytearray(self.path.read_bytes())
        self.study.do(KeepComponents(4))
        with self.path.open("r+b") as stream:  # an older version comes back
            stream.write(data)
            stream.truncate()
        before = self.path.read_bytes()
        with self.assertRaises(FileError) as caught:
            self.study.do(KeepComponents(3))
        self.assertIn("was changed by another program", str(caught.exception))
        self.assertEqual(self.path.read_bytes(), before)

    def test_only_touched_copied_or_read_is_no_harm(self):
        os.utime(self.path)
        self.study.do(KeepComponents(3))
        shutil.copy(self.path, self.folder / "copy.scutch")
        self.study.do(KeepComponents(4))
        reader = sqlite3.connect(f"file:{self.path}?mode=ro", uri=True)
        reader.execute("SELECT count(*) FROM revisions").fetchone()
        self.study.do(KeepComponents(2))
        reader.close()
        for count in range(3, 8):
            self.study.do(KeepComponents(count))
        while self.study.undo():
            pass


if __name__ == "__main__":
    unittest.main()
