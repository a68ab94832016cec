"""The strip under the loadings: what the model leaves out of the picked samples, or why they are far."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.description import Chart, Lines, Ribbon, Rule, nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.core.arrays import Floats, Integers
from scutcher.core.distances.contributions import (
    means_of_groups,
    normal_band,
    q_shares,
    residuals,
    t2_shares,
)
from scutcher.core.validation.segments import group_codes
from scutcher.core.words import count_of, counted
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation

ENOUGH = 600
MOST = 5
"""Samples drawn at once; more would hide each other."""
MIDDLE = (1 / 6, 5 / 6)

SHARES = {"residual": residuals, "q": q_shares, "t2": t2_shares}
TITLES = {
    "residual": "Residuals of",
    "q": "Q shares of",
    "t2": "T² shares of",
}
UNITS = {"residual": "residual", "q": "share of Q", "t2": "share of T²"}


class BandMemo:
    """Keeps the normal range of the last model and kind of share: it takes every sample to find."""

    def __init__(self) -> None:
        self._of: tuple[object, int, str, tuple[int, ...]] | None = None
        self._ribbon: Ribbon | None = None

    def ribbon(self, found: Evaluation, kind: str, group: tuple[int, ...] = ()) -> Ribbon:
        """The range over the axis; the same object while nothing changed.

        Parameters
        ----------
        group : rows of the model
            A pick of several: the range is that of means of as many other samples.
        """
        of = (found.decomposition, found.model.k, kind, group)
        if self._ribbon is None or self._of != of:
            n = found.scaled.shape[0]
            every = max(1, n // ENOUGH)  # a range does not need every sample of very many
            others = np.setdiff1d(np.arange(0, n, every), group)
            rows = others if len(others) else np.arange(n)
            shares = SHARES[kind](found.scaled.rows(rows), found.model)
            if group:
                codes = group_codes(found.part)
                count = len(np.unique(codes[list(group)]))
                shares = means_of_groups(shares, len(group), codes[rows], count)
            band = normal_band(shares)
            self._of, self._ribbon = of, Ribbon(found.treated.axis.places(), band.low, band.high)
        return self._ribbon


def leftover(
    state: State, found: Evaluation | None, picked: tuple[int, ...], kind: str, memo: BandMemo
) -> Chart:
    """Residuals or shares of the picked samples against the normal range of all samples.

    Of more than a few the mean is drawn, with the middle two thirds of them around it, against means of as
    many others.
    """
    title = TITLES[kind]
    if found is None or state.table is None:
        return nothing(f"{title} a sample", "It appears with the first model.")
    places = found.places() if picked else {}  # of 100,000 samples that takes a frame
    rows = [row for row in picked if row in places]
    axis = found.treated.axis
    group = tuple(places[row] for row in rows) if len(rows) > MOST else ()
    frame = Chart(
        title=f"{title} a sample",
        x_title=axis.title,
        y_title=UNITS[kind],
        ribbon=memo.ribbon(found, kind, group),
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )
    if not rows:
        why = "the picked samples are not in the model" if picked else "pick a sample"
        return replace(frame, empty=why)
    shares = SHARES[kind](found.scaled.rows(np.array([places[row] for row in rows])), found.model)
    codes = colouring_of(state).codes[rows]
    if group:
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
