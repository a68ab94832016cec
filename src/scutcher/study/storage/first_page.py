"""The first page of a study file, which says where its tables begin: made anew where it is damaged.

All tables of a study are created with it, in one order, so that they begin at the same pages in every study
of a format: the first page of an empty one fits. (SQLite's own compacting creates them in that order again.)
"""

from __future__ import annotations

import sqlite3
from pathlib import Path

from scutcher.study.storage.schema import TABLES, guard

SIZE, CHANGES, COUNT = slice(16, 18), slice(24, 28), slice(28, 32)
FREE, VALID_FOR = slice(32, 40), slice(92, 96)
"""Where the first page tells the size and number of pages, those that are free, and who counted them."""

LEAST = 512
"""Bytes of a page at least."""


def with_first_page_anew(path: Path) -> sqlite3.Connection | None:
    """A damaged file as a database in memory, with the first page of an empty study; the file is only read.

    None where that is no help.
    """
    content = path.read_bytes()
    for size in _sizes(content):
        link = _with_page(content, _empty(size))
        if link is not None:
            return link
    return None


def _sizes(content: bytes) -> list[int]:
    """The size of a page that the file tells, where it can be, and then the usual one."""
    told = int.from_bytes(content[SIZE], "big")
    able = (size for size in dict.fromkeys((told, 4096)) if LEAST <= size <= len(content))
    return [size for size in able if size & (size - 1) == 0]


def _empty(size: int) -> bytes:
    """The first page of an empty study with pages of a size."""
    link = sqlite3.connect(":memory:", isolation_level=None)
    try:
        link.execute(f"PRAGMA page_size={size}")
        for statement in TABLES.values():
            link.execute(statement)
        return bytes(link.serialize()[:size])
    finally:
        link.close()


def _with_page(content: bytes, first: bytes) -> sqlite3.Connection | None:
    page = bytearray(first)
    pages = -(-len(content) // len(page))
    page[COUNT], page[FREE] = pages.to_bytes(4, "big"), bytes(8)
    page[VALID_FOR] = page[CHANGES]
    link = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
    try:
        link.deserialize(bytes(page) + content[len(page) :].ljust((pages - 1) * len(page), b"\0"))
        guard(link)
        if link.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]:
            return link
    except sqlite3.Error:
        pass
    link.close()
    return None
