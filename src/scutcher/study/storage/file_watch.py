"""Whether a study file is held by this program, and still the one that was opened."""

from __future__ import annotations

import fcntl
import os
import sqlite3
from pathlib import Path

COUNTER = 24
"""Where SQLite counts the changes of a file: four bytes."""

Look = tuple[int, int, int, int]
"""Device, number, size and time of change of a file."""


class FileWatch:
    """Remembers how the file was after the last commit of this program.

    Parameters
    ----------
    handle : of the file, open for reading as long as this lives; None where nothing is watched
    """

    def __init__(self, path: Path, link: sqlite3.Connection, handle: int | None) -> None:
        self._path, self._handle = path, handle
        self._seen: Look | None = None
        self._counter = b""
        self._version = 0
        self.remember(link)

    def remember(self, link: sqlite3.Connection) -> None:
        """The file is as this program left it."""
        self._version = _version(link)  # first: it takes back a commit that was cut off
        self._seen, self._counter = self._look(), self._count()

    def trouble(self, link: sqlite3.Connection) -> str:
        """What somebody else did, as the end of a sentence; "" where nobody did anything."""
        if self._seen is None:
            return ""
        now = self._look()
        if now is None:
            return "has gone from its place"
        if now[:2] != self._seen[:2]:
            return "was replaced by another program"
        if _version(link) != self._version or now[2] != self._seen[2]:
            return "was changed by another program"
        if now[3] != self._seen[3] and self._count() != self._counter:
            return "was changed by another program"
        self._seen = now  # only touched
        return ""

    def _look(self) -> Look | None:
        try:
            found = os.stat(self._path)
        except OSError:
            return None
        return found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns

    def _count(self) -> bytes:
        """The count of changes in the file's first bytes, by the handle that is open already: closing another
        one would drop the locks that SQLite holds on the file."""
        try:
            return b"" if self._handle is None else os.pread(self._handle, 4, COUNTER)
        except OSError:
            return b""


def _version(link: sqlite3.Connection) -> int:
    """Counts what other connections have committed."""
    try:
        return int(link.execute("PRAGMA data_version").fetchone()[0])
    except sqlite3.Error:
        return -1


def locked(path: Path) -> int | None:
    """Hold the file for this process; None where another process (or window) holds it."""
    handle = os.open(path, os.O_RDONLY)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    return handle
