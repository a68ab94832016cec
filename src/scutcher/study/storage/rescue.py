"""What can be saved of a damaged study, into a copy: its state, history and log, without what is lost."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

import msgspec

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.study.document.state import State
from scutcher.study.storage import migrations
from scutcher.study.storage.first_page import with_first_page_anew
from scutcher.study.storage.history import LogEntry, Place
from scutcher.study.storage.mending import mended
from scutcher.study.storage.plain_state import state_from_plain
from scutcher.study.storage.salvage import Salvage
from scutcher.study.storage.schema import BROKEN, FORMAT, connect, guard
from scutcher.study.storage.spare import Spare, find_spare
from scutcher.study.storage.study_file import StudyFile

MOST_TRIED = 2000

MOST_STEPS = 200
"""Steps of the history that are saved, the newest."""


@frozen
class Rescued:
    """What was saved.

    Attributes
    ----------
    state : State
        The newest that could be saved.
    lost : tuple of str
        What of it is lost; nothing where all of it was sound.
    steps : int
        That can be undone.
    log : int
        Lines of the log that were saved.
    """

    state: State
    lost: tuple[str, ...]
    steps: int
    log: int

    def said(self) -> str:
        """In a sentence."""
        kept = f"{self.steps} steps and {self.log} lines of the log came back"
        return f"Lost: {'; '.join(self.lost)}. {kept}." if self.lost else f"Everything of it: {kept}."


@frozen
class _Step:
    """One revision that can be saved."""

    revision: int
    label: str
    state: State
    lost: tuple[str, ...]


def rescue(path: Path, copy: Path) -> Rescued:
    """Write what is sound of a damaged file into a new file; the original is only read.

    Samples of which values are lost are set aside; names, columns and places that are lost are replaced or
    left out. Undo and redo, snapshots and the log come with it as far as they can be read.

    Raises
    ------
    FileError
        Nothing in it is sound, or the copy cannot be written.
    """
    saved = _rescued(_of_now(connect(path, read_only=True)), copy)
    if saved is None:
        anew = with_first_page_anew(path)
        saved = None if anew is None else _rescued(anew, copy)
    if saved is None:
        raise FileError(f"Nothing in {path.name} is sound.", "Look for an earlier copy of it.")
    return saved


def _rescued(link: sqlite3.Connection, copy: Path) -> Rescued | None:
    """What is sound of a database that is closed then; None where nothing is."""
    try:
        salvage, place = Salvage(link), _place(link)
        wanted = _revisions(link) if place is None else [place.now, *reversed(place.undo)][:MOST_STEPS]
        spare = find_spare(link)
        if spare is not None and spare.revision not in wanted:
            wanted = [spare.revision, *wanted]
        found = (_step(link, revision, salvage, spare) for revision in wanted)
        steps = [step for step in found if step is not None]
        if not steps:  # not even an undone one
            every = (_step(link, revision, salvage) for revision in _revisions(link))
            newest = next((step for step in every if step is not None), None)
            steps = [] if newest is None else [newest]
        if not steps:
            return None
        log = _log(link)
        _write(copy, steps[::-1], log, _snapshots(link), steps[0].lost)
        return Rescued(steps[0].state, steps[0].lost, len(steps) - 1, len(log))
    finally:
        link.close()


def _write(
    copy: Path,
    steps: list[_Step],
    log: list[tuple[LogEntry, int]],
    snapshots: dict[str, int],
    lost: tuple[str, ...],
) -> None:
    """The steps, the first first; then the log of before, and that it was rescued."""
    file = StudyFile.create(copy, steps[0].state)
    try:
        revisions = {steps[0].revision: 1}
        for step in steps[1:]:
            file.keep("do", step.label, step.state)
            revisions[step.revision] = file.history.place.now
        said = f"Rescued from a damaged file; lost: {'; '.join(lost) or 'nothing'}"
        with file.transaction():
            file.history.take_log([*((entry, revisions.get(at, 1)) for entry, at in log)], said)
            file.history.name_revisions(
                {name: revisions[at] for name, at in snapshots.items() if at in revisions}
            )
    finally:
        file.close()


def _step(
    link: sqlite3.Connection, revision: int, salvage: Salvage, spare: Spare | None = None
) -> _Step | None:
    """A revision without what is lost, the spare one where it is that; None where it cannot be read."""
    try:
        row: Any = (spare.label, spare.state) if spare is not None and spare.revision == revision else None
        if row is None:
            row = link.execute("SELECT label, state FROM revisions WHERE id = ?", (revision,)).fetchone()
        if row is None:
            return None
        plain, lost = mended(msgspec.json.decode(row[1]), salvage)
        return _Step(revision, str(row[0]), state_from_plain(plain, salvage.content), lost)
    except (FileError, *migrations.UNREADABLE):
        return None


def _place(link: sqlite3.Connection) -> Place | None:
    try:
        row = link.execute("SELECT value FROM meta WHERE key = 'place'").fetchone()
        return msgspec.json.decode(row[0] if row else "", type=Place)
    except (*BROKEN, msgspec.MsgspecError):
        return None


def _log(link: sqlite3.Connection) -> list[tuple[LogEntry, int]]:
    """Every line that can be read, with its revision; the first first."""
    found: list[tuple[LogEntry, int]] = []
    for ident in _idents(link, "log"):
        try:
            query = "SELECT at, who, kind, what, why, revision FROM log WHERE id = ?"
            row: Any = link.execute(query, (ident,)).fetchone()
            found.append((LogEntry(*(str(cell) for cell in row[:5])), int(row[5])))
        except (*BROKEN, TypeError, ValueError):
            continue
    return found


def _snapshots(link: sqlite3.Connection) -> dict[str, int]:
    try:
        rows = link.execute("SELECT name, revision FROM snapshots ORDER BY at").fetchall()
        return {str(name): int(revision) for name, revision in rows}
    except (*BROKEN, TypeError, ValueError):
        return {}


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
    return sorted(_idents(link, "revisions"), reverse=True)


def _idents(link: sqlite3.Connection, table: str) -> list[int]:
    """The ids of a table's rows, rising; where a page of the list is broken they are tried one by one."""
    try:
        return [int(row[0]) for row in link.execute(f"SELECT id FROM {table} ORDER BY id")]
    except (*BROKEN, TypeError, ValueError):
        return list(range(1, MOST_TRIED + 1))
