"""Parsing a text table with the library, watched and stoppable."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.core.errors import FileError
from scutcher.core.progress import Watch

if TYPE_CHECKING:
    import pandas

BLOCK, TOLD = 1 << 16, 1 << 20  # bytes read at once: more does not stay in the cache; told of each so many


def parse(path: Path, how: dict[str, Any], watch: Watch | None) -> pandas.DataFrame:
    """Parse a file with the library's options `how`.

    Given a name, the library would read on two threads, half as long again as fast; but it could neither
    tell how far it is nor be stopped, and would take four times the memory of the numbers.

    Raises
    ------
    FileError
        It was stopped, or cannot be cut into rows and columns.
    UnicodeDecodeError, OSError
    """
    import pandas

    raw = _WatchedFile(path, watch)
    try:
        with io.BufferedReader(raw, BLOCK) as stream:
            return pandas.read_csv(stream, **how)
    except (pandas.errors.ParserError, pandas.errors.EmptyDataError, OverflowError, OSError) as error:
        if raw.stopped:
            raise FileError(f"Reading {path.name} was stopped.", "Nothing was imported.") from error
        if isinstance(error, OSError):
            raise
        raise FileError(
            f"{path.name} cannot be cut into rows and columns ({str(error).strip()}).",
            "Correct it and import again; nothing was imported.",
        ) from error


class _WatchedFile(io.FileIO):
    """A file that tells how much of it has been read, and fails when nobody wants the rest."""

    def __init__(self, path: Path, watch: Watch | None) -> None:
        super().__init__(path, "rb")
        self._size, self._done, self._told, self._watch = max(path.stat().st_size, 1), 0, 0, watch
        self.stopped = False

    def readinto(self, buffer: Any) -> int | None:
        """Fill the buffer, unless it was stopped."""
        count = super().readinto(buffer)
        self._done += count or 0
        if self._watch is not None and self._done // TOLD != self._told:
            self._told = self._done // TOLD
            if not self._watch(min(self._done / self._size, 1.0)):
                self.stopped = True
                raise OSError("stopped")
        return count
