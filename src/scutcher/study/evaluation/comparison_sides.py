"""One side of a comparison: a model with what is known of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch
from scutcher.core.unmixing.mixture import Mixture
from scutcher.core.validation.cross_validation import Validation
from scutcher.study.document.parts import Model
from scutcher.study.evaluation.checks import Checked, validated
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.series import mixture_of


@frozen(eq=False)
class Side:
    """One of the two models.

    Attributes
    ----------
    model : Model
        As it stands on the shelf, or as it is now.
    found : Evaluation
    checked : Checked or None
        Once it is validated.
    mixture : Mixture or None
        Where its recipe asks for shapes and they can be found.
    tables : tuple of str
        What was done to each of several tables; empty for a model of one.
    """

    model: Model
    found: Evaluation
    checked: Checked | None = None
    mixture: Mixture | None = None
    tables: tuple[str, ...] = ()

    @property
    def validation(self) -> Validation | None:
        """The held-out error, where it is known."""
        return None if self.checked is None else self.checked.validation


def side_of(
    model: Model, table: Table, evaluate: Callable[[Table, Watch | None], Evaluation], watch: Watch | None
) -> Side:
    """A model of the shelf, fitted again, with its shapes where it asks for some.

    Raises
    ------
    InputError
        It can no longer be made.
    """
    return with_shapes(Side(model, evaluate(table, watch)), watch)


def with_shapes(side: Side, watch: Watch | None = None) -> Side:
    """The same with its shapes, where the recipe asks for some that can be found."""
    settings = side.found.recipe.unmix
    if not settings.asks:
        return side
    try:
        return replace(side, mixture=mixture_of(side.found, None, settings, watch))
    except InputError:
        return side


def with_checks(side: Side, watch: Watch | None = None) -> Side:
    """The same, validated: also a model that was put by before it was."""
    known = side.checked is not None or side.tables  # shared scores are no data of which to leave some out
    return side if known else replace(side, checked=validated(side.found, watch))
