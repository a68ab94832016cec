"""The lines of a table in text that are looked at for how it is laid out: all, or its beginning and end."""

from __future__ import annotations

import re
from pathlib import Path

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.files.text import encoding_of

LONGEST_CELL = 131_072
"""Characters; the library that cuts lines stops at the same length."""

CELL_ENDS = re.compile(r"[,;|\s]")
HEAD, TAIL, MOST_HEAD = 1 << 18, 1 << 16, 1 << 23
LEAST_LINES = 30
"""Up to so many bytes every cell is looked at; of a larger file so much of the beginning and of the end, and
so many lines at least."""


@frozen
class Lines:
    """The numbered lines of a text, or of its beginning and end."""

    encoding: str
    lines: tuple[tuple[int, str], ...]
    whole: bool


def lines_of(path: Path) -> Lines:
    """The lines of a text that are looked at.

    Raises
    ------
    FileError
        Missing, empty, no text.
    """
    size = path.stat().st_size
    with path.open("rb") as stream:
        start = stream.read(HEAD)
        while size > HEAD and start.count(b"\n") < LEAST_LINES and len(start) < min(MOST_HEAD, size):
            start += stream.read(HEAD)
    if not start.strip(b"\xef\xbb\xbf\xff\xfe\0 \t\r\n"):
        raise FileError(f"{path.name} is empty.", "Choose a file with a header row and one row per sample.")
    encoding = encoding_of(start, path.name)
    whole = size <= len(start)
    if not whole and start.count(b"\n") + start.count(b"\r") < 2:
        most = f"{MOST_HEAD // 2**20} MB"
        raise FileError(
            f"A line of {path.name} is longer than {most}.", "Save one row per sample, or as HDF5."
        )
    if whole or encoding.startswith("utf-16"):
        return Lines(encoding, _short_cells(all_lines(path, encoding), path), True)
    text = start[: start.rfind(b"\n") + 1 or len(start)].decode(encoding, "replace")
    head = list(enumerate(_split(text), start=1))
    every = (*head, *_tail(path, encoding, len(text.encode(encoding)), len(head)))
    return Lines(encoding, _short_cells(every, path), False)


def _short_cells(lines: tuple[tuple[int, str], ...], path: Path) -> tuple[tuple[int, str], ...]:
    """The same lines, of which none has a cell that is too long to be one."""
    for number, line in lines:
        if len(line) > LONGEST_CELL and max(map(len, CELL_ENDS.split(line))) > LONGEST_CELL:
            raise FileError(
                f"Row {number} of {path.name} has a cell of more than {LONGEST_CELL:,} characters.",
                "See whether it is the right file, or whether the marks between its cells are missing.",
            )
    return lines


def _split(text: str) -> list[str]:
    """Lines with their ends; only the ends of lines that files have, not those that Unicode knows."""
    return (
        text.replace("\r\n", "\n").replace("\r", "\n").splitlines(keepends=True)
        if "\x0b" not in text and "\x0c" not in text
        else [f"{line}\n" for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n")]
    )


def _tail(path: Path, encoding: str, read: int, count: int) -> list[tuple[int, str]]:
    """The last lines of a file, numbered."""
    size = path.stat().st_size
    start = max(size - TAIL, read)
    number = count
    with path.open("rb") as stream:
        stream.seek(read)
        left = start - read
        while left > 0 and (block := stream.read(min(left, 1 << 22))):
            number += block.count(b"\n")
            left -= len(block)
        cut = stream.readline() if start > read else b""
        number += bool(cut)
        last = stream.read().decode(encoding, "replace")
    return [(number + place, line) for place, line in enumerate(_split(last), start=1)]


def all_lines(path: Path, encoding: str) -> tuple[tuple[int, str], ...]:
    """Every line of a text, numbered from 1.

    Raises
    ------
    FileError
        It is not in this encoding.
    """
    try:
        text = path.read_bytes().decode(encoding)
    except UnicodeDecodeError as error:
        raise undecodable(path, encoding) from error
    return tuple(enumerate(_split(text), start=1))


def undecodable(path: Path, encoding: str) -> FileError:
    """What is said of a text that turns out not to be in the encoding of its beginning."""
    return FileError(f"{path.name} begins as {encoding} text and is not.", "Save it as CSV in UTF-8.")
