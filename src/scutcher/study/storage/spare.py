"""The state of now a second time, under a hash of its own: what a rescue falls back on."""

from __future__ import annotations

import hashlib
import sqlite3

import msgspec

from scutcher.study.storage.schema import BROKEN

LENGTH = 32
"""Letters of the hash that the text begins with."""


class Spare(msgspec.Struct, frozen=True):
    """A revision, what the command that made it is called, and its state as text."""

    revision: int
    label: str
    state: str


def keep_spare(link: sqlite3.Connection, revision: int) -> None:
    """Copy a revision to another place of the file, within a transaction."""
    label, state = link.execute("SELECT label, state FROM revisions WHERE id = ?", (revision,)).fetchone()
    text = msgspec.json.encode(Spare(revision, label, state)).decode()
    link.execute("INSERT OR REPLACE INTO meta VALUES ('spare', ?)", (_hash(text) + text,))


def find_spare(link: sqlite3.Connection) -> Spare | None:
    """The copy, where there is one and it is sound."""
    try:
        row = link.execute("SELECT value FROM meta WHERE key = 'spare'").fetchone()
        kept = str(row[0]) if row else ""
        if kept[:LENGTH] == _hash(kept[LENGTH:]):
            return msgspec.json.decode(kept[LENGTH:], type=Spare)
    except (*BROKEN, msgspec.MsgspecError):
        pass
    return None


def _hash(text: str) -> str:
    return hashlib.blake2b(text.encode(errors="replace"), digest_size=LENGTH // 2).hexdigest()
