"""Several recipes tried on the same data, one after the other behind, none of them hidden."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial
from itertools import product

import numpy as np
from msgspec.structs import replace

from scutcher.core.arrays import Integers
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_separation import neighbour_accuracy
from scutcher.core.progress import Stopped, Watch
from scutcher.core.recipes.recipe import Recipe, ScaleSettings, Scaling, Step
from scutcher.core.treatments import treatment
from scutcher.core.validation.segments import group_codes
from scutcher.study.document.parts import Reached
from scutcher.study.evaluation.checks import held_out
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.shelved_model import reached, recipe_name
from scutcher.study.evaluation.step_effects import figures_of

SAME = 1e-9
"""Score planes that agree to this share are one outcome."""


@frozen(eq=False)
class Outcome:
    """What a recipe led to.

    Attributes
    ----------
    recipe : Recipe
    model : Reached or None
        Figures and score plane; None where it could not be fitted.
    reason : str
        Why not.
    same_as : tuple of str
        Names of other recipes that led to the very same scores.
    """

    recipe: Recipe
    model: Reached | None
    reason: str = ""
    same_as: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """Its treatments, in short."""
        return recipe_name(self.recipe)


CORRECTIONS: dict[bool, tuple[tuple[str, ...], ...]] = {
    True: ((), ("snv",), ("msc",), ("extended-msc",), ("baseline-polynomial",)),
    False: ((), ("normalise-sum",), ("log10",)),
}
"""For an ordered axis, and for a table."""


def sensible_grid(table: Table, recipe: Recipe) -> list[Recipe]:
    """Corrections × derivatives × scalings that suit the kind of axis."""
    ordered = table.axis.ordered
    found = []
    derivatives = (None, 1, 2) if ordered else (None,)
    scalings: tuple[Scaling, ...] = ("none",) if ordered else ("none", "sd", "pareto", "range")
    for correction, derivative, scaling in product(CORRECTIONS[ordered], derivatives, scalings):
        steps = [step_for(method, table) for method in correction]
        if derivative is not None:
            settings = step_for("savitzky-golay", table)
            parameters = replace(settings.parameters, derivative=derivative, degree=derivative + 1)
            steps.append(replace(settings, parameters=parameters))
        found.append(replace(recipe, treat=tuple(steps), scale=ScaleSettings(method=scaling)))
    return found


def parameter_range(recipe: Recipe, place: int, field: str, values: Sequence[object]) -> list[Recipe]:
    """The recipe with one parameter of one step at several values."""
    found = []
    for value in values:
        steps = list(recipe.treat)
        steps[place] = replace(steps[place], parameters=replace(steps[place].parameters, **{field: value}))
        found.append(replace(recipe, treat=tuple(steps)))
    return found


def step_for(method: str, table: Table) -> Step:
    """A treatment with settings that suit a table."""
    declared = treatment(method)
    return Step(method, declared.suggest(table) if declared.suggest else declared.parameters())


def outcomes(
    table: Table, recipes: Sequence[Recipe], codes: Integers, watch: Watch | None = None
) -> Iterator[Outcome]:
    """One outcome for each recipe, in their order."""
    evaluator = Evaluator()
    for place, recipe in enumerate(recipes):
        if watch is not None and not watch(place / len(recipes)):
            raise Stopped
        try:
            found = evaluator.evaluate(table, recipe)
            validation, _ = held_out(found, watch and partial(_still_wanted, watch, place / len(recipes)))
        except Stopped:
            raise
        except InputError as error:
            yield Outcome(recipe, None, str(error))
            continue
        seen = codes[found.usable.rows]
        figures = figures_of(found.treated, seen)
        apart = neighbour_accuracy(found.model.scores, seen, group_codes(found.treated))
        figures["separation"] = apart if np.isfinite(apart) else None
        yield Outcome(recipe, reached(found, seen, validation, figures))


def _still_wanted(watch: Watch, share: float, _: float) -> bool:
    return watch(share)


def folded(found: Sequence[Outcome]) -> list[Outcome]:
    """Outcomes with the very same scores as one, which names the others."""
    kept: list[Outcome] = []
    for outcome in found:
        twin = next((place for place, other in enumerate(kept) if _same(outcome, other)), None)
        if twin is None:
            kept.append(outcome)
        else:
            other = kept[twin]
            kept[twin] = Outcome(other.recipe, other.model, other.reason, (*other.same_as, outcome.name))
    return kept


def _same(one: Outcome, two: Outcome) -> bool:
    if one.model is None or two.model is None or one.model.scores.shape != two.model.scores.shape:
        return False
    a, b = np.abs(one.model.scores), np.abs(two.model.scores)
    return bool(np.abs(a - b).max() <= SAME * max(float(a.max()), 1e-300))
