"""Keeps a study in its file: every command is committed together with the change it makes."""

from __future__ import annotations

import fcntl
import getpass
import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from scutcher.core.errors import FileError
from scutcher.study.document.state import State
from scutcher.study.storage.plain_state import state_from_plain, state_to_plain
from scutcher.study.storage.schema import BROKEN, DAMAGED, check_schema, check_start, connect, create
from scutcher.study.storage.stored_arrays import Blob, KnownArrays, array_blob, check_size, content, list_blob


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


class Keeper:
    """One open study file. Use `Keeper.create` or `Keeper.open`; close it in the end."""

    def __init__(self, path: Path, link: sqlite3.Connection, lock: int | None, reason: str) -> None:
        self.path = path
        self.read_only_reason = reason
        self._link = link
        self._lock = lock
        self._known = KnownArrays()
        self._place = Place((), 0, ())

    # Opening and closing

    @classmethod
    def create(cls, path: Path, state: State) -> Keeper:
        """Make a new file with a first state.

        Raises
        ------
        FileError
            The file exists already or cannot be written.
        """
        if path.exists():
            raise FileError(f"{path.name} exists already.", "Choose another name; nothing was changed.")
        with _writing(path):
            link = connect(path, read_only=False)
            create(link)
        keeper = cls(path, link, _locked(path), "")
        keeper.keep("start", "Start", state)
        return keeper

    @classmethod
    def open(cls, path: Path) -> Keeper:
        """Open a file that exists; read-only where it is open elsewhere or may not be written.

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
        link = connect(path, read_only=bool(reason))
        keeper = cls(path, link, lock, reason)
        try:
            check_schema(link, path)
            keeper._place = keeper._read_place()
            keeper.state(keeper._place.now)
        except FileError:
            keeper.close()
            raise
        return keeper

    def close(self) -> None:
        """Let the file go; what was committed stays."""
        self._link.close()
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    # Reading

    def state(self, revision: int) -> State:
        """The state of a revision."""
        row = self._one("SELECT state FROM revisions WHERE id = ?", (revision,))
        if row is None:
            raise FileError(f"{self.path.name} lacks its revision {revision}.", DAMAGED)
        try:
            plain = msgspec.json.decode(row[0])
        except msgspec.MsgspecError as error:
            raise FileError(f"Revision {revision} of {self.path.name} cannot be read.", DAMAGED) from error
        return state_from_plain(plain, self._content)

    @property
    def place(self) -> Place:
        """Where the study is in its history."""
        return self._place

    def label(self, revision: int) -> str:
        """What the command that made a revision is called."""
        row = self._one("SELECT label FROM revisions WHERE id = ?", (revision,))
        return "" if row is None else str(row[0])

    def log(self) -> list[LogEntry]:
        """Every decision, the first first."""
        rows = self._all("SELECT at, who, kind, what, why FROM log ORDER BY id")
        return [LogEntry(*(str(cell) for cell in row)) for row in rows]

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
        with self._transaction():
            place = self._next_place(kind, what, state)
            self._link.execute(
                "INSERT INTO log (at, who, kind, what, why, revision) VALUES (?, ?, ?, ?, ?, ?)",
                (_now(), _who(), kind, what, why, place.now),
            )
            self._link.execute(
                "INSERT OR REPLACE INTO meta VALUES ('place', ?)", (msgspec.json.encode(place).decode(),)
            )
        self._place = place

    def snapshot(self, name: str) -> None:
        """Give the state of now a name that it can be found by."""
        if name in self.snapshots():
            raise FileError(f"There is a snapshot {name!r} already.", "Choose another name.")
        with self._transaction():
            self._link.execute("INSERT INTO snapshots VALUES (?, ?, ?)", (name, _now(), self._place.now))

    def save_copy(self, path: Path) -> None:
        """Write the whole study to another file, all or nothing."""
        if path.exists() and path.samefile(self.path):
            raise FileError(f"{path.name} is the study itself.", "Choose another name; nothing was changed.")
        beside = path.with_name(f".{path.name}.{os.getpid()}.part")
        try:
            with _writing(path):
                copy = connect(beside, read_only=False)
                try:
                    self._link.backup(copy)
                finally:
                    copy.close()
                beside.replace(path)
        finally:
            beside.unlink(missing_ok=True)

    def _next_place(self, kind: str, what: str, state: State) -> Place:
        place = self._place
        if kind == "undo":
            return Place(place.undo[:-1], place.undo[-1], (*place.redo, place.now))
        if kind == "redo":
            return Place((*place.undo, place.now), place.redo[-1], place.redo[:-1])
        plain = state_to_plain(state, self._put_array, self._put_list)
        cursor = self._link.execute(
            "INSERT INTO revisions (label, state) VALUES (?, ?)", (what, msgspec.json.encode(plain).decode())
        )
        revision = int(cursor.lastrowid or 0)
        return Place((*place.undo, place.now) if place.now else (), revision, ())

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        """All or nothing; a failure is one sentence and leaves the file as it was."""
        with _writing(self.path):
            self._link.execute("BEGIN IMMEDIATE")
            try:
                yield
                self._link.execute("COMMIT")
            except BaseException:
                if self._link.in_transaction:
                    self._link.execute("ROLLBACK")
                raise

    def _put_array(self, values: np.ndarray) -> str:
        known = self._known.hash_of(values)
        if known is not None and self._has(known):
            return known
        blob = array_blob(values)
        self._put(blob)
        self._known.remember(values, blob.hash)
        return blob.hash

    def _put_list(self, texts: tuple[str, ...]) -> str:
        blob = list_blob(texts)
        self._put(blob)
        return blob.hash

    def _put(self, blob: Blob) -> None:
        self._link.execute(
            "INSERT OR IGNORE INTO blobs VALUES (?, ?, ?, ?)",
            (blob.hash, blob.kind, msgspec.json.encode(blob.shape).decode(), blob.data),
        )

    def _has(self, name: str) -> bool:
        return self._one("SELECT 1 FROM blobs WHERE hash = ?", (name,)) is not None

    def _content(self, name: str) -> Any:
        alive = self._known.object_of(name)
        if alive is not None:
            return alive
        row = self._one("SELECT kind, shape, length(data) FROM blobs WHERE hash = ?", (name,))
        if row is None:
            raise FileError(f"{self.path.name} lacks an array ({str(name)[:8]}…).", DAMAGED)
        kind, shape = str(row[0]), msgspec.json.decode(row[1], type=tuple[int, ...])
        check_size(kind, shape, int(row[2]))
        data = self._one("SELECT data FROM blobs WHERE hash = ?", (name,))
        found = content(Blob(str(name), kind, shape, bytes(data[0]) if data else b""))
        if isinstance(found, np.ndarray):
            self._known.remember(found, str(name))
        return found

    def _read_place(self) -> Place:
        row = self._one("SELECT value FROM meta WHERE key = 'place'", ())
        try:
            return msgspec.json.decode(row[0] if row else "", type=Place)
        except msgspec.MsgspecError as error:
            raise FileError(f"{self.path.name} does not say where its history stands.", DAMAGED) from error

    def _all(self, query: str) -> list[Any]:
        try:
            return self._link.execute(query).fetchall()
        except BROKEN as error:
            raise FileError(f"{self.path.name} cannot be read ({error}).", DAMAGED) from error

    def _one(self, query: str, values: tuple[Any, ...]) -> Any:
        try:
            return self._link.execute(query, values).fetchone()
        except BROKEN as error:
            raise FileError(f"{self.path.name} cannot be read ({error}).", DAMAGED) from error


@contextmanager
def _writing(path: Path) -> Iterator[None]:
    """Turn what the database and the system say into a sentence."""
    try:
        yield
    except sqlite3.OperationalError as error:
        words = str(error)
        if "full" in words:
            raise FileError(
                f"The disk is full: {path.name} could not be written.", "Make room; nothing was changed."
            ) from error
        raise FileError(
            f"{path.name} cannot be written ({words}).", "Save a copy elsewhere; nothing was changed."
        ) from error
    except (sqlite3.Error, OSError) as error:
        raise FileError(
            f"{path.name} cannot be written ({error}).", "Save a copy elsewhere; nothing was changed."
        ) from error


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


def _who() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return str(os.getuid())
