"""Amounts of shapes along a series with their bands, what is left over, and the shapes themselves."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Marks, Ribbon, Rule, as_keys, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.core.arrays import Floats, Integers
from scutcher.core.unmixing.mixture import Mixture
from scutcher.core.words import counted, shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.series import Series

EMPTY = "Amounts appear when two shapes are chosen: keep a and b, or ask for a number of shapes."


def own_rows(series: Series) -> Integers:
    """The rows of the series in the model."""
    places = series.found.places()
    return np.array([places[row] for row in series.rows.tolist()], dtype=np.intp)


def amounts(series: Series | None, found: Mixture | None, handles: tuple[float, ...] = ()) -> Chart:
    """Each shape's amount along the order, with 95 % bands or how far it could turn."""
    if series is None or found is None:
        return nothing("Amounts", EMPTY)
    own = own_rows(series)
    x = series.positions
    spreads = tuple(
        Ribbon(x, found.low[own, place], found.high[own, place]) for place in range(len(found.names))
    )
    bands = "95 % bands" if found.opened is None else "bands: how far they could turn"
    if found.opened is not None and not found.opened.exact:
        bands += ", at least"
    return Chart(
        title="Amounts",
        note=bands,
        x_title=series.order.title,
        y_title="amount",
        lines=Lines(
            x,
            found.amounts[own].T,
            as_keys(range(len(found.names))),
            as_keys(range(len(found.names))),
            found.names,
            role="class",
        ),
        spreads=spreads,
        curves=_signs(series, found, found.amounts[own], handles),
        rules=(Rule(0.0),),
    )


def _signs(series: Series, found: Mixture, values: Floats, handles: tuple[float, ...]) -> tuple[Curve, ...]:
    """Upright lines at a and b, and where half is gone."""
    ends = np.array([min(float(values.min()), 0.0), float(values.max())])
    curves = [
        Curve(np.full(2, at), ends, role, width=1.4)
        for at, role in zip(handles, ("accent", "other"), strict=False)
    ]
    half = half_at(series, found) if len(found.names) > 1 else None
    if half is not None:
        name = f" {shown(half, '.3g')} {series.order.unit}".rstrip()
        curves.append(Curve(np.full(2, half), ends, "quiet", width=1.0, dashes=True, name=name))
    return tuple(curves)


def leftover(state: State, series: Series | None, found: Mixture | None) -> Chart:
    """Root mean square of what is left over of each spectrum, against what noise leaves."""
    if series is None or found is None or state.table is None:
        return nothing("Left over", "")
    own, p = own_rows(series), found.residuals.shape[1]
    values = np.sqrt(found.q[own] / p)
    rules = [Rule(0.0)]
    words = "no limit"
    if found.q_limit.value is not None:
        limit = float(np.sqrt(found.q_limit.value / p))
        rules.append(Rule(limit, alarm=True))
        past = int((values > limit).sum())
        words = f"{counted(past)} of {counted(own)} past what noise leaves, {shown(limit, '.2g')} (95 %)"
    rows = series.rows
    return Chart(
        title="Left over",
        note=words,
        x_title=series.order.title,
        y_title="RMS",
        marks=Marks(
            series.positions, values, rows, colouring_of(state).codes[rows], ids_of_rows(state.table, rows)
        ),
        rules=tuple(rules),
    )


def shapes(series: Series | None, found: Mixture | None) -> Chart:
    """The shapes, found ones with the range of all that explain the data as well."""
    if series is None or found is None:
        return nothing("Shapes", EMPTY)
    axis, x = series.found.treated.axis, series.places
    opened = found.opened
    spreads: tuple[Ribbon, ...] = ()
    words = ""
    if opened is not None:
        spreads = tuple(Ribbon(x, low, high) for low, high in zip(opened.low, opened.high, strict=True))
        words = (
            f"{'not determined: ' if opened.width > 0.1 else ''}range "
            f"{shown(opened.width, '.2f')}, {opened.said}"
        )
    return Chart(
        title="Shapes",
        note=words,
        x_title=axis.title,
        y_title="shape, largest 1" if opened is not None else series.value_title,
        lines=Lines(
            x,
            found.shapes,
            as_keys(range(len(found.names))),
            as_keys(range(len(found.names))),
            found.names,
            role="class",
        ),
        spreads=spreads,
        rules=(Rule(0.0),),
        bars=not axis.ordered,
        tick_names=() if axis.ordered else axis.labels,
    )


def amounts_plane(state: State, series: Series | None, found: Mixture | None) -> Chart:
    """The amounts of the first two shapes against each other, joined in their order."""
    if series is None or found is None or state.table is None:
        return nothing("Amounts", EMPTY)
    if len(found.names) < 2:
        return nothing("Amounts", "A plane needs two shapes.")
    own, rows = own_rows(series), series.rows
    x, y = found.amounts[own, 0], found.amounts[own, 1]
    return Chart(
        title="Amounts",
        note="joined in their order",
        x_title=f"amount of {found.names[0]}",
        y_title=f"amount of {found.names[1]}",
        marks=Marks(x, y, rows, colouring_of(state).codes[rows], ids_of_rows(state.table, rows)),
        curves=(Curve(x, y, "quiet", width=0.8),),
    )


def half_at(series: Series, found: Mixture) -> float | None:
    """The position at which the first shape has lost half of what it loses; None where it does not fall."""
    values = found.amounts[own_rows(series), 0]
    ends = float(values[:3].mean()), float(values[-3:].mean())
    if ends[0] - ends[1] <= 0.2 * max(abs(ends[0]), abs(ends[1]), 1e-300):
        return None
    middle = 0.5 * (ends[0] + ends[1])
    below = np.flatnonzero((values[:-1] >= middle) & (values[1:] < middle))
    if not len(below):
        return None
    at = int(below[0])
    share = (values[at] - middle) / (values[at] - values[at + 1])
    return float(series.positions[at] + share * (series.positions[at + 1] - series.positions[at]))
