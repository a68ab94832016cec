"""The knot before the model: how variables are centred and scaled, with a menu to choose it."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QMenu, QToolButton

from scutcher.charts.description import Lines
from scutcher.core.recipes.recipe import Recipe
from scutcher.desk.context import Desk
from scutcher.desk.trail.knot import Knot, link
from scutcher.desk.widgets.scaling_form import CENTRES, SCALES
from scutcher.study.document.commands.recipe import ScaleBy


class ScalingKnot(Knot):
    """Of the recipe that the trail shows."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.recipe = desk.study.state.recipe
        self.link = link("change ▾", "How variables are centred and scaled")
        self.link.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu = QMenu(self.link)
        self.menu.aboutToShow.connect(self._fill_menu)
        self.link.setMenu(self.menu)
        self.words.addWidget(self.link)

    def refresh(self, recipe: Recipe, picture: Lines | None) -> None:
        """As a recipe has it; there are data in the study."""
        self.recipe = recipe
        table = self.desk.study.state.table
        assert table is not None
        scaling = recipe.scaling_for(table.axis.ordered)
        default = " (default)" if recipe.scale is None else ""
        title = {"none": "Centre"}.get(scaling.method, "Centre and scale")
        self.describe(title, f"{CENTRES[scaling.centre]} · {SCALES[scaling.method]}{default}", picture)

    def _fill_menu(self) -> None:
        table = self.desk.study.state.table
        assert table is not None
        now = self.recipe.scaling_for(table.axis.ordered)
        self.menu.clear()
        for field, words in (("centre", CENTRES), ("method", SCALES)):
            heading = self.menu.addAction("CENTRE" if field == "centre" else "SCALE")
            heading.setEnabled(False)
            for key, word in words.items():
                action = self.menu.addAction(word)
                action.setCheckable(True)
                action.setChecked(getattr(now, field) == key)
                settings = replace(now, **{field: key})
                action.triggered.connect(lambda _=False, settings=settings: self.desk.do(ScaleBy(settings)))
