"""What stands in run order, drawn by position: time or depth true to scale, gaps and stretches named."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.description import Chart, Curve, Marks
from scutcher.charts.emphasis import Colouring
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.series_order import SeriesOrder, gaps_in
from scutcher.core.words import shown

MOST_NAMED, SHORTEST = 10, 3
"""Stretches that are named at most, and samples that one has at least."""


def along(chart: Chart, order: SeriesOrder | None, colouring: Colouring) -> Chart:
    """The same samples at their positions; itself where there are none.

    Parameters
    ----------
    chart : Chart
        With marks at 1, 2, … of the table's rows; hollow ones too, new samples after the last.
    colouring : Colouring
        Names the stretches of neighbouring samples of one class.
    """
    marks = chart.marks
    if order is None or marks is None or not len(marks.x):
        return chart
    placed = _placed(marks, order)
    if not len(placed.x):
        return chart
    ghosts = None if chart.ghosts is None else _placed(chart.ghosts, order)
    everything = placed.x if ghosts is None else np.concatenate([placed.x, ghosts.x])
    codes = placed.codes if ghosts is None else np.concatenate([placed.codes, ghosts.codes])
    top = float(np.nanmax(placed.y))
    foot = float(np.nanmin(placed.y))
    curves = [*chart.curves, *_gaps(everything, foot, top, order.unit)]
    curves += _stretches(everything, codes, (foot, top + 0.16 * (top - foot)), colouring)
    title = chart.title.replace("run order", order.quantity)
    return replace(chart, title=title, x_title=order.title, marks=placed, ghosts=ghosts, curves=tuple(curves))


def _placed(marks: Marks, order: SeriesOrder) -> Marks:
    """Marks at the positions of their rows; new samples follow the last at the usual step."""
    positions, n = order.positions, len(order.positions)
    known = positions[np.isfinite(positions)]
    steps = np.diff(np.sort(known))
    step = float(np.median(steps[steps > 0.0])) if (steps > 0.0).any() else 1.0
    x = np.empty(len(marks.keys))
    new = marks.keys >= n
    x[~new] = positions[marks.keys[~new]]
    x[new] = (known.max() if len(known) else 0.0) + step * np.arange(1.0, new.sum() + 1.0)
    kept = np.flatnonzero(np.isfinite(x))
    names = tuple(marks.names[place] for place in kept.tolist())
    return Marks(x[kept], marks.y[kept], marks.keys[kept], marks.codes[kept], names)


def _gaps(x: Floats, foot: float, top: float, unit: str) -> list[Curve]:
    """A dashed line on either side of a gap, with its length."""
    places = np.sort(x)
    curves = []
    for at in gaps_in(places).tolist()[:MOST_NAMED]:
        name = f" gap of {shown(places[at + 1] - places[at], '.3g')} {unit}".rstrip()
        for side, words in ((at, name), (at + 1, "")):
            ends = np.full(2, places[side])
            curves.append(Curve(ends, np.array([foot, top]), "quiet", width=0.8, dashes=True, name=words))
    return curves


def _stretches(x: Floats, codes: Integers, ends: tuple[float, float], colouring: Colouring) -> list[Curve]:
    """The class of each run of neighbours, where there are few such runs."""
    order = np.argsort(x, kind="stable")
    sorted_codes, places = codes[order], x[order]
    names = dict(colouring.named())
    if not len(names) or len(names) > MOST_NAMED:
        return []
    starts = np.flatnonzero(np.append(True, sorted_codes[1:] != sorted_codes[:-1]))
    stops = np.append(starts[1:], len(places)) - 1
    foot, height = ends
    long = [
        (first, last) for first, last in zip(starts.tolist(), stops.tolist(), strict=True)
        if last - first + 1 >= SHORTEST and int(sorted_codes[first]) in names
    ]  # fmt: skip
    if len(long) < 2 or len(starts) > MOST_NAMED:
        return []
    curves = []
    for place, (first, _) in enumerate(long):
        code = int(sorted_codes[first])
        at, name = places[[first]], f" {names[code]}"
        curves.append(Curve(at, np.array([height]), "class", code, name=name))
        if place:
            edge = np.full(2, 0.5 * (places[first] + places[first - 1]))
            curves.append(Curve(edge, np.array([foot, height]), "quiet", width=0.8, dashes=True))
    return curves
