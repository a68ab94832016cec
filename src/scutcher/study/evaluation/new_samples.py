"""New samples on the model of a study, and samples set aside that are projected all the same."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Integers
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.saved_model import Projected, SavedModel, project
from scutcher.core.unmixing.saved_mixture import NewAmounts
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.mixtures import new_amounts
from scutcher.study.evaluation.saving import saved_model
from scutcher.study.results.apply_results import past_limits

TOP = 3


@frozen(eq=False)
class Newcomers:
    """New samples as the model sees them.

    Attributes
    ----------
    table : Table
        As they were brought in.
    model : SavedModel
    found : Projected
    past : dict of "t2", "q", "joint" → (m,) bool array or None
    amounts : NewAmounts or None
        Of the shapes of the model, where it has any.
    """

    table: Table
    model: SavedModel
    found: Projected
    past: dict[str, Booleans | None]
    amounts: NewAmounts | None = None

    def belongs(self, row: int) -> bool:
        """Whether a sample is within the limit of the joint distance; where there is none, of T² and Q."""
        joint = self.past.get("joint")
        if joint is not None:
            return not bool(joint[row])
        return not any(bool(flag[row]) for flag in self.past.values() if flag is not None)

    def reasons(self, row: int) -> str:
        """Which limits it is past, and the channels with the largest residuals."""
        words = {"t2": "T²", "q": "Q", "joint": "joint"}
        over = [words[name] for name, flag in self.past.items() if flag is not None and flag[row]]
        if not over:
            return ""
        return f"past {', '.join(over)}; most at {', '.join(self.top_channels(row))}"

    def rows(self) -> tuple[list[str], list[list[object]]]:
        """Every new sample with its verdict, distances, scores and reasons; refused ones last."""
        found, k = self.found, self.model.k
        header = ["sample", "belongs", "T²", "Q", "joint", "why not", *(f"PC{a + 1}" for a in range(k))]
        of_shapes = self._of_shapes()
        header += of_shapes[0]
        rows: list[list[object]] = []
        for row, name in enumerate(found.table.ids):
            joint = "" if found.joint is None else float(found.joint[row])
            verdict = "yes" if self.belongs(row) else "no"
            distances = [float(found.t2[row]), float(found.q[row]), joint]
            own = [name, verdict, *distances, self.reasons(row), *map(float, found.scores[row])]
            rows.append([*own, *of_shapes[1].get(name, [""] * len(of_shapes[0]))])
        for row, why in sorted(found.refused.items()):
            rows.append([self.table.ids[row], "", "", "", "", why, *[""] * (k + len(of_shapes[0]))])
        return header, rows

    def _of_shapes(self) -> tuple[list[str], dict[str, list[object]]]:
        """A column for each shape and one for what is left over, by sample."""
        amounts = self.amounts
        if amounts is None:
            return [], {}
        header = [*(f"amount of {name}" for name in amounts.names), "past noise"]
        rows: dict[str, list[object]] = {}
        for row, name in enumerate(amounts.table.ids):
            past = "" if amounts.past is None else "yes" if amounts.past[row] else "no"
            rows[name] = [*map(float, amounts.sums.amounts[row]), past]
        return header, rows

    def top_channels(self, row: int) -> list[str]:
        """The channels that its residual is largest at; on an ordered axis no two within a fiftieth of it."""
        away = self.found.z[row] - self.found.scores[row] @ self.model.loadings.T
        axis, order = self.found.table.axis, np.argsort(-np.abs(np.nan_to_num(away)))
        return [axis.name(column) for column in axis.apart(order, 50, TOP)]


def newcomers(
    found: Evaluation, table: Table, resample: bool = False, checked: Checked | None = None
) -> Newcomers:
    """Project new samples onto the model of an evaluation, judged by limits for new ones where it has them.

    Raises
    ------
    InputError
        The axis or the columns do not match.
    """
    model = saved_model(found, checked).judging()
    projected = project(model, table, resample)
    try:
        amounts = new_amounts(found, table, resample)
    except InputError:
        amounts = None  # the projection stands all the same
    return Newcomers(table, model, projected, past_limits(model, projected), amounts)


AsideProjected = tuple[Projected, Integers, SavedModel]
"""Samples set aside, projected; their rows in the table; the model that judges them."""


def work_of_new(found: Evaluation, table: Table) -> float:
    """About how many multiplications it takes to treat and project the samples of a table."""
    return _work(found, len(table.ids))


def work_of_aside(found: Evaluation, table: Table) -> float:
    """About how many multiplications it takes to treat and project the samples set aside."""
    return _work(found, len(table.set_aside))


def _work(found: Evaluation, n: int) -> float:
    """Each step on so many samples of the channels that it found."""
    steps = zip(found.recipe.treat, found.stages, strict=False)
    costs = sum(step.treatment.cost * stage.shape[1] for step, stage in steps if step.on)
    return float(n) * (costs + found.model.k * found.treated.shape[1])


def set_aside_projected(
    found: Evaluation, table: Table, checked: Checked | None = None
) -> AsideProjected | None:
    """The samples set aside, projected, their rows in the table, and the model that judges them; None where
    none can be."""
    if not table.set_aside:
        return None
    rows = np.array(sorted(table.set_aside), dtype=np.intp)
    model = saved_model(found, checked).judging()
    try:
        projected = project(model, table.take(rows))
    except InputError:
        return None
    return (projected, rows[projected.rows], model) if len(projected.rows) else None
