"""Seals of revisions and log: each is hashed onto the one before, so that an edit from outside is seen."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterable

START = "0" * 32
"""The seal before the first."""

REVISIONS = "SELECT id, label, state, seal FROM revisions ORDER BY id"
LOG = "SELECT id, at, who, kind, what, why, revision, seal FROM log ORDER BY id"


def seal(before: str, cells: Iterable[object]) -> str:
    """The seal of a row after another one: BLAKE2b (16 bytes, hex) of that seal and the row's cells."""
    parts = [before.encode()]
    for cell in cells:
        text = str(cell).encode()
        parts += (len(text).to_bytes(8, "big"), text)
    return hashlib.blake2b(b"".join(parts), digest_size=16).hexdigest()


def broken_seal(link: sqlite3.Connection) -> str:
    """What does not bear the right seal: `revision 12`, `line 7 of the log`; "" where all do."""
    for words, query in (("revision {}", REVISIONS), ("line {} of the log", LOG)):
        before = START
        for row in link.execute(query):
            before = seal(before, row[:-1])
            if before != row[-1]:
                return words.format(row[0])
    return ""


def last_seal(link: sqlite3.Connection, table: str) -> str:
    """The seal of the newest row."""
    queries = {
        "revisions": "SELECT seal FROM revisions ORDER BY id DESC LIMIT 1",
        "log": "SELECT seal FROM log ORDER BY id DESC LIMIT 1",
    }
    row = link.execute(queries[table]).fetchone()
    return str(row[0]) if row else START
