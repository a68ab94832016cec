"""What a step did: figures of the data before and after it."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_separation import (
    neighbour_accuracy,
    no_information_rate,
    noise_share,
    replicate_share,
)
from scutcher.core.validation.segments import group_codes


@frozen
class Effect:
    """One figure before and after; None where the data do not have it.

    Attributes
    ----------
    key : what `charts.definitions` explains
    before, after : float or None
    better : +1 where more is better, −1 where less is
    chance : what guessing reaches, where that is known
    """

    key: str
    before: float | None
    after: float | None
    better: int
    chance: float | None = None


def figures_of(table: Table, codes: Integers) -> dict[str, float | None]:
    """Separation of classes (and what guessing reaches), replicate spread and share of noise."""
    values = table.values
    if not np.isfinite(values.sum()):
        return {"separation": None, "replicates": None, "noise": None}
    groups = group_codes(table)
    repeated = table.replicates is not None and int(groups.max()) + 1 < len(groups)
    return {
        "separation": _known(neighbour_accuracy(values, codes, groups)),
        "chance": _known(no_information_rate(codes)),
        "replicates": _known(replicate_share(values, groups)) if repeated else None,
        "noise": _known(noise_share(values)) if table.axis.ordered else None,
    }


def effects(before: dict[str, float | None], after: dict[str, float | None]) -> tuple[Effect, ...]:
    """The figures that both have."""
    better = {"separation": 1, "replicates": -1, "noise": -1, "q2": 1}
    return tuple(
        Effect(
            key,
            before.get(key),
            after.get(key),
            better[key],
            after.get("chance") if key == "separation" else None,
        )
        for key in better
        if before.get(key) is not None or after.get(key) is not None
    )


def _known(value: float) -> float | None:
    return value if np.isfinite(value) else None
