"""Seals: an edit with another program is seen. Links: large data stay where they are, and are found again."""

import sqlite3
import unittest
from unittest import mock

import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.progress import Stopped
from scutcher.files.formats import read_tables
from scutcher.files.hashes import content_hash
from scutcher.study.document.commands.data import AverageReplicates
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.parts import Source
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.storage import links
from scutcher.study.storage.links import LinkedFile, relink
from scutcher.study.storage.study_file import StudyFile
from tests.core.making import ordered_table, random_spectra
from tests.folder import InFolder


class WithFile(InFolder):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "s.scutch"

    def started(self, state: State) -> Study:
        study = Study(state)
        study.keep_in(self.path)
        self.addCleanup(study.close)
        return study

    def opened(self) -> Study:
        study = Study.open(self.path)
        self.addCleanup(study.close)
        return study


class Seals(WithFile):
    def test_every_edit_from_outside_is_seen(self):
        study = self.started(State.of("t", ordered_table(random_spectra(6, 5))))
        study.do(KeepComponents(2))
        study.do(KeepComponents(3))
        study.undo()
        study.close()
        self.assertEqual(self.opened().file.altered, "")
        whole = self.path.read_bytes()
        edits = (
            ("UPDATE revisions SET label = 'Keep 9 components' WHERE id = 2", "revision 2"),
            ("UPDATE revisions SET state = replace(state, 't', 'T') WHERE id = 1", "revision 1"),
            ("UPDATE log SET why = 'because' WHERE id = 3", "line 3 of the log"),
            ("UPDATE log SET who = 'nobody' WHERE id = 1", "line 1 of the log"),
            ("DELETE FROM log WHERE id = 2", "line 3 of the log"),
            ("UPDATE log SET at = '2001-01-01' WHERE id = 4", "line 4 of the log"),
        )
        for statement, words in edits:
            with self.subTest(statement):
                self.path.write_bytes(whole)
                link = sqlite3.connect(self.path)
                link.execute(statement)
                link.commit()
                link.close()
                try:
                    file = StudyFile.open(self.path)
                except FileError:
                    continue  # the edit left no state that can be read
                self.assertEqual(file.altered, words)
                file.close()


class Links(WithFile):
    def setUp(self):
        super().setUp()
        for name, value in (("COPIED", 1000),):
            patch = mock.patch.object(links, name, value)
            patch.start()
            self.addCleanup(patch.stop)
        self.data = self.folder / "large.csv"
        rng = np.random.default_rng(3)
        rows = [",".join(["id", "lot", *(str(place) for place in range(40))])]
        rows += [
            ",".join([f"s{n}", f"l{n // 2}", *map(repr, rng.normal(size=40).tolist())]) for n in range(20)
        ]
        self.data.write_text("\n".join(rows))

    def state(self) -> State:
        roles = (("lot", "replicate"),)
        source = Source((str(self.data),), roles, contents=(content_hash(self.data),))
        return State.of("large", links.read_source(source), source=source)

    def test_values_stay_in_their_file_and_are_read_from_there(self):
        study = self.started(self.state())
        study.do(KeepComponents(2))
        study.close()
        link = sqlite3.connect(self.path)
        largest = link.execute("SELECT max(length(data)) FROM pieces").fetchone()[0]
        link.close()
        self.assertLess(largest, 20 * 40 * 8)
        again = self.opened()
        np.testing.assert_array_equal(again.state.table.values, read_tables([self.data]).values)
        self.assertEqual(again.state.table.replicates[:3], ("l0", "l0", "l1"))
        self.assertEqual(again.undo(), "Keep 2 components")

    def test_a_file_that_moved_or_changed_is_said_and_can_be_named_again(self):
        self.started(self.state()).close()
        moved = self.folder / "elsewhere.csv"
        self.data.rename(moved)
        with self.assertRaises(LinkedFile) as caught:
            Study.open(self.path)
        self.assertEqual(caught.exception.path, self.data)
        self.assertIn("which is not there. Say where it is now.", str(caught.exception))
        wrong = self.folder / "wrong.csv"
        wrong.write_text("id,1,2\na,3,4\n")
        with self.assertRaisesRegex(FileError, "is not the file that this study was made of"):
            relink(self.path, self.data, wrong)
        relink(self.path, self.data, moved)
        again = self.opened()
        self.assertEqual(again.state.table.shape, (20, 40))
        again.close()
        moved.write_text(moved.read_text().replace("s0,", "z0,"))
        with self.assertRaisesRegex(LinkedFile, "its contents differ"):
            Study.open(self.path)

    def test_packed_it_needs_the_file_no_more(self):
        study = self.started(self.state())
        self.assertTrue(study.file.history.is_linked)
        with self.assertRaises(Stopped):
            study.file.pack(lambda share: False)
        self.assertTrue(study.file.history.is_linked)
        study.file.pack()
        self.assertFalse(study.file.history.is_linked)
        study.close()
        self.data.unlink()
        again = self.opened()
        self.assertEqual(again.state.table.shape, (20, 40))

    def test_what_was_made_here_is_copied_in(self):
        study = self.started(self.state())
        study.do(AverageReplicates())
        study.close()
        again = self.opened()
        self.assertEqual(again.state.table.shape, (10, 40))


if __name__ == "__main__":
    unittest.main()
