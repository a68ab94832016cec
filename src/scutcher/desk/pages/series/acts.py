"""What is done to the study from the order of its samples; each says why where it cannot be."""

from __future__ import annotations

import numpy as np

from scutcher.charts.series.shifts import shifts_of_model
from scutcher.core.errors import InputError
from scutcher.core.treatments import treatment
from scutcher.desk.context import Desk
from scutcher.study.document.commands.recipe import AddStep
from scutcher.study.document.commands.samples import Watch
from scutcher.study.document.commands.series import AmountsAsColumns
from scutcher.study.evaluation.series import Series


def rebuild(desk: Desk, series: Series | None) -> None:
    """A knot on the trail: rebuilt from the components that go along the order."""
    if series is None or not series.components.suggested:
        desk.say(InputError("No component goes along the order.", "There is nothing to rebuild from."))
        return
    place = len(desk.moment.state.recipe.treat)
    parameters = treatment("rebuild").parameters(components=series.components.suggested)
    desk.do(AddStep("rebuild", parameters, place))


def watch_from(desk: Desk, series: Series | None, first: int) -> bool:
    """The samples from a place on make no part of the model and are shown on it; whether that was done."""
    if series is None or desk.moment.state.table is None:
        return False
    if first < 3:
        desk.say(InputError("Fewer than three samples come before a.", "Drag a to a later position."))
        return False
    return desk.do(Watch(tuple(sorted(series.rows[first:].tolist()))))


def shifts_as_column(desk: Desk) -> None:
    """How far each spectrum was shifted, as a property: another region or series is shifted by it."""
    shifts = shifts_of_model(desk.moment.found)
    if shifts is None:
        words = "No step of the trail shifts to a peak."
        desk.say(InputError(words, "Add the treatment Shift to a reference peak."))
        return
    desk.do(AmountsAsColumns(("shift",), shifts.rows, shifts.shift[:, np.newaxis], "", shifts.unit))
