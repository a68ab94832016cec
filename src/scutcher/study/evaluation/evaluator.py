"""Recomputes only what changed: each result is kept under what it was made from."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Hashable, Iterator
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import Usable, filled, fills, usable_part
from scutcher.core.progress import Watch
from scutcher.core.recipes.chain import Treated
from scutcher.core.recipes.recipe import Recipe, Step
from scutcher.core.recipes.work import most_channels
from scutcher.core.treatments.base import fields_of
from scutcher.study.evaluation.cache import Cache, kept_in
from scutcher.study.evaluation.evaluation import Evaluation, Staged
from scutcher.study.evaluation.fitting import Fitting
from scutcher.study.evaluation.known_rows import KnownRows

ITERATED, UNFORESEEN = ("nipals", "em"), 1e12
"""Ways round gaps that go round until they settle, and what that counts for: even of a small table they may
take a second, and nobody knows before."""


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
    """Turns table and recipe into an evaluation; for any thread.

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
        self._rows = KnownRows(self.cache)
        self._fitting = Fitting(self.cache, ahead)
        self._hashes: list[tuple[Floats, str]] = []
        self._last: tuple[Table, tuple[str, float], _Beginning] | None = None

    def evaluate(
        self,
        table: Table,
        recipe: Recipe,
        lenient: bool = False,
        watch: Watch | None = None,
        staged: Callable[[Staged], None] | None = None,
        ahead: bool = True,
    ) -> Evaluation:
        """Apply a recipe to a table.

        Parameters
        ----------
        lenient : bool
            Pass over steps that do not fit and go on, instead of refusing.
        watch : Watch, optional
            Told how far slow treatments are.
        staged : function, optional
            Handed the treated tables before the model is fitted.
        ahead : bool
            Whether components beyond those asked for are computed too; they are there where they are kept.

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
        return self._fitting.fit(whole, key, chain, watch, ahead)

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
        part: Table = kept_in(self.cache, key, lambda: table.take(usable.rows, usable.columns), _table_size)
        fill = fills(part.values, recipe.model.gaps) if part.has_gaps else None
        if fill is not None:
            key, whole = (key, recipe.model.gaps), part
            part = kept_in(self.cache, key, lambda: filled(whole, fill), _table_size)
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
        treated: Treated = kept_in(
            self.cache, key, lambda: self._rows.treat(chain, rows, before, step, watch), _treated_size
        )
        return treated

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
