"""A recipe applied to a table: what its treatments gave, and its model."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import fields

from msgspec.structs import replace as replace_struct

from scutcher.core.arrays import Floats
from scutcher.core.computed_once import computed_once
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import Usable
from scutcher.core.models.pca.component_model import DEFAULT_COMPONENTS, ComponentModel, keep
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.recipes.recipe import Recipe, ScaleSettings
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import Scaler
from scutcher.core.treatments.base import Learned


@frozen(eq=False)
class Staged:
    """A recipe applied to a table as far as its treatments go.

    Attributes
    ----------
    table, recipe
        What it was made from.
    usable : Usable
        The samples and variables in the model.
    fill : (p,) float array or None
        What gaps of the used part were filled with.
    stages : tuple of Table
        The used part as brought in, then after each treatment; as before where a step is off or passed
        over.
    learned : tuple
        What each treatment learned; None for those that learn nothing or did not run.
    passed_over : dict of place → InputError
        Steps that do not fit what stands before them.
    """

    table: Table
    recipe: Recipe
    usable: Usable
    fill: Floats | None
    stages: tuple[Table, ...]
    learned: tuple[Learned, ...]
    passed_over: dict[int, InputError]

    @property
    def treated(self) -> Table:
        """The table after the last treatment."""
        return self.stages[-1]

    @property
    def part(self) -> Table:
        """The used part before any treatment, its gaps filled where the policy fills them."""
        return self.stages[0]

    def places(self) -> Mapping[int, int]:
        """From a row of the table to its row in the model."""
        return self.usable.places


@frozen(eq=False)
class Evaluation(Staged):
    """A recipe applied to a table, its model included.

    Attributes
    ----------
    scaling : ScaleSettings
        What was asked for, or the default for the kind of axis.
    scaler : Scaler
    scaled : Scaled
        What the model sees; `z` is all of it.
    model : ComponentModel
    key : hashable
        What was put in, for whoever keeps results of it.
    note : str
        What is to be said of the fit.
    """

    scaling: ScaleSettings
    scaler: Scaler
    scaled: Scaled
    model: ComponentModel
    key: Hashable = None
    note: str = ""

    @property
    def z(self) -> Floats:
        """What the model sees, (n, p); of very many samples it is made when first asked for."""
        return self.scaled.whole

    @property
    def decomposition(self) -> Decomposition:
        """The components computed."""
        return self.model.decomposition

    @computed_once
    def run_recipe(self) -> Recipe:
        """The recipe as it ran: the steps that were passed over are off."""
        steps = tuple(
            replace_struct(step, on=step.on and place not in self.passed_over)
            for place, step in enumerate(self.recipe.treat)
        )
        return replace_struct(self.recipe, treat=steps)


def evaluation_of(
    whole: Staged,
    scaling: ScaleSettings,
    key: Hashable,
    scaler: Scaler,
    scaled: Scaled,
    found: Decomposition,
    note: str = "",
) -> Evaluation:
    """The components asked for, or as many as there are by default, with their distances and limits."""
    k = whole.recipe.model.components or min(DEFAULT_COMPONENTS, found.computed)
    model = keep(found, k, whole.recipe.limits)
    parts = {field.name: getattr(whole, field.name) for field in fields(Staged)}
    return Evaluation(**parts, scaling=scaling, scaler=scaler, scaled=scaled, model=model, key=key, note=note)
