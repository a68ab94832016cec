"""Texts of any length in an HDF5 file: how long they claim to be, told before room is taken for them.

Each is written as its length (four bytes), where it lies and its number there; the library takes room for
the length before it looks whether there is so much: HDF5 File Format Specification 3.0, IV.B and III.E.
"""

from __future__ import annotations

import mmap
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.numeric.row_kinds import kinds_of_rows
from scutcher.files.arrays.heaps import SEARCHED, check_heap
from scutcher.files.arrays.stored import check_unfolded

DEFLATE, SHUFFLE, CHECKSUM = 1, 2, 3
"""Filters of chunks that are undone here."""

TEXT = 16
"""Bytes at most of where a text lies."""


def check_strings(item: Any, path: Path) -> None:
    """Refuse a dataset of texts that claim to be longer than their file, or that together unfold too far.

    Raises
    ------
    FileError
    """
    whole = path.stat().st_size
    together = 0
    for raw in _pieces(item, path, whole):
        rows = _rows(raw, item)
        if whole > SEARCHED:  # else all of its collections have been looked for
            _check_collections(rows, item, path)
        lengths = np.ascontiguousarray(rows[:, :4]).view("<u4").ravel().astype(np.int64)
        if len(lengths) and int(lengths.max()) > whole:
            raise FileError(f"{path.name} claims a text of {int(lengths.max()):,} bytes.", "Save it anew.")
        together += int(lengths.sum())
        check_unfolded(together, path)


def _rows(raw: bytes, item: Any) -> np.ndarray:
    """What stands for each text, byte by byte: its length, the place of its collection, its number there."""
    every = 8 + item.file.id.get_create_plist().get_sizes()[0]
    count = len(raw) // every
    return np.frombuffer(raw[: count * every], np.uint8).reshape(count, every)


def _check_collections(rows: np.ndarray, item: Any, path: Path) -> None:
    """Refuse collections without an end among those that some texts lie in."""
    created = item.file.id.get_create_plist()
    lengths, before = created.get_sizes()[1], created.get_userblock()
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        places = rows[:, 4:-4]
        for row in kinds_of_rows(places)[0].tolist():
            check_heap(data, int.from_bytes(places[row].tobytes(), "little") + before, lengths, path)


def _pieces(item: Any, path: Path, whole: int) -> Iterator[bytes]:
    """What the dataset holds itself: in one piece, in chunks, or in its header, which cannot be looked at."""
    start = item.id.get_offset()
    with path.open("rb") as file:
        if start is not None:
            file.seek(start)
            yield file.read(min(item.id.get_storage_size(), whole))
        elif item.chunks is None and item.id.get_storage_size():
            raise FileError(f"{path.name} has texts that cannot be checked.", "Save it anew.")
        else:
            filters = _filters(item)
            most = int(np.prod(item.chunks or (0,))) * TEXT
            for number in range(item.id.get_num_chunks() if item.chunks else 0):
                info = item.id.get_chunk_info(number)
                file.seek(info.byte_offset)
                raw = _unfiltered(file.read(min(info.size, whole)), filters, info.filter_mask, most)
                if raw is not None:
                    yield raw


def _filters(item: Any) -> list[tuple[int, int]]:
    """The filters of its chunks: which, and the size of what is shuffled."""
    plist = item.id.get_create_plist()
    found = []
    for place in range(plist.get_nfilters()):
        code, _, values, _ = plist.get_filter(place)
        found.append((int(code), int(values[0]) if values else 1))
    return found


def _unfiltered(raw: bytes, filters: list[tuple[int, int]], mask: int, most: int) -> bytes | None:
    """A chunk as it was before its filters; None of a filter that is not known here."""
    for place, (code, size) in reversed(list(enumerate(filters))):
        if mask >> place & 1:
            continue
        if code == DEFLATE:
            try:
                raw = zlib.decompressobj().decompress(raw, most)
            except zlib.error:
                return None
        elif code == SHUFFLE and size > 1:
            cut = len(raw) - len(raw) % size
            raw = np.frombuffer(raw[:cut], np.uint8).reshape(size, -1).T.tobytes() + raw[cut:]
        elif code == CHECKSUM:
            raw = raw[:-4]
        elif code != SHUFFLE:
            return None
    return raw
