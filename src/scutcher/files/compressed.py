"""Files inside gzip and zip: unpacked beside, read, and taken away."""

from __future__ import annotations

import gzip
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

from scutcher.core.errors import FileError
from scutcher.files.safely import reading

SUFFIXES = (".gz", ".zip")
MOST = 4 * 2**30
MOST_TIMES = 400
"""A file may unfold to so many bytes, and to so many times its size; more is refused."""


def is_compressed(path: Path) -> bool:
    """Whether the ending says so."""
    return path.suffix.lower() in SUFFIXES


@contextmanager
def unpacked(path: Path) -> Iterator[Path]:
    """The file, or the folder, that is inside; it is gone afterwards.

    Raises
    ------
    FileError
        Damaged, empty, or it would unfold to too much.
    """
    with tempfile.TemporaryDirectory(prefix="scutcher-") as place:
        folder = Path(place) / path.stem
        try:
            with reading(path):
                inside = _gzip(path, Path(place)) if path.suffix.lower() == ".gz" else _zip(path, folder)
        except (
            zipfile.BadZipFile,
            gzip.BadGzipFile,
            EOFError,
            zlib.error,
            RuntimeError,
            NotImplementedError,
        ) as error:
            raise FileError(
                f"{path.name} cannot be unpacked ({error}).", "Unpack it and open what is inside."
            ) from error
        yield inside


def _gzip(path: Path, folder: Path) -> Path:
    inside = folder / path.stem
    with gzip.open(path, "rb") as source, inside.open("wb") as target:
        _copy(source, target, path)
    return inside


def _zip(path: Path, folder: Path) -> Path:
    """The files of an archive by their own names: nothing is written outside the folder."""
    made = []
    with zipfile.ZipFile(path) as archive:
        for entry in archive.infolist():
            parts = [part for part in Path(entry.filename).parts if part not in ("..", "/", ".")]
            if entry.is_dir() or not parts or any(part.startswith((".", "__MACOSX")) for part in parts):
                continue
            inside = folder.joinpath(*parts)
            inside.parent.mkdir(parents=True, exist_ok=True)
            with archive.open(entry) as source, inside.open("wb") as target:
                _copy(source, target, path)
            made.append(inside)
    if not made:
        raise FileError(f"{path.name} holds no file.", "Choose another.")
    return made[0] if len(made) == 1 else folder


def _copy(source: Any, target: IO[bytes], path: Path) -> None:
    most = min(MOST, max(MOST_TIMES * path.stat().st_size, 64 * 2**20))
    done = 0
    while block := source.read(1 << 20):
        done += len(block)
        if done > most:
            raise FileError(f"{path.name} would unfold to more than {most} bytes.", "Unpack it by hand.")
        target.write(block)
