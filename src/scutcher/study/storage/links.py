"""Values that are too large to be copied into a study: linked by path, size and hash, and read from there."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from pathlib import Path

import msgspec
import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.progress import Watch, tell
from scutcher.files.hashes import content_hash, size_of
from scutcher.files.layout.reading import reading_of_pairs
from scutcher.files.roles import roles_of_pairs
from scutcher.study.document.parts import DataSet, Source
from scutcher.study.storage.array_store import ArrayStore
from scutcher.study.storage.pieces import array_content
from scutcher.study.storage.plain_state import source_from_plain, source_to_plain
from scutcher.study.storage.schema import connect, writing

COPIED = 256_000_000
"""Bytes of values up to which they are copied into the study."""

Transaction = Callable[[], AbstractContextManager[None]]
"""Begins one, which ends with its block."""


class LinkedFile(FileError):
    """A file that the data of a study are linked to is not where it was, or not what it was.

    Attributes
    ----------
    path : Path
        Where it was.
    """

    def __init__(self, problem: str, remedy: str, path: Path) -> None:
        super().__init__(problem, remedy)
        self.path = path


def put(arrays: ArrayStore, data: DataSet) -> str:
    """Store the values of a data set, or a link to the files that they came from; their hash."""
    values, source = data.table.values, data.source
    if values.nbytes <= COPIED or not source.paths or not _came_unchanged(data):
        return arrays.put_array(values)
    known = arrays.known(values)
    if known is not None:
        return known
    content = array_content(values)
    arrays.put(content, pieces=False)
    plain = {**source_to_plain(source), "sizes": [size_of(Path(path)) for path in source.paths]}
    arrays.link.execute(
        "INSERT OR REPLACE INTO links VALUES (?, ?)",
        (content.stored.hash, msgspec.json.encode(plain).decode()),
    )
    arrays.remember(values, content.stored.hash)
    return content.stored.hash


def _came_unchanged(data: DataSet) -> bool:
    """Whether the files still are those that were read."""
    contents = data.source.contents
    return len(contents) == len(data.source.paths) and all(
        Path(path).exists() and content_hash(Path(path)) == content
        for path, content in zip(data.source.paths, contents, strict=True)
    )


def read_source(source: Source) -> Table:
    """Read the files of a source again, as they were read.

    Raises
    ------
    InputError
    """
    from scutcher.files.formats import read_tables  # here: most studies have no link

    reading = reading_of_pairs(source.reading)
    roles = roles_of_pairs(dict(source.roles).items(), source.sheet, reading, source.mends)
    return read_tables([Path(path) for path in source.paths], roles, resample=source.resampled)


def values_of(name: str, text: str) -> np.ndarray:
    """The values that a link stands for.

    Raises
    ------
    LinkedFile
        The file has moved or changed.
    """
    plain = msgspec.json.decode(text)
    source = source_from_plain(plain)
    for path, content in zip(map(Path, source.paths), source.contents, strict=True):
        if not path.exists():
            raise LinkedFile(
                f"The data of this study lie in {path}, which is not there.", "Say where it is now.", path
            )
        if content_hash(path) != content:
            raise LinkedFile(
                f"{path} is not the file that this study was made of: its contents differ.",
                "Say where the right one is.",
                path,
            )
    values = read_source(source).values
    if array_content(values).stored.hash != name:
        raise LinkedFile(
            f"{source.paths[0]} is read otherwise than it was.", "Say where the right one is.",
            Path(source.paths[0]),
        )  # fmt: skip
    return values


def pack(arrays: ArrayStore, transaction: Transaction, watch: Watch | None = None) -> None:
    """Copy all linked values into the study: a piece at a time, so that it can go on being used.

    Stopped in between, what was linked still is.

    Raises
    ------
    LinkedFile
        The file of some has moved or changed.
    Stopped
    """
    with transaction():
        names = [str(row[0]) for row in arrays.link.execute("SELECT hash FROM links").fetchall()]
    for name in names:
        with transaction():
            values = arrays.content(name)
        content = array_content(values)
        for at, (piece, data) in enumerate(zip(content.stored.pieces, content.parts(), strict=True)):
            tell(watch, at / len(content.stored.pieces))
            with transaction():
                arrays.put_piece(piece, data)
        with transaction():
            arrays.link.execute("DELETE FROM links WHERE hash = ?", (content.stored.hash,))


def relink(study: Path, old: Path, new: Path) -> None:
    """From now on the values of a study that is closed come from another path.

    Raises
    ------
    FileError
        It is another file; nothing was changed.
    """
    held = content_hash(new)
    link = connect(study, read_only=False)
    try:
        with writing(study):
            link.execute("BEGIN IMMEDIATE")
            for name, text in link.execute("SELECT hash, source FROM links").fetchall():
                plain = msgspec.json.decode(text)
                if str(old) not in plain["paths"]:
                    continue
                place = plain["paths"].index(str(old))
                if held != plain["contents"][place]:
                    raise FileError(
                        f"{new.name} is not the file that this study was made of.",
                        "Choose the right one; nothing was changed.",
                    )
                plain["paths"][place] = str(new.absolute())
                changed = msgspec.json.encode(plain).decode()
                link.execute("UPDATE links SET source = ? WHERE hash = ?", (changed, name))
            link.execute("COMMIT")
    finally:
        link.close()
