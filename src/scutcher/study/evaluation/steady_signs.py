"""Components keep their signs while somebody works, and a state that was seen before looks as it did."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.models.pca.decomposition import Decomposition, agreeing_signs, with_signs
from scutcher.study.evaluation.evaluation import Evaluation

TURNED = 30
"""Components whose sign is held steady while somebody works."""

SEEN = 500
"""Evaluations whose signs are remembered."""


class SteadySigns:
    """Turns the components of one evaluation after another."""

    def __init__(self) -> None:
        self._seen: OrderedDict[Hashable, Floats] = OrderedDict()
        self._last: tuple[Decomposition, Decomposition] | None = None

    def __call__(self, fresh: Evaluation, shown: Evaluation | None) -> Evaluation:
        """The fresh evaluation as it was seen before, or turned to agree with the one on screen."""
        raw = fresh.decomposition
        if self._last is None or raw is not self._last[0]:
            self._last = (raw, with_signs(raw, self._signs(fresh, shown)))
        return replace(fresh, model=replace(fresh.model, decomposition=self._last[1]))

    def _signs(self, fresh: Evaluation, shown: Evaluation | None) -> Floats:
        raw = fresh.decomposition
        signs = np.ones(raw.computed)
        if shown is not None and _same_things(shown, fresh):
            signs = agreeing_signs(raw, shown.decomposition.loadings[:, :TURNED])
        seen = self._seen.pop(fresh.key, None)
        if seen is not None:
            known = min(len(seen), len(signs))
            signs[:known] = seen[:known]
        self._seen[fresh.key] = signs if seen is None or len(seen) < len(signs) else seen
        while len(self._seen) > SEEN:
            self._seen.popitem(last=False)
        return signs


def _same_things(shown: Evaluation, fresh: Evaluation) -> bool:
    """Whether two evaluations are of the same samples and their loadings can be compared."""
    same_size = len(shown.decomposition.loadings) == len(fresh.decomposition.loadings)
    return (
        same_size
        and shown.table.ids == fresh.table.ids
        and shown.table.axis.labels == fresh.table.axis.labels
    )
