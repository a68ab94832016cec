"""A study file without most of its history: states that nobody wants back go, the log of decisions stays."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection

import msgspec

from scutcher.study.storage.pieces import Stored
from scutcher.study.storage.seals import START, seal


def keep_only(link: sqlite3.Connection, kept: Collection[int]) -> int:
    """Let all revisions go but some, inside a transaction; what they alone refer to goes with them.

    The seals of those that stay are made anew, each onto the one before.

    Returns
    -------
    int
        How many went.
    """
    rows = link.execute("SELECT id, label, state FROM revisions ORDER BY id").fetchall()
    staying = [row for row in rows if row[0] in set(kept)]
    link.execute("DELETE FROM revisions")
    before = START
    for row in staying:
        before = seal(before, row)
        link.execute("INSERT INTO revisions (id, label, state, seal) VALUES (?, ?, ?, ?)", (*row, before))
    _drop_unused(link, [str(row[2]) for row in staying])
    return len(rows) - len(staying)


def _drop_unused(link: sqlite3.Connection, states: list[str]) -> None:
    """Arrays, pieces and links that no state refers to."""
    words: set[str] = set()
    for text in states:
        words |= _texts_in(msgspec.json.decode(text))
    stored = link.execute("SELECT hash, stored FROM arrays").fetchall()
    gone = [name for name, _ in stored if name not in words]
    pieces = {
        piece
        for name, text in stored
        if name in words
        for piece in msgspec.json.decode(text, type=Stored).pieces
    }
    link.executemany("DELETE FROM arrays WHERE hash = ?", [(name,) for name in gone])
    link.executemany("DELETE FROM links WHERE hash = ?", [(name,) for name in gone])
    for table in ("pieces", "grains"):
        names = [name for (name,) in link.execute(f"SELECT hash FROM {table}") if name not in pieces]
        link.executemany(f"DELETE FROM {table} WHERE hash = ?", [(name,) for name in names])


def _texts_in(plain: object) -> set[str]:
    """All texts of plain data, among which are the hashes that it refers to."""
    if isinstance(plain, str):
        return {plain}
    parts = plain.values() if isinstance(plain, dict) else plain if isinstance(plain, list) else ()
    return set().union(*map(_texts_in, parts))
