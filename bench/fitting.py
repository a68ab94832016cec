"""Exact fit beside one product of the smaller Gram matrix of the same data."""

from __future__ import annotations

import numpy as np

from bench.timing import best_seconds
from scutcher.core.engines.choice import decompose
from scutcher.core.model import keep
from scutcher.core.recipe import LimitSettings

SHAPES = ((150, 700), (1000, 2000))


def report() -> list[str]:
    """The lines of this bench."""
    lines = []
    for n, p in SHAPES:
        x = np.random.default_rng(0).normal(size=(n, p))

        def fit(x: np.ndarray = x) -> None:
            z = x - x.mean(axis=0)
            keep(decompose(z, True), 4, LimitSettings())

        def product(x: np.ndarray = x) -> np.ndarray:
            return x @ x.T if len(x) <= x.shape[1] else x.T @ x

        ours, gram = best_seconds(fit, 5), best_seconds(product, 5)
        lines.append(
            f"exact fit of {n} × {p}, all components, distances and limits: {1e3 * ours:.1f} ms "
            f"= {ours / gram:.0f} × its Gram product ({1e3 * gram:.2f} ms)"
        )
    return lines
