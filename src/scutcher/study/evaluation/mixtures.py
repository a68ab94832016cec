"""Shapes of a model as they leave the house, and their amounts in new samples."""

from __future__ import annotations

from scutcher.core.data.series_order import SeriesOrder
from scutcher.core.data.table import Table
from scutcher.core.unmixing.saved_mixture import NewAmounts, SavedMixture, amounts_in
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.series import mixture_of


def saved_mixture(found: Evaluation, order: SeriesOrder | None = None) -> SavedMixture:
    """The shapes that the recipe asks for, with all that new spectra need.

    Raises
    ------
    ModelError
        The data or the settings do not allow it.
    """
    how = found.recipe.unmix
    mixture = mixture_of(found, order, how)
    ran = [place for place, step in enumerate(found.run_recipe.treat) if step.on]
    return SavedMixture(
        axis=found.part.axis,
        steps=tuple(found.recipe.treat[place] for place in ran),
        learned=tuple(found.learned[place] for place in ran),
        treated_labels=found.treated.axis.labels,
        names=mixture.names,
        shapes=mixture.shapes,
        rule=how.rule,
        background=how.background_beside,
        q_limit=mixture.q_limit,
        means_of=mixture.means_of,
    )


def new_amounts(found: Evaluation, table: Table, resample: bool = False) -> NewAmounts | None:
    """Amounts in new samples; None where the model asks for no shapes.

    Raises
    ------
    InputError
        They cannot be found in these samples.
    """
    return amounts_in(saved_mixture(found), table, resample) if found.recipe.unmix.asks else None
