"""How far each spectrum was shifted by a fitted peak, with how sure that is."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.treatments.shift_to_peak import ShiftToPeakParameters, reference_peaks
from scutcher.core.words import shown
from scutcher.study.evaluation.evaluation import Evaluation

SURE = 1.959963984540054


@frozen(eq=False)
class Shifts:
    """Of the samples of a model.

    Attributes
    ----------
    rows : (n,) int array
        Of the table.
    peak, shift, error : (n,) float arrays
        Where the peak was found, how far that is from where it belongs, and its standard error; axis units.
    unit : str
    said : str
        Of which step.
    """

    rows: Integers
    peak: Floats
    shift: Floats
    error: Floats
    unit: str
    said: str


def shifts_of_model(found: Evaluation | None) -> Shifts | None:
    """By the last step that shifts to a peak; None where there is none that ran."""
    if found is None:
        return None
    for place in reversed(range(len(found.recipe.treat))):
        step = found.recipe.treat[place]
        if step.on and place not in found.passed_over and isinstance(step.parameters, ShiftToPeakParameters):
            before = found.stages[place]
            fit = reference_peaks(before, step.parameters)
            shift = fit.centre - step.parameters.position
            said = step.treatment.short(step.parameters)
            rows = np.asarray(found.usable.rows, dtype=np.intp)
            return Shifts(rows, fit.centre, shift, fit.centre_error, before.axis.unit, said)
    return None


def shift_rows(found: Evaluation | None) -> list[list[str | float]]:
    """A line for each sample: its peak, its shift, 95 % to each side."""
    shifts = shifts_of_model(found)
    if shifts is None or found is None or found.table is None:
        return []
    return [
        [found.table.ids[row], shown(peak, ".6g"), shown(shift, "+.4g"), shown(SURE * error, ".2g")]
        for row, peak, shift, error in zip(
            shifts.rows.tolist(),
            shifts.peak.tolist(),
            shifts.shift.tolist(),
            shifts.error.tolist(),
            strict=True,
        )
    ]
