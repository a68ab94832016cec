"""How the model of an evaluation would move with other samples."""

from __future__ import annotations

from weakref import WeakKeyDictionary

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.validation.stability import SegmentModels, Stability, stability
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation

_kept: WeakKeyDictionary[Decomposition, tuple[SegmentModels, int, Stability | None]] = WeakKeyDictionary()


def stability_of(found: Evaluation | None, checked: Checked | None) -> Stability | None:
    """The stability of a validated model; None without validation, or where segments have no such model.

    The last answer of each decomposition is kept: every view of a moment asks for the same.
    """
    if found is None or checked is None or checked.validation is None or checked.validation.models is None:
        return None
    models, k = checked.validation.models, found.model.k
    last = _kept.get(found.decomposition)
    if last is None or last[0] is not models or last[1] != k:
        last = (models, k, stability(models, found.model.loadings, len(found.treated.ids)))
        _kept[found.decomposition] = last
    return last[2]


def degrees_of(found: Evaluation | None, checked: Checked | None) -> Floats | None:
    """By how many degrees the model turns without the group of each sample of the table, (n,).

    NaN for samples that are not in the model; None where it is not known.
    """
    if found is None or checked is None or checked.influence is None:
        return None
    degrees = np.full(len(found.table.ids), np.nan)
    degrees[found.usable.rows] = checked.influence.of_samples(found.model.k)
    return degrees
