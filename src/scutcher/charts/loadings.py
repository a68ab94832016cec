"""The loadings strip: the two components of the score plane, variable by variable."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Lines, Ribbon, Rule, as_keys, nothing
from scutcher.charts.whole_numbers import all_loadings
from scutcher.core.models.pca.component_model import explained
from scutcher.core.validation.stability import TIMES_ERROR, Stability
from scutcher.core.words import shown
from scutcher.study.evaluation.evaluation import Evaluation


def component_title(found: Evaluation, component: int) -> str:
    """`component 1 (50.4 %)`; the share is that of the total variance."""
    share = explained(found.decomposition)[component]
    return f"component {component + 1} ({shown(100.0 * share, '.1f')} %)"


def loadings(found: Evaluation | None, pair: tuple[int, int], stable: Stability | None = None) -> Chart:
    """The loadings of a pair of components that are kept; where it is known, how far they would move."""
    if found is None:
        return nothing("Loadings", "They appear with the first model.")
    chosen = list(dict.fromkeys(component for component in pair if component < found.model.k))
    axis = found.treated.axis
    values = found.model.loadings[:, chosen].T
    spreads: tuple[Ribbon, ...] = ()
    if stable is not None:
        away = TIMES_ERROR * stable.errors[:, chosen].T
        spreads = tuple(
            Ribbon(axis.places(), one - band, one + band) for one, band in zip(values, away, strict=True)
        )
    return Chart(
        title="Loadings",
        x_title=axis.title,
        y_title="loading",
        lines=Lines(
            axis.places(),
            values,
            as_keys(chosen),
            as_keys(range(len(chosen))),
            tuple(f"component {component + 1}" for component in chosen),
            role="component",
            faint=None if stable is None else np.abs(values) < away,
        ),
        spreads=spreads,
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
        whole=all_loadings(found),
    )
