"""How often the 95 % limits hold for samples that a model has not seen, over simulated practice sets."""

from __future__ import annotations

from scutcher.core.models.pca.limit_coverage import coverage
from scutcher.demo.practice import thinned

SHAPES = ((60, 20), (120, 20), (400, 20), (120, 200), (400, 200), (2000, 200))


def report() -> list[str]:
    """The lines of this bench."""
    lines = []
    for samples, channels in SHAPES:
        found = coverage(thinned(channels).draw, 3, samples, 40 if samples > 1000 else 200, seed=1)
        figures = ", ".join(f"{name} {100 * share:.1f} %" for name, share in found.items())
        lines.append(f"{samples} samples × {channels} channels, 3 components: {figures}")
    return lines
