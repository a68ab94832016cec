"""The tables of a study file, and what is checked before anything in one is believed."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from scutcher.core.errors import FileError
from scutcher.files.safely import reading

FORMAT = 1
APPLICATION_ID = 0x53435554  # "SCUT"
MAGIC = b"SQLite format 3\0"

TABLES = {
    "meta": "CREATE TABLE meta (key TEXT PRIMARY KEY, value TEXT NOT NULL)",
    "blobs": "CREATE TABLE blobs (hash TEXT PRIMARY KEY, kind TEXT NOT NULL, shape TEXT NOT NULL, "
    "data BLOB NOT NULL)",
    "revisions": "CREATE TABLE revisions (id INTEGER PRIMARY KEY, label TEXT NOT NULL, state TEXT NOT NULL)",
    "log": "CREATE TABLE log (id INTEGER PRIMARY KEY, at TEXT NOT NULL, who TEXT NOT NULL, "
    "kind TEXT NOT NULL, what TEXT NOT NULL, why TEXT NOT NULL, revision INTEGER NOT NULL)",
    "snapshots": "CREATE TABLE snapshots (name TEXT PRIMARY KEY, at TEXT NOT NULL, "
    "revision INTEGER NOT NULL)",
}

BROKEN = (sqlite3.Error, UnicodeDecodeError)
"""What reading a damaged file can raise."""

DAMAGED = "Rescue what is sound into a copy; the file itself is left as it is."


def connect(path: Path, read_only: bool) -> sqlite3.Connection:
    """Open SQLite so that nothing in the file can act: no extension, no trusted schema."""
    mode = "ro" if read_only else "rwc"
    link = sqlite3.connect(
        f"{path.absolute().as_uri()}?mode={mode}", uri=True, isolation_level=None, timeout=2.0,
        check_same_thread=False,
    )  # fmt: skip
    for pragma in ("trusted_schema=OFF", "cell_size_check=ON", "mmap_size=0", "foreign_keys=OFF"):
        link.execute(f"PRAGMA {pragma}")
    return link


def create(link: sqlite3.Connection) -> None:
    """Make the tables of a new file, all or none."""
    link.execute("PRAGMA synchronous=FULL")
    link.execute("BEGIN IMMEDIATE")
    for statement in TABLES.values():
        link.execute(statement)
    link.execute("INSERT INTO meta VALUES ('format', ?)", (str(FORMAT),))
    link.execute(f"PRAGMA application_id={APPLICATION_ID}")
    link.execute("COMMIT")


def check_start(path: Path) -> None:
    """Look at the first bytes: is it a study file at all?

    Raises
    ------
    FileError
    """
    with reading(path), path.open("rb") as stream:
        start = stream.read(100)
    if not start.startswith(MAGIC):
        raise FileError(f"{path.name} is not a study file.", "Choose a file that Scutcher has written.")
    if len(start) < 100:
        raise FileError(f"{path.name} is cut off in its first bytes.", DAMAGED)
    if int.from_bytes(start[68:72], "big") != APPLICATION_ID:
        raise FileError(f"{path.name} is a database, but not a study.", "Choose a file ending in .scutch.")


def _check_whole(link: sqlite3.Connection, path: Path) -> None:
    """Refuse a file that is shorter than it says; only under a read lock, when a commit that was
    interrupted has been taken back: before that the first page may already count pages to come.

    The file is not opened here: closing it again would drop this process's lock on it.
    """
    pages, size = (int(link.execute(f"PRAGMA {what}").fetchone()[0]) for what in ("page_count", "page_size"))
    if path.stat().st_size < pages * size:
        raise FileError(f"{path.name} is cut off: it should have {pages * size} bytes.", DAMAGED)


def check_schema(link: sqlite3.Connection, path: Path) -> None:
    """Refuse a newer format, other tables than ours, triggers and views, and broken pages.

    Raises
    ------
    FileError
    """
    name = path.name
    try:
        link.execute("BEGIN")
        link.execute("SELECT count(*) FROM sqlite_master").fetchone()  # takes the lock, and recovers
    except BROKEN as error:
        raise FileError(f"{name} is damaged ({error}).", DAMAGED) from error
    try:
        _check_tables(link, name)
        _check_whole(link, path)
    except BROKEN as error:
        raise FileError(f"{name} is damaged ({error}).", DAMAGED) from error
    finally:
        link.execute("ROLLBACK")


def _check_tables(link: sqlite3.Connection, name: str) -> None:
    try:
        found = dict(link.execute("SELECT name, sql FROM sqlite_master WHERE sql IS NOT NULL").fetchall())
        version = link.execute("SELECT value FROM meta WHERE key = 'format'").fetchone()
        if version is None or not str(version[0]).isdigit():
            raise FileError(f"{name} does not say which format it has.", DAMAGED)
        if int(version[0]) > FORMAT:
            raise FileError(
                f"{name} was written by a newer Scutcher (format {version[0]}, this one knows {FORMAT}).",
                "Open it with that version; nothing was changed.",
            )
        if found != TABLES:
            strange = sorted(set(found.items()) ^ set(TABLES.items()))[0][0]
            raise FileError(f"{name} does not have the tables of a study ({strange}).", DAMAGED)
        broken = link.execute("PRAGMA quick_check(1)").fetchone()
    except BROKEN as error:
        raise FileError(f"{name} is damaged ({error}).", DAMAGED) from error
    if broken is None or broken[0] != "ok":
        raise FileError(f"{name} is damaged ({str(broken[0] if broken else '')[:80]}).", DAMAGED)
