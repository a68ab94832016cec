"""The held-out error and the lines of evidence of an evaluation."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from scutcher.core.errors import InputError
from scutcher.core.evidence import Line, permutation, quick_lines, split_half, with_enough
from scutcher.core.progress import Stopped, Watch
from scutcher.core.validation import Validation, validate
from scutcher.study.evaluator import Evaluation
from scutcher.study.threads import fitting_threads


@dataclass(frozen=True, eq=False)
class Checked:
    """What was found out about the number of components.

    Attributes
    ----------
    validation : Validation or None
    why_not : str
        Why there is none.
    lines : dict of key → Line
        In no particular order; the slow ones are missing until they are done.
    """

    validation: Validation | None
    why_not: str
    lines: dict[str, Line]


def held_out(found: Evaluation, watch: Watch | None = None) -> tuple[Validation | None, str]:
    """The validation that the recipe asks for, or why there is none.

    Raises
    ------
    Stopped
    """
    if found.recipe.validate.scheme == "none":
        return None, "the recipe asks for no validation"
    try:
        with fitting_threads(found.z.size * min(found.z.shape)):
            return validate(found.part, found.run_recipe, found.model.k, watch), ""
    except Stopped:
        raise
    except InputError as error:
        return None, str(error)


def check(found: Evaluation, watch: Watch | None = None) -> Checked:
    """Validation and the quick lines of evidence."""
    validation, why_not = held_out(found, watch)
    return Checked(validation, why_not, quick(found, validation, why_not))


def quick(found: Evaluation, validation: Validation | None, why_not: str) -> dict[str, Line]:
    """The lines of evidence that need no further fits."""
    components = with_enough(found.decomposition, found.z, found.scaler.centred)
    variables = int(np.count_nonzero(found.scaler.weight))
    return quick_lines(
        components,
        validation,
        why_not,
        (len(found.z), variables),
        found.treated.axis.ordered,
        found.scaling.method == "sd",
        variables,
        found.recipe.evidence,
    )


def permuted_line(found: Evaluation, watch: Watch | None = None) -> Line:
    """The line of permuted data."""
    components = with_enough(found.decomposition, found.z, found.scaler.centred)
    with fitting_threads(found.z.size * min(found.z.shape)):
        return permutation(found.z, components, found.recipe.evidence, found.recipe.validate.seed, watch)


def halves_line(found: Evaluation, watch: Watch | None = None) -> Line:
    """The line of split halves."""
    components = with_enough(found.decomposition, found.z, found.scaler.centred)
    settings, seed = found.recipe.evidence, found.recipe.validate.seed
    with fitting_threads(found.z.size * min(found.z.shape)):
        return split_half(found.part, found.z, components, settings, seed, watch)
