"""How often limits and ellipses hold for samples that a model has not seen, by simulation."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.distances.limits import t2_limit_new
from scutcher.core.models.pca.component_model import keep
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.recipe import LimitSettings

Draw = Callable[[int, np.random.Generator], tuple[Floats, Floats]]
"""Draws n samples of a known structure: values (n, p) and true scores (n, k)."""


def coverage(
    draw: Draw, k: int, samples: int, sets: int, seed: int, fresh: int = 100, watch: Watch | None = None
) -> dict[str, float]:
    """Share of fresh samples within the 95 % limits and within 1, 2 and 3 SD ellipses of components 1 and 2.

    Parameters
    ----------
    draw : Draw
    k : int
        Components of each model; centred by the mean, not scaled.
    samples, sets, fresh : int
        Training samples of a set, how many sets, and new samples for each.
    seed : int
    watch : Watch, optional

    Returns
    -------
    dict
        "t2", "q", "joint", "1 SD", "2 SD", "3 SD" → mean share, fractions of one.
    """
    rng = np.random.default_rng(seed)
    held: dict[str, list[float]] = {}
    for turn in range(sets):
        tell(watch, turn / sets)
        training, new = draw(samples, rng)[0], draw(fresh, rng)[0]
        for name, share in _one_set(training, new, k).items():
            held.setdefault(name, []).append(share)
    return {name: float(np.mean(shares)) for name, shares in held.items()}


def _one_set(training: Floats, new: Floats, k: int) -> dict[str, float]:
    mean = training.mean(axis=0)
    model = keep(decompose(training - mean, True, k, "auto"), k, LimitSettings())
    n, z = len(training), new - mean
    scores = z @ model.loadings
    scaled = scores**2 / model.decomposition.eigenvalues[:k]
    t2 = scaled.sum(axis=1)
    q = np.einsum("ij,ij->i", z, z) - np.einsum("ij,ij->i", scores, scores)
    found = {"t2": _within(t2, t2_limit_new(n, k, 0.95).value), "q": _within(q, model.q_limit.value)}
    if model.joint_scale is not None and model.joint_limit is not None:
        joint = model.joint_scale.distance(t2 / (n - 1) + 1.0 / n, q)
        found["joint"] = _within(joint, model.joint_limit.value)
    for width in (1, 2, 3):
        found[f"{width} SD"] = _within(scaled[:, :2].sum(axis=1), float(width**2))
    return found


def _within(distances: Floats, limit: float | None) -> float:
    return float((distances <= limit).mean()) if limit is not None else float("nan")
