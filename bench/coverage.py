"""How often the limits hold for samples that a model has not seen, over simulated sets."""

from __future__ import annotations

from collections.abc import Callable

from scutcher.core.validation.limit_coverage import Simulated, coverage

SAMPLES, CHANNELS = (30, 60, 100, 500), (10, 200, 1000)
KINDS: dict[str, Callable[[int], Simulated]] = {
    "normal": Simulated,
    "heavy tails": lambda channels: Simulated(channels, heavy=True),
    "replicates of three": lambda channels: Simulated(channels, replicates=3),
    "three classes": lambda channels: Simulated(channels, classes=3),
}
FITTED, HELD = ("t2", "q", "joint"), ("t2 held-out", "q held-out", "joint held-out")


def report() -> list[str]:
    """The lines of this bench."""
    lines = ["T², Q, joint: 95 % fitted | 95 % held out | 99 % held out"]
    for samples in SAMPLES:
        for channels in CHANNELS:
            for kind, make in KINDS.items():
                sets = 40 if samples * channels > 100_000 else 120
                draw = make(channels).draw
                at = {level: coverage(draw, 3, samples, sets, 1, level=level) for level in (0.95, 0.99)}
                words = " | ".join(
                    ", ".join(f"{100 * at[level].get(name, float('nan')):.1f}" for name in names)
                    for level, names in ((0.95, FITTED), (0.95, HELD), (0.99, HELD))
                )
                lines.append(f"{samples} × {channels}, {kind}: {words}")
    return lines
