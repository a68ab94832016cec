"""A filled path of very many corners, drawn from its last picture while nothing about it is other."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath
from PySide6.QtWidgets import QGraphicsPathItem, QStyleOptionGraphicsItem, QWidget

from scutcher.desk.guard import guarded

MANY = 400
"""Corners from which it is kept: 2,000 of a rugged band take 15 ms."""


class KeptPath(QGraphicsPathItem):
    """As the library's; its picture is never larger than the view, however far one has gone in."""

    def __init__(self, path: QPainterPath) -> None:
        super().__init__(path)
        self._of: object = None
        self._picture = QImage()

    @guarded
    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        """From the picture on screen; as it is on paper."""
        on_paper = widget is None or painter.device().width() != widget.width()
        if widget is None or on_paper or self.path().elementCount() < MANY:
            super().paint(painter, option, widget)
            return
        transform, ratio = painter.worldTransform(), widget.devicePixelRatioF()
        of = (transform, widget.size(), ratio, self.brush(), self.pen(), painter.renderHints())
        if of != self._of:
            self._of = of
            self._picture = QImage(widget.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(Qt.GlobalColor.transparent)
            own = QPainter(self._picture)
            own.setRenderHints(painter.renderHints())
            own.setWorldTransform(transform)
            super().paint(own, option, widget)
            own.end()
        painter.save()
        painter.resetTransform()
        painter.drawImage(0, 0, self._picture)
        painter.restore()
