"""Treatments beside copies of the array: how many passes over the data each needs, and what it takes."""

from __future__ import annotations

import numpy as np

from bench.timing import best_seconds
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import ScaleSettings, Step
from scutcher.core.scaling.scaler import fit_scaler
from scutcher.core.treatments import treatment

# method, passes over the array that cannot be done without, what they are
PASSES = (
    ("snv", 2, "read, write; the row stays in the cache between"),
    ("msc", 3, "mean; read, write"),
    ("savitzky-golay", 2, "read, write"),
    ("bin-equal", 2, "read, write a quarter"),
)


def spectra(n: int, p: int) -> Table:
    """Smooth spectra with peaks, curved baselines and a little noise."""
    rng = np.random.default_rng(0)
    u = np.linspace(-1.0, 1.0, p)
    pure = np.exp(-(((u - np.array([[-0.5], [0.0], [0.4]])) / 0.03) ** 2))
    values = 1.0 + rng.uniform(0.5, 1.5, (n, 3)) @ pure + rng.uniform(0, 1, (n, 1)) * u**2
    values += 0.005 * rng.normal(size=(n, p))
    places = 1000.0 + np.arange(p)
    return Table(
        values, Axis(tuple(str(v) for v in places), places, "shift", "cm⁻¹"), tuple(map(str, range(n)))
    )


def report() -> list[str]:
    """The lines of this bench."""
    table = spectra(5000, 2000)
    copy = best_seconds(table.values.copy, 5)
    lines = [f"one copy of 5000 × 2000: {1e3 * copy:.0f} ms (a pass to read, a pass to write)"]
    for method, passes, what in PASSES:
        declared = treatment(method)
        step = Step(method, declared.suggest(table) if declared.suggest else declared.parameters())
        took = best_seconds(lambda step=step: run_step(table, step), 3)
        lines.append(f"{method}: {1e3 * took:.0f} ms = {took / copy:.1f} copies; {passes} passes ({what})")

    def scale() -> None:
        fit_scaler(table.values, ScaleSettings(method="sd"), table.axis).apply(table.values)

    took = best_seconds(scale, 3)
    lines.append(f"centre and scale by SD: {1e3 * took:.0f} ms = {took / copy:.1f} copies; 3 passes")
    small = spectra(1000, 1000)
    for method in ("asymmetric-least-squares", "arpls"):
        step = Step(method, treatment(method).parameters())
        shares: list[float] = []
        took = best_seconds(
            lambda step=step, shares=shares: run_step(small, step, lambda s: shares.append(s) or True), 1
        )
        lines.append(f"{method} of 1000 × 1000: {took:.2f} s, told its progress {len(shares) // 2} times")
    return lines
