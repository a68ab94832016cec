"""Which windows wait for a model: drawing that can wait gives way to it."""

from __future__ import annotations

COMPUTING: set[int] = set()
"""A mark of each window in which a model is being computed."""


def mark(window: object, computing: bool) -> None:
    """A window begins or ceases to wait for its model."""
    (COMPUTING.add if computing else COMPUTING.discard)(id(window))
