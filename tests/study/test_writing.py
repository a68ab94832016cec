"""Writing behind: a command is known at once, written in its order, and taken back where it cannot be."""

import threading
import time
import unittest
from unittest import mock

from scutcher.core.errors import FileError
from scutcher.demo.sets import demo_recipe, demo_set
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.storage.study_file import StudyFile
from scutcher.study.work import Queue
from scutcher.study.writing import WritingBehind
from tests.folder import InFolder


class Case(InFolder, unittest.TestCase):
    def setUp(self):
        super().setUp()
        self.posted, self.said = [], []
        self.queue = Queue(self.posted.append)
        self.study = Study(State.of("practice", demo_set("practice")[0], demo_recipe("practice")))
        self.study.keep_in(self.folder / "a.scutch")
        self.writing = WritingBehind(self.queue, self.said.append)
        self.study.write_by(self.writing)
        self.addCleanup(self.study.close)
        self.addCleanup(self.queue.close)

    def components(self, study=None):
        return (study or self.study).state.recipe.model.components

    def deliver(self):
        """What was posted to the owner, as the window's loop does."""
        until = time.monotonic() + 60
        while self.queue.has("store") and time.monotonic() < until:
            while self.posted:
                self.posted.pop(0)()
            time.sleep(0.005)

    def held(self):
        """The file, writing nothing until the event is set."""
        go, keep = threading.Event(), StudyFile.keep

        def slow(file, *arguments):
            go.wait(60)
            keep(file, *arguments)

        patch = mock.patch.object(StudyFile, "keep", slow)
        patch.start()
        self.addCleanup(patch.stop)
        self.addCleanup(go.set)
        return go

    def full(self, after):
        """A disk on which so many more steps find room."""
        keep, left = StudyFile.keep, [after]

        def tried(file, *arguments):
            left[0] -= 1
            if left[0] < 0:
                raise FileError("The disk is full.", "Make room.")
            keep(file, *arguments)

        patch = mock.patch.object(StudyFile, "keep", tried)
        patch.start()
        return patch


class Writing(Case):
    def test_a_command_is_known_before_it_is_written(self):
        go, before = self.held(), self.study.open_file.history.place
        self.study.do(KeepComponents(2))
        self.assertEqual(self.components(), 2)
        self.assertEqual(self.study.open_file.history.place, before)
        go.set()
        self.assertNotEqual(self.study.file.history.place, before)  # whoever asks for the file waits
        self.assertEqual(self.said, [])

    def test_every_step_is_in_the_file_in_its_order(self):
        for turn in range(40):
            self.study.do(KeepComponents(2 + turn % 5))
            if turn % 7 == 3:
                self.study.undo()
                self.study.undo()
                self.study.redo()
        self.deliver()
        now, undo, redo = self.components(), len(self.study._undo), len(self.study._redo)
        kinds = [entry.kind for entry in self.study.file.history.log()]
        self.assertEqual(kinds[:8], ["start", "do", "do", "do", "do", "undo", "undo", "redo"])
        self.study.close()
        again = Study.open(self.folder / "a.scutch")
        self.addCleanup(again.close)
        self.assertEqual((self.components(again), len(again._undo), len(again._redo)), (now, undo, redo))

    def test_what_cannot_be_written_is_taken_back_with_all_after_it(self):
        self.study.do(KeepComponents(2))
        patch = self.full(after=1)
        heard = []
        self.study.subscribe(heard.append)
        for k in (3, 4, 5):
            self.study.do(KeepComponents(k))
        self.study.undo()
        heard.clear()
        self.assertFalse(self.writing.finish())
        self.assertEqual([error.problem for error in self.said], ["The disk is full."])
        self.assertEqual(self.components(), 3)
        self.assertIn("recipe", heard[-1])
        patch.stop()
        self.study.do(KeepComponents(7))
        self.study.undo()
        self.assertEqual(self.components(), 3)
        self.study.undo()
        self.assertEqual(self.components(), 2)
        self.assertTrue(self.writing.finish())
        self.study.close()
        again = Study.open(self.folder / "a.scutch")
        self.addCleanup(again.close)
        self.assertEqual(self.components(again), 2)
        again.redo()
        self.assertEqual(self.components(again), 3)

    def test_a_failure_is_said_when_the_loop_turns(self):
        patch = self.full(after=0)
        self.addCleanup(patch.stop)
        was = self.components()
        self.study.do(KeepComponents(2 if was != 2 else 3))
        self.deliver()
        self.assertEqual([error.problem for error in self.said], ["The disk is full."])
        self.assertEqual(self.components(), was)

    def test_a_mistake_is_raised_and_taken_back(self):
        was = self.components()
        with mock.patch.object(StudyFile, "keep", side_effect=ValueError("oops")):
            self.study.do(KeepComponents(9))
            with self.assertRaises(ValueError):
                self.writing.finish()
        self.assertEqual(self.components(), was)

    def test_where_the_queue_has_ended_it_is_written_all_the_same(self):
        self.queue.close()
        self.study.do(KeepComponents(6))
        self.study.close()
        again = Study.open(self.folder / "a.scutch")
        self.addCleanup(again.close)
        self.assertEqual(self.components(again), 6)

    def test_a_failed_commit_leaves_the_place_in_the_history_as_it_was(self):
        """Numbers of states that were never written would be given again."""
        self.study.write_by(None)
        file = self.study.file
        link, before = file._link, file.history.place

        class Refusing:
            def __getattr__(self, name):
                return getattr(link, name)

            def execute(self, words, *values):
                if words == "COMMIT":
                    raise OSError("no")
                return link.execute(words, *values)

        with mock.patch.object(file, "_link", Refusing()), self.assertRaises(FileError):
            self.study.do(KeepComponents(4))
        self.assertEqual(file.history.place, before)
        for k in (5, 6):
            self.study.do(KeepComponents(k))
        self.study.close()
        again = Study.open(self.folder / "a.scutch")
        self.addCleanup(again.close)
        again.undo()
        self.assertEqual(self.components(again), 5)


if __name__ == "__main__":
    unittest.main()
