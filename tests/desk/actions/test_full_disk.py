"""A disk that is full or is pulled out while a study on it is open in the window."""

import os
import subprocess
import unittest
from unittest import mock

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.study import Study
from tests.desk.driving import WindowCase, settle
from tests.folder import InFolder

SIZE = 6  # MB


def mounted(*words):
    return subprocess.run(["mount", *map(str, words)], capture_output=True, check=False).returncode == 0


class OnASmallDisk(InFolder, WindowCase):
    def prepare(self):
        super().prepare()
        patch = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        patch.start()
        self.addCleanup(patch.stop)
        self.disk = self.folder / "stick"
        self.disk.mkdir()
        if not mounted("-t", "tmpfs", "-o", f"size={SIZE}m", "tmpfs", self.disk):
            self.skipTest("nothing may be mounted here")
        self.addCleanup(subprocess.run, ["umount", "-l", self.disk], capture_output=True, check=False)

    def study(self):
        study = demo_study("intake-nir")
        study.keep_in(self.disk / "mill.scutch")
        self.addCleanup(study.close)
        return study

    def fill(self):
        filler = self.disk / "filler"
        with filler.open("wb", buffering=0) as stream:
            try:
                while True:
                    stream.write(b"\0" * 4096)
            except OSError:
                pass
        return filler

    def components(self):
        return self.state.recipe.model.components

    def keeps(self, components):
        """Whether a command that was done at once is written behind too."""
        self.assertTrue(self.desk.do(KeepComponents(components)))
        self.assertEqual(self.components(), components)
        return self.window.writing.finish()

    def refused(self, words):
        text = self.window.message.label.text()
        self.assertTrue(self.window.message.isVisible())
        self.assertIn(words, text)
        self.assertNotIn("Traceback", text)

    def kept(self):
        """What a copy of the file has, opened by itself."""
        copy = self.folder / "copy.scutch"
        copy.unlink(missing_ok=True)
        copy.write_bytes((self.disk / "mill.scutch").read_bytes())
        study = Study.open(copy)
        try:
            return study.state.recipe.model.components
        finally:
            study.close()

    def test_a_full_disk_is_said_and_nothing_is_lost(self):
        self.assertTrue(self.keeps(3))  # what is still being written would not fit either
        filler = self.fill()
        refused = next(turn for turn in range(400) if not self.keeps(2 + turn % 2))
        settle()
        self.assertEqual(self.components(), 3 - refused % 2)
        self.refused("The disk is full")
        last = self.components()
        self.assertEqual(self.kept(), last)
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(self.disk / "copy"), "")):
            self.window.message.hide()
            self.window.filing.ask_copy()
        self.until(self.window.message.isVisible)  # the copy is written behind
        self.refused("The disk is full")
        left = [path.name for path in self.disk.iterdir()]
        self.assertEqual([name for name in left if "part" in name or "copy" in name], [])
        filler.unlink()
        self.assertTrue(self.desk.do(KeepComponents(5)))
        self.desk.study.undo()
        self.assertEqual(self.components(), last)

    def test_a_disk_that_is_pulled_out(self):
        self.assertTrue(self.keeps(3))  # what is still being written would go back too
        subprocess.run(["umount", "-l", self.disk], check=True)
        self.assertFalse(self.keeps(2))
        settle()
        self.refused("mill.scutch")
        self.assertEqual(self.components(), 3)
        safe = self.folder / "safe.scutch"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(safe), "")):
            self.window.filing.ask_copy()
        self.until(safe.exists)
        QTest.qWait(50)
        study = Study.open(safe)
        self.addCleanup(study.close)
        self.assertEqual(study.state.recipe.model.components, 3)


if __name__ == "__main__":
    unittest.main()
