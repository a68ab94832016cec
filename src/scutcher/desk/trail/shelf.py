"""The shelf under the trail: models put by, each with its figures and a small picture."""

from __future__ import annotations

from collections.abc import Callable
from operator import is_

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QMenu,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts import colours
from scutcher.charts.emphasis import colouring_of
from scutcher.core.words import shown
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.guard import guarded
from scutcher.desk.words import Words, tip
from scutcher.study.document.commands.blocks import OpenTogether
from scutcher.study.document.commands.kinds import SMOOTH
from scutcher.study.document.commands.shelf import OpenModel, PutBy, RemoveModel
from scutcher.study.document.parts import TOGETHER, Model, Reached
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.shelved_model import reached, recipe_name, with_kept

SHOWN = 3
MOST_DOTS = 400


def paint_plane(painter: QPainter, area: QRectF, model: Reached | None, size: float = 1.6) -> None:
    """The score plane that a model had reached as dots, scaled to fit; nothing where it had none."""
    if model is None or not len(model.scores):
        return
    scores = model.scores
    x = scores[:, 0]
    y = scores[:, 1] if scores.shape[1] > 1 else np.zeros(len(x))
    every = max(1, len(x) // MOST_DOTS)
    spans = [(float(v.min()), float(np.ptp(v)) or 1.0) for v in (x, y)]
    painter.setPen(Qt.PenStyle.NoPen)
    for px, py, code in zip(
        x[::every].tolist(), y[::every].tolist(), model.codes[::every].tolist(), strict=True
    ):
        painter.setBrush(QColor(colours.class_colour(code)))
        across = area.left() + (px - spans[0][0]) / spans[0][1] * area.width()
        down = area.bottom() - (py - spans[1][0]) / spans[1][1] * area.height()
        painter.drawEllipse(QPointF(across, down), size, size)


def figures_text(model: Model) -> str:
    """`4 comps  R² 0.97  Q² 0.67`."""
    if model.reached is None:
        return "not computed yet"
    if model.kind == TOGETHER:
        return f"{model.figure('tables') or 0:.0f} tables  {model.figure('common') or 0:.0f} common"
    parts = [f"{model.figure('components') or 0:.0f} {'smooth' if model.kind == SMOOTH else 'comps'}"]
    for key, word in (("r2", "R²"), ("q2", "Q²")):
        value = model.figure(key)
        if value is not None:
            parts.append(f"{word} {shown(value, '.2f')}")
    return "  ".join(parts)


KEYS = {Qt.Key.Key_F2: "rename", Qt.Key.Key_Delete: "delete"}


class ShelfRow(QWidget):
    """One model: its plane, its name, its figures. Click: open it."""

    reopened = Signal()
    asked = Signal(str)

    def __init__(self, model: Model, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model, self.name = model, name
        self.setFixedHeight(40)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Model {name}, {figures_text(model)}")
        self.setToolTip(
            tip(f"{name}\nClick: open it in place of the one of now. Right click: rename, delete.")
        )

    def sizeHint(self) -> QSize:
        """As wide as the trail."""
        return QSize(180, 40)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """A small plane and two lines of words."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(24.5, 3.5, 40.0, 32.0)
        painter.setPen(QPen(QColor(colours.ACCENT if self.hasFocus() else colours.HAIRLINE), 1.0))
        painter.setBrush(QColor(colours.PAPER))
        painter.drawRect(frame)
        paint_plane(painter, frame.adjusted(4, 4, -4, -4), self.model.reached, 1.3)
        painter.setPen(QColor(colours.INK))
        words = QRectF(71.0, 3.0, self.width() - 76.0, 17.0)
        name = painter.fontMetrics().elidedText(self.name, Qt.TextElideMode.ElideRight, int(words.width()))
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, name)
        font = painter.font()
        font.setPixelSize(10)
        painter.setFont(font)
        painter.setPen(QColor(colours.MUTED))
        painter.drawText(words.translated(0, 16), Qt.AlignmentFlag.AlignVCenter, figures_text(self.model))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click opens the model."""
        if event.button() == Qt.MouseButton.LeftButton and self.rect().contains(event.position().toPoint()):
            self.reopened.emit()

    def event(self, event: QEvent) -> bool:
        """Keys that mean something here do not reach the window, which sets samples aside with Del."""
        asked = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if asked and Qt.Key(event.key()) in KEYS:  # type: ignore[attr-defined]
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter opens it, F2 renames, Del takes it off."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.reopened.emit()
        elif Qt.Key(event.key()) in KEYS:
            self.asked.emit(KEYS[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with a model on the shelf."""
        menu = QMenu(self)
        for word, what in (
            ("Open", "open"),
            ("Beside the one of now", "beside"),
            ("Rename…", "rename"),
            ("Delete", "delete"),
        ):
            menu.addAction(word).triggered.connect(lambda _=False, what=what: self.asked.emit(what))
        menu.popup(event.globalPos())


class Shelf(QFrame):
    """Heading with its two links, and the models, the newest first."""

    rename_requested = Signal(int)
    compare_requested = Signal()
    beside_requested = Signal(str)
    """With the id of the model to be put beside the one of now."""

    tables_opened = Signal()
    """A comparison of several tables was opened."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.rows: list[ShelfRow] = []
        self.put_instead: Callable[[], bool] = lambda: False
        """Puts by what a page has in place of the model; false where it has nothing."""
        self._shown: tuple[Model, ...] | None = None
        heading = Words("SHELF")
        heading.setObjectName("section")
        self.put_by, self.compare = QToolButton(), QToolButton()
        self.put_by.setText("put by")
        self.put_by.setToolTip("Put the model as it is now on the shelf (B)")
        self.put_by.clicked.connect(self.put)
        self.compare.setText("compare")
        self.compare.setToolTip(
            "All models on the shelf in one table, with what differs between them (Shift+B)"
        )
        self.compare.clicked.connect(self.compare_requested)
        header = QHBoxLayout()
        header.setContentsMargins(24, 4, 6, 0)
        header.addWidget(heading)
        header.addStretch(1)
        header.addWidget(self.compare)
        header.addWidget(self.put_by)
        self._column = QVBoxLayout()
        self._column.setSpacing(0)
        self._column.setContentsMargins(0, 0, 0, 4)
        inside = QWidget()
        inside.setLayout(self._column)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setWidget(inside)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(header)
        layout.addWidget(self._scroll)
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.study, lambda changed: self.redraw())
        self.refresh()

    def refresh(self) -> None:
        """Show the shelf as it is."""
        shelf = self.desk.study.state.shelf
        if self._shown is not None and len(shelf) == len(self._shown) and all(map(is_, shelf, self._shown)):
            return
        self._shown = shelf
        while (item := self._column.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.setParent(None)
                old.deleteLater()
        self.rows = []
        for place in reversed(range(len(shelf))):
            model = shelf[place]
            row = ShelfRow(model, model.name or self.desk.study.state.dataset_of(model).name)
            row.reopened.connect(lambda place=place: self.open(place))
            row.asked.connect(lambda what, place=place: self._asked(what, place))
            self._column.addWidget(row)
            self.rows.append(row)
        self._column.addStretch(1)
        self._scroll.setFixedHeight(40 * min(len(shelf), SHOWN) + (4 if shelf else 0))
        self.compare.setEnabled(bool(shelf))

    def put(self) -> None:
        """Put the model as it is now by, or what the page has in its place."""
        if self.put_instead():
            return
        found = self.desk.moment.found
        if found is not None:
            self.desk.do(PutBy(recipe_name(found.recipe), self._reached(found), with_kept(found)))

    def _reached(self, found: Evaluation) -> Reached:
        checked = self.desk.moment.checked
        codes = colouring_of(self.desk.study.state).codes[found.usable.rows]
        return reached(found, codes, None if checked is None else checked.validation)

    def open(self, place: int) -> None:
        """Look at a model of the shelf; the one of now takes its place there."""
        state, found = self.desk.study.state, self.desk.moment.found
        if state.shelf[place].kind == TOGETHER:
            if self.desk.do(OpenTogether(state.shelf[place].id)):
                self.tables_opened.emit()
            return
        now = None if found is None else self._reached(found)
        self.desk.do(OpenModel(state.shelf[place].id, recipe_name(state.recipe), now))

    def _asked(self, what: str, place: int) -> None:
        if what == "open":
            self.open(place)
        elif what == "beside":
            self.beside_requested.emit(self.desk.study.state.shelf[place].id)
        elif what == "rename":
            self.rename_requested.emit(place)
        else:
            self.desk.do(RemoveModel(self.desk.study.state.shelf[place].id))
