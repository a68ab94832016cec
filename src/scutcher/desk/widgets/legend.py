"""The class legend: the column that colours everything, and its classes to fade or single out."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QContextMenuEvent, QFontMetrics, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from scutcher.charts import colours
from scutcher.charts.emphasis import RUN_ORDER, Colouring, Scale
from scutcher.core.data.table import Table
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.painting.markers import marker
from scutcher.desk.widgets.item_keys import ItemKeys

GAP, MARK, EDGE, RAMP_WIDTH = 12.0, 9.0, 10.0, 150.0
HELP = "Click: fade the other classes. Double-click: show this class alone. Right click: colour, name."


class LegendRow(QWidget):
    """Marker and name of each class; wraps to a second row where the panel is narrow."""

    clicked = Signal(str)
    double_clicked = Signal(str)
    menu_asked = Signal(str, QPoint)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("legend")
        self._levels: tuple[str, ...] = ()
        self._scale: Scale | None = None
        self._focus: str | None = None
        self._counts: list[int] | None = None
        more = {Qt.Key.Key_Menu: self._ask_menu}
        self.keys = ItemKeys(self, "Classes", lambda: list(self.cells().values()), self._take, more=more)
        self.setMouseTracking(True)

    def show_scale(self, scale: Scale) -> None:
        """A continuous colouring: its ends and its ramp in place of classes."""
        self._levels, self._scale = (), scale
        self.setToolTip("A continuous colouring: the lowest value at the left, the highest at the right.")
        self.setVisible(True)
        self.setMinimumHeight(20)
        self.update()

    def _paint_scale(self, painter: QPainter, scale: Scale) -> None:
        metrics = QFontMetrics(self.font())
        unit = f" {scale.unit}" if scale.unit else ""
        low, high = shown(scale.low, ".4g"), f"{shown(scale.high, '.4g')}{unit}"
        left = EDGE + metrics.horizontalAdvance(low) + 6.0
        step = RAMP_WIDTH / colours.STEPS
        painter.setPen(QColor(colours.INK))
        words = QRectF(EDGE, 0.0, self.width(), 18.0)
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, low)
        words.setLeft(left + RAMP_WIDTH + 6.0)
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, high)
        for place in range(colours.STEPS):
            colour = QColor(colours.class_colour(colours.CONTINUOUS + place))
            painter.fillRect(QRectF(left + place * step, 4.0, step + 0.5, 10.0), colour)

    def show_colouring(self, colouring: Colouring, focus: str | None) -> None:
        """The classes of now, or the continuous scale."""
        if colouring.scale is not None:
            self.show_scale(colouring.scale)
        else:
            self.show_levels(colouring.levels, colouring.counts().tolist(), focus)

    def show_levels(self, levels: tuple[str, ...], counts: list[int], focus: str | None) -> None:
        """The classes, how many samples each has, and the one in focus."""
        if (levels, counts, focus, None) == (self._levels, self._counts, self._focus, self._scale):
            return
        self._levels, self._counts, self._focus, self._scale = levels, counts, focus, None
        counted = ", ".join(f"{level} {count}" for level, count in zip(levels, counts, strict=True) if level)
        self.setToolTip(f"{HELP}\nSamples: {counted}")
        self.setVisible(bool(levels))
        self.setMinimumHeight(self.sizeHint().height())
        self.updateGeometry()
        self.update()

    def cells(self) -> dict[str, QRectF]:
        """Where each class is drawn."""
        metrics = QFontMetrics(self.font())
        x, y, height = EDGE, 0.0, metrics.height() + 4.0
        found = {}
        for level in filter(None, self._levels):
            width = MARK + 6.0 + metrics.horizontalAdvance(level)
            if x > EDGE and x + width > self.width() - EDGE:
                x, y = EDGE, y + height
            found[level] = QRectF(x, y, width, height)
            x += width + GAP
        return found

    def sizeHint(self) -> QSize:
        """As many rows as the classes need at this width."""
        cells = self.cells()
        bottom = max((cell.bottom() for cell in cells.values()), default=20.0)
        return QSize(120, int(bottom))

    def resizeEvent(self, event: object) -> None:
        """Another width may need another number of rows."""
        self.setMinimumHeight(self.sizeHint().height())

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw marker and name; classes out of focus are pale."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._scale is not None:
            self._paint_scale(painter, self._scale)
        for level, cell in self.cells().items():
            code = self._levels.index(level)
            pale = self._focus is not None and self._focus != level
            painter.save()
            painter.translate(cell.left() + MARK / 2, cell.center().y())
            painter.scale(MARK, MARK)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colours.FADED if pale else colours.class_colour(code)))
            painter.drawPath(marker(colours.class_shape(code)))
            painter.restore()
            painter.setPen(QColor(colours.MUTED if pale else colours.INK))
            left = cell.adjusted(MARK + 5.0, 0.0, 4.0, 0.0)
            painter.drawText(left, Qt.AlignmentFlag.AlignVCenter, level)
        self.keys.outline(painter)

    def _take(self, place: int) -> None:
        self.clicked.emit(list(self.cells())[place])

    def _ask_menu(self) -> None:
        """What can be done with the class that the keys are at."""
        cells = self.cells()
        if self.keys.place is not None and self.keys.place < len(cells):
            level, area = list(cells.items())[self.keys.place]
            self.menu_asked.emit(level, self.mapToGlobal(area.bottomLeft().toPoint()))

    def level_at(self, x: float, y: float) -> str | None:
        """The class under a place."""
        for level, cell in self.cells().items():
            if cell.contains(x, y):
                return level
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click on a class."""
        level = self.level_at(event.position().x(), event.position().y())
        if level is not None and event.button() == Qt.MouseButton.LeftButton:
            self.clicked.emit(level)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A double click on a class."""
        level = self.level_at(event.position().x(), event.position().y())
        if level is not None:
            self.double_clicked.emit(level)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with a class."""
        level = self.level_at(event.pos().x(), event.pos().y())
        if level is not None:
            self.menu_asked.emit(level, event.globalPos())


class ColumnChooser(QToolButton):
    """The name of the class column that colours everything; opens the choice of columns."""

    column_chosen = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.setToolTip("What colours everything: a class column, a property, or the run order")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMenu(QMenu(self))
        self._shown: tuple[str, tuple[str, ...]] | None = None

    def show_columns(self, chosen: str, columns: tuple[str, ...]) -> None:
        """The column of now, and those there are."""
        if (chosen, columns) == self._shown:
            return
        self._shown = chosen, columns
        self.setText(f"by {chosen or 'nothing'} ▾")
        self.setVisible(bool(columns))
        self.menu().clear()
        for column in (*columns, ""):
            action = self.menu().addAction(column or "nothing")
            action.setCheckable(True)
            action.setChecked(column == chosen)
            action.triggered.connect(lambda _=False, column=column: self.column_chosen.emit(column))


def colour_columns(table: Table | None) -> tuple[str, ...]:
    """What can colour the samples of a table: classes, properties, the run order."""
    if table is None:
        return ()
    classes = tuple(column.name for column in table.classes)
    return (*classes, *(measured.name for measured in table.properties), RUN_ORDER)
