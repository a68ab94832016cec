"""The strip under the loadings: what the model leaves out of the picked samples, or why they are far."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.description import Chart, Lines, Ribbon, Rule, nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.core.arrays import Floats, Integers
from scutcher.core.distances.contributions import (
    Shares,
    means_by,
    normal_range,
    q_shares,
    residuals,
    t2_shares,
)
from scutcher.core.progress import Watch
from scutcher.core.validation.segments import group_codes
from scutcher.core.words import count_of, counted
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation

ENOUGH = 600
MOST = 5
"""Samples drawn at once; more would hide each other."""
MIDDLE = (1 / 6, 5 / 6)

SHARES: dict[str, Shares] = {"residual": residuals, "q": q_shares, "t2": t2_shares}
TITLES = {
    "residual": "Residuals of",
    "q": "Q shares of",
    "t2": "T² shares of",
}
UNITS = {"residual": "residual", "q": "share of Q", "t2": "share of T²"}


def picked_group(found: Evaluation, picked: tuple[int, ...]) -> Integers:
    """Places in the model of a pick that is shown by its mean; none of a smaller one."""
    places = found.places() if picked else {}  # of 100,000 samples that takes a frame
    rows = [places[row] for row in picked if row in places]
    return np.array(rows if len(rows) > MOST else (), dtype=np.intp)


def reference_rows(found: Evaluation, group: Integers) -> Integers:
    """The samples that a normal range rests on: it does not need every one of very many."""
    n = found.scaled.shape[0]
    others = np.setdiff1d(np.arange(0, n, max(1, n // ENOUGH)), group)
    return others if len(others) else np.arange(n)


def usual_range(found: Evaluation, kind: str, group: Integers, watch: Watch | None = None) -> Ribbon:
    """The normal range of residuals or shares over the axis; of a group that of means of as many others.

    Parameters
    ----------
    kind : "residual", "q" or "t2"
    group : see `picked_group`
    watch : Watch, optional

    Raises
    ------
    Stopped
    """
    rows = reference_rows(found, group)
    codes = group_codes(found.part) if len(group) else group
    groups = len(np.unique(codes[group]))
    means = means_by(len(group), codes[rows], groups) if len(group) else means_by(1, codes, 1)
    band = normal_range(found.scaled.rows(rows), found.model, SHARES[kind], means, watch)
    return Ribbon(found.treated.axis.places(), band.low, band.high)


def unknown_range(found: Evaluation) -> Ribbon:
    """In its place while it is being computed."""
    x = found.treated.axis.places()
    return Ribbon(x, np.full(len(x), np.nan), np.full(len(x), np.nan))


def leftover(
    state: State, found: Evaluation | None, picked: tuple[int, ...], kind: str, ribbon: Ribbon | None = None
) -> Chart:
    """Residuals or shares of the picked samples against the normal range of all samples.

    Of more than a few the mean is drawn, with the middle two thirds of them around it, against means of as
    many others.

    Parameters
    ----------
    ribbon : the normal range where it is known by now; None: it is found here
    """
    title = TITLES[kind]
    if found is None or state.table is None:
        return nothing(f"{title} a sample", "It appears with the first model.")
    group = picked_group(found, picked)
    places = found.places() if picked else {}
    rows = [row for row in picked if row in places]
    axis = found.treated.axis
    frame = Chart(
        title=f"{title} a sample",
        x_title=axis.title,
        y_title=UNITS[kind],
        ribbon=usual_range(found, kind, group) if ribbon is None else ribbon,
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )
    if not rows:
        why = "the picked samples are not in the model" if picked else "pick a sample"
        return replace(frame, empty=why)
    shares = SHARES[kind](found.scaled.rows(np.array([places[row] for row in rows])), found.model)
    codes = colouring_of(state).codes[rows]
    if len(group):
        return _mean_of(frame, title, shares, codes)
    names = tuple(state.table.ids[row] for row in rows)
    return replace(
        frame,
        title=f"{title} {', '.join(names)}",
        lines=Lines(axis.places(), shares, np.array(rows, dtype=np.intp), codes, names),
    )


def _mean_of(frame: Chart, title: str, shares: Floats, codes: Integers) -> Chart:
    """The mean of many, with the middle two thirds of them."""
    assert frame.ribbon is not None
    x, name = frame.ribbon.x, f"mean of {counted(shares)}"
    low, high = np.quantile(shares, MIDDLE, axis=0)
    code = np.unique(codes) if len(np.unique(codes)) == 1 else np.array([-1])
    mean = shares.mean(axis=0)[np.newaxis, :]
    return replace(
        frame,
        title=f"{title} {count_of(shares)}",
        note="mean and middle two thirds; grey: means of as many others",
        lines=Lines(x, mean, np.array([-1]), code, (name,), role="class"),
        spreads=(Ribbon(x, low, high),),
    )
