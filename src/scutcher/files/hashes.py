"""What a file holds, as one hash: so that a result can name it, and a change is seen."""

from __future__ import annotations

import hashlib
from pathlib import Path

from scutcher.files.safely import reading

PART = 1 << 20


def content_hash(path: Path) -> str:
    """SHA-256 of a file, in hex; of a folder that of the names and hashes of the files in it.

    Raises
    ------
    FileError
        It cannot be read.
    """
    made = hashlib.sha256()
    with reading(path):
        if path.is_dir():
            for inside in sorted(inside for inside in path.iterdir() if inside.is_file()):
                made.update(f"{inside.name}\0{content_hash(inside)}\n".encode())
        else:
            with path.open("rb") as stream:
                while part := stream.read(PART):
                    made.update(part)
    return made.hexdigest()


def size_of(path: Path) -> int:
    """Bytes of a file, or of all files in a folder."""
    with reading(path):
        if path.is_dir():
            return sum(inside.stat().st_size for inside in path.iterdir() if inside.is_file())
        return path.stat().st_size
