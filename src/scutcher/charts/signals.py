"""The signals strip: every spectrum at a chosen knot of the trail, or the class means."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.colours import CONTINUOUS
from scutcher.charts.description import Chart, Lines, Ribbon, nothing
from scutcher.charts.emphasis import Colouring, colouring_of, ids_of_rows
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.groups.class_statistics import class_statistics
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation, Staged


def stage_count(found: Evaluation | None) -> int:
    """How many knots have data of their own: as brought in, each treatment, centred and scaled."""
    return 1 if found is None else len(found.stages) + 1


def stage_of(look_stage: int | None, found: Evaluation | None) -> int:
    """The knot to show: the one asked for where it exists, else the last treatment.

    Mixed variables have no common scale before they are scaled: for them it is the last knot.
    """
    count = stage_count(found)
    if look_stage is None:
        ordered = found is None or found.treated.axis.ordered
        return max(count - 2, 0) if ordered else count - 1
    return min(look_stage, count - 1)


def stage_name(state: State, stage: int, found: Staged | None) -> str:
    """`as brought in`, `after SNV`, `centred`."""
    steps = state.recipe.treat if found is None else found.recipe.treat
    if stage > len(steps):
        scaled = isinstance(found, Evaluation) and found.scaling.method != "none"
        return "centred and scaled" if scaled else "centred"
    on = [step for step in steps[:stage] if step.on]
    return f"after {on[-1].treatment.short(on[-1].parameters)}" if on else "as brought in"


def stage_data(state: State, stage: int, found: Evaluation | None) -> tuple[Table, Floats, Integers]:
    """Table (for its axis and signal), values and rows at a knot; as brought in, nothing is left out."""
    table, source, places, rows = stage_source(state, stage, found)
    return table, source.whole if len(places) == source.shape[0] else source.rows(places), rows


def stage_source(
    state: State, stage: int, found: Evaluation | None
) -> tuple[Table, Scaled, Integers, Integers]:
    """As `stage_data`, nothing computed: where the values come from, which rows, and their table rows."""
    assert state.table is not None
    if stage == 0 or found is None:
        rows = state.table.used_rows()
        if found is not None and _is_part(found, state.table, rows):
            return state.table, Scaled(found.part.values), np.arange(len(rows)), rows
        return state.table, Scaled(state.table.values), rows, rows
    table = found.stages[min(stage, len(found.stages) - 1)]
    source = found.scaled if stage >= len(found.stages) else Scaled(table.values)
    return table, source, np.arange(source.shape[0]), found.usable.rows


def _is_part(found: Evaluation, table: Table, rows: Integers) -> bool:
    """Whether the part that is in the model is these samples as brought in: they need not be copied again."""
    used = found.usable
    same = found.table.values is table.values and found.fill is None
    return same and len(used.columns) == table.shape[1] and np.array_equal(used.rows, rows)


def signals(state: State, found: Evaluation | None, stage: int, means: bool, offset: float = 0.0) -> Chart:
    """The chart of the signals strip.

    Parameters
    ----------
    stage : the knot, see `stage_of`
    means : one mean per class in place of every sample
    offset : each line is drawn this share of the whole range above the one before it
    """
    if state.table is None:
        return nothing("Signals", "Drop files here, or press Ctrl+O.")
    table, values, rows = stage_data(state, stage, found)
    colouring = colouring_of(state)
    codes = colouring.codes[rows]
    axis = table.axis
    spreads: tuple[Ribbon, ...] = ()
    if means:
        lines, spreads = means_and_spreads(axis.places(), values, codes, colouring)
    else:
        lines = Lines(axis.places(), values, rows, codes, ids_of_rows(state.table, rows))
    if offset:
        lines, spreads = replace(lines, ys=stacked(lines.ys, offset)), ()
    unit = f" / {table.signal_unit}" if table.signal_unit else ""
    return Chart(
        title="Signals" if axis.ordered else "Values",
        note=stage_name(state, stage, found),
        x_title=axis.title,
        y_title=f"{table.signal}{unit}" if axis.ordered or stage == 0 else "scaled value",
        lines=lines,
        spreads=spreads,
        tick_names=() if axis.ordered else axis.labels,
    )


def stacked(ys: Floats, offset: float) -> Floats:
    """Lines one above the other, the first lowest, (m, p) → (m, p)."""
    known = ys[np.isfinite(ys)]
    step = offset * float(np.ptp(known)) if known.size else 0.0
    return ys + step * np.arange(len(ys))[:, np.newaxis]


def class_means(places: Floats, values: Floats, codes: Integers, colouring: Colouring) -> Lines:
    """One line per class: the mean of its samples, gaps passed over; all samples where there is no class."""
    return means_and_spreads(places, values, codes, colouring)[0]


def means_and_spreads(
    places: Floats, values: Floats, codes: Integers, colouring: Colouring
) -> tuple[Lines, tuple[Ribbon, ...]]:
    """One line per class, and its mean ± one standard deviation (n − 1); gaps are passed over."""
    present, means, deviations = class_statistics(values, codes)
    names = tuple(_group_name(code, colouring) for code in present.tolist())
    lines = Lines(places, means, present, present, names, role="class")
    pairs = zip(means, deviations, strict=True)
    return lines, tuple(Ribbon(places, mean - deviation, mean + deviation) for mean, deviation in pairs)


def _group_name(code: int, colouring: Colouring) -> str:
    if 0 <= code < len(colouring.levels):
        return colouring.levels[code]
    return f"step {code - CONTINUOUS + 1}" if code >= CONTINUOUS else "all"
