"""From data to pixels of what is painted on."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QTransform

from scutcher.core.arrays import Floats

BEYOND = 1e9
"""Pixels beyond which a place is drawn at that distance, so that no number overflows."""


class ToPixels:
    """Data to pixels of what is painted on."""

    def __init__(self, transform: QTransform, wide: float, tall: float) -> None:
        self._across, self._left = transform.m11(), transform.dx()
        self._down, self._top = transform.m22(), transform.dy()
        self.wide, self.tall = wide, tall

    def x(self, values: Floats) -> Floats:
        """Places along the level axis, any shape."""
        return np.clip(values * self._across + self._left, -BEYOND, BEYOND)

    def y(self, values: Floats) -> Floats:
        """Places along the upright axis, any shape."""
        return np.clip(values * self._down + self._top, -BEYOND, BEYOND)

    def place(self, x: float, y: float) -> QPointF:
        """One place."""
        return QPointF(float(self.x(np.array([x]))[0]), float(self.y(np.array([y]))[0]))
