"""Text of any common encoding: UTF-8 or UTF-16 by their marks, UTF-8, else Windows-1252."""

from __future__ import annotations

import codecs
from pathlib import Path

from scutcher.core.errors import FileError
from scutcher.files.safely import reading

MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))


def encoding_of(start: bytes, name: str) -> str:
    """The encoding of a text that begins with these bytes.

    Raises
    ------
    FileError
        It is not a text.
    """
    for mark, encoding in MARKS:
        if start.startswith(mark):
            return encoding
    if b"\0" in start:
        raise FileError(f"{name} is not a text file.", "Save the table as CSV or TSV.")
    try:
        codecs.getincrementaldecoder("utf-8")().decode(start, final=False)
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8"


def text_of(path: Path, most: int = -1) -> str:
    """The text of a file, or of its first bytes."""
    with reading(path), path.open("rb") as stream:
        raw = stream.read(most)
    encoding = encoding_of(raw[: 1 << 20], path.name)
    return raw.decode(encoding, errors="replace")
