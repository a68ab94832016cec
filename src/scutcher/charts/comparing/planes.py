"""Score planes of two models, the second turned onto the first, and loadings laid over each other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Marks, Ribbon, Rule, as_keys, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.charts.loadings import component_title
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.comparison import Comparison

TAILS = 12
"""Samples with the longest ways, whose tails are drawn where none is picked."""


def keys_in(state: State, table: Table, rows: Integers) -> Integers:
    """Rows of the table that is looked at, for rows of another with such samples; −1 for none."""
    mine = state.table
    if mine is None:
        return np.full(len(rows), -1, dtype=np.intp)
    if mine is table or mine.ids == table.ids:
        return np.asarray(rows, dtype=np.intp)
    place = {name: row for row, name in enumerate(mine.ids)}
    return np.array([place.get(table.ids[row], -1) for row in rows.tolist()], dtype=np.intp)


def codes_for(state: State, table: Table) -> Integers:
    """The class of each row of a table by the colouring of the one that is looked at, (n,); −1 for none."""
    keys = keys_in(state, table, np.arange(table.shape[0]))
    if not len(keys):
        return keys
    codes = colouring_of(state).codes[np.maximum(keys, 0)]
    return np.where((keys >= 0) & (codes < 1000), codes, -1)


@frozen(eq=False)
class Planes:
    """Both planes, in the components of A."""

    a: Chart
    b: Chart


def planes(state: State, compared: Comparison, pair: tuple[int, int], picked: Sequence[int]) -> Planes:
    """Scores of A, and those of B turned onto them; tails lead to where a sample lies in the other."""
    a, b = compared.a.found, compared.b.found
    pair = (min(pair[0], a.model.k - 1), min(pair[1], a.model.k - 1))
    flat = pair[0] == pair[1]
    all_of_b = compared.turned.of(b.model.scores)
    keys_a, keys_b = keys_in(state, a.table, a.usable.rows), keys_in(state, b.table, b.usable.rows)
    common = keys_in(state, a.table, compared.rows_a)
    own = a.model.scores[[a.places()[row] for row in compared.rows_a.tolist()]]
    chosen = _with_tails(common, compared.turned.moved, picked)
    levels = colouring_of(state).codes

    def codes(keys: Integers) -> Integers:
        return np.where(keys >= 0, levels[np.maximum(keys, 0)], -1)

    def place(scores: Floats, rows: Integers) -> tuple[Floats, Floats]:
        across = np.asarray(rows + 1.0, dtype=np.float64) if flat else scores[:, pair[0]]
        return across, scores[:, pair[1]]

    def marks(scores: Floats, rows: Integers, keys: Integers, table: Table) -> Marks:
        x, y = place(scores, rows)
        return Marks(x, y, keys, codes(keys), ids_of_rows(table, rows))

    def tails(begin: Floats, end: Floats) -> tuple[Curve, Marks]:
        x0, y0 = place(begin[chosen], compared.rows_a[chosen])
        x1, y1 = place(end[chosen], compared.rows_a[chosen])
        gap = np.full(len(chosen), np.nan)
        ways = [np.column_stack(part).ravel() for part in ((x0, x1, gap), (y0, y1, gap))]
        keys = common[chosen]
        names = ids_of_rows(a.table, compared.rows_a[chosen])
        return Curve(ways[0], ways[1], "ink", width=0.8, dashes=True), Marks(x1, y1, keys, codes(keys), names)

    def plane(which: str, found_marks: Marks, begin: Floats, end: Floats) -> Chart:
        tail, hollow = tails(begin, end)
        is_a = which == "A"
        titles = [component_title(a, part) if is_a else f"component {part + 1} of A" for part in pair]
        if flat:
            titles = ["run order", titles[0]]
        return Chart(
            title=which,
            note=(compared.a if is_a else compared.b).model.name,
            x_title=titles[0],
            y_title=titles[1],
            marks=found_marks,
            ghosts=hollow,
            curves=(tail,),
            rules=(Rule(0.0),) if flat else (Rule(0.0), Rule(0.0, vertical=True)),
        )

    return Planes(
        plane("A", marks(a.model.scores, a.usable.rows, keys_a, a.table), own, compared.turned.scores),
        plane("B", marks(all_of_b, b.usable.rows, keys_b, b.table), compared.turned.scores, own),
    )


def _with_tails(common: Integers, moved: Floats, picked: Sequence[int]) -> Integers:
    """The picked samples that both have, or those that moved most."""
    chosen = np.flatnonzero(np.isin(common, list(picked))) if len(picked) else np.empty(0, np.intp)
    return chosen if len(chosen) else np.argsort(-moved, kind="stable")[:TAILS]


def loadings_over(compared: Comparison, component: int) -> Chart:
    """The loading of a component of A, and that of B turned with the scores, where they share variables."""
    a, b = compared.a.found, compared.b.found
    title = f"Loadings {component + 1}"
    if component >= a.model.k:
        return nothing(title, "A keeps fewer components.")
    mine = a.model.loadings[:, component]
    theirs = b.model.loadings @ compared.turned.rotation[:, component]
    axis, other = a.treated.axis, b.treated.axis
    names = ("A", "B turned")
    if bool(compared.a.tables) != bool(compared.b.tables):
        return _in_variables_of_one(compared, component, title)
    if axis.labels == other.labels:
        both = np.vstack([mine, theirs])
        lines = Lines(axis.places(), both, as_keys([0, 1]), as_keys([0, 1]), names, role="component")
        fill = Ribbon(axis.places(), both.min(axis=0), both.max(axis=0))
        return Chart(
            title=title,
            note=f"A and B turned: alike {_cosine(mine, theirs)} (cosine)",
            x_title=axis.title,
            y_title="loading",
            lines=lines,
            ribbon=fill if axis.ordered else None,
            rules=(Rule(0.0),),
            tick_names=() if axis.ordered else axis.labels,
            bars=not axis.ordered,
        )
    if not (axis.ordered and other.ordered and axis.title == other.title):
        return nothing(title, "A and B have no variables in common to lay over each other.")
    lines = Lines(axis.places(), mine[np.newaxis], as_keys([0]), as_keys([0]), names[:1], role="component")
    return Chart(
        title=title,
        note="A, and B turned (ochre), on variables of their own",
        x_title=axis.title,
        y_title="loading",
        lines=lines,
        curves=(Curve(other.places(), theirs, "other", width=1.4, name="B", behind=False),),
        rules=(Rule(0.0),),
    )


def _in_variables_of_one(compared: Comparison, component: int, title: str) -> Chart:
    """Beside a model of several tables: what both components are in the variables of the other model."""
    a, b = compared.a.found, compared.b.found
    one, rows = (b, compared.rows_b) if compared.a.tables else (a, compared.rows_a)
    places = one.places()
    z = one.scaled.rows(np.array([places[row] for row in rows.tolist()], dtype=np.intp))
    own = a.model.scores[[a.places()[row] for row in compared.rows_a.tolist()], component]
    both = np.vstack([_along(z, scores) for scores in (own, compared.turned.scores[:, component])])
    axis = one.treated.axis
    return Chart(
        title=title,
        note=f"A and B turned, in the variables of {one.table.name}: alike {_cosine(*both)} (cosine)",
        x_title=axis.title,
        y_title="loading",
        lines=Lines(
            axis.places(), both, as_keys([0, 1]), as_keys([0, 1]), ("A", "B turned"), role="component"
        ),
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


def _along(z: Floats, scores: Floats) -> Floats:
    """How the variables of Z go with a score, of length one, (p,)."""
    found: Floats = (z - z.mean(axis=0)).T @ (scores - scores.mean())
    size = float(np.linalg.norm(found))
    return found / size if size > 0.0 else found


def _cosine(a: Floats, b: Floats) -> str:
    sizes = float(np.linalg.norm(a) * np.linalg.norm(b))
    return "undefined" if sizes == 0.0 else shown(float(a @ b) / sizes, ".2f").replace("-", "−")
