"""Demo set `practice`: known scores, known loadings and known noise, so that the answer can be checked."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen

NAME, SEED = "practice", 1923
SAMPLES, CHANNELS, COMPONENTS = 120, 200, 3
DEVIATIONS = (3.0, 1.6, 0.8)
NOISE = 0.05


@frozen(eq=False)
class Known:
    """What the data are made of: `x = mean + scores · loadingsᵀ + noise`.

    Attributes
    ----------
    mean : (p,) float array
    loadings : (p, k) float array, orthonormal
    deviations : k standard deviations of the scores, which are normal and independent
    noise : standard deviation of the noise, the same at every channel
    """

    mean: Floats
    loadings: Floats
    deviations: tuple[float, ...]
    noise: float

    def draw(self, samples: int, rng: np.random.Generator) -> tuple[Floats, Floats]:
        """New samples and their true scores, (n, p) and (n, k)."""
        scores = rng.normal(size=(samples, len(self.deviations))) * self.deviations
        noise = self.noise * rng.normal(size=(samples, len(self.mean)))
        return self.mean + scores @ self.loadings.T + noise, scores

    def draw_singly(self, samples: int, rng: np.random.Generator) -> tuple[Floats, Integers]:
        """New samples without repeats, (n, p), and the group of each, (n,)."""
        return self.draw(samples, rng)[0], np.arange(samples)

    @property
    def variances(self) -> Floats:
        """The eigenvalues of the model covariance, for the k components, (k,)."""
        return np.array(self.deviations) ** 2 + self.noise**2


def known() -> Known:
    """The structure of the practice set: smooth loadings along an axis of 200 channels."""
    u = np.linspace(0.0, 1.0, CHANNELS)
    raw = np.column_stack(
        [
            np.exp(-(((u - 0.3) / 0.12) ** 2)) + 0.3,
            np.exp(-(((u - 0.6) / 0.08) ** 2)) - 0.5 * np.exp(-(((u - 0.2) / 0.07) ** 2)),
            np.sin(5.0 * np.pi * u),
        ]
    )
    loadings = np.linalg.qr(raw)[0]
    largest = np.abs(loadings).argmax(axis=0)
    loadings = loadings * np.sign(loadings[largest, np.arange(COMPONENTS)])
    return Known(1.0 + np.sin(2.0 * np.pi * u) ** 2, loadings, DEVIATIONS, NOISE)


def thinned(channels: int) -> Known:
    """The same structure over fewer channels, its loadings orthonormal again."""
    full = known()
    kept = np.linspace(0, len(full.mean) - 1, channels).round().astype(int)
    return Known(full.mean[kept], np.linalg.qr(full.loadings[kept])[0], full.deviations, full.noise)


@cache
def practice() -> tuple[Table, dict[str, Any]]:
    """Make the set: 120 samples × 200 channels, values not rounded away from what is known."""
    structure = known()
    values, scores = structure.draw(SAMPLES, np.random.default_rng(SEED))
    axis = np.arange(1.0, CHANNELS + 1.0)
    half = tuple("high" if score > 0 else "low" for score in scores[:, 0])
    ids = tuple(f"P{place + 1:03d}" for place in range(SAMPLES))
    table = Table(
        values=np.round(values, 9),
        axis=Axis(tuple(str(int(value)) for value in axis), axis, "channel", ""),
        ids=ids,
        name=NAME,
        classes=(ClassColumn("first score", half, ("low", "high")),),
        signal="signal",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["first score"]},
        "components": COMPONENTS,
        "deviations": list(DEVIATIONS),
        "noise": NOISE,
        "mean": structure.mean.tolist(),
        "loadings": structure.loadings.T.tolist(),
        "scores": dict(zip(ids, scores.tolist(), strict=True)),
    }
    return table, truth
