"""Numbers of things, in words."""

from __future__ import annotations

from collections.abc import Sequence, Sized

PLURALS = (("y", "ies"), ("ix", "ices"), ("ss", "sses"))
"""Ends of words that do not just take an s."""


def count_of(things: Sized | int, word: str = "sample") -> str:
    """`1 sample`, `3 samples`, `2 replicates`, `2 copies`, `2 matrices`."""
    number = things if isinstance(things, int) else len(things)
    many = next((word.removesuffix(end) + new for end, new in PLURALS if word.endswith(end)), f"{word}s")
    return f"{number} {word if number == 1 else many}"


def first_of(names: Sequence[str], most: int = 3) -> str:
    """`L01, L02`; of more than so many the first of them: `L01, L02, L03 …`."""
    return ", ".join(names[:most]) + (" …" if len(names) > most else "")
