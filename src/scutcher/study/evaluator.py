"""Recomputes only what changed: each result is kept under what it was made from."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.chain import Treated, run_step
from scutcher.core.decomposition import Decomposition, decompose
from scutcher.core.gaps import Usable, usable_part
from scutcher.core.model import DEFAULT_COMPONENTS, ComponentModel, keep
from scutcher.core.recipe import Recipe, ScaleSettings
from scutcher.core.scaling import Scaler, fit_scaler
from scutcher.core.table import Table
from scutcher.study.threads import fitting_threads

MEMORY_LIMIT = 1_500_000_000  # bytes of arrays kept for reuse


@dataclass(frozen=True, eq=False)
class Evaluation:
    """A recipe applied to a table.

    Attributes
    ----------
    table, recipe
        What it was made from.
    usable : Usable
        The samples and variables in the model.
    stages : tuple of Table
        The used part as brought in, then after each treatment.
    scaling : ScaleSettings
        What was asked for, or the default for the kind of axis.
    scaler : Scaler
    z : (n, p) float array
    model : ComponentModel
    """

    table: Table
    recipe: Recipe
    usable: Usable
    stages: tuple[Table, ...]
    scaling: ScaleSettings
    scaler: Scaler
    z: Floats
    model: ComponentModel

    @property
    def treated(self) -> Table:
        """The table after the last treatment."""
        return self.stages[-1]

    @property
    def decomposition(self) -> Decomposition:
        """All components."""
        return self.model.decomposition

    def places(self) -> dict[int, int]:
        """From a row of the table to its row in the model."""
        return {int(row): place for place, row in enumerate(self.usable.rows)}


class Memo:
    """A cache bounded by the memory of the arrays in it; what was used longest ago goes first."""

    def __init__(self, limit: int = MEMORY_LIMIT) -> None:
        self._limit = limit
        self._entries: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._held = 0
        self.computed = 0

    def get(self, key: Hashable, compute: Callable[[], Any], size: Callable[[Any], int]) -> Any:
        """The kept result of a key, or a new one; an error is not kept."""
        if key in self._entries:
            self._entries.move_to_end(key)
            return self._entries[key][0]
        result = compute()
        self.computed += 1
        weight = size(result)
        if key not in self._entries:
            self._entries[key] = (result, weight)
            self._held += weight
        while self._held > self._limit and len(self._entries) > 1:
            _, (_, dropped) = self._entries.popitem(last=False)
            self._held -= dropped
        return result


class Evaluator:
    """Turns table and recipe into an evaluation; may be called from any one thread at a time."""

    def __init__(self) -> None:
        self.memo = Memo()
        self._hashes: list[tuple[Floats, str]] = []

    def evaluate(self, table: Table, recipe: Recipe) -> Evaluation:
        """Apply a recipe to a table.

        Raises
        ------
        InputError
            The data, the recipe or the number of components cannot be used.
        """
        usable = usable_part(table, recipe.model)
        key: Hashable = ("part", self._fingerprint(table), usable.rows.tobytes(), usable.columns.tobytes())
        labels = table.take(usable.rows, usable.columns[:0])
        part = self.memo.get(key, lambda: table.take(usable.rows, usable.columns), _table_size)
        stages = [_relabelled(part, labels)]
        for step in recipe.treat:
            if step.on:
                key = (key, step.method, step.parameters)
                before = stages[-1]
                treated: Treated = self.memo.get(
                    key, lambda before=before, step=step: run_step(before, step), _treated_size
                )
                stages.append(_relabelled(treated.table, labels))
            else:
                stages.append(stages[-1])
        return self._model(table, recipe, usable, tuple(stages), key)

    def _model(
        self, table: Table, recipe: Recipe, usable: Usable, stages: tuple[Table, ...], key: Hashable
    ) -> Evaluation:
        treated = stages[-1]
        scaling = recipe.scaling_for(treated.axis.ordered)
        key = (key, scaling)

        def scale() -> tuple[Scaler, Floats]:
            scaler = fit_scaler(treated.values, scaling, treated.axis)
            return scaler, scaler.apply(treated.values)

        scaler, z = self.memo.get(key, scale, lambda pair: pair[1].nbytes)

        def components() -> Decomposition:
            with fitting_threads(z.size * min(z.shape)):
                return decompose(z, scaler.centred)

        found = self.memo.get((key, "components"), components, _decomposition_size)
        k = recipe.model.components or min(DEFAULT_COMPONENTS, found.rank)
        model = keep(found, k, recipe.limits)
        return Evaluation(table, recipe, usable, stages, scaling, scaler, z, model)

    def _fingerprint(self, table: Table) -> str:
        """A hash of the values and the axis; the values are hashed once for each array object."""
        held = next((digest for values, digest in self._hashes if values is table.values), None)
        if held is None:
            held = hashlib.blake2b(np.ascontiguousarray(table.values), digest_size=16).hexdigest()
            self._hashes = [*self._hashes[-3:], (table.values, held)]
        axis = table.axis
        return f"{held}|{axis.labels!r}|{axis.quantity}|{axis.unit}|{table.signal}|{table.signal_unit}"


def _relabelled(table: Table, labels: Table) -> Table:
    """Kept values under the ids, classes and properties of now."""
    return replace(
        labels, values=table.values, axis=table.axis, signal=table.signal, signal_unit=table.signal_unit
    )


def _table_size(table: Table) -> int:
    return table.values.nbytes


def _treated_size(treated: Treated) -> int:
    return treated.table.values.nbytes


def _decomposition_size(found: Decomposition) -> int:
    return found.scores.nbytes + found.loadings.nbytes
