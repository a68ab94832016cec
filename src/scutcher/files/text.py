"""Text of any common encoding: by its mark, UTF-8, western Windows, else by the letters that it gives."""

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
        return "cp1252" if _is_western(start) else _by_letters(start)
    return "utf-8"


WESTERN = frozenset("äöüÄÖÜßéèêëàâáãåæçñòóôõøœùúûíìîïýÿÉÈÊÀÁÂÅÆÇÑØÓÔÚÍŒ°µ²³±×·–—’‘“”„…€§½¼¹®™«»")
"""Signs that western texts hold beside those of ASCII."""

OTHERS = ["cp1250", "cp1251", "cp1253", "cp1254", "cp1257", "shift_jis", "gb18030", "euc_kr", "big5"]
MOST = 0.5
"""Share of the letters that are not of ASCII in a western text at most."""


def _is_western(start: bytes) -> bool:
    """Whether a text makes sense as western Windows."""
    text = start.decode("cp1252", "replace")
    other = [sign for sign in text if sign > "\x7f" and sign != "\xa0"]
    letters = sum(sign.isalpha() for sign in text) or 1
    return all(sign in WESTERN for sign in other) and sum(s.isalpha() for s in other) <= MOST * letters


def _by_letters(start: bytes) -> str:
    """The encoding whose letters make the most sense; western Windows where none does."""
    from charset_normalizer import from_bytes

    best = from_bytes(start[: start.rfind(b"\n") + 1 or None], cp_isolation=OTHERS).best()
    return best.encoding if best is not None else "cp1252"


def text_of(path: Path, most: int = -1) -> str:
    """The text of a file, or of its first bytes."""
    with reading(path), path.open("rb") as stream:
        raw = stream.read(most)
    encoding = encoding_of(raw[: 1 << 20], path.name)
    return raw.decode(encoding, errors="replace")
