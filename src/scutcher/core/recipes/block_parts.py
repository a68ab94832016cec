"""Blocks cut out of one table, as words that a person types and back."""

from __future__ import annotations

import re

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.errors import RecipeError
from scutcher.core.recipes.block_settings import Part
from scutcher.core.words import first_of, shown

RANGE = re.compile(r"^\s*(-?[\d.,]+(?:[eE][-+]?\d+)?)\s*(?:–|—|to|\.\.|-)\s*(-?[\d.,]+(?:[eE][-+]?\d+)?)\s*$")

MOST = 5


def parts_of_text(text: str, axis: Axis) -> tuple[Part, ...]:
    """A line for each block: `low: 1100 – 1500` on an ordered axis, `bench: lignin, pectin` otherwise.

    Raises
    ------
    RecipeError
        A line is none of these, two have one name, there are not two to five.
    """
    found = [_part(line, axis) for line in text.splitlines() if line.strip()]
    if not 2 <= len(found) <= MOST:
        raise RecipeError(
            f"{len(found)} blocks are described.", "Write two to five, each on a line of its own."
        )
    names = [part.name for part in found]
    twice = next((name for name in names if names.count(name) > 1), "")
    if twice:
        raise RecipeError(f"Two blocks are called {twice}.", "Give each a name of its own.")
    return tuple(found)


def _part(line: str, axis: Axis) -> Part:
    name, colon, rest = line.partition(":")
    if not colon or not name.strip() or not rest.strip():
        raise RecipeError(f"{line.strip()!r} describes no block.", f"Write {example(axis)}.")
    return _stretch(name.strip(), rest, axis) if axis.ordered else _variables(name.strip(), rest, axis)


def _stretch(name: str, rest: str, axis: Axis) -> Part:
    ends = RANGE.match(rest)
    try:
        if ends is None:
            raise ValueError
        first, last = (float(end.replace(",", ".")) for end in ends.groups())
    except ValueError:
        raise RecipeError(
            f"{rest.strip()!r} is no stretch of {axis.title}.", f"Write {example(axis)}."
        ) from None
    places = axis.places()
    if not ((places >= min(first, last)) & (places <= max(first, last))).any():
        span = f"{shown(places.min())} to {shown(places.max())}"
        raise RecipeError(f"{name} has no channels: the axis goes from {span}.", "Write a stretch inside it.")
    return Part(name=name, first=first, last=last)


def _variables(name: str, rest: str, axis: Axis) -> Part:
    wanted = tuple(word.strip() for word in rest.split(",") if word.strip())
    missing = [word for word in wanted if word not in axis.labels]
    if missing:
        raise RecipeError(
            f"There is no variable {missing[0]!r}.", f"The table has {first_of(list(axis.labels), 5)}."
        )
    return Part(name=name, variables=wanted)


def example(axis: Axis) -> str:
    """One line as it is to be written."""
    if not axis.ordered:
        return f"name: {', '.join(axis.labels[:2])}"
    places = axis.places()
    return f"name: {shown(places[0])} – {shown(places[len(places) // 2])}"


def text_of_parts(parts: tuple[Part, ...], axis: Axis) -> str:
    """The lines of parts; of none two halves to begin with."""
    if not parts:
        parts = _halves(axis)
    return "\n".join(
        f"{part.name}: {', '.join(part.variables)}"
        if part.variables
        else f"{part.name}: {part.first:g} – {part.last:g}"
        for part in parts
    )


def _halves(axis: Axis) -> tuple[Part, ...]:
    middle = len(axis) // 2
    if not axis.ordered:
        first, last = axis.labels[:middle], axis.labels[middle:]
        return Part(name="first", variables=first), Part(name="second", variables=last)
    places = np.sort(axis.places())
    return (
        Part(name="low", first=float(places[0]), last=float(places[max(middle - 1, 0)])),
        Part(name="high", first=float(places[middle]), last=float(places[-1])),
    )
