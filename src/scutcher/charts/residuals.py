"""The strip under the loadings: what the model leaves out of the picked samples, or why they are far."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.description import Chart, Lines, Ribbon, Rule, nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.core.arrays import Floats
from scutcher.core.distances.contributions import normal_band, q_shares, residuals, t2_shares
from scutcher.core.models.pca.component_model import ComponentModel
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation

ENOUGH = 600
MOST = 5
"""Samples drawn at once; more would hide each other."""

SHARES = {"residual": residuals, "q": q_shares, "t2": t2_shares}
TITLES = {
    "residual": "What the model leaves out of",
    "q": "Q shares of",
    "t2": "T² shares of",
}
UNITS = {"residual": "residual", "q": "share of Q", "t2": "share of T²"}


class BandMemo:
    """Keeps the normal range of the last model and kind of share: it takes every sample to find."""

    def __init__(self) -> None:
        self._of: tuple[object, int, str] | None = None
        self._ribbon: Ribbon | None = None

    def ribbon(self, places: Floats, z: Scaled, model: ComponentModel, kind: str) -> Ribbon:
        """The range over the axis; the same object while nothing changed."""
        of = (model.decomposition, model.k, kind)
        if self._ribbon is None or self._of != of:
            every = max(1, z.shape[0] // ENOUGH)  # a range does not need every sample of very many
            band = normal_band(SHARES[kind](z.rows(slice(None, None, every)), model))
            self._of, self._ribbon = of, Ribbon(places, band.low, band.high)
        return self._ribbon


def leftover(
    state: State, found: Evaluation | None, picked: tuple[int, ...], kind: str, memo: BandMemo
) -> Chart:
    """Residuals or shares of the picked samples against the normal range of all samples."""
    title = TITLES[kind]
    if found is None or state.table is None:
        return nothing(f"{title} a sample", "It appears with the first model.")
    places = found.places()
    rows = [row for row in picked if row in places]
    axis = found.treated.axis
    frame = Chart(
        title=f"{title} a sample",
        x_title=axis.title,
        y_title=UNITS[kind],
        ribbon=memo.ribbon(axis.places(), found.scaled, found.model, kind),
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )
    if not rows:
        why = "the picked samples are not in the model" if picked else "pick a sample on any view"
        return replace(frame, empty=why)
    shown = rows[:MOST]
    names = tuple(state.table.ids[row] for row in shown)
    return replace(
        frame,
        title=f"{title} {', '.join(names)}",
        note=f"first {MOST} of {len(rows)}" if len(rows) > MOST else "",
        lines=Lines(
            axis.places(),
            SHARES[kind](found.scaled.rows(np.array([places[row] for row in shown])), found.model),
            np.array(shown, dtype=np.intp),
            colouring_of(state).codes[shown],
            names,
        ),
    )
