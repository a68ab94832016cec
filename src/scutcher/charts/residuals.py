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
    normal_band,
    normal_range,
    q_shares,
    residuals,
    t2_shares,
)
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch
from scutcher.core.validation.segments import group_codes
from scutcher.core.words import count_of, counted
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation

ENOUGH = 600
MOST = 5
"""Samples drawn at once; more would hide each other."""
MIDDLE = 2 / 3
"""Share of a pick of many that is drawn around its mean."""

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


@frozen(eq=False)
class Usual:
    """The normal range of residuals or shares, and of a group of several its mean (p,) and middle."""

    ribbon: Ribbon
    mean: Floats | None = None
    middle: Ribbon | None = None


def usual_range(found: Evaluation, kind: str, group: Integers, watch: Watch | None = None) -> Usual:
    """What is normal over the axis; for a group the range of means of as many others.

    Parameters
    ----------
    kind : "residual", "q" or "t2"
    group : see `picked_group`
    watch : Watch, optional

    Raises
    ------
    Stopped
    """
    rows, x = reference_rows(found, group), found.treated.axis.places()
    codes = group_codes(found.part) if len(group) else np.zeros(len(found.part.ids), dtype=np.intp)
    means = means_by(len(group), codes[rows], len(np.unique(codes[group])))
    band = normal_range(found.scaled.rows(rows), found.model, SHARES[kind], means, watch)
    ribbon = Ribbon(x, band.low, band.high)
    if not len(group):
        return Usual(ribbon)
    own = SHARES[kind](found.scaled.rows(group), found.model)
    middle = normal_band(own, MIDDLE)
    return Usual(ribbon, own.mean(axis=0), Ribbon(x, middle.low, middle.high))


def unknown_range(found: Evaluation, group: Integers) -> Usual:
    """In its place while it is being computed."""
    x = found.treated.axis.places()
    nowhere = np.full(len(x), np.nan)
    ribbon = Ribbon(x, nowhere, nowhere)
    return Usual(ribbon, nowhere, ribbon) if len(group) else Usual(ribbon)


def leftover(
    state: State, found: Evaluation | None, picked: tuple[int, ...], kind: str, usual: Usual | None = None
) -> Chart:
    """Residuals or shares of the picked samples against the normal range of all samples.

    Of more than a few the mean is drawn, with the middle two thirds of them around it, against means of as
    many others.

    Parameters
    ----------
    usual : what is normal, where it is known by now; None: it is found here
    """
    title = TITLES[kind]
    if found is None or state.table is None:
        return nothing(f"{title} a sample", "It appears with the first model.")
    usual = usual_range(found, kind, picked_group(found, picked)) if usual is None else usual
    axis = found.treated.axis
    frame = Chart(
        title=f"{title} a sample",
        x_title=axis.title,
        y_title=UNITS[kind],
        ribbon=usual.ribbon,
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )
    places = found.places() if picked else {}
    rows = [row for row in picked if row in places]
    if not rows:
        why = "the picked samples are not in the model" if picked else "pick a sample"
        return replace(frame, empty=why)
    codes = colouring_of(state).codes[rows]
    if usual.mean is not None and usual.middle is not None:
        return _mean_of(frame, f"{title} {count_of(rows)}", usual.mean, usual.middle, codes)
    shares = SHARES[kind](found.scaled.rows(np.array([places[row] for row in rows])), found.model)
    names = tuple(state.table.ids[row] for row in rows)
    return replace(
        frame,
        title=f"{title} {', '.join(names)}",
        lines=Lines(axis.places(), shares, np.array(rows, dtype=np.intp), codes, names),
    )


def _mean_of(frame: Chart, title: str, mean: Floats, middle: Ribbon, codes: Integers) -> Chart:
    """The mean of many, with the middle two thirds of them."""
    code = np.unique(codes) if len(np.unique(codes)) == 1 else np.array([-1])
    name = f"mean of {counted(codes)}"
    return replace(
        frame,
        title=title,
        note="mean and middle two thirds; grey: means of as many others",
        lines=Lines(middle.x, mean[np.newaxis, :], np.array([-1]), code, (name,), role="class"),
        spreads=(middle,),
    )
