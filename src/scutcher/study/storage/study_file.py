"""The study file, open: every command is committed together with the change it makes."""

from __future__ import annotations

import os
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import msgspec

from scutcher.core.errors import FileError
from scutcher.core.progress import Watch
from scutcher.study.document.state import State
from scutcher.study.storage import links, migrations
from scutcher.study.storage.array_store import ArrayStore
from scutcher.study.storage.file_watch import FileWatch, locked
from scutcher.study.storage.history import History
from scutcher.study.storage.plain_state import state_from_plain, state_to_plain
from scutcher.study.storage.schema import (
    DAMAGED,
    FORMAT,
    check_start,
    connect,
    create,
    format_of,
    in_memory,
    writing,
)


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
        self._lock = lock
        self._turn = threading.RLock()
        self._use(link)

    def _use(self, link: sqlite3.Connection) -> None:
        self._link = link
        self._watch = FileWatch(self.path, link, self._lock)
        self.arrays = ArrayStore(link, self.path.name, links.values_of)
        self.history = History(link, self.path.name, self._turn)

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
            file = cls(path, link, locked(path), "")
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
            lock = locked(path)
            if lock is None:
                reason = f"{path.name} is open in another window"
        file = cls(path, connect(path, read_only=bool(reason)), lock, reason)
        try:
            file._bring_up_to_date()
            file._watch.remember(file._link)
            file.history.look()
            file.state(file.history.place.now)
            file.altered = file.history.check()
        except FileError:
            file.close()
            raise
        return file

    def _bring_up_to_date(self) -> None:
        version = format_of(self._link, self.path, migrations.KNOWN)
        if version == FORMAT:
            return
        if self.read_only_reason:
            self._use(in_memory(self._link))
        try:
            migrations.migrate(self._link, version)
        except migrations.UNREADABLE as error:
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
            text = self.history.text_of(revision)
            try:
                plain = msgspec.json.decode(text)
            except msgspec.MsgspecError as error:
                raise FileError(
                    f"Revision {revision} of {self.path.name} cannot be read.", DAMAGED
                ) from error
            return state_from_plain(plain, self.arrays.content)

    # Writing

    def keep(self, kind: str, what: str, state: State, why: str = "") -> None:
        """Commit a step: "start" or "do" with a new state, "undo" and "redo" along the history.

        Raises
        ------
        FileError
            It cannot be written; neither the file nor the study has changed.
        """
        self.check_writable()
        self.check_undisturbed()
        with self.transaction():
            was = self.history.place
            place = was.after(kind) or was.with_new(self._new(what, state))
            self.history.stand(place, kind, what, why)

    def check_writable(self) -> None:
        """Refuse where nothing can be written.

        Raises
        ------
        FileError
        """
        if self.read_only_reason:
            raise FileError(
                f"{self.read_only_reason}, so nothing can be changed here.", "Save a copy and go on in that."
            )

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

    def pack(self, watch: Watch | None = None) -> None:
        """Copy all values that lie in data files into this one, from any thread."""
        links.pack(self.arrays, self.transaction, watch)

    def snapshot(self, name: str) -> None:
        """Give the state of now a name that it can be found by."""
        if name in self.history.snapshots:
            raise FileError(f"There is a snapshot {name!r} already.", "Choose another name.")
        with self.transaction():
            self.history.name_revisions({name: self.history.place.now})

    def forget_steps(self) -> int:
        """Let the states go that undo, redo and no snapshot leads to any more; how many. The log stays.

        The file is made as small as what is in it.

        Raises
        ------
        FileError
            It cannot be written; nothing has changed.
        """
        self.check_writable()
        self.check_undisturbed()
        with self.transaction():
            gone = self.history.forget_steps()
        with self._turn, writing(self.path):
            self._link.execute("VACUUM")
            self._watch.remember(self._link)
        return gone

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

    def _new(self, what: str, state: State) -> int:
        return self.history.add_revision(what, self._read_back(self._text_of(state)))

    def _text_of(self, state: State) -> str:
        """A state as it is written; its arrays are stored."""
        plain = state_to_plain(
            state, self.arrays.put_array, self.arrays.put_list, lambda data: links.put(self.arrays, data)
        )
        return msgspec.json.encode(plain).decode()

    def _read_back(self, text: str) -> str:
        """Nothing is committed that could not be opened again as what it is.

        Raises
        ------
        FileError
        """
        if self._text_of(state_from_plain(msgspec.json.decode(text), self.arrays.content)) != text:
            raise FileError(
                "What was to be stored reads back as something else.",
                "This is a mistake; nothing was changed.",
            )
        return text

    @contextmanager
    def transaction(self) -> Iterator[None]:
        """All or nothing; a failure is one sentence and leaves the file as it was.

        Raises
        ------
        FileError
        """
        with self._turn, writing(self.path):
            self._link.execute("BEGIN IMMEDIATE")
            try:
                yield
                self._link.execute("COMMIT")
                self._watch.remember(self._link)
                self.history.look()
            except BaseException:
                if self._link.in_transaction:
                    self._link.execute("ROLLBACK")
                raise
