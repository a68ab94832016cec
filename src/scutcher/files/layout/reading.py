"""A reading: how a text or a workbook becomes a table; found by looking, or as somebody says."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen

CHOICES = {
    "samples": ("rows", "columns"),
    "form": ("table", "long", "pairs"),
    "join": ("stack", "by-id", "one"),
    "decimal": (".", ","),
    "dates": ("day-first", "month-first"),
}
"""The keys with a few values each."""


@frozen
class Reading:
    """What is "" or None is found by looking.

    Attributes
    ----------
    delimiter : str
        Comma, semicolon, tab, "|"; " " for any run of blanks.
    decimal : str
        "." or ",".
    thousands : str or None
        The mark between thousands; "" for none.
    comment : str
        What a line of comment begins with.
    header : tuple of int or None
        The rows of the header as counted in the file, from 1; () where there is none.
    units : int or None
        The row that holds units; 0 for none.
    first, last : int or None
        The first and the last row of data.
    samples : str
        Whether a sample is a row or a column.
    form : str
        "table"; "long" for a row for each value; "pairs" for two columns for each sample, x and y.
    sheets : tuple of str
        Those that are read, or the matrix of a file of arrays.
    join : str
        Whether several sheets are put under one another, or beside one another by id; "one" for the first.
    dates : str
        Whether 3/4/2026 is the third of April or the fourth of March.
    image : str
        Shape, type and order of a file of mere numbers, as `files.images.shape` has it.
    """

    delimiter: str = ""
    decimal: str = ""
    thousands: str | None = None
    comment: str = ""
    header: tuple[int, ...] | None = None
    units: int | None = None
    first: int | None = None
    last: int | None = None
    samples: str = ""
    form: str = ""
    sheets: tuple[str, ...] = ()
    join: str = ""
    dates: str = ""
    image: str = ""

    def plain(self) -> dict[str, Any]:
        """What is known of it as plain data, for TOML and JSON."""
        found = {field.name: getattr(self, field.name) for field in fields(self)}
        return {
            name: list(value) if isinstance(value, tuple) else value
            for name, value in found.items()
            if value not in (None, "") and (value != () or name == "header")
        }

    def pairs(self) -> tuple[tuple[str, str], ...]:
        """The same as (key, text) pairs, for a study."""
        return tuple((key, _text(value)) for key, value in self.plain().items())

    def over(self, found: Reading) -> Reading:
        """What is said here, and what was found for the rest."""
        said = {
            field.name: getattr(self, field.name)
            for field in fields(self)
            if getattr(self, field.name) not in ("", None) and (field.name != "sheets" or self.sheets)
        }
        return replace(found, **said)


def _text(value: object) -> str:
    if not isinstance(value, list):
        return str(value)
    return "\n".join(map(str, value))


NUMBERS = ("units", "first", "last")
TEXTS = ("delimiter", "thousands", "comment", "image")


def reading_of(plain: Mapping[str, Any], where: str) -> Reading:
    """A reading from plain data.

    Raises
    ------
    FileError
        A key or a value that does not exist; `where` says of what.
    """
    known = [field.name for field in fields(Reading)]
    given: dict[str, Any] = {}
    for name, value in plain.items():
        if name not in known:
            raise FileError(f"{where} has the key {name!r}.", f"It may have {', '.join(known)}.")
        if name in CHOICES:
            right = value in CHOICES[name]
        elif name in NUMBERS:
            right = isinstance(value, int) and not isinstance(value, bool) and value >= 0
        elif name in TEXTS:
            right = isinstance(value, str)
        else:
            kind = int if name == "header" else str
            right = isinstance(value, (list, tuple)) and all(isinstance(part, kind) for part in value)
            value = tuple(value) if right else value
        if not right:
            allowed = ", ".join(map(repr, CHOICES[name])) if name in CHOICES else "a number or a list of them"
            raise FileError(f"{where} has {name} = {value!r}.", f"Give {allowed}.")
        given[name] = value
    return Reading(**given)


def reading_of_pairs(pairs: tuple[tuple[str, str], ...]) -> Reading:
    """The reading that `Reading.pairs` was made of."""
    plain: dict[str, Any] = {}
    for name, text in pairs:
        if name == "header":
            plain[name] = [int(part) for part in text.split("\n") if part]
        elif name == "sheets":
            plain[name] = text.split("\n")
        else:
            plain[name] = int(text) if name in NUMBERS else text
    return reading_of(plain, "The study's reading")


def read_reading(path: Path) -> Reading:
    """A reading from a TOML file.

    Raises
    ------
    FileError
    """
    import tomllib

    from scutcher.files.text import text_of

    try:
        return reading_of(tomllib.loads(text_of(path)), path.name)
    except tomllib.TOMLDecodeError as error:
        raise FileError(f"{path.name} is not TOML: {error}.", "Correct that line.") from error
