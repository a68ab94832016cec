"""Recomputes only what changed: each result is kept under what it was made from."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from functools import cached_property, partial
from typing import Any

import numpy as np
from msgspec.structs import replace as replace_struct

from scutcher.core.around_gaps import AroundGaps, fit_around_gaps
from scutcher.core.arrays import Floats
from scutcher.core.chain import Treated, run_step
from scutcher.core.decomposition import Decomposition
from scutcher.core.engines.choice import decompose, decompose_up_to
from scutcher.core.errors import InputError, RecipeError, TableError
from scutcher.core.gaps import Usable, filled, fills, usable_part
from scutcher.core.model import DEFAULT_COMPONENTS, ComponentModel, keep
from scutcher.core.progress import Early, Watch
from scutcher.core.rank import structural_rank
from scutcher.core.recipe import Recipe, ScaleSettings, Step
from scutcher.core.scaled import Scaled
from scutcher.core.scaling import Scaler, fit_scaler
from scutcher.core.table import Table
from scutcher.core.threads import fitting_threads
from scutcher.core.treatments.base import Learned, fields_of

MEMORY_LIMIT = 1_500_000_000  # bytes of arrays kept for reuse

HEAVY, FEW_AHEAD = 5e9, 10
"""Multiplications of a Gram product above which only so few components are computed ahead."""


@dataclass(frozen=True, eq=False)
class Staged:
    """A recipe applied to a table as far as its treatments go.

    Attributes
    ----------
    table, recipe
        What it was made from.
    usable : Usable
        The samples and variables in the model.
    fill : (p,) float array or None
        What gaps of the used part were filled with.
    stages : tuple of Table
        The used part as brought in, then after each treatment; as before where a step is off or passed
        over.
    learned : tuple
        What each treatment learned; None for those that learn nothing or did not run.
    passed_over : dict of place → InputError
        Steps that do not fit what stands before them.
    """

    table: Table
    recipe: Recipe
    usable: Usable
    fill: Floats | None
    stages: tuple[Table, ...]
    learned: tuple[Learned, ...]
    passed_over: dict[int, InputError]

    @property
    def treated(self) -> Table:
        """The table after the last treatment."""
        return self.stages[-1]

    @property
    def part(self) -> Table:
        """The used part before any treatment, its gaps filled where the policy fills them."""
        return self.stages[0]

    def places(self) -> dict[int, int]:
        """From a row of the table to its row in the model."""
        return {int(row): place for place, row in enumerate(self.usable.rows)}


@dataclass(frozen=True, eq=False)
class Evaluation(Staged):
    """A recipe applied to a table, its model included.

    Attributes
    ----------
    scaling : ScaleSettings
        What was asked for, or the default for the kind of axis.
    scaler : Scaler
    scaled : Scaled
        What the model sees; `z` is all of it.
    model : ComponentModel
    key : hashable
        What was put in, for whoever keeps results of it.
    note : str
        What is to be said of the fit.
    """

    scaling: ScaleSettings
    scaler: Scaler
    scaled: Scaled
    model: ComponentModel
    key: Hashable = None
    note: str = ""

    @property
    def z(self) -> Floats:
        """What the model sees, (n, p); of very many samples it is made when first asked for."""
        return self.scaled.whole

    @property
    def decomposition(self) -> Decomposition:
        """The components computed."""
        return self.model.decomposition

    @cached_property
    def run_recipe(self) -> Recipe:
        """The recipe as it ran: the steps that were passed over are off."""
        steps = tuple(
            replace_struct(step, on=step.on and place not in self.passed_over)
            for place, step in enumerate(self.recipe.treat)
        )
        return replace_struct(self.recipe, treat=steps)


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
    """Turns table and recipe into an evaluation; may be called from any one thread at a time.

    Parameters
    ----------
    keeps : bool
        Whether results are kept for reuse; for a single fit that only costs time.
    ahead : int
        The number of components computed is a multiple of this, so that a handle can be dragged over those
        beyond the ones asked for; of heavy data fewer are computed.
    """

    def __init__(self, keeps: bool = True, ahead: int = 0) -> None:
        self.memo = Memo() if keeps else None
        self.ahead = ahead
        self._hashes: list[tuple[Floats, str]] = []

    def evaluate(
        self,
        table: Table,
        recipe: Recipe,
        lenient: bool = False,
        watch: Watch | None = None,
        staged: Callable[[Staged], None] | None = None,
    ) -> Evaluation:
        """Apply a recipe to a table.

        Parameters
        ----------
        lenient : bool
            Pass over steps that do not fit and go on, instead of refusing.
        watch : Watch, optional
            Told how far slow treatments are.
        staged : function, optional
            Handed the treated tables before the model is fitted, and where more components are computed than
            those asked for an `Evaluation` with these, which has no limit of Q yet.

        Raises
        ------
        InputError
            The data, the recipe or the number of components cannot be used.
        """
        usable = usable_part(table, recipe.model)
        key: Hashable = ("part", self._fingerprint(table), usable.rows.tobytes(), usable.columns.tobytes())
        labels = table.take(usable.rows, usable.columns[:0])
        part = self._kept(key, lambda: table.take(usable.rows, usable.columns), _table_size)
        fill = fills(part.values, recipe.model.gaps) if part.has_gaps else None
        if fill is not None:
            key = (key, recipe.model.gaps)
            part = self._kept(key, lambda part=part: filled(part, fill), _table_size)
        stages, learned, passed_over = [_relabelled(part, labels)], [], {}
        for place, step in enumerate(recipe.treat):
            before, lesson = stages[-1], None
            if step.on:
                tried = (key, step.method, step.parameters, _what_is_learned_from(step, labels))
                try:
                    treated: Treated = self._kept(
                        tried, lambda before=before, step=step: run_step(before, step, watch), _treated_size
                    )
                    key, lesson = tried, treated.learned
                    stages.append(_relabelled(treated.table, labels))
                except (TableError, RecipeError) as error:
                    if not lenient:
                        raise
                    passed_over[place] = error
            if len(stages) == place + 1:
                stages.append(before)
            learned.append(lesson)
        whole = Staged(table, recipe, usable, fill, tuple(stages), tuple(learned), passed_over)
        if staged is not None:
            staged(whole)
        return self._model(whole, key, watch, staged)

    def _model(
        self, whole: Staged, key: Hashable, watch: Watch | None, staged: Callable[[Staged], None] | None
    ) -> Evaluation:
        recipe, treated = whole.recipe, whole.treated
        scaling = recipe.scaling_for(treated.axis.ordered)
        key = (key, scaling)
        if treated.has_gaps:
            *scaled, found, note = self._around_gaps(treated, scaling, recipe, key)
            return _evaluation(whole, scaling, key, *scaled, found, note)

        def scale() -> tuple[Scaler, Scaled]:
            scaler = fit_scaler(treated.values, scaling, treated.axis, gaps=False)
            return scaler, Scaled(treated.values, scaler)

        scaled = self._kept(key, scale, lambda pair: pair[1].values.nbytes)
        evaluation = partial(_evaluation, whole, scaling, key, *scaled)
        early = None if staged is None else lambda few: staged(evaluation(few))
        return evaluation(self._components(*scaled, recipe, key, watch, early))

    def _components(
        self,
        scaler: Scaler,
        z: Scaled,
        recipe: Recipe,
        key: Hashable,
        watch: Watch | None,
        early: Callable[[Decomposition], None] | None,
    ) -> Decomposition:
        """At least as many components as asked for, where there are so many."""
        settings, n, p = recipe.model, *z.shape
        centred = scaler.centred
        most = structural_rank(n, p, centred)
        asked = settings.components or min(DEFAULT_COMPONENTS, most)
        ahead = min(self.ahead, FEW_AHEAD) if z.work > HEAVY else self.ahead
        wanted = -(-asked // ahead) * ahead if ahead else asked
        wanted = max(asked, min(wanted, most))
        how = (settings.engine, settings.seed, settings.tolerance, settings.rounds)
        find = decompose if settings.components == wanted else decompose_up_to

        def components() -> Decomposition:
            with fitting_threads(z.work):
                return find(z, centred, wanted, *how, watch=watch, early=early and Early(asked, early))

        return self._kept(
            (key, "components", wanted, how, find is decompose), components, _decomposition_size
        )

    def _around_gaps(
        self, treated: Table, scaling: ScaleSettings, recipe: Recipe, key: Hashable
    ) -> tuple[Scaler, Scaled, Decomposition, str]:
        settings = recipe.model
        if settings.gaps not in ("nipals", "em"):
            row = int(treated.gaps().any(axis=1).argmax())
            raise TableError(
                f"After treatment sample {treated.ids[row]} has gaps.",
                "Fill gaps before, or fit around them (gaps nipals or em).",
            )
        k = settings.components or min(DEFAULT_COMPONENTS, structural_rank(*treated.shape, True))
        found: AroundGaps = self._kept(
            (key, "around gaps", settings, k),
            lambda: fit_around_gaps(treated.values, treated.axis, scaling, settings, k),
            lambda around: 2 * around.z.nbytes,
        )
        note = "" if found.settled else f"The model around gaps did not settle in {found.rounds} rounds."
        return found.scaler, Scaled(found.z), found.decomposition, note

    def _kept(self, key: Hashable, compute: Callable[[], Any], size: Callable[[Any], int]) -> Any:
        return compute() if self.memo is None else self.memo.get(key, compute, size)

    def _fingerprint(self, table: Table) -> str:
        """A hash of the values and the axis; the values are hashed once for each array object."""
        if self.memo is None:
            return ""
        held = next((digest for values, digest in self._hashes if values is table.values), None)
        if held is None:
            held = hashlib.blake2b(np.ascontiguousarray(table.values), digest_size=16).hexdigest()
            self._hashes = [*self._hashes[-3:], (table.values, held)]
        axis = table.axis
        return f"{held}|{axis.labels!r}|{axis.quantity}|{axis.unit}|{table.signal}|{table.signal_unit}"


def _evaluation(
    whole: Staged,
    scaling: ScaleSettings,
    key: Hashable,
    scaler: Scaler,
    scaled: Scaled,
    found: Decomposition,
    note: str = "",
) -> Evaluation:
    """The components asked for, or as many as there are by default, with their distances and limits."""
    k = whole.recipe.model.components or min(DEFAULT_COMPONENTS, found.computed)
    model = keep(found, k, whole.recipe.limits)
    return Evaluation(
        **vars(whole), scaling=scaling, scaler=scaler, scaled=scaled, model=model, key=key, note=note
    )


def _what_is_learned_from(step: Step, labels: Table) -> Hashable:
    """Classes, properties and ids that the result depends on, beside the values."""
    asks = {field.of for field in fields_of(step.treatment.parameters)} - {""}
    classes = tuple((c.name, c.values) for c in labels.classes) if asks & {"class", "class column"} else ()
    properties = tuple((c.name, c.values.tobytes()) for c in labels.properties) if "property" in asks else ()
    return classes, properties, labels.ids if "sample" in asks else ()


def _relabelled(table: Table, labels: Table) -> Table:
    """Kept values under the ids, classes and properties of now."""
    return replace(
        labels,
        values=table.values,
        looked=table.looked,
        axis=table.axis,
        signal=table.signal,
        signal_unit=table.signal_unit,
    )


def _table_size(table: Table) -> int:
    return table.values.nbytes


def _treated_size(treated: Treated) -> int:
    return treated.table.values.nbytes


def _decomposition_size(found: Decomposition) -> int:
    return found.scores.nbytes + found.loadings.nbytes
