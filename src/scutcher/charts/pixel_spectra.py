"""Spectra and figures of pixels: what is picked, what is under the pointer, what a map is made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from weakref import WeakKeyDictionary

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Ribbon, Rule, nothing
from scutcher.charts.loadings import loadings
from scutcher.charts.pixels import Subject
from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.numeric.threads import sums
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixel_passes import Behind
from scutcher.study.evaluation.whole_image import OnePixel

AROUND = (0.05, 0.95)
"""Of the pixels, what a band on the spectra strip shows."""

SOME = 500
"""Picked pixels that decide it; of more, so many evenly spaced."""


def two_regions(found: Evaluation | None, picked: Sequence[int], before: Sequence[int]) -> Chart:
    """The mean of the picked pixels less that of those picked before; band: SD of single pixels in both."""
    title = "Two regions"
    if found is None:
        return nothing(title, "They appear with the first model.")
    treated, places = found.treated, found.places()
    one, other = ([places[row] for row in rows if row in places] for rows in (picked, before))
    if len(one) < 2 or len(other) < 2:
        return nothing(title, "Pick one region, then another: their difference appears here.")
    a, b = treated.values[one], treated.values[other]
    difference = a.mean(axis=0) - b.mean(axis=0)
    freedom = len(a) + len(b) - 2
    spread = np.sqrt((a.var(axis=0) * len(a) + b.var(axis=0) * len(b)) / freedom)
    x = treated.axis.places()
    clear = np.divide(np.abs(difference), spread, out=np.zeros(len(x)), where=spread > 0.0)
    at = int(clear.argmax())
    return Chart(
        title=title,
        note=f"{shown(len(one), ',')} picked less {shown(len(other), ',')} before; band: SD of "
        f"single pixels · clearest {treated.axis.name(at)}, {shown(clear[at], '.1f')} SD",
        x_title=treated.axis.title,
        y_title="difference",
        lines=Lines(x, difference[np.newaxis, :], np.array([0]), np.array([0]), (title,), role="component"),
        spreads=(Ribbon(x, difference - spread, difference + spread),),
        rules=(Rule(0.0),),
        tick_names=() if treated.axis.ordered else treated.axis.labels,
        bars=not treated.axis.ordered,
    )


def spectra_strip(
    found: Evaluation | None,
    picked: Sequence[int],
    hovered: int | None,
    less: bool,
    here: OnePixel | None = None,
) -> Chart:
    """The mean of the picked pixels with its spread, the pixel under the cursor, and where all pixels lie.

    Parameters
    ----------
    here : OnePixel or None
        The pixel under the cursor as the file has it, in place of the sample near it.
    """
    if found is None:
        return nothing("Spectra", "They appear with the first model.")
    treated, places = found.treated, found.places()
    values, x = treated.values, treated.axis.places()
    usual = usual_of(treated)
    base = usual.mean if less else np.zeros(values.shape[1])
    own = [places[row] for row in picked if row in places]
    names, lines, spreads = [], [], []
    if own:
        mean = values[own].mean(axis=0) - base
        lines.append(mean)
        names.append(f"picked, mean of {shown(len(own), ',')}")
        some = own[:: max(1, len(own) // SOME)]
        around = np.quantile(values[some], AROUND, axis=0) - base if len(own) > 1 else np.array([mean, mean])
        spreads.append(Ribbon(x, around[0], around[1]))
    curves: tuple[Curve, ...] = ()
    under = values[places[hovered]] if hovered is not None and hovered in places else None
    if here is not None and len(here.spectrum) == values.shape[1]:
        under = here.spectrum
    if under is not None:
        line = under - base
        if own:
            curves = (Curve(x, line, "alarm", width=1.3, behind=False),)
        else:
            lines.append(line)
            names.append("under the cursor")
    note = "; ".join(
        [
            *(names[:1] if own else []),
            *(["red: under the cursor"] if curves else names[:1] if not own else []),
        ]
    )
    if not lines:
        lines, names = [usual.median - base], ["median of all pixels"]
        note = "median; point at a map, or pick"
    return Chart(
        title="Spectra",
        note=f"{note} · grey: 90 % of all pixels",
        x_title=treated.axis.title,
        y_title="less the mean" if less else treated.signal or "value",
        lines=Lines(
            x,
            np.array(lines),
            np.arange(len(lines)),
            np.zeros(len(lines), dtype=np.intp),
            tuple(names),
            role="component",
        ),
        ribbon=Ribbon(x, usual.low - base, usual.high - base),
        spreads=tuple(spreads),
        curves=curves,
        rules=(Rule(0.0),) if less else (),
        tick_names=() if treated.axis.ordered else treated.axis.labels,
        bars=False,
    )


MANY = 4_000
"""Pixels of which the range of all is found; of more, so many evenly spaced."""


@frozen(eq=False)
class Usual:
    """Of all pixels, channel by channel: mean, median, and where nine tenths lie between; (p,) each."""

    mean: Floats
    median: Floats
    low: Floats
    high: Floats


_usual: WeakKeyDictionary[Table, Usual] = WeakKeyDictionary()


def usual_of(treated: Table) -> Usual:
    """What is usual in a table; found once."""
    if treated not in _usual:
        rows = np.linspace(0, len(treated.ids) - 1, min(MANY, len(treated.ids))).astype(np.intp)
        low, median, high = np.quantile(treated.values[rows], (AROUND[0], 0.5, AROUND[1]), axis=0)
        _usual[treated] = Usual(sums(treated.values, 0) / len(treated.ids), median, low, high)
    return _usual[treated]


def loading_strip(found: Evaluation | None, subjects: Sequence[Subject], behind: Behind) -> Chart:
    """The loadings of the components that the maps show; the pattern of a smooth component."""
    smooth = [one.component for one in subjects if one.kind == "smooth"]
    if smooth:
        if found is None or behind.patterns is None:
            return nothing("Pattern of the map", "It is being computed.")
        axis, at = found.treated.axis, min(smooth[0], behind.patterns.shape[1] - 1)
        line = behind.patterns[:, at][np.newaxis, :]
        name = (f"smooth component {at + 1}",)
        return Chart(
            title="Pattern of the map",
            note="what a pixel gains with one SD of the smooth component",
            x_title=axis.title,
            y_title="per SD",
            lines=Lines(axis.places(), line, np.array([0]), np.array([0]), name, role="component"),
            rules=(Rule(0.0),),
            tick_names=() if axis.ordered else axis.labels,
            bars=not axis.ordered,
        )
    shown = [one.component for one in subjects if one.kind == "score"]
    chart = loadings(found, (shown[0], shown[-1]) if shown else (0, 0))
    return replace(chart, title="Loadings of the maps" if len(set(shown)) > 1 else "Loading of the map")


def readings(
    found: Evaluation, picked: Sequence[int], hovered: int | None, state: State, here: OnePixel | None = None
) -> list[tuple[str, str | float, str | float]]:
    """What the pixel under the cursor and the picked ones have: name, cursor, mean of the pick."""
    places, model = found.places(), found.model
    own = [places[row] for row in picked if row in places]
    at = places.get(hovered) if hovered is not None else None

    def both(values: Floats, live: float | None, divisor: float = 1.0) -> tuple[str | float, str | float]:
        one: str | float = "" if at is None else float(values[at]) / divisor
        one = one if live is None else live / divisor
        return one, "" if not own else float(values[own].mean()) / divisor

    nothing_here = at is None and here is None
    lines: list[tuple[str, str | float, str | float]] = [
        ("pixels", "" if nothing_here else 1, len(own) or "")
    ]
    for a in range(model.k):
        live = float(here.scores[a]) if here is not None and a < len(here.scores) else None
        lines.append((f"component {a + 1}", *both(model.scores[:, a], live)))
    distances = (
        ("T²", model.t2, model.t2_limit, None if here is None else here.t2),
        ("Q", model.q, model.q_limit, None if here is None else here.q),
    )
    for name, values, limit, live in distances:
        if limit.value:
            lines.append((f"{name} / limit", *both(values, live, limit.value)))
    table = state.table
    if table is not None and table.classes:
        column = next((c for c in table.classes if c.name == state.colour_by), table.classes[0])
        names = [column.values[row] for row in picked]
        often = max(set(names), key=names.count) if names else ""
        lines.append((column.name, column.values[hovered] if hovered is not None else "", often))
    return lines
