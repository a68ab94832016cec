"""How often the robust start takes clean samples for outliers, and how many masked ones it finds."""

from __future__ import annotations

import numpy as np

from bench.timing import best_of_both
from scutcher.core.arrays import Floats
from scutcher.core.distances.outliers import robust_fit

SIZES = (
    (30, 10, 150),
    (30, 200, 100),
    (30, 500, 80),
    (60, 500, 40),
    (100, 10, 60),
    (100, 500, 20),
    (500, 500, 4),
)
"""Samples, channels, sets."""

KINDS = ("clean", "in the plane", "off the plane", "one point", "spread")


def drawn(samples: int, channels: int, kind: str, seed: int) -> tuple[Floats, int]:
    """Three components over noise; the first fifth, counted in the answer, are outliers of a kind."""
    rng = np.random.default_rng([seed, samples, channels])
    loadings = np.linalg.qr(rng.normal(size=(channels, 3)))[0] * np.sqrt(channels)
    x = (rng.normal(size=(samples, 3)) * np.array([3.0, 2.0, 1.5])) @ loadings.T
    x += 0.9 * rng.normal(size=x.shape)
    m = 0 if kind == "clean" else samples // 5
    away = rng.normal(size=channels)
    away *= np.sqrt(channels) / np.linalg.norm(away)
    if kind == "in the plane":
        x[:m] = (np.array([12.0, 10.0, -9.0]) + 0.3 * rng.normal(size=(m, 3))) @ loadings.T
        x[:m] += 0.9 * rng.normal(size=(m, channels))
    elif kind == "off the plane":
        x[:m] += 12.0 * away
    elif kind == "one point":
        x[:m] = 8.0 * away + 0.01 * rng.normal(size=(m, channels))
    elif kind == "spread":
        x[:m] += 4.0 * rng.normal(size=(m, channels))
    return x - x.mean(axis=0), m


def report() -> list[str]:
    """The lines of this bench."""
    lines = ["clean samples past a limit (nominal 5 %) | masked outliers found, " + ", ".join(KINDS[1:])]
    for samples, channels, sets in SIZES:
        past, found = [], []
        for kind in KINDS:
            rates = []
            for seed in range(sets if kind == "clean" else max(sets // 4, 2)):
                x, m = drawn(samples, channels, kind, seed)
                outlying = robust_fit(x, 3, 1).outlying()
                rates.append(outlying[:m].mean() if m else outlying.mean())
            (found if kind != "clean" else past).append(f"{100 * np.mean(rates):.1f}")
        lines.append(f"{samples} × {channels}: {past[0]} % | {', '.join(found)} %")
    x, _ = drawn(1000, 1000, "clean", 0)
    ours, full = best_of_both(lambda: robust_fit(x, 3, 1), lambda: np.linalg.svd(x, full_matrices=False), 3)
    lines.append(f"1,000 × 1,000: {ours:.2f} s, {ours / full:.1f}× its full decomposition")
    return lines
