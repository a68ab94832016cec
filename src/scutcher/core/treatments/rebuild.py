"""Noise: each spectrum rebuilt from the first components of the set."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.treatments.base import Learned, Parameters, Treatment


class RebuildParameters(Parameters, frozen=True):
    """How many components."""

    components: Annotated[
        int, Meta(ge=1, le=500, description="components kept", extra={"slider": (1, 30)})
    ] = 8


def fit(table: Table, parameters: RebuildParameters) -> Learned:
    """Mean and loadings of the set."""
    mean = table.values.mean(axis=0)
    found = decompose(table.values - mean, centred=True, k=parameters.components, engine="auto")
    return {"mean": mean, "loadings": found.loadings[:, : parameters.components].copy()}


def apply(table: Table, parameters: RebuildParameters, learned: Learned) -> Table:
    """Treat a table."""
    assert learned is not None
    mean, loadings = learned["mean"], learned["loadings"]
    values = ((table.values - mean) @ loadings) @ loadings.T
    values += mean
    return table.with_values(np.ascontiguousarray(values))


TREATMENT = Treatment(
    key="rebuild",
    name="Rebuild from components",
    family="noise",
    purpose="removes noise: only what the first components of the set explain is kept",
    help="What a single sample does on its own is taken for noise too: look at the residuals before.",
    source="Malinowski, Anal. Chem. 49 (1977) 606–612",
    parameters=RebuildParameters,
    apply=apply,
    fit=fit,
    needs=("no-gaps",),
    short=lambda p: f"{p.components} components",
    suggest=lambda table: RebuildParameters(
        components=max(1, min(8, len(table.ids) // 3, table.shape[1] // 3))
    ),
    cost=450.0,
)
