"""The knot of what is masked on a picture: why, how many pixels, and what is left, drawn small."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.core.arrays import Booleans
from scutcher.core.words import count_of
from scutcher.desk.context import Desk
from scutcher.desk.guard import guarded
from scutcher.desk.trail.knot import Knot, link
from scutcher.study.document.commands.samples import BringBack
from scutcher.study.evaluation.masks import Mask, mask_of
from scutcher.study.evaluation.pixels import pixel_grid

TALL = 48
NAMED = 2
"""Reasons that are written out; more are counted."""


class MaskPicture(QWidget):
    """Pixels that are left in the model, dark; masked ones as paper."""

    def __init__(self) -> None:
        super().__init__()
        self.left: Booleans | None = None
        self.setFixedHeight(TALL)

    def sizeHint(self) -> QSize:
        """Small."""
        return QSize(160, TALL)

    def show_left(self, left: Booleans) -> None:
        """Put another mask in, (rows, columns)."""
        self.left = left
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The picture in its own shape, in a frame."""
        if self.left is None:
            return
        rows, columns = self.left.shape
        step = max(1, rows // (2 * TALL))  # no finer than it is drawn
        some = np.ascontiguousarray(self.left[::step, ::step])
        table = np.array([colours.rgb(colours.LINEN), colours.rgb(colours.ACCENT)], dtype=np.uint8)
        held = np.ascontiguousarray(table[some.astype(np.intp)])
        image = QImage(
            held.tobytes(), some.shape[1], some.shape[0], 3 * some.shape[1], QImage.Format.Format_RGB888
        )
        painter = QPainter(self)
        unit = min((self.height() - 1.0) / rows, (self.width() - 1.0) / columns)
        area = QRectF(0.5, 0.5, unit * columns, unit * rows)
        painter.drawImage(area, image)
        painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
        painter.drawRect(area)


class MaskKnot(Knot):
    """Stands after the data while pixels are masked; its cross lets them all in again."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(with_picture=False)
        self.desk = desk
        self.masked: Mask | None = None
        self._of: tuple[object, object] = (None, None)
        self.small_picture = MaskPicture()
        self.body.addWidget(self.small_picture)
        self.remove = link("×", "Let the masked pixels into the model again")
        self.remove.clicked.connect(self.take_off)
        self.words.addWidget(self.remove)
        self.chosen.connect(self._pick)
        self.setToolTip(
            "Pixels that the model does not see. Click: pick them, so that they are outlined on the maps"
        )

    def refresh(self) -> None:
        """The mask of the current model; nothing where there is none."""
        state = self.desk.study.state
        aside = None if state.model is None else state.model.use.set_aside
        if aside is self._of[0] and state.table is self._of[1]:
            return
        self._of, self.masked = (aside, state.table), mask_of(state)
        grid = pixel_grid(state.table)
        self.setVisible(self.masked is not None and grid is not None)
        if self.masked is None or grid is None:
            return
        reasons = self.masked.reasons
        more = [f"and {count_of(len(reasons) - NAMED, 'mask')} more"] if len(reasons) > NAMED else []
        left_out = f"{count_of(self.masked.rows, 'pixel')} left out"
        self.describe("Mask", "\n".join([*reasons[:NAMED], *more, left_out]), None)
        left = grid.rows_at.reshape(grid.shape) >= 0
        self.small_picture.show_left(left & ~grid.inside(self.masked.rows))

    def take_off(self) -> None:
        """All masked pixels are in the model again."""
        if self.masked is not None:
            self.desk.do(BringBack(tuple(self.masked.rows.tolist())))

    def _pick(self) -> None:
        if self.masked is not None:
            self.desk.selection.pick(self.masked.rows.tolist())
