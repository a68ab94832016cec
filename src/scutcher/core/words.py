"""Numbers of things, in words."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence, Sized
from contextlib import contextmanager
from contextvars import ContextVar

PLURALS = (("y", "ies"), ("ix", "ices"), ("ss", "sses"))
"""Ends of words that do not just take an s."""


def count_of(things: Sized | int, word: str = "sample") -> str:
    """`1 sample`, `3 samples`, `2 replicates`, `2 copies`, `2 matrices`, `1,649 pixels`."""
    number = things if isinstance(things, int) else len(things)
    many = next((word.removesuffix(end) + new for end, new in PLURALS if word.endswith(end)), f"{word}s")
    return f"{counted(number)} {word if number == 1 else many}"


def counted(things: Sized | int) -> str:
    """How many, as a person reads it here: `144`, `1,649` or `1 649`."""
    return shown(things if isinstance(things, int) else len(things), ",")


def first_of(names: Sequence[str], most: int = 3) -> str:
    """`L01, L02`; of more than so many the first of them: `L01, L02, L03 …`."""
    return ", ".join(names[:most]) + (" …" if len(names) > most else "")


_plain: ContextVar[bool] = ContextVar("plain_numbers", default=False)


class _Marks:
    """What stands between whole and tenths; one for the whole program, said once when it starts."""

    decimal = "."


def write_numbers_with(decimal: str) -> None:
    """From now on numbers are shown with this decimal mark, `.` or `,`; data and recipes stay as they are."""
    _Marks.decimal = "," if decimal == "," else "."


def decimal_mark() -> str:
    """What stands between whole and tenths where a person reads."""
    return "." if _plain.get() else _Marks.decimal


@contextmanager
def plain_numbers() -> Iterator[None]:
    """Whatever is written inside is for files, which are the same everywhere; in this thread."""
    token = _plain.set(True)
    try:
        yield
    finally:
        _plain.reset(token)


def shown(value: float, form: str = "g") -> str:
    """A number as a person reads it here: `0.62` or `0,62`, `12,500` or `12 500`.

    Parameters
    ----------
    value : float
    form : str
        As of `format`.
    """
    return localised(format(value, form))


def localised(text: str) -> str:
    """The text of one number, as `format` makes it, with the marks of this place."""
    if decimal_mark() == ".":
        return text
    return text.replace(",", "\u202f").replace(".", ",")


class Shown(float):
    """A number that a template shows as a person reads it here."""

    def __format__(self, form: str) -> str:
        return shown(float(self), form)


def typed_number(text: str) -> float:
    """A number that a person typed: point and comma are both decimal marks.

    Raises
    ------
    ValueError
        It is none, or could be read in two ways: `1,500`, and `1.500` where the comma is the mark.
    """
    plain = text.strip().replace("−", "-").replace("\u202f", "").replace("\xa0", "")
    if "," in plain and "." in plain:
        raise ValueError(f"{text!r} has two marks")
    other = "," if _Marks.decimal == "." else "."
    if re.fullmatch(rf"[-+]?[1-9]\d{{0,2}}{re.escape(other)}\d{{3}}", plain):
        raise ValueError(f"{text!r} could be thousands")
    return float(plain.replace(",", "."))


def listed(text: str) -> list[str]:
    """The entries of a typed list: apart by commas, or by semicolons where a comma may be in a number."""
    between = r"[,;]" if _Marks.decimal == "." else r";|,(?=\s|$)"
    return [entry.strip() for entry in re.split(between, text) if entry.strip()]
