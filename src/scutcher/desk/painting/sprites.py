"""Marks as sprites: drawn once for each class, then put down many at a time."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap

from scutcher.charts import colours, palettes
from scutcher.charts.emphasis import FADED, HIDDEN
from scutcher.core.arrays import Floats, Integers
from scutcher.desk.painting.markers import marker
from scutcher.desk.painting.plotting_library import pg

RIM = 0.7  # pixels of paper around each mark, so that neighbours stay apart
Kind = tuple[int, bool]
"""The class of a mark, and whether it is faded."""


def put_sprites(
    painter: QPainter,
    x: Floats,
    y: Floats,
    codes: Integers,
    strength: Integers,
    size: float,
    hollow: bool = False,
) -> None:
    """Put marks down in the order given, the last in front; hidden ones and gaps are left away.

    Parameters
    ----------
    x, y : (m,) float arrays
        Pixels of the painter's device.
    codes, strength : (m,) int arrays
        Classes, and how strongly each is drawn.
    size : float
        Pixels.
    hollow : bool
        Outlines only.
    """
    shown = np.flatnonzero((strength != HIDDEN) & np.isfinite(x) & np.isfinite(y))
    if not len(shown):
        return
    ratio = painter.device().devicePixelRatioF()
    looks = 2 * codes[shown] + (strength[shown] == FADED)
    known, which = np.unique(looks, return_inverse=True)
    kinds = tuple((int(look) // 2, bool(look % 2)) for look in known)
    sheet = _sheet(palettes.now(), kinds, size, ratio, hollow)
    _put_down(painter, x[shown], y[shown], which, sheet, ratio)


def put_rings(painter: QPainter, x: Floats, y: Floats, radius: float, colour: str, width: float) -> None:
    """Very many rings around places, (m,), in pixels of the painter's device."""
    ratio = painter.device().devicePixelRatioF()
    none = np.zeros(len(x), dtype=np.intp)
    _put_down(painter, x, y, none, _ring(colour, radius, width, ratio), ratio)


def _put_down(painter: QPainter, x: Floats, y: Floats, which: Integers, sheet: QPixmap, ratio: float) -> None:
    """At each place its sprite of a sheet."""
    side = sheet.height()
    array = pg.Qt.internals.PrimitiveArray(QPainter.PixmapFragment, 10)
    array.resize(len(x))
    cells = array.ndarray()
    cells[:, 0], cells[:, 1] = x, y
    cells[:, 2], cells[:, 3] = which * side, 0.0
    cells[:, 4:6] = side
    cells[:, 6:8] = 1.0 / ratio
    cells[:, 8], cells[:, 9] = 0.0, 1.0
    painter.drawPixmapFragments(*array.drawargs(), sheet)  # type: ignore[call-arg]  # the stubs lack it


@lru_cache(maxsize=8)
def _ring(colour: str, radius: float, width: float, ratio: float) -> QPixmap:
    """A ring in the middle of its sprite."""
    side = math.ceil((2.0 * radius + width + 2.0) * ratio)
    sprite = QPixmap(side, side)
    sprite.fill(Qt.GlobalColor.transparent)
    painter = QPainter(sprite)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(colour), width * ratio))
    painter.drawEllipse(QPointF(side / 2.0, side / 2.0), radius * ratio, radius * ratio)
    painter.end()
    return sprite


@lru_cache(maxsize=64)
def _sheet(
    palette: palettes.Palette, kinds: tuple[Kind, ...], size: float, ratio: float, hollow: bool
) -> QPixmap:
    """The sprites of some kinds side by side, in pixels of the screen; of the palette of now."""
    side = math.ceil(math.ceil(size * 1.3 + 2.0) * ratio)
    sheet = QPixmap(side * len(kinds), side)
    sheet.fill(Qt.GlobalColor.transparent)
    painter = QPainter(sheet)
    for place, (code, faded) in enumerate(kinds):
        colour = colours.FADED if faded else colours.class_colour(code)
        middle = QPointF((place + 0.5) * side, 0.5 * side)
        _draw_mark(painter, middle, colours.class_shape(code), colour, size * ratio, hollow, ratio)
    painter.end()
    return sheet


def _draw_mark(
    painter: QPainter, middle: QPointF, shape: str, colour: str, size: float, hollow: bool, ratio: float
) -> None:
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(middle)
    painter.scale(size, size)
    painter.setPen(QPen(QColor(colour if hollow else colours.PAPER), (1.3 if hollow else RIM) * ratio / size))
    painter.setBrush(Qt.BrushStyle.NoBrush if hollow else QColor(colour))
    painter.drawPath(marker(shape))
    painter.restore()
