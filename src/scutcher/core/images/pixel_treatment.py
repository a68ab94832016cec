"""Treatments on pixels in parts: what each learns from the whole image, and which pixels it cannot treat."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.computed_once import computed_once
from scutcher.core.data.axis import Axis
from scutcher.core.data.names import Names
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError, RecipeError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.numeric.scratch import Scratch
from scutcher.core.progress import Watch, part, tell
from scutcher.core.recipes.chain import apply_chain
from scutcher.core.recipes.recipe import Step
from scutcher.core.words import shown

SAMPLE = 2_000
"""Pixels that a treatment learns from where it needs more than the mean, evenly spaced; it is said."""


@frozen(eq=False)
class PixelTreatment:
    """A chain that has learned.

    Attributes
    ----------
    image : Image
    steps, learned : the steps that are on, and what each learned
    remarks : tuple of str
        What was learned from a sample of the pixels only.
    """

    image: Image
    steps: tuple[Step, ...] = ()
    learned: tuple[Any, ...] = ()
    remarks: tuple[str, ...] = ()

    @computed_once
    def axis(self) -> Axis:
        """The channels after the last step."""
        return self._chain(self._probe()).axis

    def apply(self, stored: Any, scratch: Scratch | None = None) -> tuple[Floats, Booleans]:
        """Treat rows as stored: those that can be, (m', p') float64, and which they are, (m,) bool.

        With a scratch the values last until the next are asked for.
        """
        values = np.empty(stored.shape) if scratch is None else scratch.array("values", *stored.shape)
        values[:] = stored
        whole = np.isfinite(values.sum(axis=1))
        if not whole.all():
            values = values[whole]
        if not self.steps or not len(values):
            return (values if not self.steps else np.empty((0, len(self.axis)))), whole
        treated, good = self._treated(values)
        kept = whole.copy()
        kept[whole] = good
        return treated, kept

    def _treated(self, values: Floats) -> tuple[Floats, Booleans]:
        """All at once, or in halves down to the pixels that cannot be treated."""
        try:
            return self._chain(self._table(values)).values, np.ones(len(values), dtype=bool)
        except InputError:
            if len(values) == 1:
                return np.empty((0, len(self.axis))), np.zeros(1, dtype=bool)
        half = len(values) // 2
        one, other = self._treated(values[:half]), self._treated(values[half:])
        return np.vstack([one[0], other[0]]), np.concatenate([one[1], other[1]])

    def _chain(self, table: Table) -> Table:
        return apply_chain(table, self.steps, self.learned)

    def _table(self, values: Floats) -> Table:
        image = self.image
        return Table(
            values,
            image.axis,
            _names(len(values)),
            image.name,
            signal=image.signal,
            signal_unit=image.signal_unit,
        )

    def _probe(self) -> Table:
        """A spectrum that can be treated, for what the steps make of the axis."""
        for pixel in self.image.evenly(200):
            try:
                table = self._table(self.image.spectra(np.array([pixel])))
                self._chain(table)
            except InputError:
                continue
            return table
        raise TableError(
            "No pixel can be treated by these steps.", "Switch steps off, or mask what cannot be treated."
        )


_NAMES: dict[int, Names] = {}


def _names(count: int) -> Names:
    """Any names for so many rows; made once for each number of rows."""
    if count not in _NAMES:
        if len(_NAMES) > 8:
            _NAMES.clear()
        _NAMES[count] = Names(map(str, range(count)))
    return _NAMES[count]


Mean = Callable[["PixelTreatment", Watch], Floats]
"""Finds the mean of the treated pixels in one pass."""


def learn(image: Image, steps: tuple[Step, ...], mean: Mean, watch: Watch | None = None) -> PixelTreatment:
    """What each step learns from the image; one pass for each that needs the mean spectrum.

    Raises
    ------
    RecipeError
        A step cannot be learned from pixels that are not all in memory.
    """
    on = [step for step in steps if step.on]
    found = PixelTreatment(image)
    for place, step in enumerate(on):
        lesson = None
        if step.treatment.fit is not None:
            tell(watch, place / len(on))
            own = part(watch or (lambda share: True), place / len(on), (place + 1) / len(on))
            whole, remark = _lesson_table(found, step, mean, own)
            try:
                lesson = step.treatment.fit(whole, step.parameters)
            except InputError as error:
                raise RecipeError(
                    f"{step.treatment.name} cannot learn from this image: {error.problem}",
                    error.remedy or "Switch the step off.",
                ) from error
            if remark:
                found = replace(found, remarks=(*found.remarks, remark))
        found = PixelTreatment(image, (*found.steps, step), (*found.learned, lesson), found.remarks)
    return found


def _lesson_table(before: PixelTreatment, step: Step, mean: Mean, watch: Watch) -> tuple[Table, str]:
    """The table that a step learns from: the mean spectrum alone (in one pass), or evenly spaced pixels."""
    if step.treatment.of_mean(step.parameters):
        reference = mean(before, watch)
        probe = before._chain(before._probe())
        return replace(probe, values=reference[np.newaxis]), ""
    pixels = before.image.evenly(SAMPLE)
    values, _ = before.apply(before.image.spectra(pixels))
    probe = before._chain(before._probe())
    table = replace(probe, values=values, ids=_names(len(values)))
    said = f"{step.treatment.name} learned from {shown(len(values), ',')} evenly spaced pixels"
    return table, said if len(values) < before.image.looked_at().sum() else ""
