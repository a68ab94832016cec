"""Whether something has happened in a folder, as the kernel tells it (inotify); elsewhere one has to look."""

from __future__ import annotations

import os
import re
import threading
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from watchdog.observers.api import BaseObserver

IDLE = 30.0
"""Seconds after which a folder is looked at though nothing was told: events can be lost."""

LOCAL = frozenset({
    "bcachefs", "btrfs", "exfat", "ext2", "ext3", "ext4", "f2fs", "jfs", "msdos", "nilfs2", "ntfs",
    "ntfs3", "overlay", "ramfs", "reiserfs", "tmpfs", "vfat", "xfs", "zfs",
})  # fmt: skip
"""File systems on which all that is written is written by this machine."""

MOUNTS = Path("/proc/self/mountinfo")
OCTAL = re.compile(r"\\([0-7]{3})")
"""How blanks are written there."""


class FolderEvents:
    """Told by the kernel of one folder, not of those in it.

    Attributes
    ----------
    told : bool
        Whether everything is told: not so on network folders, where another machine writes.
    """

    def __init__(self, folder: Path) -> None:
        self._happened = threading.Event()
        self._observer = _observer(folder, self._happened) if is_local(folder) else None
        self.told = self._observer is not None

    def happened(self) -> bool:
        """Whether something has happened since the last time this was asked."""
        found = self._happened.is_set()
        self._happened.clear()
        return found

    def wait(self, seconds: float) -> bool:
        """Wait until something happens, or so long; whether something did."""
        found = self._happened.wait(seconds)
        self._happened.clear()
        return found

    def stop(self) -> None:
        """Nobody is told any more."""
        if self._observer is not None:
            self._observer.stop()
            self._observer.join()
            self._observer, self.told = None, False


def is_local(folder: Path, mounts: Path = MOUNTS) -> bool:
    """Whether a folder lies on a file system of this machine; unknown ones do not."""
    place = os.path.realpath(folder)
    best, kind = "", ""
    try:
        lines = mounts.read_text(encoding="utf-8", errors="surrogateescape").splitlines()
    except OSError:
        return False
    for line in lines:
        left, _, right = line.partition(" - ")
        words = left.split()
        if len(words) < 5 or not right:
            continue
        point = OCTAL.sub(lambda found: chr(int(found[1], 8)), words[4])
        inside = place == point or place.startswith(point.rstrip("/") + "/")
        if inside and len(point) >= len(best):
            best, kind = point, right.split()[0]
    return kind in LOCAL


def _observer(folder: Path, happened: threading.Event) -> BaseObserver | None:
    """A thread that waits for the kernel; None where that cannot be had."""
    from watchdog.events import FileSystemEvent, FileSystemEventHandler
    from watchdog.observers import Observer

    class Mark(FileSystemEventHandler):
        def on_any_event(self, event: FileSystemEvent) -> None:
            if event.event_type not in ("opened", "closed_no_write"):  # our own reading is no news
                happened.set()

    observer = Observer()
    try:
        observer.schedule(Mark(), str(folder), recursive=False)
        observer.start()
    except OSError:
        return None  # no such file system, or no watch left for this user
    return observer
