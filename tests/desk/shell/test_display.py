"""Without a screen there is a sentence, not Qt's abort."""

import os
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from scutcher.core.errors import FileError
from scutcher.desk.shell.display import check_display

NONE = ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")


class Display(unittest.TestCase):
    def environment(self, **given):
        kept = {key: value for key, value in os.environ.items() if key not in NONE}
        return mock.patch.dict(os.environ, {**kept, **given}, clear=True)

    def test_no_display_and_one_that_does_not_answer(self):
        with self.environment(), self.assertRaisesRegex(FileError, "no display"):
            check_display()
        with self.environment(DISPLAY=":4711"), self.assertRaisesRegex(FileError, ":4711 does not answer"):
            check_display()
        with (
            self.environment(WAYLAND_DISPLAY="none"),
            self.assertRaisesRegex(FileError, "none does not answer"),
        ):
            check_display()

    def test_what_somebody_has_chosen_is_taken(self):
        with self.environment(QT_QPA_PLATFORM="offscreen"):
            check_display()
        with tempfile.TemporaryDirectory() as folder, socket.socket(socket.AF_UNIX) as listening:
            listening.bind(str(Path(folder) / "wayland-9"))
            with self.environment(WAYLAND_DISPLAY="wayland-9", XDG_RUNTIME_DIR=folder):
                check_display()

    def test_the_command_says_it_in_a_line(self):
        kept = {key: value for key, value in os.environ.items() if key not in NONE}
        for arguments in ([], ["demo"], ["open"]):
            done = subprocess.run(
                [sys.executable, "-m", "scutcher", *arguments], env=kept, capture_output=True, text=True
            )
            self.assertEqual((done.returncode, done.stderr.count("\n")), (1, 1), done.stderr)
            self.assertIn("There is no display", done.stderr)


if __name__ == "__main__":
    unittest.main()
