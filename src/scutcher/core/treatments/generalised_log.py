"""Generalised logarithm: linear near zero, logarithmic far from it."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.words import shown


class GeneralisedLogParameters(Parameters, frozen=True):
    """Where it bends."""

    bend: Annotated[
        float,
        Meta(
            gt=0.0,
            description="λ: the square root of it is where it bends",
            extra={"unit": "signal²", "slider": (1e-6, 1e6), "log": True},
        ),
    ] = 1.0


def apply(table: Table, parameters: GeneralisedLogParameters, learned: Learned) -> Table:
    """ln((x + √(x² + λ)) / 2); gaps stay gaps, negative values are allowed."""
    x = table.values
    root = np.sqrt(x**2 + parameters.bend)
    with np.errstate(divide="ignore", invalid="ignore"):  # the form without cancellation below zero
        inner = np.where(x >= 0.0, x + root, parameters.bend / (root - x))
    return table.with_values(np.log(inner / 2.0), f"generalised log {table.signal}", "")


TREATMENT = Treatment(
    key="generalised-log",
    name="Generalised logarithm",
    family="transform",
    purpose="evens out spread that is constant for small values and grows with large ones",
    help="ln((x + √(x² + λ)) / 2): a logarithm that goes through zero and below.",
    source="Durbin, Hardin, Hawkins & Rocke, Bioinformatics 18 (2002) S105–S110",
    parameters=GeneralisedLogParameters,
    apply=apply,
    short=lambda p: f"λ {shown(p.bend)}",
)
