"""One map with its title, its choices and the legend of its colours."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart, Grid, nothing
from scutcher.charts.maps import PictureMap, chart_of
from scutcher.charts.pixels import INK_COLOURS, Subject
from scutcher.charts.words import significant, with_minus
from scutcher.core.data.layouts import GridLayout
from scutcher.core.frozen import frozen
from scutcher.desk.guard import guarded
from scutcher.desk.painting.map_shown import Lens, Shown
from scutcher.desk.painting.map_view import MapView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.panel import ChartPanel

MEANING = (
    "A value of every pixel. Drag to pick with the tool at the top; wheel: nearer; middle button: move; "
    "double click: all of it. Arrows move the cursor, Space picks."
)
GROUPS = (2, 3, 4, 5, 6, 8)


@frozen(eq=False)
class Choices:
    """What maps of these data can show."""

    components: int
    smooth: int
    channels: tuple[float, ...]
    names: tuple[str, ...]
    picked: bool
    joint: bool
    classes: bool
    shapes: tuple[str, ...] = ()


class ColourKey(QWidget):
    """The colours of a map with the values at their ends, or the names of its classes or inks."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(20)
        self.entries: tuple[tuple[str, str], ...] = ()
        self.one: PictureMap | None = None

    def sizeHint(self) -> QSize:
        """A line."""
        return QSize(200, 20)

    def show_map(self, one: PictureMap | None, entries: Sequence[tuple[str, str]] = ()) -> None:
        """A scale, or coloured names."""
        self.one, self.entries = one, tuple(entries)
        self.setToolTip(", ".join(name for _, name in entries))
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """A bar and its ends, or patches with names."""
        painter = QPainter(self)
        metrics, middle = painter.fontMetrics(), Qt.AlignmentFlag.AlignVCenter
        if self.entries:
            left = 8.0
            for colour, name in self.entries:
                wide = metrics.horizontalAdvance(name)
                if left + wide + 24 > self.width():
                    painter.setPen(QColor(colours.MUTED))
                    painter.drawText(QRectF(left, 0, 20, self.height()), middle, "…")
                    break
                painter.fillRect(QRectF(left, 6, 14, 9), QColor(colour))
                painter.setPen(QColor(colours.INK))
                painter.drawText(QRectF(left + 18, 0, wide + 4, self.height()), middle, name)
                left += wide + 34
            return
        if self.one is None:
            return
        low, high = (with_minus(significant(value)) for value in (self.one.low, self.one.high))
        start = metrics.horizontalAdvance(low) + 14.0
        bar = QRectF(start, 6, min(150.0, self.width() * 0.4), 8)
        ramp = colours.signed_map() if self.one.tone == "two-sided" else colours.unsigned_map()
        pixels = np.array([ramp], np.uint8)
        image = QImage(pixels.tobytes(), len(ramp), 1, 3 * len(ramp), QImage.Format.Format_RGB888)
        painter.drawImage(bar, image)
        painter.setPen(QColor(colours.HAIRLINE))
        painter.drawRect(bar)
        painter.setPen(QColor(colours.INK))
        painter.drawText(QRectF(8, 0, start, self.height()), middle, low)
        words = f"{high} {self.one.unit}".strip()
        if self.one.limit is not None:
            words += f"   limit {significant(self.one.limit)}"
        painter.drawText(
            QRectF(bar.right() + 6, 0, self.width() - bar.right() - 6, self.height()), middle, words
        )


class MapPanel(QWidget):
    """`chosen` is called with another subject, `touched` when somebody turns to this map."""

    def __init__(
        self,
        lens: Lens,
        subject: Subject,
        chosen: Callable[[Subject], None],
        choices: Callable[[], Choices | None],
    ) -> None:
        super().__init__()
        self.subject, self._chosen, self._choices = subject, chosen, choices
        self.view = MapView(lens)
        self.panel = ChartPanel(self.view, MEANING, bottom_title=False)
        self.menu = ChoiceMenu("show ▾", "What this map shows", self._fill)
        self.panel.add_to_header(self.menu)
        self.key = ColourKey()
        self.panel.add_below(self.key)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.panel)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Expanding)  # maps are of one width

    def show_picture(self, one: PictureMap | None, note: str, layout: GridLayout, empty: str = "") -> None:
        """A map with one value at each pixel."""
        if one is None:
            self.panel.describe(nothing("Map", empty))
            self.view.show_map(None)
            self.key.show_map(None)
            return
        chart = chart_of(one, note, layout)
        self.panel.describe(replace(chart, y_title=""))
        rows, columns = one.values.shape
        values = one.values if one.step == 1 else None
        shape = (rows / one.step, columns / one.step)
        self.view.show_map(Shown(shape, one.coloured, (rows, columns), chart, layout, values))
        if one.tone == "categories":
            named = [(colours.class_colour(code), name) for code, name in enumerate(one.names) if name]
            self.key.show_map(None, named)
        else:
            self.key.show_map(one)

    def show_inks(self, rgb: np.ndarray, names: Sequence[str], title: str, layout: GridLayout) -> None:
        """Three quantities printed over one another."""
        rows, columns = rgb.shape[:2]
        shade = rgb.astype(np.float64).mean(axis=2)
        x, y = np.arange(columns, dtype=np.float64), np.arange(rows, dtype=np.float64)
        grid = Grid(x, y, 255.0 - shade, 0.0, 255.0, downwards=True)
        chart = Chart(title=title, x_title="x / px", y_title="y / px", grid=grid, square=True)
        self.panel.describe(replace(chart, y_title=""))
        self.view.show_map(
            Shown((rows, columns), lambda part: rgb[part], (rows, columns), chart, layout, None)
        )
        self.key.show_map(None, list(zip(INK_COLOURS, names, strict=False)))

    def _fill(self, menu: ChoiceMenu) -> None:
        known = self._choices()
        if known is None:
            return

        def add(words: str, kind: str, *which: float) -> None:
            subject = Subject(kind, which)
            menu.add(words, self.subject == subject, partial(self._chosen, subject))

        for a in range(known.components):
            add(f"score of component {a + 1}", "score", float(a))
        if known.components > 1:
            add("the first components in inks", "inks", *map(float, range(min(known.components, 3))))
        menu.line()
        add("T²", "t2")
        add("Q", "q")
        if known.joint:
            add("joint distance", "joint")
        menu.line()
        for name, place in zip(known.names, known.channels, strict=True):
            add(f"{name}, treated", "channel", place)
            add(f"{name} as brought in", "raw", place)
        if len(known.channels) == 2:
            add(f"{known.names[0]} over {known.names[1]}", "ratio", *known.channels)
            add(f"sum of {known.names[0]} to {known.names[1]}", "sum", *known.channels)
        if known.picked:
            add("likeness to the pick (spectral angle)", "likeness")
        if known.classes:
            add("class", "class")
        menu.line()
        for a in range(known.smooth):
            add(f"smooth component {a + 1}", "smooth", float(a))
        for place, name in enumerate(known.shapes):
            add(f"amount of {name}", "amount", float(place))
        for count in GROUPS:
            add(f"{count} groups of pixels", "groups", float(count))
