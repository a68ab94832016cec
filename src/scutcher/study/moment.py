"""One moment of a study: its state, the model made of it, and what was found out; never of two times."""

from __future__ import annotations

from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.models.kind import Gives, kind_of
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation


@frozen(eq=False)
class Moment:
    """What every view shows.

    Attributes
    ----------
    state : State
        The document.
    recipe : Recipe
        The recipe that is shown: the state's, or of a handle that is still held.
    found : Evaluation or None
        The treated data and the model that this recipe makes of this state's table; None where there are no
        data, or where no model can be made.
    checked : Checked or None
        Validation and lines of evidence of `found`, once they are there.
    trouble : InputError or None
        Why there is no model.
    """

    state: State
    recipe: Recipe
    found: Evaluation | None = None
    checked: Checked | None = None
    trouble: InputError | None = None

    def has(self, what: Gives) -> bool:
        """Whether the model gives something: scores, loadings, distances, amounts, shares."""
        model = self.state.model
        return self.found is not None and model is not None and what in kind_of(model.kind).gives

    @property
    def is_preview(self) -> bool:
        """Whether the recipe shown is not the state's."""
        return self.recipe is not self.state.recipe and self.recipe != self.state.recipe
