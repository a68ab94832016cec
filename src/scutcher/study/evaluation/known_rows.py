"""Row-wise treatments look at one spectrum at a time: where samples come or go, only those are treated."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace
from weakref import ref

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.data.origin import Looked
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.numeric.gathering import rows_of
from scutcher.core.progress import Watch
from scutcher.core.recipes.chain import Treated, run_step
from scutcher.core.recipes.recipe import Step
from scutcher.study.evaluation.cache import Cache

WORTH = 0.5
"""Share of the samples that must be known: below it all are treated anew."""


@frozen(eq=False)
class _Result:
    """What a chain gave: rows of the data, and their values for as long as somebody else keeps them."""

    rows: Integers
    values: ref[Floats]
    axis: Axis
    signal: tuple[str, str]
    complete: bool

    def places(self, rows: Integers) -> Integers:
        """Where each row of the data stands in it; -1 for those that it lacks."""
        near = np.searchsorted(self.rows, rows).clip(max=len(self.rows) - 1)
        return np.where(self.rows[near] == rows, near, -1)


class KnownRows:
    """The last result of each chain of row-wise treatments, within the cache.

    A chain stands for the data and all treatments so far, without the samples that they were applied to;
    None for one that learns, which looks at all samples together.
    """

    def __init__(self, cache: Cache | None) -> None:
        self._cache = cache

    def fresh_share(self, chain: Hashable | None, rows: Integers) -> float:
        """Which share of the samples would have to be treated."""
        found = self._found(chain, rows)
        return 1.0 if found is None else float(np.mean(found[2] < 0))

    def treat(
        self, chain: Hashable | None, rows: Integers, before: Table, step: Step, watch: Watch | None
    ) -> Treated:
        """As `run_step`, of the samples in these rows of the data; what is known of them is taken.

        Raises
        ------
        TableError, RecipeError, Stopped
        """
        found = self._found(chain, rows)
        if found is None:
            treated = run_step(before, step, watch)
        else:
            treated = Treated(_completed(*found, before, step, watch), None)
        if chain is not None and self._cache is not None:
            table = treated.table
            signal = table.signal, table.signal_unit
            known = _Result(rows, ref(table.values), table.axis, signal, not table.has_gaps)
            self._cache.put(("rows", chain), known, rows.nbytes)
        return treated

    def _found(self, chain: Hashable | None, rows: Integers) -> tuple[_Result, Floats, Integers] | None:
        """What is known of a chain where that is worth while, its values, and the place of each row in it."""
        if chain is None or self._cache is None:
            return None
        known: _Result | None = self._cache.find(("rows", chain))
        values = None if known is None else known.values()
        if known is None or values is None:
            return None
        places = known.places(rows)
        return (known, values, places) if np.mean(places >= 0) >= WORTH else None


def _completed(
    known: _Result, values: Floats, places: Integers, before: Table, step: Step, watch: Watch | None
) -> Table:
    """The known rows in their places, and between them those that are treated now."""
    lacking, complete = np.flatnonzero(places < 0), known.complete
    whole = rows_of(values, places.clip(min=0))
    if len(lacking):
        few = run_step(before.take(lacking), step, watch).table
        whole[lacking] = few.values
        complete = complete and not few.has_gaps
    return replace(
        before,
        values=whole,
        looked=Looked(whole, True, before.ids) if complete else None,
        axis=known.axis,
        left_out={},
        signal=known.signal[0],
        signal_unit=known.signal[1],
    )
