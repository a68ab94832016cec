"""Numbers of things, in words."""

from __future__ import annotations

from collections.abc import Sized


def count_of(things: Sized | int, word: str = "sample") -> str:
    """`1 sample`, `3 samples`, `2 replicates`, `2 copies`."""
    number = things if isinstance(things, int) else len(things)
    many = f"{word[:-1]}ies" if word.endswith("y") else f"{word}s"
    return f"{number} {word if number == 1 else many}"
