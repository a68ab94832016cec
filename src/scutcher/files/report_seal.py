"""The seal of a report: a hash of all that it holds, so that a change afterwards is seen."""

from __future__ import annotations

import hashlib
import re

PLACE = '<meta name="scutcher-seal" content="{}">'
PATTERN = re.compile(re.escape(PLACE).replace(r"\{\}", "([0-9a-f]*)"))
TAIL = b"\n%scutcher-seal "
LOG = re.compile(r'<meta name="scutcher-log" content="([0-9a-f]*)">')


def sealed_html(text: str) -> str:
    """A page with the hash of it in the place that was left for it.

    Raises
    ------
    ValueError
        It has no such place.
    """
    blank = PLACE.format("")
    if text.count(blank) != 1:
        raise ValueError("the page has no place for its seal")
    return text.replace(blank, PLACE.format(_hash(text.encode())))


def sealed_pdf(content: bytes) -> bytes:
    """A PDF with the hash of it in a comment after its end, which readers pass over."""
    return content + TAIL + _hash(content).encode() + b"\n"


def seal_holds(content: bytes) -> bool | None:
    """Whether a report, HTML or PDF, is as it was written; None where it bears no seal."""
    if content.startswith(b"%PDF"):
        body, tail, seal = content.rpartition(TAIL)
        return seal.strip().decode("ascii", "replace") == _hash(body) if tail else None
    text = content.decode("utf-8", "replace")
    found = PATTERN.search(text)
    if found is None or not found.group(1):
        return None
    blank = text[: found.start()] + PLACE.format("") + text[found.end() :]
    return found.group(1) == _hash(blank.encode())


def log_seal_of(content: bytes) -> str:
    """The seal of the log that an HTML report tells of; "" where it tells of none."""
    found = LOG.search(content.decode("utf-8", "replace"))
    return "" if found is None else found.group(1)


def _hash(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()
