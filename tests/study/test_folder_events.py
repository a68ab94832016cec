"""What the kernel tells of a folder, and where it does not tell all."""

import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

from scutcher.study import folder_events
from scutcher.study.folder_events import FolderEvents, is_local

LONG = 60.0
MOUNTS = """22 1 8:1 / / rw,relatime shared:1 - ext4 /dev/sda1 rw
30 22 0:40 / /mnt/instrument\\040one rw - cifs //host/share rw
31 30 0:41 / /mnt/instrument\\040one/here rw shared:3 - tmpfs tmpfs rw
40 22 0:50 / /mnt/odd rw - fuse.sshfs x rw
broken line
"""


class Folder(unittest.TestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp())

    def test_whoever_waits_is_woken_by_what_is_written(self):
        events = FolderEvents(self.folder)
        self.addCleanup(events.stop)
        if not events.told:
            self.skipTest("this folder lies where nothing is told")
        self.assertFalse(events.happened())
        threading.Timer(0.2, lambda: (self.folder / "a.csv").write_text("1\n")).start()
        self.assertTrue(events.wait(LONG))
        while events.wait(0.5):
            pass  # one file is several events
        (self.folder / "a.csv").read_text()
        self.assertFalse(events.wait(0.5))  # reading is no news
        (self.folder / "a.csv").unlink()
        self.assertTrue(events.wait(LONG))

    def test_after_the_end_no_thread_is_left(self):
        before = threading.active_count()
        events = FolderEvents(self.folder)
        events.stop()
        self.assertFalse(events.told)
        self.assertEqual(threading.active_count(), before)

    def test_where_the_kernel_says_no_one_has_to_look(self):
        with mock.patch("watchdog.observers.Observer.start", side_effect=OSError(28, "no watch left")):
            events = FolderEvents(self.folder)
        self.assertFalse(events.told)
        self.assertFalse(events.wait(0.01))

    def test_network_folders_are_not_told_of(self):
        mounts = self.folder / "mountinfo"
        mounts.write_text(MOUNTS)
        for place, wanted in (
            ("/data", True), ("/mnt/instrument one/run 3", False), ("/mnt/instrument one/here/x", True),
            ("/mnt/odd", False), ("/mnt/oddity", True),
        ):  # fmt: skip
            with self.subTest(place):
                self.assertEqual(is_local(Path(place), mounts), wanted)
        self.assertFalse(is_local(self.folder, self.folder / "none"))
        with mock.patch.object(folder_events, "is_local", return_value=False):
            self.assertFalse(FolderEvents(self.folder).told)


if __name__ == "__main__":
    unittest.main()
