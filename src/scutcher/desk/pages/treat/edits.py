"""What is changed on the Treat page: sliders, regions and peaks; previews first, then one command."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from scutcher.core.treatments.base import Parameters, fields_of
from scutcher.desk.context import Desk
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.parameter_form import ParameterForm
from scutcher.study.document.commands.recipe import ChangeStep


def regions_field(parameters: Parameters) -> str:
    """The name of the parameter that holds regions of the axis, or nothing."""
    found = [f.name for f in fields_of(type(parameters)) if f.kind == "regions" and f.of != "sample"]
    return found[0] if found else ""


class TreatEdits(QWidget):
    """The part of the Treat page that leads from a hand to the document."""

    desk: Desk
    form: ParameterForm | None
    before_view: StripView
    _place: int

    def _on_changing(self, parameters: Parameters) -> None:
        recipe = self.desk.study.state.recipe
        if not 0 <= self._place < len(recipe.treat):
            return
        steps = list(recipe.treat)
        steps[self._place] = replace(steps[self._place], parameters=parameters)
        self.desk.live.preview(replace(recipe, treat=tuple(steps)))

    def _on_changed(self, parameters: Parameters) -> None:
        recipe = self.desk.study.state.recipe
        if not 0 <= self._place < len(recipe.treat):
            return
        if recipe.treat[self._place].parameters == parameters:
            self.desk.live.refresh()
        else:
            self.desk.do(ChangeStep(self._place, parameters))

    def _on_range(self, low: float, high: float) -> None:
        """A stretch was dragged on the picture: one more region, or the window of the reference peak."""
        self.before_view.clear_range()
        if self.form is None:
            return
        low, high = (float(f"{end:.6g}") for end in (low, high))
        parameters: Any = self.form.parameters
        name = regions_field(parameters)
        if name:
            self.form.set_value(name, (*getattr(parameters, name), (low, high)))
        elif hasattr(parameters, "position"):
            self._use_window(parameters, low, high)

    def _on_regions(self, regions: tuple[tuple[float, float], ...]) -> None:
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
        self._on_changed(replace(parameters, position=middle, half_width=half))
