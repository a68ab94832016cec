"""Row-wise treatments look at one spectrum at a time: where samples come or go, only those are treated."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import replace
from weakref import ref

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.data.origin import Looked
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch
from scutcher.core.recipes.chain import Treated, run_step
from scutcher.core.recipes.recipe import Step

CHAINS = 64
"""Chains of treatments of which the last result is looked for."""

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
    """The last result of each chain of row-wise treatments.

    A chain stands for the data and all treatments so far, without the samples that they were applied to;
    None for one that learns, which looks at all samples together.
    """

    def __init__(self) -> None:
        self._last: OrderedDict[Hashable, _Result] = OrderedDict()

    def fresh_share(self, chain: Hashable | None, rows: Integers) -> float:
        """Which share of the samples would have to be treated."""
        found = self._last.get(chain)
        if found is None or found.values() is None:
            return 1.0
        lacking = float(np.mean(found.places(rows) < 0))
        return lacking if lacking <= WORTH else 1.0

    def treat(
        self, chain: Hashable | None, rows: Integers, before: Table, step: Step, watch: Watch | None
    ) -> Treated:
        """As `run_step`, of the samples in these rows of the data; what is known of them is taken.

        Raises
        ------
        TableError, RecipeError, Stopped
        """
        known = self._last.get(chain)
        values = None if known is None else known.values()
        if known is None or values is None or self.fresh_share(chain, rows) > WORTH:
            treated = run_step(before, step, watch)
        else:
            treated = Treated(_completed(known, values, known.places(rows), before, step, watch), None)
        if chain is not None:
            table = treated.table
            signal = table.signal, table.signal_unit
            self._last.pop(chain, None)
            self._last[chain] = _Result(rows, ref(table.values), table.axis, signal, not table.has_gaps)
            if len(self._last) > CHAINS:
                self._last.popitem(last=False)
        return treated


def _completed(
    known: _Result, values: Floats, places: Integers, before: Table, step: Step, watch: Watch | None
) -> Table:
    """The known rows in their places, and between them those that are treated now."""
    lacking, complete = np.flatnonzero(places < 0), known.complete
    whole = values[places]
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
