"""Numbers as they stand on screen and on paper."""

from __future__ import annotations

import math
from collections.abc import Sequence

from scutcher.core.words import localised

Pieces = Sequence[tuple[str, tuple[int, ...]]]
"""A sentence in pieces, each with the rows of the table that it stands for: those can be clicked."""


def with_minus(text: str) -> str:
    """A number's hyphen as the minus sign it is."""
    return text.replace("-", "−")


def significant(value: float, digits: int = 4) -> str:
    """`0.0850`, all with as many digits, so that a column can be read downwards; empty where not known."""
    return "" if math.isnan(value) else with_minus(localised(f"{value:#.{digits}g}".removesuffix(".")))
