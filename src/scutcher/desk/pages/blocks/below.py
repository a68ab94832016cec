"""What stands in the bottom bar while Blocks is looked at: a handle for every set of tables."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from scutcher.charts.blocks.ladder import Rungs, headline
from scutcher.desk.pages.blocks.choices import BlockChoices
from scutcher.desk.widgets.block_ladder import BlockLadder
from scutcher.desk.widgets.panel import told_column
from scutcher.desk.words import Words

TIP = (
    "For every set of tables what it shares, widest sets first, then what each has alone. A box is filled up "
    "to the agreement of the tables (of its own components: their share of what the shared ones leave), the "
    "red line is the agreement on samples that were left out. Drag a handle, or choose one with Up and Down "
    "and move it with Left and Right, to decide otherwise than the rule; tables ▾ takes it back."
)


class BlocksBelow(QWidget):
    """The ladder of the tables, and how many components there are."""

    def __init__(self, choices: BlockChoices, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ladder = BlockLadder()
        self.ladder.decided.connect(choices.decide)
        self.headline, self.figures = Words(), Words()
        for widget in (self.headline, self.figures):
            widget.setToolTip(TIP)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(12)
        layout.addWidget(self.ladder, 10)
        layout.addLayout(told_column(self.headline, self.figures))
        layout.addStretch(1)

    def show_groups(self, groups: tuple[Rungs, ...], decided: bool) -> None:
        """Put other figures in."""
        self.ladder.show_groups(groups)
        first, second = headline(groups) if groups else ("", "")
        self.headline.setText(f"{first}, as decided" if decided else first)
        self.figures.setText(second)
