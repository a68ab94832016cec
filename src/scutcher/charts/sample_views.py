"""Rebuilt samples, the ends of the components, a probe on the score plane, one channel over all samples."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Marks, Ribbon, as_keys, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.core.arrays import Floats
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation

NEAREST = 3
FAR = 2.0
"""A probe is in the open where the nearest sample is farther than so many typical distances."""


def unscaled(found: Evaluation, z: Floats) -> Floats:
    """Centred and scaled values back as treated data, (m, p) → (m, p); constants come back as they were."""
    weight = found.scaler.weight
    back = np.divide(z, weight, out=np.zeros_like(z), where=weight > 0.0)
    return back + found.scaler.centre


def _shown(found: Evaluation, z: Floats) -> Floats:
    """Treated data on an ordered axis; mixed variables stay scaled, since they have no common unit."""
    return unscaled(found, z) if found.treated.axis.ordered else z


def _frame(found: Evaluation, title: str, note: str, lines: Lines, **more: object) -> Chart:
    axis, treated = found.treated.axis, found.treated
    unit = f" / {treated.signal_unit}" if treated.signal_unit else ""
    return Chart(
        title=title,
        note=note,
        x_title=axis.title,
        y_title=f"{treated.signal.split(', ')[-1]}{unit}" if axis.ordered else "scaled value",
        bars=not axis.ordered and "curves" not in more,
        lines=lines,
        tick_names=() if axis.ordered else axis.labels,
        **more,  # type: ignore[arg-type]
    )


def rebuilt(state: State, found: Evaluation | None, picked: tuple[int, ...]) -> Chart:
    """The first picked sample, what k components make of it, and the difference (as it is, round zero)."""
    if found is None or state.table is None:
        return nothing("Rebuild", "It appears with the first model.")
    places = found.places()
    rows = [row for row in picked if row in places]
    if not rows:
        return nothing("Rebuild", "Pick a sample: here it stands beside what the components make of it.")
    row = places[rows[0]]
    model = found.model
    z = model.scores[row : row + 1] @ model.loadings.T
    own = found.scaled.rows(slice(row, row + 1))
    measured, fitted = _shown(found, own)[0], _shown(found, z)[0]
    x = found.treated.axis.places()
    lines = Lines(
        x,
        np.vstack([measured, fitted, measured - fitted]),
        as_keys([0, 1, 2]),
        as_keys([0, 1, 2]),
        ("measured", "rebuilt", "difference"),
        role="class",
    )
    share = 1.0 - float(model.q[row]) / max(float((own**2).sum()), 1e-300)
    note = f"{state.table.ids[rows[0]]}: {model.k} components rebuild {shown(100 * share, '.1f')} % of it"
    return _frame(found, "Rebuild", note, lines)


def extremes(state: State, found: Evaluation | None, component: int) -> Chart:
    """The samples at both ends of a component, and the mean ± 1, 2, 3 SD along it."""
    if found is None or state.table is None:
        return nothing("Extremes", "It appears with the first model.")
    component = min(component, found.model.k - 1)
    scores = found.model.scores[:, component]
    low, high = int(scores.argmin()), int(scores.argmax())
    deviation = float(np.sqrt(found.decomposition.eigenvalues[component]))
    steps = np.array([-2.0, 2.0])[:, np.newaxis] * deviation
    along = _shown(found, steps * found.model.loadings[:, component])
    x = found.treated.axis.places()
    mean = _shown(found, np.zeros((1, len(x))))[0]
    lines = Lines(
        x,
        _shown(found, found.scaled.rows(np.array([low, high]))),
        as_keys([0, 1]),
        as_keys([0, 1]),
        (found.treated.ids[low], found.treated.ids[high]),
        role="class",
    )
    band = Ribbon(x, along.min(axis=0), along.max(axis=0))
    note = f"component {component + 1}: {lines.names[0]} lowest, {lines.names[1]} highest; band: mean ± 2 SD"
    return _frame(found, "Extremes", note, lines, ribbon=band, curves=(Curve(x, mean, "quiet"),))


def probe(state: State, found: Evaluation | None, pair: tuple[int, int], at: tuple[float, float]) -> Chart:
    """The signal that a point of the score plane stands for, beside the nearest real samples.

    The other components are at zero. The note says so where there are no samples nearby.
    """
    if found is None or state.table is None:
        return nothing("Probe", "It appears with the first model.")
    model = found.model
    z = at[0] * model.loadings[:, pair[0]] + at[1] * model.loadings[:, pair[1]]
    signal = _shown(found, z[np.newaxis, :])
    spread = np.sqrt(found.decomposition.eigenvalues[list(pair)])
    away = np.hypot(*((model.scores[:, list(pair)] - np.array(at)) / spread).T)
    nearest = np.argsort(away)[:NEAREST]
    rows = found.usable.rows[nearest]
    alone = is_far(model.scores[:, list(pair)] / spread, float(away[nearest[0]]))
    x = found.treated.axis.places()
    lines = Lines(
        x,
        _shown(found, found.scaled.rows(nearest)),
        rows,
        colouring_of(state).codes[rows],
        ids_of_rows(state.table, rows),
    )
    words = (
        "no samples near here: the line is made up by the model"
        if alone
        else f"nearest: {', '.join(lines.names)}"
    )
    curve = Curve(x, signal[0], "quiet" if alone else "ink", width=2.2, dashes=alone, behind=False)
    return _frame(found, "Probe", words, lines, curves=(curve,))


def is_far(points: Floats, distance: float) -> bool:
    """Whether a distance is more than twice the typical one from a sample to its nearest other."""
    some = points[:: max(1, len(points) // 300)]
    squares = ((some[:, np.newaxis, :] - points[np.newaxis, :, :]) ** 2).sum(axis=2)
    squares[squares == 0.0] = np.inf
    typical = float(np.quantile(np.sqrt(squares.min(axis=1)), 0.9))
    return distance > FAR * typical


def channel_run(state: State, found: Evaluation | None, channel: float | None) -> Chart:
    """The raw values of one channel over all samples, in the order of the table."""
    table = state.table
    if found is None or table is None:
        return nothing("Channel in run order", "It appears with the first model.")
    axis = table.axis
    column = (
        int(np.abs(axis.places() - channel).argmin()) if channel is not None else int(found.usable.columns[0])
    )
    rows = table.used_rows()
    unit = f" / {table.signal_unit}" if table.signal_unit else ""
    return Chart(
        title="Channel in run order",
        note=axis.name(column),
        x_title="run order",
        y_title=f"{table.signal}{unit}",
        marks=Marks(
            (rows + 1.0).astype(np.float64),
            table.values[rows, column],
            rows,
            colouring_of(state).codes[rows],
            ids_of_rows(table, rows),
        ),
    )
