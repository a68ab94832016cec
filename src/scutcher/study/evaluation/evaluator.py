"""Recomputes only what changed: each result is kept under what it was made from."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Hashable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.constant_variables import constant_after
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import Usable, filled, fills, usable_part
from scutcher.core.models.pca.component_model import DEFAULT_COMPONENTS
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.models.pca.engines.choice import decompose, decompose_up_to
from scutcher.core.models.pca.missing_value_fits import AroundGaps, fit_around_gaps
from scutcher.core.numeric.matrix_rank import structural_rank
from scutcher.core.numeric.threads import fitting_threads
from scutcher.core.progress import Early, Watch
from scutcher.core.recipes.chain import Treated
from scutcher.core.recipes.recipe import Recipe, ScaleSettings, Step
from scutcher.core.recipes.work import most_channels
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import Scaler, fit_scaler, without
from scutcher.core.treatments.base import fields_of
from scutcher.study.evaluation.cache import Cache
from scutcher.study.evaluation.evaluation import Evaluation, Staged, evaluation_of
from scutcher.study.evaluation.known_grams import KnownGrams
from scutcher.study.evaluation.known_rows import KnownRows

HEAVY, FEW_AHEAD = 5e9, 10
"""Multiplications of a Gram product above which only so few components are computed ahead."""

ITERATED, UNFORESEEN = ("nipals", "em"), 1e12
"""Ways round gaps that go round until they settle, and what that counts for: even of a small table they may
take a second, and nobody knows before."""

BY_GRAM = ("auto", "gram")
"""Engines that may go by way of the Gram matrix."""

Hear = Callable[[Staged], None]


@frozen(eq=False)
class _Beginning:
    """The part of a table that is used, and the key of all that goes into it."""

    table: Table
    usable: Usable
    fill: Floats | None
    part: Table
    labels: Table
    key: Hashable
    chain: Hashable | None
    """The data without the samples that are used; None where what fills gaps depends on those."""


class Evaluator:
    """Turns table and recipe into an evaluation; may be called from any one thread at a time.

    Parameters
    ----------
    keeps : bool
        Whether results are kept for reuse; for a single fit that only costs time.
    ahead : int
        The number of components computed is a multiple of this, so that a handle can be dragged over those
        beyond the ones asked for; of heavy data fewer are computed.
    cache : Cache, optional
        Where results are kept; one of its own if it is not given.
    """

    def __init__(self, keeps: bool = True, ahead: int = 0, cache: Cache | None = None) -> None:
        self.cache = (cache or Cache()) if keeps else None
        self.ahead = ahead
        self._rows = KnownRows()
        self._grams = None if self.cache is None else KnownGrams(self.cache)
        self._hashes: list[tuple[Floats, str]] = []
        self._last: tuple[Table, tuple[str, float], _Beginning] | None = None

    def evaluate(
        self,
        table: Table,
        recipe: Recipe,
        lenient: bool = False,
        watch: Watch | None = None,
        staged: Hear | None = None,
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
        start = self._begin(table, recipe)
        stages, learned, passed_over = [_relabelled(start.part, start.labels)], [], {}
        key, chain, rows = start.key, start.chain, start.usable.rows
        for place, step in enumerate(recipe.treat):
            before, lesson = stages[-1], None
            if step.on:
                tried, longer = _step_key(key, step, start.labels), _longer(chain, step)
                try:
                    treated = self._treated(tried, longer, rows, before, step, watch)
                    key, chain, lesson = tried, longer, treated.learned
                    stages.append(_relabelled(treated.table, start.labels))
                except (TableError, RecipeError) as error:
                    if not lenient:
                        raise
                    passed_over[place] = error
            if len(stages) == place + 1:
                stages.append(before)
            learned.append(lesson)
        whole = Staged(
            table, recipe, start.usable, start.fill, tuple(stages), tuple(learned), dict(passed_over)
        )
        if staged is not None:
            staged(whole)
        return self._model(whole, key, chain, watch, staged)

    def work_left(self, table: Table, recipe: Recipe, enough: float = 1e10) -> float:
        """About how many multiplications an evaluation takes, beside what is kept already.

        Parameters
        ----------
        enough : float
            Where the model alone takes more, nobody looks at what is kept: a hash of so many data takes
            longer than a frame.
        """
        n, p = len(table.ids), most_channels(table, recipe.treat)
        product = float(n) * p * min(n, p)
        if recipe.model.engine == "nipals" or (recipe.model.gaps in ITERATED and table.has_gaps):
            product += UNFORESEEN
        if self.cache is None or product > enough:
            return product + sum(step.treatment.cost for step in recipe.treat if step.on) * n * p
        return product + sum(self._costs(table, recipe, p))

    def _costs(self, table: Table, recipe: Recipe, p: int) -> Iterator[float]:
        """Of each step that is not kept, with so many channels."""
        assert self.cache is not None
        try:
            start = self._begin(table, recipe)
        except TableError:
            return  # that is said at once
        n, key, chain, rows = len(start.part.ids), start.key, start.chain, start.usable.rows
        for step in recipe.treat:
            if step.on:
                key, chain = _step_key(key, step, start.labels), _longer(chain, step)
                if not self.cache.holds(key):
                    yield step.treatment.cost * n * p * self._rows.fresh_share(chain, rows)

    def _begin(self, table: Table, recipe: Recipe) -> _Beginning:
        """The last one again where nothing that goes into it is other."""
        last, gaps = self._last, (recipe.model.gaps, recipe.model.gap_share)
        if last is None or last[0] is not table or last[1] != gaps:
            self._last = last = (table, gaps, self._begun(table, recipe))
        return last[2]

    def _begun(self, table: Table, recipe: Recipe) -> _Beginning:
        usable = usable_part(table, recipe.model)
        data = self._fingerprint(table), usable.columns.tobytes()
        key: Hashable = ("part", *data, usable.rows.tobytes())
        labels = table.take(usable.rows, usable.columns[:0])
        part: Table = self._kept(key, lambda: table.take(usable.rows, usable.columns), _table_size)
        fill = fills(part.values, recipe.model.gaps) if part.has_gaps else None
        if fill is not None:
            key, whole = (key, recipe.model.gaps), part
            part = self._kept(key, lambda: filled(whole, fill), _table_size)
        chain = None if fill is not None or self.cache is None else data
        return _Beginning(table, usable, fill, part, labels, key, chain)

    def _treated(
        self,
        key: Hashable,
        chain: Hashable | None,
        rows: Integers,
        before: Table,
        step: Step,
        watch: Watch | None,
    ) -> Treated:
        treated: Treated = self._kept(
            key, lambda: self._rows.treat(chain, rows, before, step, watch), _treated_size
        )
        return treated

    def _model(
        self,
        whole: Staged,
        key: Hashable,
        chain: Hashable | None,
        watch: Watch | None,
        staged: Hear | None,
    ) -> Evaluation:
        recipe, treated = whole.recipe, whole.treated
        scaling = recipe.scaling_for(treated.axis.ordered)
        key = (key, scaling)
        if treated.has_gaps:
            around, note = self._around_gaps(treated, scaling, recipe, key, watch)
            scaled = Scaled(around.z)
            return evaluation_of(whole, scaling, key, around.scaler, scaled, around.decomposition, note)

        def scale() -> tuple[Scaler, Scaled]:
            scaler = fit_scaler(treated.values, scaling, treated.axis, gaps=False)
            ran = [
                step.method
                for place, step in enumerate(recipe.treat)
                if step.on and place not in whole.passed_over
            ]
            scaler = without(scaler, constant_after(whole.stages[0], treated.axis, ran))
            return scaler, Scaled(treated.values, scaler)

        scaler, scaled = self._kept(key, scale, lambda pair: pair[1].values.nbytes)

        def evaluation(found: Decomposition) -> Evaluation:
            return evaluation_of(whole, scaling, key, scaler, scaled, found)

        def with_gram(z: Scaled) -> Scaled:
            if chain is None or self._grams is None or recipe.model.engine not in BY_GRAM:
                return z
            return self._grams.with_gram(chain, scaling, whole.usable.rows, z, watch)

        early = None if staged is None else (lambda few: staged(evaluation(few)))
        return evaluation(self._components(scaler, scaled, with_gram, recipe, key, watch, early))

    def _components(
        self,
        scaler: Scaler,
        z: Scaled,
        with_gram: Callable[[Scaled], Scaled],
        recipe: Recipe,
        key: Hashable,
        watch: Watch | None,
        early: Callable[[Decomposition], None] | None,
    ) -> Decomposition:
        """At least as many components as asked for, where there are so many."""
        settings, (n, p) = recipe.model, z.shape
        centred = scaler.centred
        most = structural_rank(n, p, centred)
        asked = settings.components or min(DEFAULT_COMPONENTS, most)
        ahead = min(self.ahead, FEW_AHEAD) if z.work > HEAVY else self.ahead
        wanted = -(-asked // ahead) * ahead if ahead else asked
        wanted = max(asked, min(wanted, most))
        how = (settings.engine, settings.seed, settings.tolerance, settings.rounds)
        find = decompose if settings.components == wanted else decompose_up_to

        def components() -> Decomposition:
            hears = Early(asked, early) if early is not None else None
            with fitting_threads(z.work):
                found = find(with_gram(z), centred, wanted, *how, watch=watch, early=hears)
            if len(scaler.constant):
                found.loadings[scaler.constant] = 0.0  # in place of what rounding left there
            return found

        kept: Decomposition = self._kept(
            (key, "components", wanted, how, find is decompose), components, _decomposition_size
        )
        return kept

    def _around_gaps(
        self, treated: Table, scaling: ScaleSettings, recipe: Recipe, key: Hashable, watch: Watch | None
    ) -> tuple[AroundGaps, str]:
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
            lambda: fit_around_gaps(treated.values, treated.axis, scaling, settings, k, watch),
            lambda around: 2 * around.z.nbytes,
        )
        note = "" if found.settled else f"The model around gaps did not settle in {found.rounds} rounds."
        return found, note

    def _kept(self, key: Hashable, compute: Callable[[], Any], size: Callable[[Any], int]) -> Any:
        return compute() if self.cache is None else self.cache.get(key, compute, size)

    def _fingerprint(self, table: Table) -> str:
        """A hash of the values and the axis; the values are hashed once for each array object."""
        if self.cache is None:
            return ""
        held = next((digest for values, digest in self._hashes if values is table.values), None)
        if held is None:
            held = hashlib.blake2b(np.ascontiguousarray(table.values).data, digest_size=16).hexdigest()
            self._hashes = [*self._hashes[-3:], (table.values, held)]
        axis = table.axis
        return f"{held}|{axis.fingerprint}|{table.signal}|{table.signal_unit}"


def _step_key(before: Hashable, step: Step, labels: Table) -> Hashable:
    """What a step is made from: all before it, its settings, and what it learns from beside the values."""
    return before, step.method, step.parameters, _what_is_learned_from(step, labels)


def _longer(chain: Hashable | None, step: Step) -> Hashable | None:
    """With a step more: what a sample becomes follows from it alone, or the chain ends."""
    asks = any(field.of for field in fields_of(step.treatment.parameters))
    return None if chain is None or step.treatment.learns or asks else (chain, step.method, step.parameters)


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
