"""What can be saved of a damaged study: the newest state that is sound, into a copy."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from scutcher.core.errors import FileError
from scutcher.study.document.state import State
from scutcher.study.storage import migrations
from scutcher.study.storage.schema import BROKEN, FORMAT, connect, guard
from scutcher.study.storage.study_file import StudyFile

MOST_TRIED = 2000


def rescue(path: Path, copy: Path) -> State:
    """Write the newest sound state of a damaged file into a new file; the original is only read.

    Returns
    -------
    State
        What was rescued.

    Raises
    ------
    FileError
        Nothing in it is sound, or the copy cannot be written.
    """
    link = _of_now(connect(path, read_only=True))
    damaged = StudyFile(path, link, None, "it is being rescued")
    try:
        for revision in _revisions(link):
            try:
                state = damaged.state(revision)
            except (FileError, *BROKEN):
                continue
            StudyFile.create(copy, state).close()
            return state
    finally:
        damaged.close()
    raise FileError(f"Nothing in {path.name} is sound.", "Look for an earlier copy of it.")


def _of_now(link: sqlite3.Connection) -> sqlite3.Connection:
    """The file itself, or a copy in memory of one of a former format, without what cannot be read of it."""
    try:
        tables = {str(row[0]) for row in link.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        former = [version for version in migrations.STEPS if tables == set(migrations.KNOWN[version])]
        if not former:
            return link
        memory = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
        guard(memory)
        link.backup(memory)
        migrations.migrate(memory, former[0], migrations.UNREADABLE)
        memory.execute("UPDATE meta SET value = ? WHERE key = 'format'", (str(FORMAT),))
        link.close()
        return memory
    except migrations.UNREADABLE:
        return link


def _revisions(link: sqlite3.Connection) -> list[int]:
    """The revisions that can still be listed, the newest first."""
    try:
        return [int(row[0]) for row in link.execute("SELECT id FROM revisions ORDER BY id DESC")]
    except BROKEN:
        return list(range(MOST_TRIED, 0, -1))  # a page of the list is broken: they are tried one by one
