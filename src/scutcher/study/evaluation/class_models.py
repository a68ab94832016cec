"""One model per class: each class with its own treatment, centre, scale, number of components and limits."""

from __future__ import annotations

from dataclasses import field

import numpy as np
from msgspec.structs import replace

from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError, ModelError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.groups.acceptance import Acceptance, discriminating_power, modelling_power
from scutcher.core.models.pca.saved_model import Projected, SavedModel, project
from scutcher.core.progress import Stopped, Watch, part, tell
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.validation.evidence import from_validation
from scutcher.core.validation.segments import group_codes
from scutcher.study.evaluation.checks import Checked, validated
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.saving import saved_model, seen_as_new

FEWEST = 6
"""Samples, or groups of replicates, that a model of a class takes."""


@frozen(eq=False)
class ClassModel:
    """The model of one class.

    Attributes
    ----------
    code : int
        Of the class in its column.
    name : str
    found : Evaluation
        Of the class's own samples.
    checked : Checked
    saved : SavedModel
        With the held-out limits.
    """

    code: int
    name: str
    found: Evaluation
    checked: Checked
    saved: SavedModel

    @property
    def k(self) -> int:
        """Its components."""
        return self.found.model.k


Powers = tuple[Floats, Floats, Floats]


@frozen(eq=False)
class ClassModels:
    """The models of all classes, and every sample against each of them.

    Attributes
    ----------
    table : Table
        All samples that are used.
    column : ClassColumn
    models : tuple of ClassModel
    too_few : dict of class → what it lacks
    acceptance : Acceptance
        Of every sample of the table by every model; own samples held out.
    left_out : dict of row → reason
        Samples that have no distance to some model.
    """

    table: Table
    column: ClassColumn
    models: tuple[ClassModel, ...]
    too_few: dict[str, str]
    acceptance: Acceptance
    left_out: dict[int, str]
    _powers: dict[tuple[int, int], Powers] = field(default_factory=dict)

    @computed_once
    def names(self) -> tuple[str, ...]:
        """The classes that have a model."""
        return tuple(model.name for model in self.models)

    def knows_powers(self, one: int, two: int) -> bool:
        """Whether `powers` of two models is at hand: to find it, samples of both are projected onto both."""
        return (one, two) in self._powers or not self._comparable(one, two)

    def powers(self, one: int, two: int) -> Powers:
        """Modelling power of two models (by place) and their discriminating power, (p,) each.

        Raises
        ------
        TableError
            The two have other variables after treatment.
        """
        if (one, two) not in self._powers:
            self._powers[one, two] = self._found_powers(one, two)
        return self._powers[one, two]

    def _comparable(self, one: int, two: int) -> bool:
        return self.models[one].saved.treated_labels == self.models[two].saved.treated_labels

    def _found_powers(self, one: int, two: int) -> Powers:
        first, second = self.models[one], self.models[two]
        if not self._comparable(one, two):
            raise TableError(
                f"{first.name} and {second.name} have other variables after treatment.",
                "Choose treatments that keep the channels.",
            )
        on = [[_residuals(b.saved, a.found.table) for b in (first, second)] for a in (first, second)]
        power = discriminating_power(on[0][0], on[1][1], on[0][1], on[1][0])
        return _modelling(first), _modelling(second), power


def _modelling(model: ClassModel) -> Floats:
    z, fitted = model.found.z, model.found.model.reconstruction()
    return modelling_power(z - fitted, z)


def _residuals(model: SavedModel, table: Table) -> Floats:
    """Residuals of samples on a model, in the unit of the treated data."""
    found = project(model, table)
    away = np.nan_to_num(found.z - found.scores @ model.loadings.T)
    back: Floats = np.divide(away, model.weight, out=np.zeros_like(away), where=model.weight > 0.0)
    return back


