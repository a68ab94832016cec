"""The trail: the road from the data to the model, a knot for every step, each with its picture."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QScrollArea, QToolButton, QVBoxLayout, QWidget

from scutcher.charts.description import Lines
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.signals import class_means, stage_of, stage_source
from scutcher.core.arrays import Floats
from scutcher.core.data.table import Origin
from scutcher.core.models.kind import kind_of
from scutcher.core.recipes.recipe import Recipe, Step
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.words import count_of
from scutcher.desk.context import Desk, follow, follow_moment
from scutcher.desk.deferred import Soon
from scutcher.desk.trail.hints import Hints
from scutcher.desk.trail.knot import Knot
from scutcher.desk.trail.mask_knot import MaskKnot
from scutcher.desk.trail.shelf import Shelf
from scutcher.desk.widgets.model_form import ModelForm
from scutcher.desk.widgets.scaling_form import CENTRES, SCALES
from scutcher.desk.words import Words
from scutcher.study.document.commands.kinds import PLAIN, SMOOTH
from scutcher.study.document.commands.recipe import DuplicateStep, MoveStep, RemoveStep, ScaleBy, SwitchStep
from scutcher.study.document.commands.series import UnmixBy

WIDTH, ROOM = 206, 44
ENOUGH = 400  # samples that a miniature is made from
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
        self._pictures: dict[int, tuple[Floats, tuple[object, bytes, bytes], Lines]] = {}
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
        wrapped = self._thread.heightForWidth(self._scroll.viewport().width())
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
        self._describe_data()
        self.mask_knot.refresh()
        for place in range(len(steps)):
            self._describe_step(place)
        self._describe_scaling()
        self._describe_model()
        self._describe_shapes()
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
        self.knots = [Knot() for _ in range(steps + 2)]
        self.model_knot = Knot(with_picture=False)
        self.knots[0].first = True
        self.model_knot.last = self.model_knot.is_chosen = True
        self.shapes_knot = Knot(with_picture=False)
        self.shapes_knot.last = self.shapes_knot.is_chosen = True
        self.shapes_knot.setToolTip("Shapes whose amounts are found: see the page Series")
        remove = self._link("×", "Without shapes")
        remove.clicked.connect(lambda: self.desk.do(UnmixBy(UnmixSettings())))
        self.shapes_knot.words.addWidget(remove)
        self.model_knot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for stage, knot in enumerate(self.knots):
            knot.chosen.connect(lambda stage=stage: self.desk.selection.change(stage=stage))
            knot.setToolTip("Click to see the data at this knot on the signals strip")
        self.set_aside_link = self._link("", "Samples that no model sees, each with its reason")
        self.set_aside_link.clicked.connect(self.set_aside_clicked)
        self.set_aside_link.setObjectName("flush")
        self.knots[0].body.insertWidget(2, self.set_aside_link, 0, Qt.AlignmentFlag.AlignLeft)
        self.read_link = self._link("", "")
        self.read_link.clicked.connect(self.columns_clicked)
        self.read_link.setObjectName("flush")
        self.knots[0].body.insertWidget(3, self.read_link, 0, Qt.AlignmentFlag.AlignLeft)
        self.columns_link = self._link("columns…", "What each column of the file is (I)")
        self.columns_link.clicked.connect(self.columns_clicked)
        self.knots[0].words.addWidget(self.columns_link)
        for place in range(steps):
            self._equip_step(self.knots[place + 1], place)
        self.model_link = self._link("engine, gaps…", "Engine, gaps and tolerance of the model")
        self.model_link.clicked.connect(self.open_model_settings)
        self.model_link.setObjectName("flush")
        self.model_knot.body.addWidget(self.model_link, 0, Qt.AlignmentFlag.AlignLeft)
        self.scaling_link = self._link("change ▾", "How variables are centred and scaled")
        self.scaling_link.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.scaling_menu = QMenu(self.scaling_link)
        self.scaling_menu.aboutToShow.connect(self._fill_scaling_menu)
        self.scaling_link.setMenu(self.scaling_menu)
        self.knots[-1].words.addWidget(self.scaling_link)
        self.add_link = self._link("add treatment…", "Search the treatments by name or purpose (+)")
        self.add_link.setObjectName("flush")
        self.add_link.clicked.connect(lambda: self.add_requested.emit(None))
        row = _between_knots(self.add_link)
        self.mask_knot = MaskKnot(self.desk)
        for widget in (
            self.knots[0],
            self.mask_knot,
            *self.knots[1:-1],
            row,
            self.knots[-1],
            self.model_knot,
            self.shapes_knot,
        ):
            self._column.addWidget(widget)
        self._column.addStretch(1)

    def open_scaling(self) -> None:
        """How variables are centred and scaled."""
        if self.knots:
            self.scaling_link.showMenu()

    def open_model_settings(self) -> ModelForm | None:
        """Engine, gaps and tolerance, beside the model's knot."""
        if not self.knots:
            return None
        form = ModelForm(self.window(), self.desk)
        form.open_at(self.model_link, above=False)
        return form

    def _equip_step(self, knot: Knot, place: int) -> None:
        knot.switch.show()
        knot.switch.setToolTip("Switch this treatment on or off")
        knot.switched.connect(lambda on, place=place: self.desk.do(SwitchStep(place, on)))
        knot.movable = True
        knot.setToolTip(
            "Click: work on it. Drag: move it along the thread. Right click: duplicate, move, delete."
        )
        knot.dragged.connect(lambda y, finished, place=place: self._on_dragged(place, y, finished))
        knot.menu_asked.connect(lambda where, place=place: self._step_menu(place, where))
        remove = self._link("×", "Take this treatment off the trail")
        remove.clicked.connect(lambda _=False, place=place: self.desk.do(RemoveStep(place)))
        knot.words.addWidget(remove)

    def _on_dragged(self, place: int, y: int, finished: bool) -> None:
        """A step is dragged: the knot at which it would stand is lit; let go, it moves there."""
        steps = self.knots[1:-1]
        middles = [knot.y() + knot.height() / 2.0 for knot in steps]
        to = sum(middle < y for other, middle in enumerate(middles) if other != place)
        for other, knot in enumerate(steps):
            knot.choose(other == to if not finished else False)
        if finished:
            if to != place and self.desk.do(MoveStep(place, to)):
                self.desk.selection.change(stage=to + 1)
            self._choose()

    def _step_menu(self, place: int, where: QPoint) -> None:
        last = len(self.desk.study.state.recipe.treat) - 1
        menu = QMenu(self)
        entries: list[tuple[str, object, bool]] = [
            ("Duplicate", DuplicateStep(place), True),
            ("Move up", MoveStep(place, place - 1), place > 0),
            ("Move down", MoveStep(place, place + 1), place < last),
            ("Delete", RemoveStep(place), True),
        ]
        for word, command, possible in entries:
            action = menu.addAction(word)
            action.setEnabled(possible)
            action.triggered.connect(lambda _=False, command=command: self.desk.do(command))
        before = menu.addAction("Add a treatment before it…")
        before.triggered.connect(lambda: self.add_requested.emit(place))
        fork = menu.addAction("Put the model by as it is now")
        fork.triggered.connect(self.shelf.put)
        menu.popup(where)

    def _link(self, words: str, tip: str) -> QToolButton:
        link = QToolButton()
        link.setText(words)
        link.setToolTip(tip)
        link.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return link

    def _picture(self, stage: int) -> Lines | None:
        """The class means at a knot; made again only where the data or the classes there changed.

        None where what stands before the knot is still being computed.
        """
        state, found = self.desk.moment.state, self.desk.moment.found
        same = found is None or found.recipe.treat[:stage] == self.recipe.treat[:stage]
        if state.table is None or not same or (found is not None and stage > len(found.stages)):
            return None
        table, source, places, rows = stage_source(state, stage, found)
        colouring = colouring_of(state)
        codes = colouring.codes[rows]
        columns = np.arange(source.shape[1]) if found is None or stage else found.usable.columns
        of = (source.scaler, codes.tobytes(), columns.tobytes())
        kept = self._pictures.get(stage)
        if kept is None or kept[0] is not source.values or kept[1] != of:
            some = slice(None, None, max(1, len(places) // ENOUGH))  # it is a tiny picture
            part = source.rows(places[some])[:, columns]
            lines = class_means(table.axis.places()[columns], part, codes[some], colouring)
            kept = self._pictures[stage] = (source.values, of, lines)
        return kept[2]

    def _describe_data(self) -> None:
        table = self.desk.study.state.table
        assert table is not None
        n, p = table.shape
        classes = len(colouring_of(self.desk.study.state).named())
        small = f"{n} × {p}" + (f" · {classes} classes" if classes else "")
        self.knots[0].describe(table.name, small, self._picture(0))
        left = self._not_in_model()
        self.columns_link.setVisible(bool(self.desk.study.state.source.paths))
        self._describe_reading(table.origin)
        self.set_aside_link.setText(left)
        self.set_aside_link.setVisible(bool(left))

    def _describe_reading(self, origin: Origin) -> None:
        """One quiet line: how the file was read, or how much of it was not."""
        remarks = origin.remarks
        words = f"{count_of(remarks, 'remark')} on reading it…" if remarks else f"read: {origin.words}"
        room = WIDTH - ROOM
        self.read_link.setText(
            self.read_link.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room)
        )
        told = "\n".join(f"· {remark}" for remark in remarks)
        self.read_link.setToolTip(
            f"{origin.words}\n{told}\n\nClick to see the file and to read it otherwise (I)"
        )
        self.read_link.setVisible(bool(origin.words) and bool(self.desk.study.state.source.paths))

    def _not_in_model(self) -> str:
        state, found = self.desk.study.state, self.desk.moment.found
        assert state.table is not None
        aside = len(state.table.set_aside)
        parts = [f"{aside} set aside"] if aside else []
        if found is not None:
            gaps = len(found.usable.left_out_rows) - aside
            columns = len(found.usable.left_out_columns)
            kind = "channel" if state.table.axis.ordered else "variable"
            parts += [f"{gaps} with gaps"] if gaps > 0 else []
            parts += [f"{count_of(columns, kind)} left out"] if columns else []
        if len(parts) > 2:  # all of it does not fit beside the thread
            many = f"{kind}s"[:8]
            parts = [f"{aside} set aside", f"{gaps} gaps", f"{columns} {many}"]
        return " · ".join(parts)

    def _describe_step(self, place: int) -> None:
        step = self.recipe.treat[place]
        knot = self.knots[place + 1]
        knot.describe(*titles(step), self._picture(place + 1), step.on)
        knot.switch.setText("on" if step.on else "off")
        found = self.desk.moment.found
        shown = found is not None and found.recipe.treat == self.recipe.treat
        trouble = found.passed_over.get(place) if found is not None and shown else None
        knot.trouble = trouble is not None
        if trouble is not None:
            knot.describe(titles(step)[0], f"passed over: {trouble.problem}", None, False)
            knot.switch.setChecked(step.on)
            knot.switch.setText("on")
        knot.small.setToolTip("" if trouble is None else str(trouble))

    def _describe_scaling(self) -> None:
        state, found = self.desk.study.state, self.desk.moment.found
        assert state.table is not None
        scaling = self.recipe.scaling_for(state.table.axis.ordered)
        default = " (default)" if self.recipe.scale is None else ""
        title = {"none": "Centre"}.get(scaling.method, "Centre and scale")
        stage = len(self.recipe.treat) + 1
        picture = self._picture(stage) if found is not None else None
        self.knots[-1].describe(
            title, f"{CENTRES[scaling.centre]} · {SCALES[scaling.method]}{default}", picture
        )

    def _fill_scaling_menu(self) -> None:
        table = self.desk.study.state.table
        assert table is not None
        now = self.recipe.scaling_for(table.axis.ordered)
        self.scaling_menu.clear()
        for field, words in (("centre", CENTRES), ("method", SCALES)):
            heading = self.scaling_menu.addAction("CENTRE" if field == "centre" else "SCALE")
            heading.setEnabled(False)
            for key, word in words.items():
                action = self.scaling_menu.addAction(word)
                action.setCheckable(True)
                action.setChecked(getattr(now, field) == key)
                settings = replace(now, **{field: key})
                action.triggered.connect(lambda _=False, settings=settings: self.desk.do(ScaleBy(settings)))

    def _describe_model(self) -> None:
        live = self.desk.live
        if live.trouble is not None:
            self.model_knot.describe("No model", live.trouble.problem, None, on=False)
        elif live.evaluation is None or live.busy:
            share = "" if live.progress is None else f" {100 * live.progress:.0f} %"
            self.model_knot.describe("Model", f"computing…{share}", None)
        else:
            model, now = live.evaluation.model, self.desk.moment.state.model
            is_smooth = now is not None and now.kind == SMOOTH
            kind = kind_of(SMOOTH if is_smooth else PLAIN)
            engine = "by smoothness" if is_smooth else f"engine {model.decomposition.engine}"
            name = f"{now.name} · " if now is not None and now.name else ""
            self.model_knot.describe(
                f"{kind.name} · {count_of(model.k, 'component')}",
                f"{name}{len(model.t2)} samples · {engine}",
                None,
            )

    def _describe_shapes(self) -> None:
        how = self.recipe.unmix
        self.shapes_knot.setVisible(how.asks)
        self.model_knot.last = not how.asks
        if how.asks:
            words = [count_of(how.number or len(how.shapes), "shape")]
            names = ", ".join(shape.name for shape in how.shapes)
            small = f"amounts {how.rule.replace('-', ' ')}" + (f" · {names}" if names else "")
            words += ["found without references"] if how.number and not names else []
            self.shapes_knot.describe(f"Shapes · {words[0]}", " · ".join([*words[1:], small]), None)

    def _choose(self) -> None:
        stage = stage_of(self.desk.selection.look.stage, self.desk.moment.found)
        for place, knot in enumerate(self.knots):
            knot.choose(place == stage)


def titles(step: Step) -> tuple[str, str]:
    """The bold words of a step and the quiet ones: its abbreviation where it has one, else its name first."""
    declared = step.treatment
    short = declared.short(step.parameters)
    return (short, declared.name) if short.isupper() else (declared.name, short)


def _between_knots(link: QToolButton) -> Knot:
    """A stretch of thread without a ring, with a link beside it."""
    stretch = Knot(with_picture=False, with_ring=False)
    stretch.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    stretch.name.hide()
    stretch.small.hide()
    stretch.body.setContentsMargins(24, 0, 8, 6)
    stretch.body.insertWidget(0, link, 0, Qt.AlignmentFlag.AlignLeft)
    return stretch
