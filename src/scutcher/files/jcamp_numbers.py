"""The packed numbers of JCAMP-DX: plain, squeezed, difference and duplicate digits, line by line.

McDonald & Wilks, Appl. Spectrosc. 42 (1988) 151–162 (JCAMP-DX 4.24).
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen

SQUEEZED = {"@": "0", **dict(zip("ABCDEFGHI", "123456789", strict=True))} | {
    letter: f"-{digit}" for letter, digit in zip("abcdefghi", "123456789", strict=True)
}
DIFFERENCE = {"%": "0", **dict(zip("JKLMNOPQR", "123456789", strict=True))} | {
    letter: f"-{digit}" for letter, digit in zip("jklmnopqr", "123456789", strict=True)
}
DUPLICATE = dict(zip("STUVWXYZs", "123456789", strict=True))

PLAIN = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[Ee][+-]?\d+)?|\?")
PACKED = re.compile(r"([@A-Ia-i%J-Rj-rS-Zs+-])?(\d*\.?\d*)")
CLEARLY_PACKED = re.compile(r"[@A-DF-Ia-df-i%J-Rj-rS-Zs]|E[0-9.]*E|e[0-9.]*e")
MOST_REPEATS = 2_000_000
"""Points of one line: a few letters may claim any number."""


@frozen
class Line:
    """A decoded line: its number in the file, the x in front (as text), its y, whether it ends in a
    difference (then the next line begins with a check of its last y)."""

    number: int
    x: str
    ys: list[float]
    ends_in_difference: bool


def is_packed(texts: Sequence[str]) -> bool:
    """Whether lines hold pseudo-digits; a lone `E` may also be an exponent, which the checks decide."""
    return any(CLEARLY_PACKED.search(text) for text in texts)


def decode_plain(number: int, text: str) -> Line:
    """A line of ordinary numbers, the first of them x; `?` is a gap."""
    found = PLAIN.findall(text)
    if re.sub(r"[\s,;]+", "", PLAIN.sub("", text)) or not found:
        raise _not_numbers(number, text)
    ys = [float("nan") if cell == "?" else float(cell) for cell in found[1:]]
    return Line(number, found[0], ys, False)


def decode_packed(number: int, text: str) -> Line:
    """A line in squeezed, difference and duplicate form, x first."""
    text = text.strip()
    start = re.match(r"[+-]?(?:\d+\.?\d*|\.\d+)", text) or re.match(r"[@A-Ia-i]\d*\.?\d*", text)
    if start is None:
        raise _not_numbers(number, text)
    x = start.group()
    if x[0] in SQUEEZED:
        x = SQUEEZED[x[0]] + x[1:]
    ys: list[float] = []
    last_step: float | None = None
    place = start.end()
    while place < len(text):
        letter = text[place]
        if letter in " \t,;":
            place += 1
            continue
        match = PACKED.match(text, place)
        assert match is not None
        sign, digits = match.group(1) or "", match.group(2)
        if letter == "?":
            ys.append(float("nan"))
            last_step, place = None, place + 1
            continue
        if match.end() == place:
            raise _not_numbers(number, text)
        place = match.end()
        last_step = _put(ys, sign, digits, last_step, number, text)
    return Line(number, x, ys, last_step is not None)


def _put(
    ys: list[float], sign: str, digits: str, last_step: float | None, number: int, text: str
) -> float | None:
    """Append what one number says; the answer is the difference that a repeat would repeat."""
    try:
        if sign in DIFFERENCE:
            step = float(DIFFERENCE[sign] + digits)
            ys.append(ys[-1] + step)
            return step
        if sign in DUPLICATE:
            times = int(DUPLICATE[sign] + digits) - 1
            if times + len(ys) > MOST_REPEATS:
                raise ValueError
            for _ in range(times):
                ys.append(ys[-1] + (last_step or 0.0))
            return last_step
        ys.append(float(SQUEEZED.get(sign, sign) + digits))
    except (ValueError, IndexError) as error:
        raise _not_numbers(number, text) from error
    return None


def _not_numbers(number: int, text: str) -> FileError:
    return FileError(
        f"Line {number} is not JCAMP-DX numbers: {text.strip()[:40]!r}.",
        "Get a complete copy of the file; nothing was imported.",
    )
