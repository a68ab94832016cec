"""Arrays and lists of a damaged file as far as they are sound: grain by grain, with what is lost marked."""

from __future__ import annotations

import sqlite3
from typing import Any

import msgspec
import numpy as np

from scutcher.core.errors import FileError
from scutcher.study.storage.pieces import (
    GRAIN,
    MARK,
    NUMBERS,
    PIECE,
    TEXTS,
    Stored,
    check_size,
    digest,
    marks_of,
)
from scutcher.study.storage.schema import BROKEN

NOTHING = "Nothing is known of an array."


class Salvage:
    """Reads what can be read.

    Attributes
    ----------
    lost : dict of name → bool array
        Of every array that is not whole, which of its values are lost; of a list, one value: all of it.
    """

    def __init__(self, link: sqlite3.Connection) -> None:
        self._link = link
        self.lost: dict[str, np.ndarray] = {}
        self._known: dict[str, Any] = {}
        self._by_content: dict[str, int] | None = None

    def is_whole(self, name: str) -> bool:
        """Whether an array or list is as it was written."""
        try:
            self.content(name)
        except FileError:
            return False
        return name not in self.lost

    def content(self, name: str) -> Any:
        """The array, NaN where it is lost; or the list, empty where it is.

        Raises
        ------
        FileError
            Nothing is known of it, not even its shape, or it lies in another file.
        """
        if name not in self._known:
            self._known[name] = self._read(name)
        return self._known[name]

    def put(self, name: str, content: Any) -> str:
        """Something in place of what is lost, under a name of its own."""
        self._known[name] = content
        return name

    def _read(self, name: str) -> Any:
        stored = self._stored(name)
        check_size(stored)
        parts = [self._part(piece) for piece in stored.pieces]
        if stored.kind == TEXTS:
            whole = b"".join(data or b"" for data, _ in parts)
            if all(sound is None for _, sound in parts):
                return msgspec.json.decode(whole, type=tuple[str, ...])
            self.lost[name] = np.ones(1, dtype=bool)
            return ()
        count = int(np.prod(stored.shape))
        values, lost = np.full(count, np.nan), np.zeros(count, dtype=bool)
        every, at = PIECE // NUMBERS[stored.kind], 0
        for data, sound in parts:
            size = min(every, count - at)
            own = _numbers(data, stored.kind, size)
            gone = np.ones(size, dtype=bool) if own is None else _gone(sound, stored.kind, size)
            if own is not None:
                values[at : at + size] = np.where(gone, np.nan, own)
            lost[at : at + size] = gone
            at += size
        if lost.any():
            self.lost[name] = lost.reshape(stored.shape)
        values.flags.writeable = False
        return values.reshape(stored.shape)

    def _stored(self, name: str) -> Stored:
        row = self._one("SELECT stored FROM arrays WHERE hash = ?", name)
        try:
            stored = msgspec.json.decode(row[0] if row else b"", type=Stored)
        except (msgspec.MsgspecError, TypeError) as error:
            raise FileError(NOTHING, "") from error
        if stored.hash != name or self._one("SELECT 1 FROM links WHERE hash = ?", name) is not None:
            raise FileError(NOTHING, "")
        return stored

    def _part(self, name: str) -> tuple[bytes | None, np.ndarray | None]:
        """A piece, and which of its grains are sound; None for all of them."""
        row = self._one("SELECT data FROM pieces WHERE hash = ?", name)
        data = None if row is None else bytes(row[0])
        if data is not None and digest(data) == name:
            return data, None
        found = self._elsewhere(name)
        if found is not None:
            return found, None
        marks = self._one("SELECT marks FROM grains WHERE hash = ?", name)
        if data is None or marks is None:
            return None, np.zeros(0, dtype=bool)
        return data, _sound_grains(data, bytes(marks[0]))

    def _elsewhere(self, name: str) -> bytes | None:
        """A sound piece whose name in the file is damaged, found by its content."""
        if self._by_content is None:
            self._by_content = {}
            for row in self._rows("SELECT rowid FROM pieces"):
                data = self._one("SELECT data FROM pieces WHERE rowid = ?", row[0])
                if data is not None:
                    self._by_content[digest(bytes(data[0]))] = int(row[0])
        place = self._by_content.get(name)
        row = None if place is None else self._one("SELECT data FROM pieces WHERE rowid = ?", place)
        return None if row is None else bytes(row[0])

    def _rows(self, query: str) -> list[Any]:
        try:
            return self._link.execute(query).fetchall()
        except BROKEN:
            return []

    def _one(self, query: str, value: str | int) -> Any:
        """By the index, or where that is broken by going through the table."""
        for way in ("", " NOT INDEXED"):
            try:
                return self._link.execute(query.replace(" WHERE", f"{way} WHERE"), (value,)).fetchone()
            except BROKEN:
                continue
        return None


def _numbers(data: bytes | None, kind: str, count: int) -> np.ndarray | None:
    """The numbers of a piece; None where it is not there or has another length."""
    if data is None or len(data) != count * NUMBERS[kind]:
        return None
    found: np.ndarray = np.frombuffer(data, dtype=kind).astype(np.float64)
    return found


def _sound_grains(data: bytes, marks: bytes) -> np.ndarray:
    now = marks_of(data)
    count = -(-len(data) // GRAIN)
    if len(marks) != len(now):
        return np.zeros(count, dtype=bool)
    pairs = np.frombuffer(now, np.uint8).reshape(-1, MARK) == np.frombuffer(marks, np.uint8).reshape(-1, MARK)
    found: np.ndarray = pairs.all(axis=1)
    return found


def _gone(sound: np.ndarray | None, kind: str, count: int) -> np.ndarray:
    """Which numbers of a piece lie in grains that are not sound, (count,)."""
    if sound is None:
        return np.zeros(count, dtype=bool)
    grains = np.arange(count) * NUMBERS[kind] // GRAIN
    gone: np.ndarray = (
        ~sound[np.minimum(grains, len(sound) - 1)] if len(sound) else np.ones(count, dtype=bool)
    )
    return gone
