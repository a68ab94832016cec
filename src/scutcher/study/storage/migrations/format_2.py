"""From format 2 to 3: every piece of an array gets the marks of its grains, by which damage is located."""

from __future__ import annotations

import sqlite3
from contextlib import suppress

from scutcher.study.storage.pieces import digest, marks_of
from scutcher.study.storage.schema import TABLES as NOW

TABLES = {name: statement for name, statement in NOW.items() if name != "grains"}


def migrate(link: sqlite3.Connection, skip: tuple[type[Exception], ...] = ()) -> None:
    """Bring an open file of format 2 to format 3; runs inside a transaction.

    A piece that is not what its hash says gets no marks: nobody knows which of its grains are sound.
    """
    link.execute(NOW["grains"])
    names = [str(row[0]) for row in link.execute("SELECT hash FROM pieces").fetchall()]
    for name in names:
        with suppress(*skip):
            data = bytes(link.execute("SELECT data FROM pieces WHERE hash = ?", (name,)).fetchone()[0])
            if digest(data) == name:
                link.execute("INSERT INTO grains VALUES (?, ?)", (name, marks_of(data)))
