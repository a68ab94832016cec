"""Commands on samples in an order: how they lie, which shapes make them up, amounts as columns."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from msgspec.structs import replace as changed

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.columns import PropertyColumn
from scutcher.core.data.layouts import Layout, NoLayout, SeriesLayout
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.words import count_of
from scutcher.study.document.changes import (
    model_of,
    table_of,
    with_dataset,
    with_model,
    with_recipe,
    with_table,
)
from scutcher.study.document.commands.kinds import PLAIN, UNMIX
from scutcher.study.document.state import State


@frozen
class LieAs:
    """Say how the samples lie to each other: along a series, or not."""

    layout: Layout

    def label(self, state: State) -> str:
        if not isinstance(self.layout, SeriesLayout):
            return "Samples stand for themselves"
        words = f"Samples follow each other by {self.layout.position or 'their order'}"
        return f"{words}, a series for each {self.layout.series}" if self.layout.series else words

    def apply(self, state: State) -> State:
        dataset = state.dataset_of(model_of(state))
        if isinstance(self.layout, SeriesLayout):
            table = dataset.table
            numbers = {column.name for column in table.properties} | {""}
            classes = {column.name for column in table.classes} | {""}
            for name, known in ((self.layout.position, numbers), (self.layout.series, classes)):
                if name not in known:
                    raise InputError(f"There is no column {name!r} for this.", "Nothing was changed.")
        if dataset.layout == self.layout:
            return state
        return with_dataset(state, replace(dataset, layout=self.layout))


def no_layout() -> LieAs:
    """Samples that stand for themselves."""
    return LieAs(NoLayout())


@frozen
class UnmixBy:
    """Other shapes, or another way of finding amounts."""

    settings: UnmixSettings

    def label(self, state: State) -> str:
        return "Shapes: " + _said(state.recipe.unmix, self.settings)

    def apply(self, state: State) -> State:
        names = [shape.name for shape in self.settings.shapes]
        if len(set(names)) < len(names):
            raise InputError("Two shapes have one name.", "Give each its own; nothing was changed.")
        fresh = with_recipe(state, changed(state.recipe, unmix=self.settings))
        before = model_of(state).kind
        kind = UNMIX if self.settings.asks else PLAIN if before == UNMIX else before
        return with_model(fresh, lambda model: model if model.kind == kind else replace(model, kind=kind))


def _said(before: UnmixSettings, after: UnmixSettings) -> str:
    """What is other, in words."""
    old, new = [shape.name for shape in before.shapes], [shape.name for shape in after.shapes]
    words = []
    if added := [name for name in new if name not in old]:
        words.append(f"take {', '.join(added)}")
    if gone := [name for name in old if name not in new]:
        words.append(f"without {', '.join(gone)}")
    if before.number != after.number:
        words.append(f"find {count_of(after.number, 'shape')}" if after.number else "none are to be found")
    for key, name in (("rule", "amounts"), ("background", "background"), ("start", "begin with")):
        one, two = getattr(before, key), getattr(after, key)
        if one != two:
            words.append(f"{name} {one} → {two}")
    if before.humps != after.humps:
        words.append("one hump each" if after.humps else "any course")
    if before.windows != after.windows:
        words.append("absent outside their windows" if after.windows else "anywhere along the order")
    return "; ".join(words) or "other values"


@frozen(eq=False)
class AmountsAsColumns:
    """The amounts of shapes as property columns of the table, for colouring, planes and export.

    Attributes
    ----------
    names : tuple of str
    rows : (m,) int array
        Of the table.
    amounts : (m, q) float array
    before : str
        What stands before the names.
    unit : str
    """

    names: tuple[str, ...]
    rows: Integers
    amounts: Floats
    before: str = "amount of "
    unit: str = ""

    def label(self, state: State) -> str:
        return f"Make columns of {self.before.strip()} {', '.join(self.names)}".replace("  ", " ")

    def apply(self, state: State) -> State:
        table = table_of(state)
        kept = [column for column in table.properties if column.name not in self._called()]
        for place, name in enumerate(self._called()):
            values = np.full(len(table.ids), np.nan)
            values[self.rows] = self.amounts[:, place]
            kept.append(PropertyColumn(name, values, self.unit))
        taken = {column.name for column in table.classes} & set(self._called())
        if taken:
            raise InputError(
                f"There is a class column {sorted(taken)[0]!r} already.",
                "Rename the shape; nothing was changed.",
            )
        return with_table(state, replace(table, properties=tuple(kept)))

    def _called(self) -> tuple[str, ...]:
        return tuple(f"{self.before}{name}" for name in self.names)
