"""Parsing a large text table: watched, stoppable, and by two threads where it can be cut in two."""

from __future__ import annotations

import io
import mmap
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.core.errors import FileError
from scutcher.core.progress import Watch

if TYPE_CHECKING:
    import pandas

BLOCK, TOLD = 1 << 16, 1 << 20  # bytes read at once: more does not stay in the cache; told of each so many
LARGE = 8 << 20  # bytes from which two threads are faster


def parse(path: Path, how: dict[str, Any], watch: Watch | None) -> pandas.DataFrame:
    """Parse a file with the library's options `how`.

    Raises
    ------
    FileError
        It was stopped, or cannot be cut into rows and columns.
    UnicodeDecodeError, OSError
    """
    import pandas

    size = path.stat().st_size
    teller = _Teller(size, watch)
    cut = None if size < LARGE else _place_to_cut(path, how)
    try:
        if cut is None:
            return _part(path, 0, size, how, teller)
        rest = {key: value for key, value in how.items() if key != "skiprows"} | {"header": None}
        with ThreadPoolExecutor(1) as other:
            second = other.submit(_part, path, cut, size, rest, teller)
            first = _part(path, 0, cut, how, teller)
            return pandas.concat([first, second.result()], ignore_index=True)
    except (pandas.errors.ParserError, pandas.errors.EmptyDataError, OverflowError, OSError) as error:
        if teller.stopped:
            raise FileError(f"Reading {path.name} was stopped.", "Nothing was imported.") from error
        if isinstance(error, OSError):
            raise
        raise FileError(
            f"{path.name} cannot be cut into rows and columns ({str(error).strip()}).",
            "Correct it and import again; nothing was imported.",
        ) from error


def _place_to_cut(path: Path, how: dict[str, Any]) -> int | None:
    """Where the second half of the rows begins, in bytes; None where a cut might change what is read.

    Nothing is quoted (a line end might be in a cell), a line end is one byte, and the row after the cut
    has as many cells as the header: the library does not look at the first row it is given.
    """
    if how["encoding"].replace("-", "").lower() not in ("utf8", "ascii", "cp1252", "windows1252"):
        return None
    with path.open("rb") as stream, mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ) as content:
        if content.find(b'"') != -1:
            return None
        cut = content.find(b"\n", len(content) // 2) + 1
        row = content[cut : content.find(b"\n", cut)]
    fits = row.count(how["sep"].encode()) + 1 == len(how["names"])
    return cut if cut and fits and not row.startswith(b"#") else None


def _part(path: Path, start: int, stop: int, how: dict[str, Any], teller: _Teller) -> pandas.DataFrame:
    import pandas

    with io.BufferedReader(_WatchedPart(path, start, stop, teller), BLOCK) as stream:
        return pandas.read_csv(stream, **how)


class _Teller:
    """Adds up what the threads have read, and knows whether anybody wants the rest."""

    def __init__(self, size: int, watch: Watch | None) -> None:
        self._size, self._done, self._told, self._watch = max(size, 1), 0, 0, watch
        self._lock = threading.Lock()
        self.stopped = False

    def add(self, count: int) -> None:
        """So many bytes more; fails where it was stopped."""
        with self._lock:
            self._done += count
            if self._watch is not None and self._done // TOLD != self._told:
                self._told = self._done // TOLD
                self.stopped = self.stopped or not self._watch(min(self._done / self._size, 1.0))
        if self.stopped:
            raise OSError("stopped")


class _WatchedPart(io.FileIO):
    """The bytes of a file from `start` to `stop`."""

    def __init__(self, path: Path, start: int, stop: int, teller: _Teller) -> None:
        super().__init__(path, "rb")
        self.seek(start)
        self._left, self._teller = stop - start, teller

    def readinto(self, buffer: Any) -> int | None:
        """Fill the buffer, unless it was stopped."""
        view = memoryview(buffer)[: self._left]
        count = super().readinto(view) or 0
        self._left -= count
        self._teller.add(count)
        return count
