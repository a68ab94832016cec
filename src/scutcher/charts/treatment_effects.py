"""The Treat page: the data before and after a step, where classes differ, what the step did."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Marks, as_keys, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.charts.signals import means_and_spreads
from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_separation import between_within
from scutcher.core.treatments.base import Inside
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation, Staged
from scutcher.study.evaluation.step_effects import Effect, effects, figures_of

SHOWN_BASELINES = 8


@frozen(eq=False)
class Knot:
    """What the page works on: the place of a step in the recipe, or the ends of the trail.

    `place` is −1 for the data as brought in and the number of steps for centring and scaling.
    """

    place: int
    steps: int

    @property
    def is_step(self) -> bool:
        """Whether it is a treatment."""
        return 0 <= self.place < self.steps


def stage_values(found: Staged, stage: int) -> tuple[Table, Floats]:
    """Table and values after so many steps; one more than there are steps: centred and scaled."""
    if stage >= len(found.stages):
        return found.treated, found.z if isinstance(found, Evaluation) else found.treated.values
    table = found.stages[stage]
    return table, table.values


def stage_chart(state: State, found: Staged | None, stage: int, means: bool, title: str, note: str) -> Chart:
    """The signals after so many steps, of the samples in the model."""
    if found is None or state.table is None:
        return nothing(title, "It appears with the first model.")
    table, values = stage_values(found, stage)
    rows = found.usable.rows
    colouring = colouring_of(state)
    codes = colouring.codes[rows]
    axis = table.axis
    if means:
        lines, spreads = means_and_spreads(axis.places(), values, codes, colouring)
    else:
        lines, spreads = Lines(axis.places(), values, rows, codes, ids_of_rows(state.table, rows)), ()
    scaled = stage >= len(found.stages)
    unit = "" if scaled or not table.signal_unit else f" / {table.signal_unit}"
    first = table.signal.split(", ")
    return Chart(
        title=title,
        note=note,
        x_title=axis.title,
        y_title="scaled value" if scaled else f"{first[-1]}{unit}",
        lines=lines,
        spreads=spreads,
        tick_names=() if axis.ordered else axis.labels,
    )


def with_inside(chart: Chart, found: Staged, inside: Inside | None, picked: tuple[int, ...]) -> Chart:
    """The chart of the data before a step, with what the step fits: reference, baselines."""
    if inside is None or chart.lines is None or (inside.baseline is None and inside.reference is None):
        return chart
    x = chart.lines.x
    curves = []
    if inside.reference is not None and len(inside.reference) == len(x):
        curves.append(Curve(x, inside.reference, "ink", width=2.2, behind=False))
    if inside.baseline is not None and inside.baseline.shape[1] == len(x):
        places = found.places()
        rows = [places[row] for row in picked if row in places][:SHOWN_BASELINES]
        rows = rows or np.linspace(0, len(inside.baseline) - 1, SHOWN_BASELINES).astype(int).tolist()
        curves += [
            Curve(x, np.asarray(inside.baseline[row]), "alarm", width=1.1, behind=False)
            for row in dict.fromkeys(rows)
        ]
    return replace(chart, curves=tuple(curves))


def inside_of(found: Staged, place: int) -> Inside | None:
    """What a step shows of its work, or nothing where it is off, passed over or has nothing to show."""
    if not 0 <= place < len(found.recipe.treat):
        return None
    step = found.recipe.treat[place]
    if not step.on or place in found.passed_over or step.treatment.inside is None:
        return None
    before, after = found.stages[place : place + 2]
    return step.treatment.inside(before, after, step.parameters, found.learned[place])


def class_ratio(state: State, found: Staged | None, place: int, before_too: bool) -> Chart:
    """Between-class over within-class variance at each variable after a step, and before it."""
    title = "Where classes differ"
    if found is None or state.table is None:
        return nothing(title, "It appears with the first model.")
    codes = colouring_of(state).codes[found.usable.rows]
    codes = np.where(codes < 1000, codes, -1)
    if len(np.unique(codes[codes >= 0])) < 2:
        return nothing(title, "Colour by a class column with two classes or more.")
    table, values = stage_values(found, place + 1)
    ratio = between_within(values, codes)
    axis = table.axis
    curves: tuple[Curve, ...] = ()
    if before_too and place >= 0:
        earlier, old = stage_values(found, place)
        curves = (Curve(earlier.axis.places(), between_within(old, codes), "quiet", width=1.2),)
    return Chart(
        title=title,
        note="between-class / within-class variance",
        x_title=axis.title,
        y_title="ratio",
        lines=Lines(
            axis.places(), ratio[np.newaxis, :], as_keys([0]), as_keys([0]), ("ratio",), role="component"
        ),
        curves=curves,
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


AT_ONCE = 2e8
"""Cells times samples up to which the figures of a step are computed on the spot."""


class FigureMemo:
    """Keeps the figures of the last few tables: a slider changes only what comes after the step."""

    def __init__(self) -> None:
        self._kept: list[tuple[Floats, object, dict[str, float | None]]] = []

    def of(
        self, table: Table, values: Floats, codes: np.ndarray, behind: bool = False
    ) -> dict[str, float | None]:
        """The figures of these values, of the same array kept from before.

        Of much data they take longer than a frame: none are given until somebody has asked `behind`.
        """
        grouped = (codes.tobytes(), table.replicates)
        for held, sorted_by, figures in self._kept:
            if held is values and sorted_by == grouped:
                return figures
        if values.size * len(values) > AT_ONCE and not behind:
            return {}
        figures = figures_of(table.with_values(values), codes)
        self._kept = [*self._kept[-3:], (values, grouped, figures)]
        return figures


def step_effects(
    state: State,
    found: Evaluation,
    place: int,
    q2: tuple[float | None, float | None],
    memo: FigureMemo,
    behind: bool = False,
) -> tuple[Effect, ...]:
    """What the step at a place did, with Q² without it and with it; figures as `FigureMemo.of` has them."""
    codes = colouring_of(state).codes[found.usable.rows]
    codes = np.where(codes < 1000, codes, -1)
    before_table, before_values = stage_values(found, place)
    after_table, after_values = stage_values(found, place + 1)
    before = memo.of(before_table, before_values, codes, behind)
    after = memo.of(after_table, after_values, codes, behind)
    return effects({**before, "q2": q2[0]}, {**after, "q2": q2[1]})


def ghosts_of(state: State, found: Evaluation, other: Evaluation, pair: tuple[int, int]) -> Marks | None:
    """Where the samples of one model lay on another: its scores, turned and stretched to this one's size."""
    same = other.table is found.table or other.table.ids == found.table.ids
    if not same or other.model.k <= max(pair) or state.table is None:
        return None  # a model of other data may still be shown for a moment
    scores = other.model.scores[:, list(pair)]
    rows = other.usable.rows
    mine = found.places()
    shared = [(place, mine[int(row)]) for place, row in enumerate(rows) if int(row) in mine]
    if not shared:
        return None
    theirs, ours = (np.array(side) for side in zip(*shared, strict=True))
    for column, component in enumerate(pair):
        reference = found.model.scores[ours, component]
        product = float(reference @ scores[theirs, column])
        size = float(np.linalg.norm(scores[theirs, column])) or 1.0
        scores[:, column] = (
            scores[:, column] * (np.sign(product) or 1.0) * float(np.linalg.norm(reference)) / size
        )
    return Marks(
        scores[:, 0],
        scores[:, 1],
        rows,
        colouring_of(state).codes[rows],
        ids_of_rows(state.table, rows),
    )


def moved(state: State, found: Evaluation, former: Evaluation, pair: tuple[int, int]) -> Curve | None:
    """A line from where each sample lay on a former model to where it lies now, as one broken line.

    None for more samples than such lines can be told apart of.
    """
    ghosts = None if len(found.usable.rows) > MOST_MOVED else ghosts_of(state, found, former, pair)
    if ghosts is None:
        return None
    _, theirs, mine = np.intersect1d(ghosts.keys, found.usable.rows, return_indices=True)
    runs = np.full((len(mine), 3, 2), np.nan)
    runs[:, 0, 0], runs[:, 0, 1] = ghosts.x[theirs], ghosts.y[theirs]
    runs[:, 1] = found.model.scores[mine][:, list(pair)]
    x, y = runs.reshape(-1, 2).T
    return Curve(x, y, "accent", width=0.8)


MOST_MOVED = 5000
"""Samples of which it is drawn how they moved."""
