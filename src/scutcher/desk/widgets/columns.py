"""Two columns of panels, the left one wider."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

GAP, SHARES = 7, (66, 39)


def two_columns(
    parent: QWidget,
    left: Sequence[tuple[QWidget, int]],
    right: Sequence[tuple[QWidget, int]],
    shares: tuple[int, int] = SHARES,
) -> None:
    """Lay panels out in a widget; each with its share of the height, the columns with theirs of the width."""
    layout = QHBoxLayout(parent)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(GAP)
    for panels, share in zip((left, right), shares, strict=True):
        column = QVBoxLayout()
        column.setSpacing(GAP)
        for panel, height in panels:
            column.addWidget(panel, height)
        layout.addLayout(column, share)
