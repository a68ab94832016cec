"""Opening and replacing files so that a failure is one clear sentence and the old file survives."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from scutcher.core.errors import FileError


@contextmanager
def reading(path: Path) -> Iterator[None]:
    """Turn what the system says while a file is read into a FileError; pipes and devices are not read."""
    check_regular(path)
    try:
        yield
    except FileNotFoundError as error:
        folder = path.absolute().parent
        raise FileError(f"There is no file {path.name} in {folder}.", "Check the name.") from error
    except IsADirectoryError as error:
        raise FileError(f"{path.name} is a folder.", "Name a file in it.") from error
    except PermissionError as error:
        raise FileError(f"{path.name} may not be read by you.", "Change its permissions.") from error
    except OSError as error:
        raise FileError(f"{path.name} cannot be read: {error.strerror}.", "Try a copy of it.") from error


@contextmanager
def quiet_library() -> Iterator[None]:
    """Drop what a library in another language writes to the terminal: who called it says what is wrong.

    Of the whole process, so only around a call that may fail in that way.
    """
    try:
        terminal, nothing = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    except OSError:  # there is no terminal
        yield
        return
    try:
        os.dup2(nothing, 2)
        yield
    finally:
        os.dup2(terminal, 2)
        os.close(terminal)
        os.close(nothing)


def check_regular(path: Path) -> None:
    """Refuse what is no file: a pipe would be waited for, a device has no end.

    Raises
    ------
    FileError
    """
    try:
        mode = path.stat().st_mode
    except (OSError, ValueError):
        return  # who opens it says what is wrong
    if not (stat.S_ISREG(mode) or stat.S_ISDIR(mode)):
        raise FileError(f"{path.name} is no file but a pipe or a device.", "Name a file.")


def write_text(path: Path, text: str) -> None:
    """Write a whole text file in UTF-8, or nothing; see `write_bytes`."""
    write_bytes(path, text.encode("utf-8"))


def write_bytes(path: Path, data: bytes) -> None:
    """Write a whole file or nothing: beside it first, then in its place.

    Raises
    ------
    FileError
        The folder is missing or full, or may not be written to.
    """
    beside = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        beside.write_bytes(data)
        beside.replace(path)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise FileError(
            f"{path} cannot be written: {error.strerror}.", "Choose another folder; nothing was changed."
        ) from error


def make_folder(path: Path) -> None:
    """Make a folder and those above it where they are missing."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"The folder {path} cannot be made: {error.strerror}.", "Choose another.") from error
