"""Every painter in one place: what cannot be drawn is marked and reported once, and nothing else stops."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar
from weakref import WeakKeyDictionary

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QAbstractScrollArea, QWidget
from shiboken6 import isValid

from scutcher.charts import colours

P = ParamSpec("P")
T = TypeVar("T")

SORRY = "This could not be drawn."

_told: WeakKeyDictionary[Any, set[str]] = WeakKeyDictionary()
"""What was reported of whom: a view that cannot be drawn is asked for many times."""


def guarded(paint: Callable[P, T]) -> Callable[P, T | None]:
    """For every paintEvent, paint and drawForeground: an exception that leaves one ends the process."""

    @wraps(paint)
    def safe(*given: P.args, **named: P.kwargs) -> T | None:
        own = next((one for one in given if isinstance(one, QPainter)), None)
        if own is not None:
            own.save()
        try:
            return paint(*given, **named)
        except Exception as error:
            _let_go(error, own)
            _report(given[0], error)
        finally:
            if own is not None:
                own.restore()
        if own is None and isinstance(given[0], QWidget):
            _mark(given[0])
        return None

    return safe


def _let_go(error: Exception, own: QPainter | None) -> None:
    """End the painters of the broken call: one that lives on its widget's back ends the process."""
    for frame, _ in traceback.walk_tb(error.__traceback__):
        for value in frame.f_locals.values():
            if isinstance(value, QPainter) and value is not own and isValid(value) and value.isActive():
                value.end()


def _report(who: Any, error: Exception) -> None:
    told = _told.setdefault(who, set())
    if repr(error) not in told:
        told.add(repr(error))
        sys.excepthook(type(error), error, error.__traceback__)


def _mark(widget: QWidget) -> None:
    """A cross and a sentence where the picture would be."""
    surface = widget.viewport() if isinstance(widget, QAbstractScrollArea) else widget
    painter = QPainter(surface)
    if not painter.isActive():
        return
    area = surface.rect()
    painter.fillRect(area, QColor(colours.PAPER))
    painter.setPen(QColor(colours.HAIRLINE))
    painter.drawLine(area.topLeft(), area.bottomRight())
    painter.drawLine(area.bottomLeft(), area.topRight())
    painter.setPen(QColor(colours.ALARM))
    painter.drawText(area, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, SORRY)
    painter.end()
