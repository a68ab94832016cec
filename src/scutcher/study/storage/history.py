"""What was done in a study: its revisions, where it stands among them, its log, its named snapshots."""

from __future__ import annotations

import getpass
import os
import sqlite3
import threading
from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

import msgspec

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.study.storage.schema import BROKEN, DAMAGED
from scutcher.study.storage.seals import broken_seal, last_seal, seal
from scutcher.study.storage.spare import keep_spare
from scutcher.study.storage.thinning import keep_only


class Place(msgspec.Struct, frozen=True):
    """Where a study is in its history: what can be undone, now, what can be redone (revision ids)."""

    undo: tuple[int, ...]
    now: int
    redo: tuple[int, ...]

    def after(self, kind: str) -> Place | None:
        """Where "undo" or "redo" leads; None where only a new revision does."""
        if kind == "undo" and self.undo:
            return Place(self.undo[:-1], self.undo[-1], (*self.redo, self.now))
        if kind == "redo" and self.redo:
            return Place((*self.undo, self.now), self.redo[-1], self.redo[:-1])
        return None

    def with_new(self, revision: int) -> Place:
        """Where a new revision leads."""
        return Place((*self.undo, self.now) if self.now else (), revision, ())


@frozen
class LogEntry:
    """One decision: when, who, what kind, what, why."""

    at: str
    who: str
    kind: str
    what: str
    why: str


LOGGED = ("at", "who", "kind", "what", "why", "revision")


class History:
    """Reads at any time, in its turn; writes inside whatever transaction its owner has begun.

    Attributes
    ----------
    place : Place
        As it was committed last.
    snapshots : dict of str to int
        The revision of each, the oldest first; as committed last.
    is_linked : bool
        Whether some of the values lie in data files and not here; as committed last.

    Parameters
    ----------
    link : open database
    name : what the file is called in messages
    turn : held by whoever uses the database
    """

    def __init__(self, link: sqlite3.Connection, name: str, turn: threading.RLock) -> None:
        self._link, self._name, self._turn = link, name, turn
        self.place = Place((), 0, ())
        self.snapshots: dict[str, int] = {}
        self.is_linked = False

    # Reading

    def look(self) -> None:
        """See how it was committed.

        Raises
        ------
        FileError
            It is damaged.
        """
        row = self.one("SELECT value FROM meta WHERE key = 'place'")
        try:
            place = msgspec.json.decode(row[0] if row else "", type=Place)
        except msgspec.MsgspecError as error:
            raise FileError(f"{self._name} does not say where its history stands.", DAMAGED) from error
        snapshots = dict(self.all("SELECT name, revision FROM snapshots ORDER BY at"))
        is_linked = self.one("SELECT 1 FROM links") is not None
        self.place, self.snapshots, self.is_linked = place, snapshots, is_linked

    def check(self) -> str:
        """Whether all that it leads to is there; what does not bear its seal, "" for nothing.

        Raises
        ------
        FileError
            A revision is missing.
        """
        known = {int(row[0]) for row in self.all("SELECT id FROM revisions")}
        if not {*self.place.undo, self.place.now, *self.place.redo} <= known:
            raise FileError(f"{self._name} lacks a revision of its history.", DAMAGED)
        try:
            return broken_seal(self._link)
        except BROKEN as error:
            raise FileError(f"{self._name} is damaged ({error}).", DAMAGED) from error

    def text_of(self, revision: int) -> str:
        """The state of a revision, as it was written."""
        row = self.one("SELECT state FROM revisions WHERE id = ?", (revision,))
        if row is None:
            raise FileError(f"{self._name} lacks its revision {revision}.", DAMAGED)
        return str(row[0])

    def labels(self) -> dict[int, str]:
        """What the command that made each revision is called."""
        return {int(row[0]): str(row[1]) for row in self.all("SELECT id, label FROM revisions")}

    def log(self) -> list[LogEntry]:
        """Every decision, the first first."""
        rows = self.all("SELECT at, who, kind, what, why FROM log ORDER BY id")
        return [LogEntry(*(str(cell) for cell in row)) for row in rows]

    def log_seal(self) -> str:
        """The seal of the newest decision, onto which all before it are hashed."""
        with self._turn:
            return last_seal(self._link, "log")

    def all(self, query: str) -> list[Any]:
        """All rows of a query."""
        try:
            with self._turn:
                return self._link.execute(query).fetchall()
        except BROKEN as error:
            raise FileError(f"{self._name} cannot be read ({error}).", DAMAGED) from error

    def one(self, query: str, values: tuple[Any, ...] = ()) -> Any:
        """The first row of a query, or None."""
        try:
            with self._turn:
                return self._link.execute(query, values).fetchone()
        except (*BROKEN, OverflowError) as error:
            raise FileError(f"{self._name} cannot be read ({error}).", DAMAGED) from error

    # Writing

    def add_revision(self, label: str, state: str) -> int:
        """A state more; its number."""
        return self._insert("revisions", ("label", "state"), (label, state))

    def stand(self, place: Place, kind: str, what: str, why: str = "") -> None:
        """Stand at another place from now on, and log what led there."""
        self._insert("log", LOGGED, (_now(), who(), kind, what, why, place.now))
        text = msgspec.json.encode(place).decode()
        self._link.execute("INSERT OR REPLACE INTO meta VALUES ('place', ?)", (text,))
        keep_spare(self._link, place.now)

    def name_revisions(self, revisions: Mapping[str, int]) -> None:
        """Snapshots: names by which revisions can be found."""
        for name, revision in revisions.items():
            self._link.execute("INSERT INTO snapshots VALUES (?, ?, ?)", (name, _now(), revision))

    def forget_steps(self) -> int:
        """Let the states go that undo, redo and no snapshot leads to any more; how many. The log stays."""
        place = Place((), self.place.now, ())
        gone = keep_only(self._link, {place.now, *self.snapshots.values()})
        self.stand(place, "forget", f"Forget {gone} earlier states")
        return gone

    def take_log(self, entries: Iterable[tuple[LogEntry, int]], rescued: str) -> None:
        """Put the log of another file, with the revision of each line here, in place of this one's.

        The last line says that it was rescued, and what is lost.
        """
        self._link.execute("DELETE FROM log")
        for entry, revision in entries:
            own = (entry.at, entry.who, entry.kind, entry.what, entry.why, revision)
            self._insert("log", LOGGED, own)
        self._insert("log", LOGGED, (_now(), who(), "rescue", rescued, "", self.place.now))

    def _insert(self, table: str, names: Sequence[str], cells: Sequence[object]) -> int:
        """Add a row that bears the seal of the rows before and its own content."""
        ident = int(self._link.execute(f"SELECT coalesce(max(id), 0) + 1 FROM {table}").fetchone()[0])
        mark = seal(last_seal(self._link, table), (ident, *cells))
        holders = ", ".join("?" * (len(cells) + 2))
        self._link.execute(
            f"INSERT INTO {table} (id, {', '.join(names)}, seal) VALUES ({holders})", (ident, *cells, mark)
        )
        return ident


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def who() -> str:
    """Who is at work here, as the system knows them."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return str(os.getuid())
