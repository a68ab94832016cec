"""What treatments may ask of a table, and the sentence that offers the step that would help."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError, TableError
from scutcher.core.treatments.base import Treatment
from scutcher.core.treatments.support.bridging import find_holes, is_even
from scutcher.core.words import shown


def check_needs(treatment: Treatment, table: Table) -> None:
    """Refuse a table that the treatment cannot work on, with the step that would help.

    Raises
    ------
    TableError
        The table lacks something.
    RecipeError
        The declaration asks for something that nobody has defined.
    """
    for need in treatment.needs:
        if need not in NEEDS:
            raise RecipeError(f"{treatment.name} declares an unknown need {need!r}.", "Correct its file.")
        NEEDS[need](treatment, table)


def spacing(table: Table) -> float:
    """The signed distance of neighbouring channels of an evenly spaced axis, in its unit."""
    places = table.axis.places()
    return float((places[-1] - places[0]) / (len(places) - 1))


def _no_gaps(treatment: Treatment, table: Table) -> None:
    if table.has_gaps:
        gaps = table.gaps()
        row = int(gaps.any(axis=1).argmax())
        raise TableError(
            f"{treatment.name}: sample {table.ids[row]} has {int(gaps[row].sum())} gaps.",
            "Leave out samples with gaps or fill them first.",
        )


def _ordered(treatment: Treatment, table: Table) -> None:
    if not table.axis.ordered:
        raise TableError(
            f"{treatment.name} needs an ordered axis; this is a table of mixed variables.",
            "Switch the step off or use numeric column headers.",
        )


def _even(treatment: Treatment, table: Table) -> None:
    _ordered(treatment, table)
    places = table.axis.places()
    if is_even(places) or find_holes(places) is not None:
        return
    steps = np.diff(places)
    usual = float(np.median(steps))
    worst = int(np.abs(steps - usual).argmax())
    raise TableError(
        f"{treatment.name} needs evenly spaced channels; from {table.axis.name(worst)} to "
        f"{table.axis.name(worst + 1)} it is {shown(abs(steps[worst]))}, usually {shown(abs(usual))}.",
        "Put it before the step that cuts the axis, or add the step resample (interpolation onto an even "
        "axis) before it.",
    )


def _positive(treatment: Treatment, table: Table) -> None:
    wrong = table.values <= 0.0
    if wrong.any():
        row, column = (int(place) for place in np.argwhere(wrong)[0])
        raise TableError(
            f"{treatment.name} needs positive values; sample {table.ids[row]} has "
            f"{shown(table.values[row, column], '.4g')} at {table.axis.name(column)}.",
            "Take off the baseline first (baseline-offset), or leave that channel out.",
        )


def _classes(treatment: Treatment, table: Table) -> None:
    if not table.classes:
        raise TableError(
            f"{treatment.name} needs a class column; {table.name} has none.",
            "Give a column the role class, or make a class from a pick.",
        )


def _properties(treatment: Treatment, table: Table) -> None:
    if not table.properties:
        raise TableError(
            f"{treatment.name} needs a property column; {table.name} has none.",
            "Give a numeric column the role property.",
        )


def _mixed(treatment: Treatment, table: Table) -> None:
    if table.axis.ordered:
        raise TableError(
            f"{treatment.name} adds variables to a table of mixed variables; this axis is ordered.",
            "Switch the step off.",
        )


NEEDS: dict[str, Callable[[Treatment, Table], None]] = {
    "no-gaps": _no_gaps,
    "ordered": _ordered,
    "even": _even,
    "positive": _positive,
    "classes": _classes,
    "properties": _properties,
    "mixed": _mixed,
}
