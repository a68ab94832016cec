"""What several tables say together, in one sentence."""

from __future__ import annotations

from collections.abc import Sequence

from scutcher.charts.words import Pieces
from scutcher.core.blocks.checking import CheckedBlocks
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.words import count_of
from scutcher.study.results.block_results import odd_block

BELIEVED = 0.5
"""Held-out agreement below which a common component is not believed."""


def finding(fitted: FittedBlocks, checked: CheckedBlocks | None, rows: Sequence[Sequence[int]]) -> Pieces:
    """How many components are common, how much of each table they are, and who does not fit.

    Parameters
    ----------
    rows : rows of the current table for each common sample
    """
    names, model = fitted.names, fitted.model
    everyone = tuple(range(len(names)))
    common, shared = model.of(everyone), [s for s in model.sets if s != everyone]
    pieces: list[tuple[str, tuple[int, ...]]] = []
    if common:
        held = [] if checked is None else [one for one in checked.held_out if one.blocks == everyone]
        doubtful = sum(not one.agreement >= BELIEVED for one in held)
        parts = ", ".join(
            f"{100 * sum(one.shares[b] for one in common):.0f} % of {name}" for b, name in enumerate(names)
        )
        verb = "is" if len(common) == 1 else "are"
        tables = "both tables" if len(names) == 2 else f"all {len(names)} tables"
        pieces.append((f"{count_of(len(common), 'component')} {verb} common to {tables}: {parts}", ()))
        if doubtful:
            pieces.append((f"; {doubtful} of them not on samples left out", ()))
    else:
        pieces.append((f"Nothing is common to all {len(names)} tables", ()))
    if shared:
        said = ", ".join(
            f"{len(model.of(chosen))} of {' and '.join(names[b] for b in chosen)}" for chosen in shared
        )
        pieces.append((f"; shared by some: {said}", ()))
    if checked is not None and checked.apart:
        first = checked.apart[0]
        table = names[odd_block(first)]
        sample = fitted.matched.ids[first.row]
        pieces.append(("; ", ()))
        pieces.append((sample, tuple(int(row) for row in rows[first.row])))
        words = f" does not fit: {table} puts it elsewhere" if first.block >= 0 else ": the tables disagree"
        pieces.append((words, ()))
    return [*pieces, (".", ())]
