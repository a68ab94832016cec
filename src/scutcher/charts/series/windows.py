"""How many changes there are and when: singular values of growing, shrinking and moving windows."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Ribbon, as_keys, nothing
from scutcher.charts.series.picture import WAITS
from scutcher.core.arrays import Floats
from scutcher.core.data.series_order import SeriesOrder
from scutcher.core.series.evolving_rank import EvolvingRank
from scutcher.core.words import shown
from scutcher.study.evaluation.series import Series

SHOWN = 5
"""Values that are drawn."""

NAMES = ("1st", "2nd", "3rd", "4th", "5th", "6th", "7th", "8th")


def growing(series: Series | None, found: EvolvingRank | None, joined: bool) -> Chart:
    """Forward and backward singular values, logarithmic, with what noise makes.

    Parameters
    ----------
    joined : bool
        Whether the first to appear is joined with the last to vanish, an assumption; dashed.
    """
    if series is None:
        return nothing("Changes", WAITS)
    if found is None:
        return nothing("Changes", "The windows are being computed.")
    forward_at = series.positions[found.sizes - 1]
    backward_at = series.positions[len(series.rows) - found.sizes]
    forward, backward = _log(found.forward[:, :SHOWN]), _log(found.backward[:, :SHOWN])
    floor = float(np.nanmin([np.nanmin(forward), np.nanmin(backward)]))
    appears, gone = found.appears(), found.disappears()
    curves: list[Curve] = []
    for value in range(SHOWN):
        order = np.argsort(backward_at)
        curves.append(
            Curve(backward_at[order], backward[order, value], "class", value, dashes=True, behind=False)
        )
    curves += _beginnings(series, found, forward_at, forward)
    if joined:
        curves += _joined(series, found, appears, gone)
    limit = _log(found.limits(0)[:, np.newaxis])[:, 0]
    known = np.isfinite(limit)
    ribbon = Ribbon(forward_at[known], np.full(int(known.sum()), floor), limit[known])
    said = "solid from the first, dashed from the last; grey: noise, 99 %"
    return Chart(
        title="Changes",
        note=said,
        x_title=series.order.title,
        y_title=_value_title(series),
        lines=Lines(
            forward_at,
            forward.T,
            as_keys(range(SHOWN)),
            as_keys(range(SHOWN)),
            tuple(f"{name} forwards" for name in NAMES[:SHOWN]),
            role="class",
        ),
        ribbon=ribbon,
        curves=tuple(curves),
    )


def _value_title(series: Series) -> str:
    return "log₁₀ singular value" + (", not centred" if series.has_amounts else "")


def _beginnings(series: Series, found: EvolvingRank, x: Floats, forward: Floats) -> list[Curve]:
    """Where a change has begun, in words; where words would stand in each other's way, the first of them."""
    curves: list[Curve] = []
    apart, last = 0.22 * float(np.ptp(series.positions)), -np.inf
    for value, row in enumerate(found.appears()[: min(found.k + 1, SHOWN)]):
        if row is None or not value:
            continue
        at = float(series.positions[row])
        if abs(at - last) < apart:
            continue
        last = at
        name = f" {NAMES[value]} by {shown(at, '.6g')} {series.order.unit}".rstrip()
        top = _at(x, forward[:, value], at) + 0.25
        curves.append(Curve(np.array([at]), np.array([top]), "ink", name=name))
    return curves


def _joined(
    series: Series, found: EvolvingRank, appears: list[int | None], gone: list[int | None]
) -> list[Curve]:
    """First to appear with last to vanish: a bar for each along the foot."""
    there = [row for row in appears if row is not None]
    left = [row for row in gone if row is not None]
    pairs = list(zip(there, reversed(left), strict=False))
    low, high = np.nanmin(_log(found.forward[:, :SHOWN])), np.nanmax(_log(found.forward[:, :SHOWN]))
    curves = []
    for place, (first, last) in enumerate(pairs):
        height = float(low + (0.02 + 0.035 * place) * (high - low))
        ends = series.positions[[first, max(last, first)]]
        curves.append(Curve(ends, np.full(2, height), "class", place, width=3.0, dashes=True, behind=False))
    return curves


def moving(series: Series | None, width: int, found: Floats | None) -> Chart:
    """Singular values of windows of a fixed width, `moving_rank`; None while they are being computed."""
    if series is None or found is None:
        return nothing("Moving window", WAITS if series is None else "The windows are being looked at …")
    values = _log(found[:, :SHOWN])
    return Chart(
        title="Moving window",
        note=f"{width} spectra about each position",
        x_title=series.order.title,
        y_title=_value_title(series),
        lines=Lines(
            series.positions,
            values.T,
            as_keys(range(SHOWN)),
            as_keys(range(SHOWN)),
            tuple(f"{name} value" for name in NAMES[:SHOWN]),
            role="class",
        ),
    )


def verdict_rows(series: Series) -> list[list[str | float]]:
    """Each component: its share, its structure along the order and along the axis, and what that says."""
    rows: list[list[str | float]] = []
    for place, verdict in enumerate(series.components.verdicts[:12]):
        along, axis = verdict.along_order, verdict.along_axis
        said = "too few spectra to say"
        if along is not None:
            said = "goes along" if verdict.is_structure else "noise"
        rows.append(
            [
                str(place + 1),
                shown(100.0 * verdict.share, ".3g"),
                "" if along is None else shown(along.products, ".2f"),
                "" if along is None else shown(along.expected + 2.326 * along.variance**0.5, ".2f"),
                "" if axis is None else shown(axis.z, ".1f"),
                said,
            ]
        )
    return rows


def changes_said(order: SeriesOrder, series: Series, found: EvolvingRank) -> str:
    """Changes after the first two states, in words; "" for none."""
    later = [
        (value, row)
        for value, row in enumerate(found.appears()[: found.k + 2])
        if row is not None and value >= 2
    ]
    if not later:
        return ""
    value, row = later[0]
    more = f" and {len(later) - 1} more" if len(later) > 1 else ""
    at = f"{shown(series.positions[row], '.6g')} {order.unit}".strip()
    return f"by {at} a {('third', 'fourth', 'fifth', 'sixth')[min(value - 2, 3)]} change shows{more}"


def _log(values: Floats) -> Floats:
    found: Floats = np.full(values.shape, np.nan)
    known = np.isfinite(values) & (values > 0.0)
    largest = float(values[known].max()) if known.any() else 1.0
    known &= values > 1e-12 * largest
    found[known] = np.log10(values[known])
    return found


def _at(x: Floats, y: Floats, place: float) -> float:
    known = np.isfinite(y)
    return float(np.interp(place, x[known], y[known])) if known.any() else 0.0
