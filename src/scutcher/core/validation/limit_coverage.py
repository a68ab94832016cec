"""How often limits and ellipses hold for samples that a model has not seen, by simulation."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.distances.held_out_limits import held_out_limits
from scutcher.core.distances.limits import t2_limit_new
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.component_model import keep
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.recipe import LimitSettings, ModelSettings, Recipe, ScaleSettings, ValidateSettings
from scutcher.core.validation.cross_validation import validate

Draw = Callable[[int, np.random.Generator], tuple[Floats, Integers]]
"""Draws n samples of a known structure: values (n, p), and the group of replicates of each (n,)."""


@frozen
class Simulated:
    """A population to draw from: three components, white noise.

    Attributes
    ----------
    channels : int
    heavy : bool
        Scores of Student's t with five degrees of freedom in place of normal ones.
    replicates : int
        Samples of each group; they share nine tenths of the variance of their scores.
    classes : int
        Groups whose means lie apart.
    """

    channels: int
    heavy: bool = False
    replicates: int = 1
    classes: int = 1

    DEVIATIONS = (3.0, 1.6, 0.8)
    NOISE, SHARED, APART = 0.3, 0.9, 2.0

    def loadings(self) -> Floats:
        """Orthonormal and smooth along the channels, (p, 3)."""
        u = np.linspace(0.0, 1.0, self.channels)
        raw = np.column_stack([np.sin((place + 1.0) * np.pi * u + place) for place in range(3)])
        found: Floats = np.linalg.qr(raw)[0]
        return found

    def draw(self, n: int, rng: np.random.Generator) -> tuple[Floats, Integers]:
        """n samples, and the group of replicates that each is of."""
        groups = np.arange(n) // self.replicates
        count = int(groups[-1]) + 1
        between = self._scores(count, rng)[groups]
        within = self._scores(n, rng)
        shared = self.SHARED if self.replicates > 1 else 1.0
        scores = np.sqrt(shared) * between + np.sqrt(1.0 - shared) * within
        kinds = rng.integers(self.classes, size=count)[groups]
        scores = scores + self.APART * np.column_stack([kinds == place for place in range(3)])
        noise = self.NOISE * rng.normal(size=(n, self.channels)) / np.sqrt(self.channels)
        return scores * self.DEVIATIONS @ self.loadings().T + noise, groups

    def _scores(self, n: int, rng: np.random.Generator) -> Floats:
        if not self.heavy:
            return rng.normal(size=(n, 3))
        drawn: Floats = rng.standard_t(5, size=(n, 3)) * np.sqrt(3.0 / 5.0)
        return drawn


def coverage(
    draw: Draw,
    k: int,
    samples: int,
    sets: int,
    seed: int,
    fresh: int = 100,
    level: float = 0.95,
    watch: Watch | None = None,
) -> dict[str, float]:
    """Share of fresh samples within the limits and within 1, 2 and 3 SD ellipses of components 1 and 2.

    Parameters
    ----------
    draw : Draw
    k : int
        Components of each model; centred by the mean, not scaled.
    samples, sets, fresh : int
        Training samples of a set, how many sets, and new samples for each.
    seed : int
    level : float
        Coverage that is asked for.
    watch : Watch, optional

    Returns
    -------
    dict
        "t2", "q", "joint" (limits of the fit), "t2 held-out", "q held-out", "joint held-out",
        "1 SD", "2 SD", "3 SD" → mean
        share, fractions of one.
    """
    rng = np.random.default_rng(seed)
    held: dict[str, list[float]] = {}
    for turn in range(sets):
        tell(watch, turn / sets)
        training, groups = draw(samples, rng)
        new = draw(fresh, rng)[0]
        for name, share in _one_set(training, groups, new, k, level).items():
            held.setdefault(name, []).append(share)
    return {name: float(np.mean(shares)) for name, shares in held.items()}


def _one_set(training: Floats, groups: Integers, new: Floats, k: int, level: float) -> dict[str, float]:
    mean = training.mean(axis=0)
    model = keep(decompose(training - mean, True, k, "auto"), k, LimitSettings(level=level))
    n, z = len(training), new - mean
    scores = z @ model.loadings
    scaled = scores**2 / model.decomposition.eigenvalues[:k]
    t2 = scaled.sum(axis=1)
    h = t2 / (n - 1) + 1.0 / n
    q = np.einsum("ij,ij->i", z, z) - np.einsum("ij,ij->i", scores, scores)
    found = {"t2": _within(t2, t2_limit_new(n, k, level).value), "q": _within(q, model.q_limit.value)}
    if model.joint_scale is not None and model.joint_limit is not None:
        found["joint"] = _within(model.joint_scale.distance(h, q), model.joint_limit.value)
    found |= _held_out(training, groups, h, q, k, level)
    for width in (1, 2, 3):
        found[f"{width} SD"] = _within(scaled[:, :2].sum(axis=1), float(width**2))
    return found


def _held_out(
    training: Floats, groups: Integers, h: Floats, q: Floats, k: int, level: float
) -> dict[str, float]:
    """Coverage of the limits that the left-out samples of the training set give."""
    p = training.shape[1]
    names = tuple(f"g{group}" for group in groups.tolist())
    table = Table(
        values=training,
        axis=Axis(tuple(map(str, range(1, p + 1))), np.arange(1.0, p + 1.0)),
        ids=tuple(str(row) for row in range(len(training))),
        replicates=names,
    )
    recipe = Recipe(
        scale=ScaleSettings(centre="mean", method="none"),
        model=ModelSettings(components=k),
        validate=ValidateSettings(),
    )
    distances = validate(table, recipe, k).distances
    limits = None if distances is None else held_out_limits(distances, k, level, "moments")
    if limits is None or limits.scale is None or limits.joint_limit is None:
        return {}
    t2 = (h - 1.0 / len(training)) * (len(training) - 1)
    return {
        "t2 held-out": _within(t2, limits.t2_limit.value),
        "q held-out": _within(q, limits.q_limit.value),
        "joint held-out": _within(limits.scale.distance(h, q), limits.joint_limit.value),
    }


def _within(distances: Floats, limit: float | None) -> float:
    return float((distances <= limit).mean()) if limit is not None else float("nan")
