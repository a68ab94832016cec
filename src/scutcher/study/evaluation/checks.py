"""The held-out error and the lines of evidence of an evaluation."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace

import numpy as np

from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.images.map_structure import MapStructure, map_structure
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.numeric.threads import one_thread
from scutcher.core.progress import Stopped, Watch, part, pulse, tell
from scutcher.core.validation.cross_validation import Validation, validate
from scutcher.core.validation.evidence import (
    Line,
    from_validation,
    permutation,
    quick_lines,
    split_half,
    with_enough,
)
from scutcher.core.validation.influence import Influence, influence
from scutcher.core.validation.segments import groups_of
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import pixel_grid


@frozen(eq=False)
class Checked:
    """What was found out about the number of components.

    Attributes
    ----------
    validation : Validation or None
    why_not : str
        Why there is none.
    lines : dict of key → Line
        In no particular order; the slow ones are missing until they are done.
    components : Decomposition
        What the lines are about: at least twenty components where there are so many.
    influence : Influence or None
        How far the model turns without each group; it comes with the slow lines.
    structure : tuple of MapStructure or None
        Where samples are pixels: of the scores of each component.
    """

    validation: Validation | None
    why_not: str
    lines: dict[str, Line]
    components: Decomposition
    influence: Influence | None = None
    structure: tuple[MapStructure | None, ...] = ()


def checks_key(found: Evaluation) -> Hashable:
    """All that validation and lines of evidence are made from: also what the segments read of the samples."""
    part, settings = found.part, found.recipe.validate
    classes = tuple((c.name, c.values) for c in part.classes) if settings.scheme == "class" else ()
    places = (
        tuple((c.name, c.values.tobytes()) for c in part.properties) if settings.scheme == "tiles" else ()
    )
    return found.key, part.replicates, classes, places, settings, found.recipe.evidence


def held_out(found: Evaluation, watch: Watch | None = None) -> tuple[Validation | None, str]:
    """The validation that the recipe asks for, or why there is none.

    Raises
    ------
    Stopped
    """
    if found.recipe.validate.scheme == "none":
        return None, "the recipe asks for no validation"
    try:
        with one_thread():
            return validate(found.part, found.run_recipe, found.model.k, watch), ""
    except Stopped:
        raise
    except InputError as error:
        return None, str(error)


def check(found: Evaluation, watch: Watch | None = None) -> Checked:
    """Validation, and the lines of evidence that need no further fits.

    Raises
    ------
    Stopped
    """
    return with_quick_lines(found, validated(found, watch), watch)


def validated(found: Evaluation, watch: Watch | None = None) -> Checked:
    """Validation, and the lines of evidence that come of it.

    Raises
    ------
    Stopped
    """
    validation, why_not = held_out(found, watch)
    lines = {line.key: line for line in from_validation(validation, why_not)}
    return Checked(validation, why_not, lines, found.decomposition)


def with_quick_lines(found: Evaluation, checked: Checked, watch: Watch | None = None) -> Checked:
    """The same with the lines that ask for more components and for the rank.

    Raises
    ------
    Stopped
    """
    with one_thread():
        components = with_enough(found.decomposition, found.scaled, found.scaler.centred, watch=pulse(watch))
        tell(watch, 0.0)
        lines = _quick(found, components, checked.validation, checked.why_not)
        structure = _over_the_picture(found, components)
    if structure:
        seen = sum(one is not None and not one.is_noise for one in structure)
        note = f"over the picture {seen} of {len(structure)} components show structure"
        lines["loading-structure"] = replace(lines["loading-structure"], note=note)
    return replace(checked, lines=lines, components=components, structure=structure)


def with_slow_lines(found: Evaluation, checked: Checked, watch: Watch | None = None) -> Checked:
    """The same with the lines that need many further fits; a model around gaps has none.

    Raises
    ------
    Stopped
    """
    if found.treated.has_gaps:
        return checked
    settings, seed = found.recipe.evidence, found.recipe.validate.seed
    first, second, third = (watch and part(watch, *ends) for ends in ((0.0, 0.5), (0.5, 0.8), (0.8, 1.0)))
    with one_thread():
        permuted = permutation(found.z, checked.components, settings, seed, first)
        halves = split_half(found.part, found.z, checked.components, settings, seed, second)
        groups, centred = groups_of(found.part), found.scaler.centred
        turning = influence(found.z, checked.components, groups, centred, third)
    lines = {**checked.lines, permuted.key: permuted, halves.key: halves}
    return replace(checked, lines=lines, influence=turning)


def _quick(
    found: Evaluation, components: Decomposition, validation: Validation | None, why_not: str
) -> dict[str, Line]:
    """The lines of evidence that need no further fits."""
    variables = int(np.count_nonzero(found.scaler.weight))
    return quick_lines(
        components,
        validation,
        why_not,
        (found.scaled.shape[0], variables),
        found.treated.axis.ordered,
        found.scaling.method == "sd",
        variables,
        found.recipe.evidence,
    )


def _over_the_picture(found: Evaluation, components: Decomposition) -> tuple[MapStructure | None, ...]:
    """How much neighbours agree on the map of each component; empty where samples are no pixels."""
    grid = pixel_grid(found.table)
    if grid is None:
        return ()
    rows = found.usable.rows
    return tuple(map_structure(grid.picture(rows, scores)) for scores in components.scores.T)
