"""Windows: opened, closed and reopened without leaving anything; and there is always one, with the way on."""

import gc
import os
import resource
import stat
import sys
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from scutcher.core.errors import FileError
from scutcher.desk.shell.beginning import Begun, demo_study, first_study
from scutcher.desk.shell.start import application, run_window
from scutcher.desk.shell.windows import Windows
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.session import Open, keep_session, session
from scutcher.study.storage.study_file import StudyFile
from tests.core.making import ordered_table, random_spectra
from tests.desk.driving import settle
from tests.folder import InFolder


def memory() -> float:
    """Megabytes that this process holds now."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e6


class OnWindows(InFolder):
    def setUp(self):
        super().setUp()
        patch = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        patch.start()
        self.addCleanup(patch.stop)
        application()
        self.windows = Windows()
        self.addCleanup(self.windows.dispose)

    def named(self, name, data="bench"):
        study = demo_study(data)
        study.keep_in(self.folder / name)
        study.close()
        return self.folder / name

    def close(self, window):
        window.close()
        settle(8)
        gc.collect()


class Unwritten(OnWindows):
    def test_a_window_with_something_unwritten_stays_and_says_so(self):
        one, _ = (self.windows.open(Study.open(self.named(f"{name}.scutch"))) for name in "ab")
        settle(8)
        full = FileError("The disk is full.", "Make room.")
        with mock.patch.object(StudyFile, "keep", side_effect=full):
            one.desk.do(KeepComponents(2))
            self.windows.end()
        settle(8)
        self.assertEqual(self.windows.all, [one])
        self.assertTrue(one.isVisible())
        self.assertIn("The disk is full", one.message.label.text())
        self.assertFalse(self.windows.ending)
        self.assertNotEqual(one.study.state.recipe.model.components, 2)
        self.windows.end()
        settle(8)
        self.assertEqual(self.windows.all, [])
        self.assertTrue(self.windows.ending)


class Opened(OnWindows):
    def test_twenty_studies_opened_closed_and_opened_again(self):
        paths = [self.named(f"s{place}.scutch") for place in range(20)]
        for path in paths[:3]:  # what is loaded once and stays
            self.close(self.windows.open(Study.open(path)))
        before, descriptors = memory(), len(os.listdir("/proc/self/fd"))
        for turn in range(2):
            for place, path in enumerate(paths[:: 1 + 3 * turn]):
                place *= 1 + 3 * turn
                window = self.windows.open(Study.open(path))
                settle(2)
                self.assertEqual(window.study.file.read_only_reason, "")
                window.desk.do(KeepComponents(2 + turn))
                self.assertEqual(window.windowTitle(), f"s{place} — Scutcher")
                self.close(window)
        self.assertEqual(self.windows.all, [])
        self.assertLess(memory() - before, 150.0)
        self.assertLessEqual(len(os.listdir("/proc/self/fd")), descriptors + 2)

    def test_a_study_that_is_shown_comes_to_the_front_and_one_that_was_closed_is_writable(self):
        path = self.named("a.scutch")
        first = self.windows.open(Study.open(path))
        settle()
        self.assertIs(self.windows.open_file(path, first), first)
        self.close(first)
        again = self.windows.open(Study.open(path))
        settle()
        self.assertTrue(again.desk.do(KeepComponents(2)))
        self.assertFalse(again.message.isVisible())

    def test_the_state_folder_is_of_this_person_alone(self):
        folder = self.folder / "state" / "scutcher"
        folder.mkdir(parents=True, mode=0o755)
        folder.chmod(0o755)  # as earlier versions left it
        self.assertEqual(stat.S_IMODE(places.state_folder().stat().st_mode), 0o700)
        window = self.windows.open(Begun(Study(), fresh=True))
        settle(4)
        self.assertEqual(stat.S_IMODE(window.study.file.path.stat().st_mode), 0o600)

    def test_who_comes_back_hears_what_others_did_to_the_file(self):
        path = self.named("a.scutch")
        window = self.windows.open(Study.open(path))
        settle(8)
        path.unlink()
        with mock.patch.object(window, "isActiveWindow", return_value=True):
            QApplication.sendEvent(window, QEvent(QEvent.Type.ActivationChange))
        settle()
        self.assertTrue(window.message.isVisible())
        self.assertIn("a.scutch has gone from its place", window.message.label.text())

    def test_what_arrives_after_closing_is_heard_by_nobody(self):
        window = self.windows.open(Study.open(self.named("a.scutch")))
        settle(2)
        errors = []
        with mock.patch.object(sys, "excepthook", lambda *error: errors.append(error)):
            window.desk.do(KeepComponents(3))  # its validation is under way
            self.close(window)
            for _ in range(20):
                QApplication.processEvents()
        self.assertEqual(errors, [])


class Starts(OnWindows):
    def test_a_new_study_is_kept_behind_its_first_picture_and_comes_back(self):
        window = self.windows.open(first_study((), "intake-nir"))
        self.assertIsNone(window.study.path)
        settle(8)
        self.assertTrue(window.study.path.exists())
        self.assertEqual(places.recent()[:1], [window.study.path])
        self.assertEqual([Path(one.path) for one in session()], [window.study.path])
        window.desk.do(KeepComponents(3))
        self.close(window)
        self.assertEqual(first_study((), None).study.state.recipe.model.components, 3)

    def test_one_that_is_closed_at_once_leaves_no_file(self):
        window = self.windows.open(first_study((), "intake-nir"))
        window.close()
        settle(8)
        self.assertEqual(places.recent(), [])
        self.assertEqual(session(), [])

    def test_the_page_that_was_looked_at_comes_back(self):
        path = self.named("a.scutch", "intake-nir")
        keep_session([Open(str(path), "Groups")])
        seen = []

        def shown(window):
            settle(8)
            seen.append((window.study.path, window.stack.current))
            window.close()

        self.assertEqual(run_window(shown=shown), 0)
        self.assertEqual(seen, [(path, "Groups")])


class AlwaysAWindow(OnWindows):
    def begun(self, files=(), demo=None):
        begun = first_study(files, demo)
        window = self.windows.open(begun)
        settle(6)
        self.assertTrue(window.isVisible())
        return window

    def message(self, window):
        return window.message.label.text()

    def test_a_damaged_study_offers_to_rescue(self):
        path = self.named("a.scutch")
        whole = path.read_bytes()
        path.write_bytes(whole[: len(whole) // 2])
        window = self.begun([path])
        self.assertIn("a.scutch", self.message(window))
        self.assertEqual(window.message.act.text(), "Rescue into a copy")
        self.assertIsNone(window.study.state.table)

    def test_a_study_that_is_not_there(self):
        window = self.begun([self.folder / "gone.scutch"])
        self.assertIn("There is no file gone.scutch", self.message(window))

    def test_a_state_folder_that_cannot_be_written(self):
        (self.folder / "state").write_text("in the way")
        window = self.begun((), "intake-nir")
        self.assertIn("This study is not kept", self.message(window))
        self.assertIn("Ctrl+S", self.message(window))
        self.assertEqual(window.desk.moment.found.model.k, 4)
        self.assertTrue(window.filing.name_study(self.folder / "kept.scutch"))
        self.assertTrue((self.folder / "kept.scutch").exists())

    def test_a_named_study_opens_though_the_state_folder_cannot_be_written(self):
        path = self.named("a.scutch")
        (self.folder / "state").write_text("in the way")
        window = self.begun([path])
        self.assertEqual(window.study.file.path, path)
        self.assertTrue(window.desk.do(KeepComponents(2)))

    def test_a_recent_study_in_a_folder_that_may_not_be_entered(self):
        folder = self.folder / "closed"
        folder.mkdir()
        places.remember(folder / "a.scutch")
        self.folder.chmod(0o755)
        folder.chmod(0)
        self.addCleanup(folder.chmod, stat.S_IRWXU)
        said, says = os.pipe()
        child = os.fork()
        if child == 0:  # as a user who is not root: root may enter everything
            try:
                if os.getuid() == 0:
                    os.setuid(65534)
                os.write(says, repr(places.recent()).encode())
            except BaseException as error:
                os.write(says, repr(error).encode())
            finally:
                os._exit(0)
        os.close(says)
        os.waitpid(child, 0)
        with os.fdopen(said) as stream:
            self.assertEqual(stream.read(), "[]")

    def test_recent_studies_are_kept_by_their_whole_path(self):
        here = os.getcwd()
        self.addCleanup(os.chdir, here)
        os.chdir(self.folder)
        self.named("mine.scutch")
        places.remember(Path("mine.scutch"))
        other = self.folder / "elsewhere"
        other.mkdir()
        os.chdir(other)
        self.assertEqual(places.recent(), [self.folder / "mine.scutch"])
        self.assertEqual(first_study((), None).study.file.path, self.folder / "mine.scutch")

    def test_opened_inside_the_screen_that_there_is(self):
        window = self.begun((), "practice")
        room = window.screen().availableGeometry()
        self.assertLessEqual(window.width(), max(room.width(), window.minimumWidth()))
        self.assertLessEqual(window.minimumHeight(), 604)  # 640 less a title bar
        self.assertLessEqual(window.minimumWidth(), 1024)


class LocksGoWithTheirWindow(OnWindows):
    def test_a_new_study_has_a_file_of_its_own(self):
        made = Study(State.of("t", ordered_table(random_spectra(6, 5))))
        window = self.windows.open(Begun(made, fresh=True))
        settle()
        window.opening.new_study()
        settle(6)
        self.assertEqual(len(self.windows.all), 2)
        fresh = self.windows.all[1]
        self.assertIsNone(fresh.study.state.table)
        self.assertNotEqual(fresh.study.file.path, window.study.file.path)
        self.assertEqual(window.study.state.table.shape, (6, 5))


if __name__ == "__main__":
    unittest.main()
