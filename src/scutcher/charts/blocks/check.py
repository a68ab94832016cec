"""All block scores against each other: dark inside a component, pale elsewhere, or it is said."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Grid, nothing
from scutcher.core.arrays import Floats
from scutcher.core.blocks.chance import chance_bound
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.frozen import frozen
from scutcher.core.words import shown


@frozen(eq=False)
class ScoreColumn:
    """One block's score of one component: its name, which, and the values, in SD."""

    name: str
    component: int
    block: int
    values: Floats


def score_columns(fitted: FittedBlocks) -> tuple[ScoreColumn, ...]:
    """Component by component, block by block."""
    scale = np.sqrt(fitted.model.n - 1.0)
    return tuple(
        ScoreColumn(f"{fitted.code(one)} {fitted.names[b]}", place, b, scale * one.scores[b])
        for place, one in enumerate(fitted.model.components)
        for b in one.blocks
    )


@frozen
class Broken:
    """Two block scores of different components that are related, and not the same."""

    one: int
    other: int
    r: float


def broken_pattern(fitted: FittedBlocks) -> list[Broken]:
    """Cells outside the components whose square is above chance, the largest first."""
    columns, n = score_columns(fitted), fitted.model.n
    found = []
    for i, one in enumerate(columns):
        for j in range(i + 1, len(columns)):
            other = columns[j]
            if one.component == other.component or one.block == other.block:
                continue
            r = float(one.values @ other.values) / (n - 1.0)
            ranks = fitted.model.blocks[one.block].r, fitted.model.blocks[other.block].r
            if r * r > chance_bound(n - 1, *ranks, 0.95):
                found.append(Broken(i, j, r))
    return sorted(found, key=lambda cell: -abs(cell.r))


def check_chart(fitted: FittedBlocks | None) -> Chart:
    """Correlations of all block scores."""
    if fitted is None:
        return nothing("Scores against scores", "")
    columns = score_columns(fitted)
    values = np.column_stack([one.values for one in columns])
    r = values.T @ values / (fitted.model.n - 1.0)
    inside = [
        abs(float(r[i, j]))
        for i, one in enumerate(columns)
        for j, other in enumerate(columns)
        if i < j and one.component == other.component
    ]
    broken = broken_pattern(fitted)
    words = f"inside at least {shown(min(inside), '.2f')}" if inside else "nothing is shared"
    if broken:
        first = broken[0]
        words += f"; related, not the same: {columns[first.one].name} and {columns[first.other].name}"
    at = np.arange(1.0, len(columns) + 1.0)
    return Chart(
        title="Scores against scores",
        note=words,
        grid=Grid(at, at, r, -1.0, 1.0, signed=True, downwards=True),
        curves=(*_pattern(columns), *(_outline((c.one, c.one), (c.other, c.other), "alarm") for c in broken)),
        tick_names=tuple(one.name for one in columns),
    )


def _pattern(columns: tuple[ScoreColumn, ...]) -> list[Curve]:
    """An outline around every component that tables share: where it is to be dark."""
    found = []
    for component in dict.fromkeys(one.component for one in columns):
        own = [place for place, one in enumerate(columns) if one.component == component]
        if len(own) > 1:
            found.append(_outline((own[0], own[-1]), (own[0], own[-1]), "ink"))
    return found


def _outline(columns: tuple[int, int], rows: tuple[int, int], role: str) -> Curve:
    """Around the cells from the first to the last column and row."""
    left, right = columns[0] + 0.5, columns[1] + 1.5
    low, high = rows[0] + 0.5, rows[1] + 1.5
    x, y = np.array([left, right, right, left, left]), np.array([low, low, high, high, low])
    return Curve(x, y, role, width=1.4, behind=False)
