"""Loadings of each table as a strip, outside columns and samples on which tables disagree, as rows."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Lines, Rule, as_keys, nothing
from scutcher.charts.words import with_minus
from scutcher.core.blocks.checking import CheckedBlocks
from scutcher.core.blocks.disagreement import why
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.words import shown
from scutcher.study.results.block_results import because_of, odd_block

MOST_COLUMNS = 14
"""Outside columns that are listed."""


def loading_strip(fitted: FittedBlocks | None, b: int, pair: tuple[int, int], shares: bool = False) -> Chart:
    """What the two components on the plane are made of in one table: loadings, or shares of each variable."""
    if fitted is None:
        return nothing("Loadings", "")
    axis, name = fitted.treated[b].table.axis, fitted.names[b]
    chosen = [place for place in dict.fromkeys(pair) if b in fitted.model.components[place].blocks]
    if not chosen:
        return nothing(name, f"Neither component has anything to do with {name}.")
    loadings = np.array([fitted.model.components[place].loadings[b] for place in chosen])
    shown = loadings / np.sqrt(fitted.model.n - 1.0)
    if shares:
        whole = np.einsum("ij,ij->j", fitted.model.blocks[b].z, fitted.model.blocks[b].z)
        shown = np.divide(loadings**2, whole, out=np.full_like(loadings, np.nan), where=whole > 0.0)
    return Chart(
        title=name,
        note=", ".join(fitted.label(fitted.model.components[place]) for place in chosen),
        x_title=axis.title,
        y_title="share of the variable" if shares else "loading",
        lines=Lines(
            axis.places(),
            shown,
            as_keys(chosen),
            as_keys(range(len(chosen))),
            tuple(fitted.label(fitted.model.components[place]) for place in chosen),
            role="component",
        ),
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


def why_strip(fitted: FittedBlocks, b: int, row: int, component: int) -> Chart:
    """Shares of one table's variables in how far it puts a sample from where the others do."""
    axis, name = fitted.treated[b].table.axis, fitted.names[b]
    one = fitted.model.components[component]
    if b not in one.blocks or len(one.blocks) < 2:
        return nothing(name, f"{fitted.label(one)} is not shared by {name}.")
    found = why(fitted.model, one, b, row)
    scale = np.sqrt(fitted.model.n - 1.0)
    away = with_minus(shown(scale * found.away, ".2f"))
    return Chart(
        title=name,
        note=f"{fitted.matched.ids[row]}: {away} SD from what the others say",
        x_title=axis.title,
        y_title="share / SD",
        lines=Lines(
            axis.places(),
            scale * found.shares[np.newaxis],
            as_keys([0]),
            as_keys([0]),
            ("share",),
            role="component",
        ),
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


def apart_rows(fitted: FittedBlocks | None, checked: CheckedBlocks | None) -> list[list[str | float]]:
    """Samples on which tables disagree most: which, how far, which table is odd, because of what."""
    if fitted is None or checked is None:
        return []
    rows: list[list[str | float]] = []
    for one in checked.apart:
        component = fitted.model.components[one.component]
        table = fitted.names[one.block] if one.block >= 0 else " or ".join(fitted.names[b] for b in one.pair)
        because = ", ".join(because_of(fitted, one.row, one.component, odd_block(one)))
        rows.append(
            [
                fitted.matched.ids[one.row],
                shown(abs(one.residual), ".1f"),
                fitted.label(component),
                table,
                because,
            ]
        )
    return rows


def outside_rows(
    fitted: FittedBlocks | None, checked: CheckedBlocks | None
) -> tuple[list[str], list[list[str | float]]]:
    """Columns that took no part against shared components: r of numbers, η of classes; * past chance."""
    if fitted is None or checked is None:
        return [""], []
    shared = [place for place, one in enumerate(fitted.model.components) if len(one.blocks) > 1]
    names = list(dict.fromkeys(one.column for one in checked.outside))[:MOST_COLUMNS]
    known = {(one.column, one.component): one for one in checked.outside}
    rows: list[list[str | float]] = []
    for name in names:
        row: list[str | float] = [name]
        for place in shared:
            one = known[(name, place)]
            value = one.value if one.kind == "r" else float(np.sqrt(max(one.value, 0.0)))
            mark = "*" if one.holm < 0.05 else ""
            row.append("" if np.isnan(value) else f"{shown(value, '.2f')}{mark}")
        rows.append(row)
    header = [fitted.code(fitted.model.components[place]) for place in shared]
    return ["", *header], rows
