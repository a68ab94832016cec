"""Where a few samples come or go, the Gram matrix of the model before is taken on in place of a new one."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace
from weakref import ref

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.numeric.threads import SMALL
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import ScaleSettings
from scutcher.core.scaling.gram_downdating import KnownGram, downdated, known_gram
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import Scaler
from scutcher.study.evaluation.cache import Cache

FEW = 20
"""One changed sample for so many variables at most."""

CENTRES = ("mean", "none")
"""Centres under which a Gram matrix can be taken on."""


@frozen(eq=False)
class _Last:
    """The Gram matrix of a chain of treatments and a scaling, and the samples that it is of."""

    rows: Integers
    values: ref[Floats]
    gram: KnownGram


class KnownGrams:
    """The last Gram matrix of each chain of row-wise treatments and each scaling, within the cache."""

    def __init__(self, cache: Cache) -> None:
        self._cache = cache

    def with_gram(
        self, chain: Hashable, scaling: ScaleSettings, rows: Integers, z: Scaled, watch: Watch | None
    ) -> Scaled:
        """The same matrix with its Gram matrix, where that is worth keeping.

        Parameters
        ----------
        chain : hashable
            Stands for the data and all treatments, without the samples.
        rows : (n,) int array
            Places of the samples in the data, rising.

        Raises
        ------
        Stopped
        """
        n, p = z.shape
        if z.scaler is None or p > n or z.work < SMALL or scaling.centre not in CENTRES:
            return z
        key = ("gram", chain, scaling)
        last: _Last | None = self._cache.find(key)
        if last is not None and last.values() is z.values and last.gram.scaler is z.scaler:
            return replace(z, known=last.gram.product)
        gram = None if last is None else _taken_on(last, rows, z.values, z.scaler, scaling.centre == "mean")
        if gram is None:
            gram = known_gram(z.gram(watch), z.scaler)
        self._cache.put(key, _Last(rows, ref(z.values), gram), gram.product.nbytes)
        return replace(z, known=gram.product)


def _taken_on(last: _Last, rows: Integers, values: Floats, scaler: Scaler, by_mean: bool) -> KnownGram | None:
    before = last.values()
    gone, come = ~np.isin(last.rows, rows), ~np.isin(rows, last.rows)
    if before is None or FEW * (np.count_nonzero(gone) + np.count_nonzero(come)) > values.shape[1]:
        return None
    return downdated(last.gram, before[gone], values[come], scaler, len(rows), by_mean)
