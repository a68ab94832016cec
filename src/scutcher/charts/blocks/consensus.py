"""Common samples on two components, with a spoke to where each table puts them; cells as scatters."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.description import Chart, Curve, Marks, Rule, nothing
from scutcher.core.arrays import Floats, Integers
from scutcher.core.blocks.checking import CheckedBlocks, outside_columns
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.outside import RUN_ORDER
from scutcher.core.words import shown

MOST_LEVELS = 5
"""Classes that are named on an axis."""

WAITS = "Blocks appear when two tables have eight samples in common."


def pairs_of(fitted: FittedBlocks) -> tuple[int, ...]:
    """Components that can be on the plane: shared ones first."""
    shared = [place for place, one in enumerate(fitted.model.components) if len(one.blocks) > 1]
    own = [place for place, one in enumerate(fitted.model.components) if len(one.blocks) == 1]
    return tuple(shared + own)


def consensus(
    fitted: FittedBlocks | None,
    checked: CheckedBlocks | None,
    pair: tuple[int, int],
    rows: Integers,
    codes: Integers,
    spokes: str,
) -> Chart:
    """Consensus scores, in SD.

    Parameters
    ----------
    pair : places of two components of the model
    rows : (n,) int array
        The row of the current table that stands for each sample; −1 for none.
    codes : (n,) int array
        Their classes.
    spokes : "all", "longest" or "none"
    """
    if fitted is None:
        return nothing("Consensus", WAITS)
    model, scale = fitted.model, np.sqrt(fitted.model.n - 1.0)
    one, other = (model.components[place] for place in pair)
    x, y = scale * one.consensus, scale * other.consensus
    curves: list[Curve] = []
    apart = (
        {} if checked is None else {found.row: found for found in checked.apart if found.component in pair}
    )
    for b in one.blocks:
        if b not in other.blocks or spokes == "none":
            continue
        ends = scale * one.scores[b], scale * other.scores[b]
        if spokes == "all":
            curves.append(_broken(x, y, *ends))
        for row in apart:
            name = f" {fitted.names[b]}" if len(apart) <= 4 else ""
            curves.append(
                Curve(
                    np.array([x[row], ends[0][row]]), np.array([y[row], ends[1][row]]),
                    "ink", width=1.6, arrow=True, name=name, behind=False,
                )
            )  # fmt: skip
    names = fitted.matched.ids
    return Chart(
        title="Consensus",
        note="a spoke to where each table puts a sample" if spokes != "none" else "",
        x_title=f"{fitted.label(one)}, SD",
        y_title=f"{fitted.label(other)}, SD",
        marks=Marks(x, y, rows, codes, tuple(names)),
        curves=tuple(curves),
        rules=(Rule(0.0), Rule(0.0, vertical=True)),
    )


def _broken(x: Floats, y: Floats, to_x: Floats, to_y: Floats) -> Curve:
    """Short lines from points to points, as one broken line."""
    gap = np.full(len(x), np.nan)
    across = np.column_stack([x, to_x, gap]).ravel()
    up = np.column_stack([y, to_y, gap]).ravel()
    return Curve(across, up, "quiet", width=0.7)


def cell(
    fitted: FittedBlocks, one: tuple[str, Floats], other: tuple[str, Floats], rows: Integers, codes: Integers
) -> Chart:
    """Two columns of numbers against each other, as a cell of a table of correlations has them."""
    known = np.isfinite(one[1]) & np.isfinite(other[1])
    r = float(np.corrcoef(one[1][known], other[1][known])[0, 1]) if known.sum() > 2 else float("nan")
    note = f"r {shown(r, '.2f')}".replace("-", "−") if np.isfinite(r) else ""
    places = np.flatnonzero(known)
    names = tuple(fitted.matched.ids[place] for place in places.tolist())
    return Chart(
        title="Cell",
        note=note,
        x_title=one[0],
        y_title=other[0],
        marks=Marks(one[1][places], other[1][places], rows[places], codes[places], names),
    )


def beside(fitted: FittedBlocks, column: str, component: int, rows: Integers, codes: Integers) -> Chart:
    """A column that took no part against a component: its numbers, or its classes side by side."""
    one = fitted.model.components[component]
    score = f"{fitted.label(one)}, SD", np.sqrt(fitted.model.n - 1.0) * one.consensus
    if column == RUN_ORDER:
        return cell(fitted, (column, np.arange(1.0, fitted.model.n + 1.0)), score, rows, codes)
    numbers, classes = outside_columns(fitted)
    if column in dict(numbers):
        return cell(fitted, (column, dict(numbers)[column]), score, rows, codes)
    level = next(level for level in classes if level.name == column)
    own = level.codes()
    places = np.where(own >= 0, own + 1.0, np.nan)
    names = ", ".join(f"{code + 1} {name}" for code, name in enumerate(level.names[:MOST_LEVELS]))
    found = cell(fitted, (f"{column}: {names}", places), score, rows, codes)
    return replace(found, note="")
