"""What was brought in, in one sentence: how much, and what one would look at first."""

from __future__ import annotations

from collections.abc import Sequence

from scutcher.charts.words import Pieces
from scutcher.core.data.findings import Finding
from scutcher.core.data.table import Table
from scutcher.core.words import count_of, counted

MOST_SAID = 2
"""Findings that are said; of more it is said how many."""

CALLS = ("gaps", "pick", "leave-out", "replicate")
"""What a finding may call for, in the order in which it is said."""


def finding(table: Table, column: str, found: Sequence[Finding]) -> Pieces:
    """How many samples, classes and channels; then what calls for something to be done.

    Parameters
    ----------
    column : the class column that colours, or ""
    found : what `core.data.findings` sees in the table
    """
    n, p = table.shape
    levels = next((c.levels for c in table.classes if c.name == column), ())
    classes = f" of {count_of([level for level in levels if level], 'class')}" if levels else ""
    things = "channel" if table.axis.ordered else "variable"
    pieces: list[tuple[str, tuple[int, ...]]] = [(f"{count_of(n)}{classes}, {count_of(p, things)}", ())]
    aside = tuple(sorted(table.set_aside))
    if aside:
        pieces += [(", ", ()), (f"{counted(aside)} not in the model", aside)]
    calling = sorted((one for one in found if one.act), key=lambda one: CALLS.index(one.act))
    for one in calling[:MOST_SAID]:
        pieces += [("; ", ()), (one.text, one.rows)]
    more = len(calling) - MOST_SAID
    if more > 0:
        pieces.append((f"; {more} more to look at", ()))
    if not calling:
        pieces.append(("; nothing missing, constant or repeated", ()))
    return [*pieces, (".", ())]
