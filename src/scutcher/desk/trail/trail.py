"""The trail: the road from the data to the model, a knot for every step, each with its picture."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QToolButton, QVBoxLayout, QWidget

from scutcher.charts.description import Lines
from scutcher.charts.signals import stage_of
from scutcher.core.recipes.recipe import Recipe
from scutcher.desk.context import Desk, follow, follow_moment
from scutcher.desk.deferred import Soon
from scutcher.desk.trail.data_knot import DataKnot
from scutcher.desk.trail.hints import Hints
from scutcher.desk.trail.knot import Knot, link
from scutcher.desk.trail.knot_pictures import KnotPictures
from scutcher.desk.trail.mask_knot import MaskKnot
from scutcher.desk.trail.model_knots import ModelKnot, ShapesKnot
from scutcher.desk.trail.scaling_knot import ScalingKnot
from scutcher.desk.trail.shelf import Shelf
from scutcher.desk.trail.step_knot import StepKnot
from scutcher.desk.widgets.model_form import ModelForm
from scutcher.desk.words import Words
from scutcher.study.document.commands.recipe import MoveStep

WIDTH = 206
UNDER_HINTS = 6  # pixels


class Trail(QFrame):
    """Knots from top to bottom: data, treatments, centre and scale, model."""

    set_aside_clicked = Signal()
    columns_clicked = Signal()
    add_requested = Signal(object)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("trail")
        self.setFixedWidth(WIDTH)
        self.desk = desk
        self.knots: list[Knot] = []
        self._shape: tuple[str, ...] | None = None
        self._pictures = KnotPictures(desk)
        heading = Words("TRAIL")
        heading.setObjectName("section")
        heading.setContentsMargins(24, 8, 0, 2)
        self._thread = QWidget()
        self._column = QVBoxLayout(self._thread)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(self._thread)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(heading)
        layout.addWidget(scroll, 1)
        self._scroll = scroll
        self.hints = Hints(desk)
        around = QHBoxLayout()
        around.setContentsMargins(8, 0, 8, UNDER_HINTS)
        around.addWidget(self.hints)
        layout.addLayout(around)
        self.shelf = Shelf(desk)
        layout.addWidget(self.shelf)
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.study, lambda changed: self.redraw())
        follow_moment(self, desk, self.redraw)
        follow(self, desk.selection, self._on_selection)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Hints stand only where the knots leave room."""
        super().resizeEvent(event)
        self._fit_hints()

    def _fit_hints(self) -> None:
        wrapped = self._thread.heightForWidth(self._scroll.contentsRect().width())
        taken = max(self._thread.minimumSizeHint().height(), wrapped)
        beside = self.hints.height() + UNDER_HINTS if self.hints.isVisible() else 0
        self.hints.fit(self._scroll.height() + beside - taken - UNDER_HINTS)

    @property
    def recipe(self) -> Recipe:
        """What the knots say: the recipe of the study, or of a handle that is held."""
        moment = self.desk.moment
        return moment.recipe if moment.is_preview else self.desk.study.state.recipe

    def refresh(self) -> None:
        """Show the study as it is."""
        state = self.desk.study.state
        self._thread.setVisible(state.table is not None)
        if state.table is None:
            self.hints.hide()
            return
        steps = self.recipe.treat
        shape = (state.table.axis.title, *(step.method for step in steps))
        if shape != self._shape:
            self._build(len(steps))
            self._shape = shape
        self.data_knot.refresh(self._picture(0))
        self.mask_knot.refresh()
        for place in range(len(steps)):
            self._describe_step(place)
        has_model = self.desk.moment.found is not None
        self.scaling_knot.refresh(self.recipe, self._picture(len(steps) + 1) if has_model else None)
        self.model_knot.refresh()
        self.shapes_knot.refresh(self.recipe.unmix)
        self.model_knot.last = not self.recipe.unmix.asks
        self._choose()
        QTimer.singleShot(0, self, self._fit_hints)  # new knots take room once they are shown

    def _on_selection(self, changed: frozenset[str]) -> None:
        if "stage" in changed:
            self._choose()

    def _build(self, steps: int) -> None:
        while (item := self._column.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.setParent(None)
                old.deleteLater()
        self.data_knot, self.mask_knot = DataKnot(self.desk), MaskKnot(self.desk)
        self.step_knots = [StepKnot(self.desk, place) for place in range(steps)]
        self.scaling_knot = ScalingKnot(self.desk)
        self.model_knot, self.shapes_knot = ModelKnot(self.desk), ShapesKnot(self.desk)
        self.knots = [self.data_knot, *self.step_knots, self.scaling_knot]
        for stage, knot in enumerate(self.knots):
            knot.chosen.connect(lambda stage=stage: self.desk.selection.change(stage=stage))
        for knot in (self.data_knot, self.scaling_knot):
            knot.setToolTip("Click to see the data at this knot on the signals strip")
        self.data_knot.set_aside_link.clicked.connect(self.set_aside_clicked)
        for columns in (self.data_knot.read_link, self.data_knot.columns_link):
            columns.clicked.connect(self.columns_clicked)
        for place, step in enumerate(self.step_knots):
            step.dragged.connect(lambda y, finished, place=place: self._on_dragged(place, y, finished))
            step.add_before.connect(self.add_requested)
            step.put_by.connect(self.shelf.put)
        self.add_link = link("add treatment…", "Search the treatments by name or purpose (+)")
        self.add_link.setObjectName("flush")
        self.add_link.clicked.connect(lambda: self.add_requested.emit(None))
        add = _between_knots(self.add_link)
        first, last = (self.data_knot, self.mask_knot), (self.scaling_knot, self.model_knot, self.shapes_knot)
        for widget in (*first, *self.step_knots, add, *last):
            self._column.addWidget(widget)
        self._column.addStretch(1)

    def open_scaling(self) -> None:
        """How variables are centred and scaled."""
        if self.knots:
            self.scaling_knot.link.showMenu()

    def open_model_settings(self) -> ModelForm | None:
        """Engine, gaps and tolerance, beside the model's knot."""
        return self.model_knot.open_settings() if self.knots else None

    def _on_dragged(self, place: int, y: int, finished: bool) -> None:
        """A step is dragged: the knot at which it would stand is lit; let go, it moves there."""
        middles = [knot.y() + knot.height() / 2.0 for knot in self.step_knots]
        to = sum(middle < y for other, middle in enumerate(middles) if other != place)
        for other, knot in enumerate(self.step_knots):
            knot.choose(other == to if not finished else False)
        if finished:
            if to != place and self.desk.do(MoveStep(place, to)):
                self.desk.selection.change(stage=to + 1)
            self._choose()

    def _describe_step(self, place: int) -> None:
        found = self.desk.moment.found
        shown = found is not None and found.recipe.treat == self.recipe.treat
        trouble = found.passed_over.get(place) if found is not None and shown else None
        self.step_knots[place].refresh(self.recipe.treat[place], self._picture(place + 1), trouble)

    def _picture(self, stage: int) -> Lines | None:
        return self._pictures.at(stage, self.recipe)

    def _choose(self) -> None:
        stage = stage_of(self.desk.selection.look.stage, self.desk.moment.found)
        for place, knot in enumerate(self.knots):
            knot.choose(place == stage)


def _between_knots(button: QToolButton) -> Knot:
    """A stretch of thread without a ring, with a link beside it."""
    stretch = Knot(with_picture=False, with_ring=False)
    stretch.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    stretch.name.hide()
    stretch.small.hide()
    stretch.body.setContentsMargins(24, 0, 8, 6)
    stretch.body.insertWidget(0, button, 0, Qt.AlignmentFlag.AlignLeft)
    return stretch
