"""The collections in which an HDF5 file keeps its texts: walked through before the library does.

The library goes from one text of a collection to the next by the size that stands before it, and where that
is nothing it never ends: HDF5 File Format Specification 3.0, III.E.
"""

from __future__ import annotations

import mmap
from pathlib import Path

from scutcher.core.errors import FileError

BEGINS, HEAD = b"GCOL", 8
SEARCHED = 256_000_000
"""Bytes of a file up to which all of its collections are looked for, also those of attributes."""


def check_heaps(path: Path, lengths: int) -> None:
    """Refuse a file with a collection that has no end.

    Parameters
    ----------
    lengths : bytes in which the file writes a length

    Raises
    ------
    FileError
    """
    if not 0 < path.stat().st_size <= SEARCHED:
        return
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        at = data.find(BEGINS)
        while at >= 0:
            if data[at + 4 : at + HEAD] == b"\x01\0\0\0":  # its version, and nothing
                check_heap(data, at, lengths, path)
            at = data.find(BEGINS, at + 1)


def check_heap(data: mmap.mmap | bytes, at: int, lengths: int, path: Path) -> None:
    """Refuse one collection that has no end; what is none, or is cut off, the library refuses itself.

    Parameters
    ----------
    data : the file, or what of it holds the collection
    at : where it begins
    lengths : bytes in which the file writes a length
    """
    if data[at : at + 4] != BEGINS:
        return
    before = HEAD + lengths  # also of each text: number, how often it is used, nothing, and its size
    end = min(at + int.from_bytes(data[at + HEAD : at + before], "little"), len(data))
    place = at + before
    while place + before <= end:
        number = int.from_bytes(data[place : place + 2], "little")
        size = int.from_bytes(data[place + HEAD : place + before], "little")
        step = size if number == 0 else before + -(-size // 8) * 8  # what is free counts its head too
        if step <= 0 or step >= 1 << 8 * lengths:
            raise FileError(f"{path.name} is damaged: a list of texts in it has no end.", "Save it anew.")
        place += step
