"""Every pair of a series by likeness to a reference: a triangle, and the best in words."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Flags, Grid, nothing
from scutcher.charts.series.picture import WAITS, true_places
from scutcher.core.arrays import Floats
from scutcher.core.series.likeness import Pairs
from scutcher.core.words import shown
from scutcher.study.evaluation.series import Series

MOST = 400
"""Places along each side of the triangle."""

NARROWEST = 0.05
"""Likeness over which the colours go at least."""

LISTED = 8
"""Best pairs that are listed."""


def triangle(series: Series | None, pairs: Pairs | None, name: str) -> Chart:
    """Likeness of every pair; pairs that are no more than noise are left blank."""
    if series is None:
        return nothing("All pairs", WAITS)
    if pairs is None:
        return nothing("All pairs", "The pairs are being compared.")
    likeness = np.where(pairs.counts, pairs.likeness, np.nan)
    if not pairs.signed:
        likeness[np.tril_indices(len(likeness))] = np.nan
    known = likeness[np.isfinite(likeness)]
    if not len(known):
        return nothing("All pairs", f"No two spectra differ by more than noise along {name}.")
    places, rows = true_places(series.positions, MOST)
    picture = likeness[np.maximum(rows, 0)][:, np.maximum(rows, 0)]
    picture[rows < 0] = np.nan
    picture[:, rows < 0] = np.nan
    low, high = (-1.0, 1.0) if pairs.signed else _ends(known)
    title = series.order.title
    words = f"reach {shown(pairs.reach, '.2f')}; like {name}"
    return Chart(
        title="All pairs",
        note=words,
        x_title=f"b: {title}",
        y_title=f"a: {title}",
        grid=Grid(places, places, picture, low, max(high, low + 1e-6), signed=pairs.signed, downwards=True),
    )


def _ends(known: Floats) -> tuple[float, float]:
    """Colours from where the better half begins to differ, but never over less than what is told apart."""
    high, middle = float(known.max()), float(np.median(known))
    low = max(float(np.quantile(known, 0.1)), high - 5.0 * (high - middle))
    return max(min(low, high - NARROWEST), 0.0), high


def mark(series: Series, a: float, b: float) -> Flags:
    """A ring where the two handles meet."""
    return Flags(np.array([b]), np.array([a]))


def best_rows(series: Series, pairs: Pairs | None) -> list[list[str | float]]:
    """The best pairs: a, b, likeness, amplitude in standard errors, shift."""
    if pairs is None:
        return []
    rows: list[list[str | float]] = []
    for one, other in pairs.best(LISTED):
        rows.append(
            [
                shown(series.positions[one], ".6g"),
                shown(series.positions[other], ".6g"),
                shown(pairs.likeness[one, other], ".3f"),
                f"{pairs.z[one, other]:.0f}",
                shown(pairs.shift[one, other] + 0.0),
            ]
        )
    return rows


def said(series: Series, pairs: Pairs, name: str) -> str:
    """What there is to be seen, in one sentence."""
    best = pairs.best(1)
    if not best:
        return f"no pair differs by more than noise along {name}"
    one, other = best[0]
    ends = (
        f"{shown(series.positions[one], '.6g')} and {shown(series.positions[other], '.6g')} "
        f"{series.order.unit}".strip()
    )
    likeness = abs(float(pairs.likeness[one, other]))
    if pairs.reach < 0.5:
        return f"nothing here looks like {name}: reach {shown(pairs.reach, '.2f')}"
    return f"most like {name}: {ends}, likeness {shown(likeness, '.3f')}"
