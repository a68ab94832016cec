"""What is changed on the Treat page: sliders, regions and peaks; previews first, then one command."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from scutcher.core.errors import InputError, RecipeError, TableError
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.recipes.work import work_of
from scutcher.core.treatments.base import Parameters, fields_of
from scutcher.desk.context import Desk
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.parameter_form import ParameterForm
from scutcher.study.document.commands.recipe import ChangeStep

TRIED = 2e8
"""Multiplications up to which a changed step is tried before it is stored."""


def regions_field(parameters: Parameters) -> str:
    """The name of the parameter that holds regions of the axis, or nothing."""
    found = [f.name for f in fields_of(type(parameters)) if f.kind == "regions" and f.of != "sample"]
    return found[0] if found else ""


class TreatEdits:
    """Leads from a hand to the document.

    Parameters
    ----------
    view : the picture that regions are dragged on

    Attributes
    ----------
    place : int
        The step of the recipe that is worked on.
    form : its form, or None
    """

    def __init__(self, desk: Desk, view: StripView) -> None:
        self.desk, self.view = desk, view
        self.place = -1
        self.form: ParameterForm | None = None
        view.ranged.connect(self.on_range)
        view.regions_moved.connect(self.on_regions)

    def attend(self, form: ParameterForm, place: int, method: str) -> None:
        """Follow a form; what it says is for the step that it was made for, as long as that is there."""
        self.form, self.place = form, place
        form.changing.connect(lambda parameters: self.on_changing(parameters, place, method))
        form.changed.connect(lambda parameters: self.on_changed(parameters, place, method))
        form.refused.connect(lambda words: self.desk.say(InputError(words, "The former value was kept.")))

    def leave(self) -> None:
        """The form goes away: what it still says is not heard."""
        if self.form is not None:
            self.form.blockSignals(True)
            self.form = None

    def on_changing(self, parameters: Parameters, place: int, method: str) -> None:
        """A slider moves: show what it would give."""
        recipe = self.desk.study.state.recipe
        if _is_there(recipe, place, method):
            steps = list(recipe.treat)
            steps[place] = replace(steps[place], parameters=parameters)
            self.desk.live.preview(replace(recipe, treat=tuple(steps)))

    def on_changed(self, parameters: Parameters, place: int, method: str) -> None:
        """It was let go: one command, unless the step cannot work so; then the former value stays."""
        recipe = self.desk.study.state.recipe
        if not _is_there(recipe, place, method):
            return
        if recipe.treat[place].parameters == parameters:
            self.desk.live.refresh()
            return
        reason = self._cannot(place, parameters)
        if reason is None:
            self.desk.do(ChangeStep(place, parameters))
            return
        self.desk.live.refresh()
        self.desk.say(InputError(reason.problem, f"{reason.remedy} The former value was kept."))
        if self.form is not None:
            self.form.show_parameters(recipe.treat[place].parameters)

    def _cannot(self, place: int, parameters: Parameters) -> InputError | None:
        """Why a step that works now would not work with these settings; of light data only."""
        found = self.desk.moment.found
        recipe = self.desk.study.state.recipe
        step = recipe.treat[place]
        if found is None or not step.on or found.recipe.treat[:place] != recipe.treat[:place]:
            return None
        table = found.stages[place]
        tried = replace(step, parameters=parameters)
        if work_of(table, tried) > TRIED or place in found.passed_over:
            return None  # it is said when it is computed
        try:
            run_step(table, tried)
        except (TableError, RecipeError) as error:
            return error
        return None

    def on_range(self, low: float, high: float) -> None:
        """A stretch was dragged on the picture: one more region, or the window of the reference peak."""
        self.view.clear_range()
        if self.form is None:
            return
        low, high = (float(f"{end:.6g}") for end in (low, high))
        parameters: Any = self.form.parameters
        name = regions_field(parameters)
        if name:
            self.form.set_value(name, (*getattr(parameters, name), (low, high)))
        elif hasattr(parameters, "position"):
            self._use_window(parameters, low, high)

    def on_regions(self, regions: tuple[tuple[float, float], ...]) -> None:
        """An edge of a region was dragged."""
        if self.form is None:
            return
        exact = tuple((float(f"{low:.6g}"), float(f"{high:.6g}")) for low, high in regions)
        parameters: Any = self.form.parameters
        name = regions_field(parameters)
        if name:
            self.form.set_value(name, exact)
        elif hasattr(parameters, "position") and exact:
            self._use_window(parameters, *exact[0])

    def _use_window(self, parameters: Any, low: float, high: float) -> None:
        """The reference peak lies between these ends."""
        middle, half = float(f"{(low + high) / 2.0:.6g}"), float(f"{(high - low) / 2.0:.4g}")
        fresh = replace(parameters, position=middle, half_width=half)
        if self.form is not None:
            self.form.changed.emit(fresh)


def _is_there(recipe: Recipe, place: int, method: str) -> bool:
    """Whether a step still is what a form was made for."""
    return 0 <= place < len(recipe.treat) and recipe.treat[place].method == method
