"""The arrays and lists of a study file: stored once by content, in pieces; large data may be linked."""

from __future__ import annotations

import sqlite3
from collections import OrderedDict
from collections.abc import Callable, Sequence
from typing import Any

import msgspec
import numpy as np

from scutcher.core.errors import FileError
from scutcher.study.storage.pieces import (
    Content,
    KnownArrays,
    Stored,
    array_content,
    content_of,
    list_content,
    marks_of,
)
from scutcher.study.storage.schema import BROKEN, DAMAGED

LISTS = 64
"""Lists that are kept at hand."""


class ArrayStore:
    """Reads and writes inside whatever transaction its owner has begun.

    Parameters
    ----------
    link : open database
    name : what the file is called in messages
    read_link : gives the values that stand in another file, of a hash and what was written about them
    """

    def __init__(
        self, link: sqlite3.Connection, name: str, read_link: Callable[[str, str], np.ndarray]
    ) -> None:
        self.link, self._name, self._read_link = link, name, read_link
        self._known = KnownArrays()
        self._lists: OrderedDict[str, Sequence[str]] = OrderedDict()
        self._list_names: dict[int, str] = {}

    def put_array(self, values: np.ndarray) -> str:
        """Store an array unless it is there already; its hash."""
        known = self._known.hash_of(values)
        if known is not None and self._has(known):
            return known
        content = array_content(values)
        self.put(content)
        self._known.remember(values, content.stored.hash)
        return content.stored.hash

    def put_list(self, texts: Sequence[str]) -> str:
        """Store a list of strings unless it is there already; its hash."""
        known = self._list_names.get(id(texts))
        if known is not None and self._lists.get(known) is texts and self._has(known):
            return known
        content = list_content(texts)
        self.put(content)
        self._keep_list(content.stored.hash, texts)
        return content.stored.hash

    def _keep_list(self, name: str, texts: Sequence[str]) -> None:
        """Long lists of the last states: what is met again is neither written nor read again."""
        self._lists[name] = texts
        self._lists.move_to_end(name)
        self._list_names[id(texts)] = name
        while len(self._lists) > LISTS:
            _, dropped = self._lists.popitem(last=False)
            self._list_names.pop(id(dropped), None)

    def put(self, content: Content, pieces: bool = True) -> None:
        """Store what stands for an array, and its pieces unless they stay elsewhere."""
        stored = content.stored
        for name, part in zip(stored.pieces, content.parts(), strict=True) if pieces else ():
            self.put_piece(name, part)
        self.link.execute(
            "INSERT OR IGNORE INTO arrays VALUES (?, ?)", (stored.hash, msgspec.json.encode(stored).decode())
        )

    def put_piece(self, name: str, data: memoryview) -> None:
        """Store a piece unless it is there already."""
        if self._one("SELECT 1 FROM pieces WHERE hash = ?", name) is None:
            self.link.execute("INSERT INTO pieces VALUES (?, ?)", (name, data))
            self.link.execute("INSERT OR REPLACE INTO grains VALUES (?, ?)", (name, marks_of(data)))

    def remember(self, values: np.ndarray, name: str) -> None:
        """This object has this hash."""
        self._known.remember(values, name)

    def known(self, values: np.ndarray) -> str | None:
        """The hash of an array that is in the file."""
        name = self._known.hash_of(values)
        return name if name is not None and self._has(name) else None

    def content(self, name: str) -> Any:
        """The array or list of a hash.

        Raises
        ------
        FileError
            It is missing or damaged, or the file that it is linked to has moved or changed.
        """
        alive = self._lists.get(name) or self._known.object_of(name)
        if alive is not None:
            return alive
        row = self._one("SELECT stored FROM arrays WHERE hash = ?", name)
        if row is None:
            raise FileError(f"{self._name} lacks an array ({str(name)[:8]}…).", DAMAGED)
        try:
            stored = msgspec.json.decode(row[0], type=Stored)
        except msgspec.MsgspecError as error:
            raise FileError(f"{self._name} does not say what an array is.", DAMAGED) from error
        if stored.hash != name:
            raise FileError(f"An array in {self._name} ({str(name)[:8]}…) is not what it was.", DAMAGED)
        found = self._linked(name) if self._is_away(stored) else content_of(stored, self._piece)
        if isinstance(found, np.ndarray):
            self._known.remember(found, name)
        else:
            self._keep_list(name, found)
        return found

    def _is_away(self, stored: Stored) -> bool:
        return (
            bool(stored.pieces) and self._one("SELECT 1 FROM links WHERE hash = ?", stored.hash) is not None
        )

    def _linked(self, name: str) -> np.ndarray:
        row = self._one("SELECT source FROM links WHERE hash = ?", name)
        return self._read_link(name, str(row[0]))

    def _piece(self, name: str) -> bytes | None:
        row = self._one("SELECT data FROM pieces WHERE hash = ?", name)
        return None if row is None else bytes(row[0])

    def _has(self, name: str) -> bool:
        return self._one("SELECT 1 FROM arrays WHERE hash = ?", name) is not None

    def _one(self, query: str, name: str) -> Any:
        try:
            return self.link.execute(query, (name,)).fetchone()
        except BROKEN as error:
            raise FileError(f"{self._name} cannot be read ({error}).", DAMAGED) from error
