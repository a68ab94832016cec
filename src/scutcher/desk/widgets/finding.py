"""The finding at the top of the page: one sentence whose numbers can be clicked."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from scutcher.desk.context import Desk
from scutcher.desk.words import tip

Pieces = Sequence[tuple[str, tuple[int, ...]]]
"""Words, each with the rows of the table that they stand for."""

Say = Callable[[Pieces], None]

TWO_LINES = 32


class Finding(QLabel):
    """A piece that stands for samples is bold, and picks them when it is clicked."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("finding")
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setMinimumWidth(60)
        self.setWordWrap(True)
        self.setFixedHeight(TWO_LINES)  # whether it takes one or two: nothing below it moves
        self._desk = desk
        self._rows: list[tuple[int, ...]] = []
        self.linkActivated.connect(self._on_link)

    def show_pieces(self, pieces: Pieces, more: Sequence[str] = ()) -> None:
        """Put another sentence in; its tooltip says more."""
        self._rows = [rows for _, rows in pieces]
        link = '<a href="{}" style="color:inherit;text-decoration:none"><b>{}</b></a>'
        words = (
            link.format(place, escape(text)) if rows else escape(text)
            for place, (text, rows) in enumerate(pieces)
        )
        self.setText("".join(words))
        said = "".join(text for text, _ in pieces) + "\nClick what is bold to pick those samples"
        self.setToolTip(tip("\n\n".join([said, *(["\n".join(more)] if more else [])])))

    def _on_link(self, place: str) -> None:
        self._desk.selection.pick(self._rows[int(place)])
