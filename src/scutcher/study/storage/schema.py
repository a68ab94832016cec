"""The tables of a study file, and what is checked before anything in one is believed."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from scutcher.core.errors import FileError
from scutcher.files.safely import reading

FORMAT = 3
APPLICATION_ID = 0x53435554  # "SCUT"
MAGIC = b"SQLite format 3\0"

TABLES = {
    "meta": "CREATE TABLE meta (key TEXT PRIMARY KEY, value TEXT NOT NULL)",
    "arrays": "CREATE TABLE arrays (hash TEXT PRIMARY KEY, stored TEXT NOT NULL)",
    "pieces": "CREATE TABLE pieces (hash TEXT PRIMARY KEY, data BLOB NOT NULL)",
    "grains": "CREATE TABLE grains (hash TEXT PRIMARY KEY, marks BLOB NOT NULL)",
    "links": "CREATE TABLE links (hash TEXT PRIMARY KEY, source TEXT NOT NULL)",
    "revisions": "CREATE TABLE revisions (id INTEGER PRIMARY KEY, label TEXT NOT NULL, state TEXT NOT NULL, "
    "seal TEXT NOT NULL)",
    "log": "CREATE TABLE log (id INTEGER PRIMARY KEY, at TEXT NOT NULL, who TEXT NOT NULL, "
    "kind TEXT NOT NULL, what TEXT NOT NULL, why TEXT NOT NULL, revision INTEGER NOT NULL, "
    "seal TEXT NOT NULL)",
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
    guard(link)
    return link


def guard(link: sqlite3.Connection) -> None:
    """Settings under which nothing in a file can act."""
    for pragma in ("trusted_schema=OFF", "cell_size_check=ON", "mmap_size=0", "foreign_keys=OFF"):
        link.execute(f"PRAGMA {pragma}")


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


def format_of(link: sqlite3.Connection, path: Path, known: dict[int, dict[str, str]]) -> int:
    """The format of a file that has just the tables of its format, no triggers or views, and sound pages.

    Parameters
    ----------
    known : format → its tables
        Those that can be read.

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
        version = _version(link, name)
        _check_tables(link, name, version, known)
        _check_whole(link, path)
    except BROKEN as error:
        raise FileError(f"{name} is damaged ({error}).", DAMAGED) from error
    finally:
        link.execute("ROLLBACK")
    return version


def _version(link: sqlite3.Connection, name: str) -> int:
    row = link.execute("SELECT value FROM meta WHERE key = 'format'").fetchone()
    text = str(row[0]) if row else ""
    if not (text.isascii() and text.isdigit() and len(text) < 6):
        raise FileError(f"{name} does not say which format it has.", DAMAGED)
    if int(text) > FORMAT:
        raise FileError(
            f"{name} was written by a newer Scutcher (format {text}, this one knows {FORMAT}).",
            "Open it with that version; nothing was changed.",
        )
    return int(text)


def _check_tables(
    link: sqlite3.Connection, name: str, version: int, known: dict[int, dict[str, str]]
) -> None:
    found = dict(link.execute("SELECT name, sql FROM sqlite_master WHERE sql IS NOT NULL").fetchall())
    wanted = known.get(version)
    if wanted is None:
        raise FileError(f"{name} says it has format {version}, which never was.", DAMAGED)
    if found != wanted:
        strange = sorted(set(found.items()) ^ set(wanted.items()))[0][0]
        raise FileError(f"{name} does not have the tables of a study ({strange}).", DAMAGED)
    broken = link.execute("PRAGMA quick_check(1)").fetchone()
    if broken is None or broken[0] != "ok":
        raise FileError(f"{name} is damaged ({str(broken[0] if broken else '')[:80]}).", DAMAGED)


@contextmanager
def writing(path: Path) -> Iterator[None]:
    """Turn what the database and the system say into a sentence."""
    try:
        yield
    except sqlite3.OperationalError as error:
        words = str(error)
        if "full" in words:
            raise FileError(
                f"The disk is full: {path.name} could not be written.", "Make room; nothing was changed."
            ) from error
        raise FileError(
            f"{path.name} cannot be written ({words}).", "Save a copy elsewhere; nothing was changed."
        ) from error
    except (sqlite3.Error, OSError) as error:
        raise FileError(
            f"{path.name} cannot be written ({error}).", "Save a copy elsewhere; nothing was changed."
        ) from error


def in_memory(link: sqlite3.Connection) -> sqlite3.Connection:
    """A copy of a whole file that can be changed without touching it."""
    copy = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
    guard(copy)
    link.backup(copy)
    link.close()
    return copy
