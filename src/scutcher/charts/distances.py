"""Distances to the model as shares of their limits: on a plane, and in run order."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Marks, Rule, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.core.arrays import Floats
from scutcher.core.distances.limits import Limit
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.saving import SeenAsNew

KINDS = {"t2": "T²", "q": "Q", "joint": "joint"}


def distance_and_limit(
    found: Evaluation, kind: str, seen: SeenAsNew | None = None
) -> tuple[Floats | None, Limit | None]:
    """The distances of one kind, (n,), and their limit: as fitted, or as if the samples were new."""
    if seen is not None:
        return seen.distances[kind], seen.limits[kind]
    model = found.model
    return {
        "t2": (model.t2, model.t2_limit),
        "q": (model.q, model.q_limit),
        "joint": (model.joint, model.joint_limit),
    }[kind]


def scaled_distance(found: Evaluation, kind: str, seen: SeenAsNew | None = None) -> tuple[Floats, str, bool]:
    """Distances in units of their limit, the axis title, and whether there is a limit.

    Where the limit is undefined the distances are shown as they are, and the title says so.
    """
    distances, limit = distance_and_limit(found, kind, seen)
    if distances is None:
        return np.zeros(found.scaled.shape[0]), f"{KINDS[kind]} is undefined", False
    if limit is None or limit.value is None or limit.value <= 0.0:
        return distances, f"{KINDS[kind]} (no limit)", False
    return distances / limit.value, f"{KINDS[kind]} / limit", True


def distances(state: State, found: Evaluation | None, log: bool, seen: SeenAsNew | None = None) -> Chart:
    """T² against Q, each over its limit, the limits drawn at 1; as fitted, or as if the samples were new."""
    if found is None or state.table is None:
        return nothing("Distance to the model", "It appears with the first model.")
    x, x_title, x_limit = scaled_distance(found, "t2", seen)
    y, y_title, y_limit = scaled_distance(found, "q", seen)
    rules = []
    if x_limit:
        rules.append(Rule(0.0 if log else 1.0, vertical=True, alarm=True))
    if y_limit:
        rules.append(Rule(0.0 if log else 1.0, alarm=True))
    rows = found.usable.rows
    if log:
        x, y = _log(x), _log(y)
        x_title, y_title = f"log₁₀ {x_title}", f"log₁₀ {y_title}"
    return Chart(
        title="Distance to the model",
        note=f"limits {shown(100.0 * found.recipe.limits.level)} %{basis_words(found, seen)}",
        x_title=x_title,
        y_title=y_title,
        marks=Marks(x, y, rows, colouring_of(state).codes[rows], ids_of_rows(state.table, rows)),
        rules=tuple(rules),
    )


def basis_words(found: Evaluation, seen: SeenAsNew | None) -> str:
    """Which distances against which limits, where it is not the fit's own."""
    if seen is not None:
        return ", as if new" + (f" ({seen.caution})" if seen.caution else "")
    waits = found.recipe.limits.distances == "held-out"
    return ", as fitted: not validated" if waits else ""


def _log(values: Floats) -> Floats:
    """Common logarithm; zeros are drawn at the smallest value above zero."""
    positive = values[values > 0.0]
    floor = positive.min() if positive.size else 1.0
    logs: Floats = np.log10(np.maximum(values, floor))
    return logs


def run_order(state: State, found: Evaluation | None, kind: str, seen: SeenAsNew | None = None) -> Chart:
    """One kind of distance in the order of the table, over its limit."""
    if found is None or state.table is None:
        return nothing("Distance in run order", "It appears with the first model.")
    values, title, has_limit = scaled_distance(found, kind, seen)
    rows = found.usable.rows
    return Chart(
        title="Distance in run order",
        note=f"1 = {shown(100.0 * found.recipe.limits.level)} % limit{basis_words(found, seen)}"
        if has_limit
        else "no limit",
        x_title="run order",
        y_title=title,
        marks=Marks(
            np.asarray(rows + 1.0, dtype=np.float64),
            values,
            rows,
            colouring_of(state).codes[rows],
            ids_of_rows(state.table, rows),
        ),
        rules=(Rule(1.0, alarm=True),) if has_limit else (),
    )
