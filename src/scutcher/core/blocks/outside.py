"""Columns that made no part of the blocks beside the components: properties, classes, run order."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.blocks.consensus import BlockModel
from scutcher.core.frozen import frozen

RUN_ORDER = "run order"


@frozen
class Beside:
    """One column against one component.

    Attributes
    ----------
    column : str
    component : int
        Its place in the model.
    kind : "r" or "eta2"
        Pearson's r of numbers, between over total of classes.
    value : float
    p : float
        By t or F over the samples that are known.
    holm : float
        p after Holm, over all columns and components.
    known : int
        Samples.
    """

    column: str
    component: int
    kind: str
    value: float
    p: float
    holm: float
    known: int


def outside(
    model: BlockModel, numbers: Sequence[tuple[str, Floats]], classes: Sequence[tuple[str, Integers]]
) -> list[Beside]:
    """Every column against every component; run order first.

    Parameters
    ----------
    numbers : (name, (n,) float array) pairs, NaN where not known
    classes : (name, (n,) int array) pairs, −1 where not known

    References
    ----------
    Holm, Scand. J. Stat. 6 (1979) 65–70.
    """
    order = np.arange(float(model.n))
    raw: list[tuple[str, int, str, float, float, int]] = []
    for name, values in ((RUN_ORDER, order), *numbers):
        for place, component in enumerate(model.components):
            raw.append((name, place, "r", *_correlation(component.consensus, values)))
    for name, codes in classes:
        for place, component in enumerate(model.components):
            raw.append((name, place, "eta2", *_between(component.consensus, codes)))
    adjusted = _holm([row[4] for row in raw])
    return [
        Beside(name, place, kind, value, p, holm, known)
        for (name, place, kind, value, p, known), holm in zip(raw, adjusted, strict=True)
    ]


def _correlation(scores: Floats, values: Floats) -> tuple[float, float, int]:
    from scipy.special import stdtr

    known = np.isfinite(values)
    n = int(known.sum())
    if n < 4:
        return float("nan"), float("nan"), n
    x, y = scores[known] - scores[known].mean(), values[known] - values[known].mean()
    size = float(np.linalg.norm(x) * np.linalg.norm(y))
    if not size > 0.0:
        return float("nan"), float("nan"), n
    r = float(np.clip(x @ y / size, -1.0, 1.0))
    t = abs(r) * np.sqrt((n - 2) / max(1.0 - r * r, 1e-300))
    return r, float(2.0 * stdtr(n - 2, -t)), n


def _between(scores: Floats, codes: Integers) -> tuple[float, float, int]:
    from scipy.special import fdtrc

    known = codes >= 0
    x, groups = scores[known], codes[known]
    n, names = len(x), np.unique(groups)
    k = len(names)
    if k < 2 or n <= k + 1:
        return float("nan"), float("nan"), n
    total = float(np.sum((x - x.mean()) ** 2))
    between = sum(
        float(np.sum(groups == name)) * float(x[groups == name].mean() - x.mean()) ** 2 for name in names
    )
    if not total > 0.0:
        return float("nan"), float("nan"), n
    share = min(between / total, 1.0)
    f = (share / (k - 1)) / max((1.0 - share) / (n - k), 1e-300)
    return share, float(fdtrc(k - 1, n - k, f)), n


def _holm(p: Sequence[float]) -> list[float]:
    """Adjusted p values in the order given; NaN stays."""
    found = [float("nan")] * len(p)
    known = [place for place, value in enumerate(p) if np.isfinite(value)]
    reached = 0.0
    for rank, place in enumerate(sorted(known, key=lambda at: p[at])):
        reached = max(reached, min((len(known) - rank) * p[place], 1.0))
        found[place] = reached
    return found
