"""Series: all pairs and growing windows beside one decomposition, amounts, and how often their bands hold."""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median

import numpy as np

from scutcher.core.numeric.threads import one_thread
from scutcher.core.series.evolving_rank import evolving_rank
from scutcher.core.series.likeness import drawn_peak, search_of
from scutcher.core.series.rebuilding import series_components
from scutcher.core.unmixing.mixture import SURE
from scutcher.core.unmixing.shape_sums import shape_sums

SPECTRA, CHANNELS, SETS, LOG = 500, 1000, 60, 2000


def report() -> list[str]:
    """The lines of this bench."""
    rng = np.random.default_rng(1)
    axis, t = np.arange(float(CHANNELS)), np.linspace(0.0, 1.0, SPECTRA)
    shapes = np.array([np.exp(-(((axis - c) / 80.0) ** 2)) for c in (250, 480, 700)])
    amounts = np.column_stack([1 - t, t, np.exp(-(((t - 0.5) / 0.1) ** 2))])
    values = amounts @ shapes + 0.01 * rng.normal(size=(SPECTRA, CHANNELS))
    peak = drawn_peak(axis, 480.0, 40.0)
    ready = search_of(values, axis, 3)
    shifting = search_of(values, axis, 3, most_shift=5.0)
    with one_thread():
        one = _seconds(lambda: np.linalg.svd(values - values.mean(axis=0), full_matrices=False))
        lines = [
            f"{SPECTRA} × {CHANNELS}, one thread; a decomposition takes {one:.2f} s; in its multiples:",
            f"  components with verdicts {_seconds(lambda: series_components(values)) / one:.2f}",
            f"  every pair made ready {_seconds(lambda: search_of(values, axis, 3)) / one:.2f}",
            f"  another reference {_seconds(lambda: ready.pairs(peak)) / one:.3f}, "
            f"with {len(shifting.shifts)} shifts {_seconds(lambda: shifting.pairs(peak)) / one:.2f}",
            f"  growing windows {_seconds(lambda: evolving_rank(values, 3)) / one:.2f}",
            f"  amounts of three shapes {_seconds(lambda: shape_sums(values, shapes)) / one:.2f}",
        ]
        log = np.cumsum(rng.normal(size=(LOG, 3)), axis=0) @ rng.normal(size=(3, 12))
        log += rng.normal(size=log.shape)
        one = _seconds(lambda: np.linalg.svd(log - log.mean(axis=0), full_matrices=False))
        windows = _seconds(lambda: evolving_rank(log, 3))
        lines.append(f"{LOG} × 12, a log: its growing windows take {windows / one:.0f} of its decompositions")
    return [*lines, *_coverage()]


def _coverage() -> list[str]:
    """How often a 95 % band holds the amount, of white and of smoothed noise."""
    lines = []
    for p in (200, 1000):
        for smooth in (0, 9):
            inside = []
            for seed in range(SETS):
                rng = np.random.default_rng(seed)
                u, t = np.linspace(0, 1, p), np.linspace(0.1, 0.9, 40)
                shapes = np.array([np.exp(-(((u - c) / 0.12) ** 2)) for c in (0.4, 0.6)])
                noise = rng.normal(size=(40, p))
                if smooth:
                    box = np.ones(smooth) / smooth
                    noise = np.apply_along_axis(np.convolve, 1, noise, box, "same")
                amounts = np.column_stack([1 - t, t])
                found = shape_sums(amounts @ shapes + 0.05 * noise, shapes, "free")
                inside.append(np.mean(np.abs(found.amounts - amounts) <= SURE * found.errors))
            kind = f"noise smoothed over {smooth}" if smooth else "white noise"
            lines.append(f"  95 % bands hold {100 * np.mean(inside):.1f} % ({p} channels, {kind})")
    return lines


def _seconds(work: Callable[[], object]) -> float:
    """The median of five runs."""
    taken = []
    for _ in range(5):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return median(taken)
