"""Former formats of the study file, and the way from each to the next: one small file a step."""

from __future__ import annotations

import sqlite3

import msgspec

from scutcher.study.storage.migrations import format_1, format_2
from scutcher.study.storage.schema import BROKEN, FORMAT, TABLES

STEPS = {1: format_1.migrate, 2: format_2.migrate}
"""From a format to the next."""

KNOWN = {1: format_1.TABLES, 2: format_2.TABLES, FORMAT: TABLES}
"""The tables of every format that can be read."""


UNREADABLE = (*BROKEN, KeyError, TypeError, ValueError, AttributeError, IndexError, msgspec.MsgspecError)
"""What a damaged file of a former format can raise."""


def migrate(link: sqlite3.Connection, version: int, skip: tuple[type[Exception], ...] = ()) -> None:
    """Bring an open file to the format of now, in one transaction.

    Parameters
    ----------
    skip : errors
        Revisions and arrays that raise one of these are passed over, for a rescue.
    """
    if version == FORMAT:
        return
    link.execute("BEGIN IMMEDIATE")
    try:
        while version != FORMAT:
            STEPS[version](link, skip)
            version += 1
        link.execute("UPDATE meta SET value = ? WHERE key = 'format'", (str(FORMAT),))
        link.execute("COMMIT")
    except BaseException:
        link.execute("ROLLBACK")
        raise
