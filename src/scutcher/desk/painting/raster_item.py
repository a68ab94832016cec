"""Draws many lines as one picture, made anew when the view or the lines change."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Iterator
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, QTimer
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QStyleOptionGraphicsItem, QWidget

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.numeric.known_spans import known_span
from scutcher.desk.guard import guarded
from scutcher.desk.painting.busy import COMPUTING
from scutcher.desk.painting.line_raster import Cover, blend, column_runs, coverage
from scutcher.desk.painting.plotting_library import pg

MANY, MUCH = 600, 4_000_000
"""With more lines or more values some of the lines are drawn while the view moves, in columns GRAIN pixels
wide; when it rests all of them, pixel by pixel."""

SOME, FEWEST, SKETCH, GRAIN = 300, 30, 2_000_000, 2
"""Those are SOME lines, or fewer of so many values, but not fewer than FEWEST."""

PATIENCE, COVERS = 160, 12
"""Milliseconds until a view rests; covers that are kept at hand for the next pick."""

SLICE, PIECE, FRAME = 100, 1_000_000, 0.008
"""Lines and values of a slice of that drawing at most, and seconds that slices take of a frame."""


@frozen(eq=False)
class Layer:
    """Lines of one colour: rows of the values, colour, how opaque one is, how thick in pixels."""

    rows: np.ndarray
    colour: tuple[int, int, int]


@frozen(eq=False)
class Sheet:
    """Layers that are blended together."""

    layers: tuple[Layer, ...]
    opacity: float
    thickness: float


Wanted = tuple[float, float, float, float, int, int, float]
"""Left, right, bottom and top of the view in data units; width and height in pixels, and their ratio."""


class RasterLines(pg.GraphicsObject):  # type: ignore[misc]
    """An item in a view that shows sheets of lines, the later ones in front."""

    _last_slice = 0.0
    """When slices of any such item were drawn last: of several pictures one goes on at a time."""

    def __init__(self) -> None:
        super().__init__()
        self._x = np.empty(0)
        self._ys = np.empty((0, 0))
        self._sheets: tuple[Sheet, ...] = ()
        self._bounds = QRectF()
        self.low = self.high = np.empty(0)  # of all lines, channel by channel
        self._pictures: list[QImage] = []
        self._made_for: Wanted | None = None
        self._runs: tuple[tuple[object, ...], Floats, Floats] | None = None
        self._runs_key: tuple[object, ...] = ()
        self._covers: OrderedDict[tuple[Any, ...], Cover] = OrderedDict()
        self._coarse = False
        self._slices: Iterator[None] | None = None
        self._refine = QTimer(self)
        self._refine.setSingleShot(True)
        self._refine.setInterval(PATIENCE)
        self._refine.timeout.connect(self._draw_all)
        self._go_on = QTimer(self)
        self._go_on.setSingleShot(True)
        self._go_on.timeout.connect(self._draw_slices)

    @property
    def is_coarse(self) -> bool:
        """Whether only some of very many lines are drawn as yet."""
        return self._coarse

    def show_lines(self, x: Floats, ys: Floats) -> None:
        """Put other lines in: (p,) and (m, p); the same arrays again cost nothing."""
        if ys is self._ys and np.array_equal(x, self._x):
            return
        self._x, self._ys = x, ys
        self._made_for = self._runs = self._slices = None
        self.prepareGeometryChange()
        self.low, self.high = known_span(ys) if ys.size else (np.empty(0), np.empty(0))
        if not np.isfinite(self.low).any():
            self._bounds = QRectF()
        else:
            low, high = float(np.nanmin(self.low)), float(np.nanmax(self.high))
            self._bounds = QRectF(float(x.min()), low, float(np.ptp(x)), high - low)
        self.update()

    def show_sheets(self, sheets: tuple[Sheet, ...]) -> None:
        """Choose which lines are drawn in which colour; the same choice again costs nothing."""
        if _same_sheets(sheets, self._sheets):
            return
        self._sheets = sheets
        self._made_for = self._slices = None
        self.update()

    def boundingRect(self) -> QRectF:
        """The range of the lines in data units."""
        return self._bounds

    @guarded
    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        """Draw the pictures pixel for pixel."""
        view = self.getViewBox()
        if view is None or self._bounds.isNull() or not self._sheets:
            return
        (left, right), (bottom, top) = view.viewRange()
        transform = painter.worldTransform()
        corner, opposite = transform.map(QPointF(left, top)), transform.map(QPointF(right, bottom))
        ratio = painter.device().devicePixelRatioF()
        width = max(round((opposite.x() - corner.x()) * ratio), 1)
        height = max(round((opposite.y() - corner.y()) * ratio), 1)
        wanted = (left, right, bottom, top, width, height, ratio)
        if wanted != self._made_for:
            self._coarse, self._slices = len(self._ys) > MANY or self._ys.size > MUCH, None
            self._made_for, self._pictures = wanted, []  # where they cannot be made, nothing is drawn
            self._make(wanted)
            self._refine.stop()
        if self._coarse and self._slices is None and not self._refine.isActive():
            self._refine.start()
        painter.save()
        painter.resetTransform()
        place = QPointF(round(corner.x() * ratio) / ratio, round(corner.y() * ratio) / ratio)
        for picture in self._pictures:
            painter.drawImage(QRectF(place, QSizeF(width / ratio, height / ratio)), picture)
        painter.restore()

    def _draw_all(self) -> None:
        """Nothing has moved for a moment: every line in place of a few, unless a model is being computed."""
        if COMPUTING:
            self._refine.start()
        elif self._made_for is not None and self._coarse:
            self._slices = self._sliced(self._made_for)
            self._draw_slices()

    def _draw_slices(self) -> None:
        """Some more of the lines; the rest after whatever else the window has to do."""
        if not self._is_seen():
            self._slices = None  # begun again when it is painted again
            return
        begun = time.perf_counter()
        if begun - RasterLines._last_slice < FRAME / 2:
            self._go_on.start(round(1e3 * FRAME))
            return
        end = begun + FRAME
        try:
            while self._slices is not None and not COMPUTING:
                next(self._slices)
                if time.perf_counter() > end:
                    break
        except StopIteration:
            self._slices = None
            self.update()
        RasterLines._last_slice = time.perf_counter()
        if self._slices is not None:
            self._go_on.start(PATIENCE if COMPUTING else 0)

    def _is_seen(self) -> bool:
        """Whether the view is on the screen."""
        view = self.getViewWidget()
        return view is not None and view.isVisible()

    def finish(self) -> None:
        """Draw every line now, for a picture that cannot wait."""
        if self._made_for is not None and self._coarse:
            for _ in self._slices or self._sliced(self._made_for):
                pass
            self._slices = None
            self.update()

    def _sliced(self, wanted: Wanted) -> Iterator[None]:
        """Draw every line pixel by pixel, some at a time; the pictures change at the end."""
        left, right, bottom, top, width, height, ratio = wanted
        step = min(SLICE, max(PIECE // len(self._x), 1))
        pictures = []
        for sheet in self._sheets:
            covers = []
            for layer in (one for one in sheet.layers if len(one.rows)):
                cover = np.zeros((height, width), dtype=np.float32)
                for start in range(0, len(layer.rows), step):
                    part = self._ys[layer.rows[start : start + step]]
                    low, high = column_runs(self._x, part, left, right, width)
                    cover += coverage(low, high, bottom, top, height, sheet.thickness * ratio)
                    yield
                covers.append((cover, layer.colour))
            if covers:
                pictures.append(_picture(covers, sheet.opacity))
                yield
        self._pictures, self._coarse = pictures, False

    def _chosen(self) -> np.ndarray:
        """The lines that are drawn: all, or some of very many and of those in front."""
        every = np.arange(len(self._ys))
        if not self._coarse:
            return every
        front = np.concatenate([*(layer.rows for layer in self._sheets[-1].layers), every[:0]])
        some = min(SOME, max(SKETCH // len(self._x), FEWEST))
        chosen: np.ndarray = np.union1d(*(rows[:: max(len(rows) // some, 1)] for rows in (every, front)))
        return chosen.astype(np.intp)

    def _opacity(self, sheet: Sheet, drawn: int) -> float:
        """A few lines are drawn stronger, so that the picture is about as dark as that of all."""
        every = sum(len(layer.rows) for layer in sheet.layers)
        return float(1.0 - (1.0 - sheet.opacity) ** (every / max(drawn, 1)))

    def _make(self, wanted: Wanted) -> None:
        left, right, bottom, top, width, height, ratio = wanted
        chosen = self._chosen()
        if self._coarse:
            width = -(-width // GRAIN)
        low, high = self._column_runs(left, right, width, chosen)
        self._pictures = []
        for sheet in self._sheets:
            covers, drawn = [], 0
            for layer in sheet.layers:
                rows = np.flatnonzero(np.isin(chosen, layer.rows)) if self._coarse else layer.rows
                if len(rows):
                    drawn += len(rows)
                    thickness = sheet.thickness * ratio
                    place = (*self._runs_key, bottom, top, height, thickness)
                    covers.append((self._cover(rows, low, high, place), layer.colour))
            if covers:
                self._pictures.append(_picture(covers, self._opacity(sheet, drawn)))

    def _cover(self, rows: np.ndarray, low: Floats, high: Floats, place: tuple[Any, ...]) -> Cover:
        """How often some lines cover each pixel; of most of them: that of all less that of the others."""
        key = (place, rows.tobytes())
        if key in self._covers:
            self._covers.move_to_end(key)
            return self._covers[key]
        bottom, top, height, thickness = place[-4:]
        others = np.setdiff1d(np.arange(len(low)), rows) if 2 * len(rows) > len(low) else rows
        if len(others) < len(rows):
            cover = self._cover(np.arange(len(low)), low, high, place) if len(others) else None
            less = self._cover(others, low, high, place) if len(others) else None
            if cover is not None and less is not None:
                cover = np.maximum(cover - less, np.float32(0.0))
        else:
            cover = None
        if cover is None:
            cover = coverage(low[rows], high[rows], bottom, top, height, thickness)
        self._covers[key] = cover
        while len(self._covers) > COVERS:
            self._covers.popitem(last=False)
        return cover

    def _column_runs(
        self, left: float, right: float, width: int, chosen: np.ndarray
    ) -> tuple[Floats, Floats]:
        """The runs do not depend on colour or height: kept while a pick changes."""
        key = (left, right, width, chosen.tobytes() if self._coarse else b"")
        self._runs_key = key
        if self._runs is None or self._runs[0] != key:
            self._covers.clear()
            self._runs = (key, *self._runs_of(chosen, left, right, width))
        return self._runs[1], self._runs[2]

    def _runs_of(self, chosen: np.ndarray, left: float, right: float, width: int) -> tuple[Floats, Floats]:
        """Of all lines, or of some of them; these are not all copied at once."""
        if len(chosen) == len(self._ys):
            return column_runs(self._x, self._ys, left, right, width)
        step = max(PIECE // len(self._x), 1)
        pieces = (self._ys[chosen[start : start + step]] for start in range(0, len(chosen), step))
        low, high = zip(*(column_runs(self._x, ys, left, right, width) for ys in pieces), strict=True)
        return np.vstack(low), np.vstack(high)


def _picture(covers: list[tuple[Cover, tuple[int, int, int]]], opacity: float) -> QImage:
    """What `coverage` found for each colour, as a picture with its first row on top."""
    pixels = np.ascontiguousarray(blend(covers, opacity)[::-1])
    height, width = pixels.shape
    form = QImage.Format.Format_ARGB32_Premultiplied
    return QImage(pixels.data, width, height, 4 * width, form).copy()


def _same_sheets(a: tuple[Sheet, ...], b: tuple[Sheet, ...]) -> bool:
    """Whether two choices draw the same lines in the same colours."""
    looks = [[(s.opacity, s.thickness, [x.colour for x in s.layers]) for s in sheets] for sheets in (a, b)]
    if looks[0] != looks[1]:
        return False
    pairs = zip((x for s in a for x in s.layers), (x for s in b for x in s.layers), strict=True)
    return all(np.array_equal(p.rows, q.rows) for p, q in pairs)
