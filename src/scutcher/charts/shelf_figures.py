"""Figures of the models that were put by, as they stand in tables."""

from __future__ import annotations

from collections.abc import Sequence

from scutcher.charts.words import with_minus
from scutcher.core.words import Shown
from scutcher.study.document.parts import Model

FIGURES = {
    "components": ("components", "{:.0f}"),
    "r2": ("R²", "{:.4f}"),
    "q2": ("Q²", "{:.4f}"),
    "separation": ("classes apart", "{:.3f}"),
    "replicates": ("replicate spread", "{:.3f}"),
    "tables": ("tables", "{:.0f}"),
    "common": ("common", "{:.0f}"),
    "shared": ("shared by some", "{:.0f}"),
    "agreement": ("least agreement, held out", "{:.3f}"),
    "samples": ("samples", "{:.0f}"),
    "variables": ("variables", "{:.0f}"),
}
"""Of each figure: its name, and how it is written."""


def figure_keys(models: Sequence[Model]) -> list[str]:
    """The figures that some of the models have, in the order of the table."""
    return [key for key in FIGURES if any(model.figure(key) is not None for model in models)]


def figure_cells(model: Model, keys: Sequence[str]) -> list[str]:
    """What a model has of them; empty where it has none."""
    values = ((FIGURES[key][1], model.figure(key)) for key in keys)
    return ["" if value is None else with_minus(form.format(Shown(value))) for form, value in values]
