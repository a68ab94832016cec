"""The study file, open: every command is committed together with the change it makes."""

from __future__ import annotations

import fcntl
import getpass
import os
import sqlite3
import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import msgspec

from scutcher.core.errors import FileError
from scutcher.core.progress import Watch
from scutcher.study.document.state import State
from scutcher.study.storage import links, migrations
from scutcher.study.storage.array_store import ArrayStore
from scutcher.study.storage.file_watch import FileWatch
from scutcher.study.storage.plain_state import state_from_plain, state_to_plain
from scutcher.study.storage.schema import (
    BROKEN,
    DAMAGED,
    FORMAT,
    check_start,
    connect,
    create,
    format_of,
    guard,
    writing,
)
from scutcher.study.storage.seals import broken_seal, last_seal, seal
from scutcher.study.storage.spare import keep_spare
from scutcher.study.storage.thinning import keep_only


class Place(msgspec.Struct, frozen=True):
    """Where a study is in its history: what can be undone, now, what can be redone (revision ids)."""

    undo: tuple[int, ...]
    now: int
    redo: tuple[int, ...]


@dataclass(frozen=True)
class LogEntry:
    """One decision: when, who, what kind, what, why."""

    at: str
    who: str
    kind: str
    what: str
    why: str


class StudyFile:
    """One open study file. Use `StudyFile.create` or `StudyFile.open`; close it in the end.

    Attributes
    ----------
    path : Path
    read_only_reason : str
        Why nothing can be written; "" where it can.
    altered : str
        What was changed by another program than Scutcher since it was written; "" for nothing.
    """

    def __init__(self, path: Path, link: sqlite3.Connection, lock: int | None, reason: str) -> None:
        self.path = path
        self.read_only_reason = reason
        self.altered = ""
        self._link = link
        self._lock = lock
        self._turn = threading.RLock()
        self._watch = FileWatch(path, link, lock)
        self.arrays = ArrayStore(link, path.name, links.values_of)
        self._place = Place((), 0, ())

    # Opening and closing

    @classmethod
    def create(cls, path: Path, state: State) -> StudyFile:
        """Make a new file with a first state.

        Raises
        ------
        FileError
            The file exists already or cannot be written.
        """
        if path.exists():
            raise FileError(f"{path.name} exists already.", "Choose another name; nothing was changed.")
        try:
            with writing(path):
                link = connect(path, read_only=False)
                create(link)
                path.chmod(0o600)
            file = cls(path, link, _locked(path), "")
            file.keep("start", "Start", state)
        except FileError:
            path.unlink(missing_ok=True)
            path.with_name(f"{path.name}-journal").unlink(missing_ok=True)
            raise
        return file

    @classmethod
    def open(cls, path: Path) -> StudyFile:
        """Open a file that exists; read-only where it is open elsewhere or may not be written.

        A file of a former format is brought to the one of now; where it may not be written, a copy in memory.

        Raises
        ------
        FileError
            It is not a study, is damaged, or was written by a newer version.
        """
        check_start(path)
        reason, lock = "", None
        if not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
            reason = f"{path.name} may not be written"
        else:
            lock = _locked(path)
            if lock is None:
                reason = f"{path.name} is open in another window"
        file = cls(path, connect(path, read_only=bool(reason)), lock, reason)
        try:
            file._bring_up_to_date()
            file._watch.remember(file._link)
            file._place = file._read_place()
            file.state(file._place.now)
            file.altered = file._broken_seal()
        except FileError:
            file.close()
            raise
        return file

    def _bring_up_to_date(self) -> None:
        version = format_of(self._link, self.path, migrations.KNOWN)
        if version == FORMAT:
            return
        if self.read_only_reason:
            self._link = _in_memory(self._link)
            self.arrays = ArrayStore(self._link, self.path.name, links.values_of)
        try:
            migrations.migrate(self._link, version)
            self._watch = FileWatch(self.path, self._link, self._lock)
        except migrations.UNREADABLE as error:
            raise FileError(f"{self.path.name} is damaged ({error}).", DAMAGED) from error

    def _broken_seal(self) -> str:
        try:
            return broken_seal(self._link)
        except BROKEN as error:
            raise FileError(f"{self.path.name} is damaged ({error}).", DAMAGED) from error

    def close(self) -> None:
        """Let the file go; what was committed stays."""
        with self._turn:
            self._link.close()
            if self._lock is not None:
                os.close(self._lock)
                self._lock = None

    # Reading

    def state(self, revision: int) -> State:
        """The state of a revision."""
        with self._turn:
            row = self._one("SELECT state FROM revisions WHERE id = ?", (revision,))
            if row is None:
                raise FileError(f"{self.path.name} lacks its revision {revision}.", DAMAGED)
            try:
                plain = msgspec.json.decode(row[0])
            except msgspec.MsgspecError as error:
                raise FileError(
                    f"Revision {revision} of {self.path.name} cannot be read.", DAMAGED
                ) from error
            return state_from_plain(plain, self.arrays.content)

    @property
    def place(self) -> Place:
        """Where the study is in its history."""
        return self._place

    def labels(self) -> dict[int, str]:
        """What the command that made each revision is called."""
        return {int(row[0]): str(row[1]) for row in self._all("SELECT id, label FROM revisions")}

    def log(self) -> list[LogEntry]:
        """Every decision, the first first."""
        rows = self._all("SELECT at, who, kind, what, why FROM log ORDER BY id")
        return [LogEntry(*(str(cell) for cell in row)) for row in rows]

    def log_seal(self) -> str:
        """The seal of the newest decision, onto which all before it are hashed."""
        return last_seal(self._link, "log")

    def snapshots(self) -> dict[str, int]:
        """The revision of each named snapshot, the oldest first."""
        return dict(self._all("SELECT name, revision FROM snapshots ORDER BY at"))

    # Writing

    def keep(self, kind: str, what: str, state: State, why: str = "") -> None:
        """Commit a step: "start" or "do" with a new state, "undo" and "redo" along the history.

        Raises
        ------
        FileError
            It cannot be written; neither the file nor the study has changed.
        """
        if self.read_only_reason:
            raise FileError(
                f"{self.read_only_reason}, so nothing can be changed here.", "Save a copy and go on in that."
            )
        self.check_undisturbed()
        with self._transaction():
            place = self._next_place(kind, what, state)
            self._insert("log", ("at", "who", "kind", "what", "why", "revision"), (
                _now(), who(), kind, what, why, place.now,
            ))  # fmt: skip
            self._put_place(place)

    def check_undisturbed(self, wait: bool = True) -> None:
        """Refuse to go on in a file that is not the one that was opened any more, or that others wrote.

        Parameters
        ----------
        wait : bool
            Whether to wait for whoever reads or writes right now; without, nothing is looked at then.

        Raises
        ------
        FileError
            Nothing of theirs is overwritten; what is here can still be saved as a copy.
        """
        if not self._turn.acquire(blocking=wait):
            return
        try:
            words = "" if self._lock is None else self._watch.trouble(self._link)
        finally:
            self._turn.release()
        if words:
            raise FileError(
                f"{self.path.name} {words} while it was open here.",
                "Save a copy under another name: all that is here goes with it. Nothing was overwritten.",
            )

    def weight(self, state: State) -> int:
        """Bytes of arrays that would have to be written for a state, beside those that are in the file."""
        return self.arrays.unknown(data.table.values for data in state.datasets)

    @property
    def is_linked(self) -> bool:
        """Whether some of the values lie in data files and not here."""
        return self._one("SELECT 1 FROM links", ()) is not None

    def pack(self, watch: Watch | None = None) -> None:
        """Copy all values that lie in data files into this one, from any thread."""
        links.pack(self.arrays, self._transaction, watch)

    def snapshot(self, name: str) -> None:
        """Give the state of now a name that it can be found by."""
        if name in self.snapshots():
            raise FileError(f"There is a snapshot {name!r} already.", "Choose another name.")
        with self._transaction():
            self._link.execute("INSERT INTO snapshots VALUES (?, ?, ?)", (name, _now(), self._place.now))

    def forget_steps(self) -> int:
        """Let the states go that undo, redo and no snapshot leads to any more; how many. The log stays.

        The file is made as small as what is in it.

        Raises
        ------
        FileError
            It cannot be written; nothing has changed.
        """
        if self.read_only_reason:
            raise FileError(f"{self.read_only_reason}, so nothing can be changed here.", "Save a copy first.")
        self.check_undisturbed()
        with self._transaction():
            place = Place((), self._place.now, ())
            gone = keep_only(self._link, {place.now, *self.snapshots().values()})
            self._insert("log", ("at", "who", "kind", "what", "why", "revision"), (
                _now(), who(), "forget", f"Forget {gone} earlier states", "", place.now,
            ))  # fmt: skip
            self._put_place(place)
        with self._turn, writing(self.path):
            self._link.execute("VACUUM")
            self._watch.remember(self._link)
        return gone

    def take_log(self, entries: Sequence[tuple[LogEntry, int]], rescued: str) -> None:
        """Put the log of another file, with the revision of each line here, in place of this one's.

        The last line says that it was rescued, and what is lost.
        """
        names = ("at", "who", "kind", "what", "why", "revision")
        with self._transaction():
            self._link.execute("DELETE FROM log")
            for entry, revision in entries:
                own = (entry.at, entry.who, entry.kind, entry.what, entry.why, revision)
                self._insert("log", names, own)
            self._insert("log", names, (_now(), who(), "rescue", rescued, "", self._place.now))

    def take_snapshots(self, revisions: Mapping[str, int]) -> None:
        """Names by which revisions can be found."""
        with self._transaction():
            for name, revision in revisions.items():
                self._link.execute("INSERT INTO snapshots VALUES (?, ?, ?)", (name, _now(), revision))

    def save_copy(self, path: Path) -> None:
        """Write the whole study to another file, all or nothing."""
        if path.exists() and path.samefile(self.path):
            raise FileError(f"{path.name} is the study itself.", "Choose another name; nothing was changed.")
        beside = path.with_name(f".{path.name}.{os.getpid()}.part")
        try:
            with self._turn, writing(path):
                copy = connect(beside, read_only=False)
                try:
                    self._link.backup(copy)
                finally:
                    copy.close()
                beside.chmod(0o600)
                beside.replace(path)
        finally:
            beside.unlink(missing_ok=True)
            beside.with_name(f"{beside.name}-journal").unlink(missing_ok=True)

    def _next_place(self, kind: str, what: str, state: State) -> Place:
        place = self._place
        if kind == "undo":
            return Place(place.undo[:-1], place.undo[-1], (*place.redo, place.now))
        if kind == "redo":
            return Place((*place.undo, place.now), place.redo[-1], place.redo[:-1])
        plain = state_to_plain(
            state, self.arrays.put_array, self.arrays.put_list, lambda data: links.put(self.arrays, data)
        )
        text = msgspec.json.encode(plain).decode()
        self._read_back(text)
        revision = self._insert("revisions", ("label", "state"), (what, text))
        return Place((*place.undo, place.now) if place.now else (), revision, ())

    def _put_place(self, place: Place) -> None:
        text = msgspec.json.encode(place).decode()
        self._link.execute("INSERT OR REPLACE INTO meta VALUES ('place', ?)", (text,))
        keep_spare(self._link, place.now)
        self._place = place

    def _read_back(self, text: str) -> None:
        """Nothing is committed that could not be opened again as what it is.

        Raises
        ------
        FileError
        """
        state = state_from_plain(msgspec.json.decode(text), self.arrays.content)
        again = state_to_plain(
            state, self.arrays.put_array, self.arrays.put_list, lambda data: links.put(self.arrays, data)
        )
        if msgspec.json.encode(again).decode() != text:
            raise FileError(
                "What was to be stored reads back as something else.",
                "This is a mistake; nothing was changed.",
            )

    def _insert(self, table: str, names: Sequence[str], cells: Sequence[object]) -> int:
        """Add a row that bears the seal of the rows before and its own content."""
        ident = int(self._link.execute(f"SELECT coalesce(max(id), 0) + 1 FROM {table}").fetchone()[0])
        mark = seal(last_seal(self._link, table), (ident, *cells))
        holders = ", ".join("?" * (len(cells) + 2))
        self._link.execute(
            f"INSERT INTO {table} (id, {', '.join(names)}, seal) VALUES ({holders})", (ident, *cells, mark)
        )
        return ident

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        """All or nothing; a failure is one sentence and leaves the file as it was."""
        with self._turn, writing(self.path):
            self._link.execute("BEGIN IMMEDIATE")
            try:
                yield
                self._link.execute("COMMIT")
                self._watch.remember(self._link)
            except BaseException:
                if self._link.in_transaction:
                    self._link.execute("ROLLBACK")
                raise

    def _read_place(self) -> Place:
        row = self._one("SELECT value FROM meta WHERE key = 'place'", ())
        try:
            place = msgspec.json.decode(row[0] if row else "", type=Place)
        except msgspec.MsgspecError as error:
            raise FileError(f"{self.path.name} does not say where its history stands.", DAMAGED) from error
        known = {int(row[0]) for row in self._all("SELECT id FROM revisions")}
        if not {*place.undo, place.now, *place.redo} <= known:
            raise FileError(f"{self.path.name} lacks a revision of its history.", DAMAGED)
        return place

    def _all(self, query: str) -> list[Any]:
        try:
            with self._turn:
                return self._link.execute(query).fetchall()
        except BROKEN as error:
            raise FileError(f"{self.path.name} cannot be read ({error}).", DAMAGED) from error

    def _one(self, query: str, values: tuple[Any, ...]) -> Any:
        try:
            with self._turn:
                return self._link.execute(query, values).fetchone()
        except (*BROKEN, OverflowError) as error:
            raise FileError(f"{self.path.name} cannot be read ({error}).", DAMAGED) from error


def _in_memory(link: sqlite3.Connection) -> sqlite3.Connection:
    """A copy of a whole file that can be changed without touching it."""
    copy = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
    guard(copy)
    link.backup(copy)
    link.close()
    return copy


def _locked(path: Path) -> int | None:
    """Hold the file for this process; None where another process (or window) holds it."""
    handle = os.open(path, os.O_RDONLY)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    return handle


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def who() -> str:
    """Who is at work here, as the system knows them."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return str(os.getuid())
