"""A series as a picture, position by channel, drawn true to its spacing; and as a waterfall."""

from __future__ import annotations

import math

import numpy as np

from scutcher.charts.description import Chart, Grid, Lines, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.series_order import GAP
from scutcher.core.frozen import frozen
from scutcher.study.document.state import State
from scutcher.study.evaluation.series import Series

MOST_ROWS, MOST_COLUMNS = 600, 1400
MOST_LINES = 60
"""Spectra of a waterfall."""

WAITS = "A series appears with a model of samples in an order, once its components are computed."


@frozen
class Kind:
    """What a picture of a series shows: its words, whether it has a sign, what it means."""

    words: str
    signed: bool
    tip: str


ENOUGH = 500_000
"""Values that tell the ends of the colours."""

KINDS: dict[str, Kind] = {
    "plain": Kind("as they are", False, "The treated spectra"),
    "less": Kind("less the mean", True, "Each spectrum less the mean of the series"),
    "rebuilt": Kind("rebuilt", True, "The mean and the components kept here, less the mean"),
    "away": Kind("taken away", True, "What rebuilding leaves out: it should be noise"),
    "q": Kind("left over by the model", True, "Residuals of the model, scaled: what, and when"),
    "t2": Kind("shares of T²", True, "What each channel adds to the T² of each sample"),
}


def picture(series: Series | None, kind: str, k: int) -> Chart:
    """The series as a grid, the first position at the top."""
    if series is None:
        return nothing("Series", WAITS)
    values = picture_values(series, kind, k)
    signed = KINDS[kind].signed or not series.has_amounts
    axis = series.found.treated.axis
    y, rows = true_places(series.positions, MOST_ROWS)
    x, columns = _columns(series.places)
    shown = _at(values, rows, columns)
    low, high = colour_range(values, signed)
    note = f"{series.order.quantity} runs down; drag a and b"
    if kind in ("rebuilt", "away"):
        note = f"{k} component{'s' * (k != 1)} kept; {note}"
    return Chart(
        title=f"Series, {series.value_title if kind in ('plain', 'less') else KINDS[kind].words}",
        note=note,
        x_title=axis.title,
        y_title=series.order.title,
        grid=Grid(x, y, shown, low, high, signed, downwards=True),
        tick_names=() if axis.ordered else axis.labels,
    )


def _at(values: Floats, rows: Integers, columns: Integers) -> Floats:
    """Some rows, −1 for a gap, and columns; the values themselves where that is all of them."""
    n, p = values.shape
    if np.array_equal(rows, np.arange(n)) and np.array_equal(columns, np.arange(p)):
        return values
    found: Floats = values[np.ix_(np.maximum(rows, 0), columns)]
    found[rows < 0] = np.nan
    return found


def picture_values(series: Series, kind: str, k: int) -> Floats:
    """What a picture shows, (m, p)."""
    components = series.components
    if kind == "plain":
        return series.values
    if kind == "less":
        return series.values - components.mean
    if kind in ("rebuilt", "away"):
        rebuilt = components.rebuilt(k)
        return rebuilt - components.mean if kind == "rebuilt" else series.values - rebuilt
    model, found = series.found.model, series.found
    places = found.places()
    own = np.array([places[row] for row in series.rows.tolist()])
    z = found.scaled.rows(own)
    if kind == "q":
        left: Floats = z - model.scores[own] @ model.loadings.T
        return left
    weights = model.scores[own] / model.decomposition.eigenvalues[: model.k]
    shares: Floats = (weights @ model.loadings.T) * z
    return shares


def colour_range(values: Floats, signed: bool) -> tuple[float, float]:
    """Robust ends of the colours: of a signed picture about zero; some of very many values tell them."""
    step = max(values.size // ENOUGH, 1)
    while math.gcd(step, values.shape[-1]) > 1:  # else they would be those of a few channels
        step += 1
    some = values.ravel()[::step]
    known = some[np.isfinite(some)]
    if not len(known):
        return 0.0, 1.0
    if signed:
        end = float(np.quantile(np.abs(known), 0.995)) or 1.0
        return -end, end
    low, high = (float(at) for at in np.quantile(known, (0.005, 0.995)))
    return (low, high) if high > low else (low, low + 1.0)


def true_places(positions: Floats, most: int) -> tuple[Floats, Integers]:
    """Even places from first to last and the row that each shows, −1 in a gap; (r,) and (r,)."""
    steps = np.diff(positions)
    some = steps[steps > 0.0]
    if not len(some):
        return np.arange(1.0, len(positions) + 1.0), np.arange(len(positions))
    least, typical = float(some.min()), float(np.median(some))
    span = float(positions[-1] - positions[0])
    if least > 0.999 * float(some.max()) and len(some) == len(steps):
        return positions, np.arange(len(positions))
    count = int(np.clip(np.ceil(2.0 * span / least) + 1, len(positions), most))
    places = np.linspace(positions[0], positions[-1], count)
    nearest = np.abs(places[:, np.newaxis] - positions).argmin(axis=1)
    far = np.abs(places - positions[nearest])
    reach = np.full(len(positions), np.inf)
    wide = np.flatnonzero(steps > GAP * typical)
    reach[wide] = reach[wide + 1] = 0.6 * typical
    return places, np.where(far <= reach[nearest], nearest, -1)


def _columns(places: Floats) -> tuple[Floats, Integers]:
    """Even places along the axis and the channel that each shows."""
    steps = np.diff(places)
    if len(places) < 3 or np.allclose(steps, steps.mean(), rtol=1e-3):
        return places, np.arange(len(places))
    count = int(min(max(len(places), 2.0 * np.ptp(places) / np.abs(steps).min()), MOST_COLUMNS))
    even = np.linspace(places[0], places[-1], count)
    rising = places if places[0] < places[-1] else places[::-1]
    at = np.clip(np.searchsorted(0.5 * (rising[1:] + rising[:-1]), even), 0, len(places) - 1)
    return even, at if places[0] < places[-1] else len(places) - 1 - at


def waterfall(state: State, series: Series | None) -> Chart:
    """The spectra one above the other, each lifted by its position."""
    if series is None or state.table is None:
        return nothing("Waterfall", WAITS)
    every = max(1, -(-len(series.rows) // MOST_LINES))
    rows, values = series.rows[::every], series.values[::every]
    part = (series.positions[::every] - series.positions[0]) / (np.ptp(series.positions) or 1.0)
    lift = 0.9 * float(np.ptp(values))
    axis = series.found.treated.axis
    words = "" if every == 1 else f", every {every}th spectrum"
    return Chart(
        title="Waterfall",
        note=f"lifted by {series.order.quantity}, the last at the top{words}",
        x_title=axis.title,
        y_title=f"{series.value_title}, lifted",
        lines=Lines(
            series.places,
            values + lift * part[:, np.newaxis],
            rows,
            colouring_of(state).codes[rows],
            ids_of_rows(state.table, rows),
        ),
        tick_names=() if axis.ordered else axis.labels,
    )
