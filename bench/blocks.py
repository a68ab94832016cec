"""Blocks: time beside the decompositions of the tables, and how often a planted pattern is found."""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median

import numpy as np

from scutcher.core.blocks.consensus import block_model
from scutcher.core.blocks.reduced import reduced, suggested_rank
from scutcher.core.errors import ModelError
from scutcher.core.numeric.threads import one_thread

SIZES = ((33, (281, 2800, 14000)), (500, (5000, 5000, 5000)), (92, (7, 18, 8)))
SETS = 25


def report() -> list[str]:
    """The lines of this bench."""
    lines = []
    with one_thread():
        for n, sizes in SIZES:
            lines.append(_timed(n, sizes))
    for n in (20, 90, 500):
        for noise in (0.05, 0.3, 0.6):
            share, wrong = _found(n, noise)
            lines.append(
                f"n = {n}, noise {100 * noise:.0f} %: whole pattern in {100 * share:.0f} % of {SETS} sets, "
                f"joined wrongly in {100 * wrong:.0f} %"
            )
    return lines


def _timed(n: int, sizes: tuple[int, ...]) -> str:
    rng = np.random.default_rng(1)
    blocks = []
    for p in sizes:
        z = rng.normal(size=(n, 4)) @ rng.normal(size=(4, p)) + 0.5 * rng.normal(size=(n, p))
        blocks.append(z - z.mean(axis=0))

    def whole() -> None:
        parts = [reduced(str(p), z, suggested_rank(z, p > 20)) for p, z in zip(sizes, blocks, strict=True)]
        block_model(parts)

    gram = _seconds(lambda: [z @ z.T for z in blocks])
    own = _seconds(whole)
    what = f"{n} × {' + '.join(map(str, sizes))}"
    return f"{what}: ranks and components {own:.3f} s, {own / gram:.0f} Gram products"


def _seconds(work: Callable[[], object]) -> float:
    taken = []
    for _ in range(3):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return median(taken)


def _found(n: int, noise: float) -> tuple[float, float]:
    """Two components of all three blocks, one of each of two pairs, one own each; 200 channels each."""
    right = wrong = 0
    wanted = sorted([(0, 1, 2), (0, 1, 2), (0, 1), (1, 2)])
    for seed in range(SETS):
        rng = np.random.default_rng(seed)
        scores = rng.normal(size=(n, 7))
        own = ((0, 1, 2, 4), (0, 1, 2, 3, 5), (0, 1, 3, 6))
        blocks = []
        for of in own:
            loadings = np.linalg.qr(rng.normal(size=(200, len(of))))[0]
            signal = scores[:, of] @ (np.linspace(1.3, 0.8, len(of))[:, np.newaxis] * loadings.T)
            white = rng.normal(size=(n, 200))
            white *= np.sqrt(noise / (1.0 - noise)) * np.linalg.norm(signal) / np.linalg.norm(white)
            z = signal + white
            blocks.append(z - z.mean(axis=0))
        try:
            model = block_model([reduced(str(b), z, suggested_rank(z, True)) for b, z in enumerate(blocks)])
        except ModelError:
            continue
        found = sorted(one.blocks for one in model.components if len(one.blocks) > 1)
        right += found == wanted
        wrong += any(found.count(one) > wanted.count(one) and len(one) > 2 for one in found)
    return right / SETS, wrong / SETS