def class_models(table: Table, recipe: Recipe, column: str = "", watch: Watch | None = None) -> ClassModels:
    """Make a model of each class of a column, and measure every sample against each.

    Parameters
    ----------
    table : Table
        Samples set aside and variables left out take no part.
    recipe : Recipe
        Of every class; where it names no number of components, each class has its own: the fewest within one
        standard error of the lowest held-out error, at least one.

    Raises
    ------
    InputError
        No class has enough samples; there is no such column; Stopped.
    """
    used = table.take(table.used_rows())
    if not used.classes:
        raise TableError(f"{table.name} has no class column.", "Name one, or tag samples with a class.")
    chosen = used.class_column(column) if column else used.classes[0]
    groups = group_codes(used)
    models: list[ClassModel] = []
    too_few: dict[str, str] = {}
    codes = [code for code in np.unique(chosen.codes()).tolist() if code >= 0]
    for place, code in enumerate(codes):
        tell(watch, place / (len(codes) + 1))
        rows, name = np.flatnonzero(chosen.codes() == code), chosen.levels[code]
        count = len(np.unique(groups[rows]))
        if count < FEWEST:
            kind = "samples" if count == len(rows) else "groups of replicates"
            too_few[name] = f"{name} has {count} {kind}; a model takes at least {FEWEST}"
            continue
        some = watch and part(watch, place / (len(codes) + 1), (place + 1) / (len(codes) + 1))
        try:
            models.append(_model_of(used.take(rows), recipe, code, name, some))
        except Stopped:
            raise
        except InputError as error:
            too_few[name] = f"{name}: {error}"
    if not models:
        raise ModelError(
            "; ".join(too_few.values()) + ".", "Give more samples a class, or choose another class column."
        )
    acceptance, left_out = _accepted(used, chosen, models)
    return ClassModels(used, chosen, tuple(models), too_few, acceptance, left_out)


def _model_of(table: Table, recipe: Recipe, code: int, name: str, watch: Watch | None) -> ClassModel:
    """A model of one class with its own number of components and held-out limits."""
    evaluator = Evaluator(keeps=False)
    found = evaluator.evaluate(table, recipe, watch=watch)
    checked = validated(found, watch)
    if checked.validation is None:
        raise ModelError(f"It is not validated: {checked.why_not}", "Choose other segments.")
    if recipe.model.components is None:
        fewest = from_validation(checked.validation)[1].suggested or 1
        wanted = replace(recipe, model=replace(recipe.model, components=fewest))
        found = evaluator.evaluate(table, wanted, watch=watch)
    return ClassModel(code, name, found, checked, saved_model(found, checked).judging("held-out"))


def _accepted(
    used: Table, column: ClassColumn, models: list[ClassModel]
) -> tuple[Acceptance, dict[int, str]]:
    ratios = np.full((len(used.ids), len(models)), np.nan)
    own: Integers = np.full(len(used.ids), -1, dtype=np.intp)
    left_out: dict[int, str] = {}
    for place, model in enumerate(models):
        mine = np.flatnonzero(column.codes() == model.code)
        own[mine] = place
        limit = model.saved.joint_limit
        if limit is None or not limit.value:
            continue
        others = np.flatnonzero(column.codes() != model.code)
        if len(others):
            found = project(model.saved, used.take(others))
            if found.joint is not None:
                ratios[others[found.rows], place] = found.joint / limit.value
            left_out |= {int(others[row]): reason for row, reason in found.refused.items()}
        seen = seen_as_new(model.found, model.checked)
        if seen is not None and seen.distances["joint"] is not None:
            ratios[mine[model.found.usable.rows], place] = seen.distances["joint"] / limit.value
        left_out |= {int(mine[row]): why for row, why in model.found.usable.left_out_rows.items()}
    return Acceptance(ratios, own), left_out


def assigned_to(
    models: list[tuple[str, SavedModel]], table: Table, resample: bool = False
) -> tuple[Acceptance, list[Projected]]:
    """New samples against saved class models: distances over the limits.

    Raises
    ------
    TableError
        Variables of a model are missing.
    """
    ratios = np.full((len(table.ids), len(models)), np.nan)
    every = []
    for place, (_, model) in enumerate(models):
        found = project(model, table, resample)
        every.append(found)
        limit = model.joint_limit
        if found.joint is not None and limit is not None and limit.value:
            ratios[found.rows, place] = found.joint / limit.value
    return Acceptance(ratios, np.full(len(table.ids), -1, dtype=np.intp)), every


@frozen(eq=False)
class NewOnClasses:
    """New samples against the models of classes.

    Attributes
    ----------
    table : Table
        As they were brought in.
    acceptance : Acceptance
        Of each by every model.
    refused : dict of row → reason
        Samples that no model can judge.
    """

    table: Table
    acceptance: Acceptance
    refused: dict[int, str]


def new_on_classes(found: ClassModels, table: Table, resample: bool = False) -> NewOnClasses:
    """Measure new samples against the models of classes.

    Raises
    ------
    TableError
        Variables of a model are missing.
    """
    acceptance, every = assigned_to([(model.name, model.saved) for model in found.models], table, resample)
    reasons = {row: reason for one in every for row, reason in one.refused.items()}
    return NewOnClasses(table, acceptance, {r: why for r, why in reasons.items() if not acceptance.known[r]})
