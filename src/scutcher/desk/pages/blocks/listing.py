"""The list at the right: on which samples the tables disagree, which some tables lack, and new ones."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QSizePolicy

from scutcher.charts.blocks.later import HEADER, later_rows
from scutcher.charts.blocks.tables import apart_rows
from scutcher.core.blocks.later import Later
from scutcher.desk.pages.blocks.work import BlocksWork
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.panel import choice_words, paper
from scutcher.desk.words import Words

APART = ["sample", "t", "component", "table", "because of"]
KINDS = {
    "apart": "disagree|Samples on which the tables disagree most, and because of what",
    "incomplete": "not in all|Samples that some tables lack: where they lie by the others, and what the "
    "missing tables would say",
    "new": "new|New samples (Ctrl+Shift+O, or drop their files onto this page)",
}
TITLES = {
    "apart": "Samples on which the tables disagree most",
    "incomplete": "Samples that some tables lack",
    "new": "New samples",
}


class Listing:
    """One table under three words; those of which there is nothing are not shown.

    Parameters
    ----------
    work : what is known
    chosen : is told the row that was chosen
    turned : is told that another list is shown
    """

    def __init__(
        self, work: BlocksWork, chosen: Callable[[int], object], turned: Callable[[], object]
    ) -> None:
        self.work, self._chosen, self._turned = work, chosen, turned
        self.wanted = "apart"
        """Which list was chosen; where there is none of it now, the first is shown until there is again."""
        self.table = FiguresTable(APART, (1,))
        self.table.itemSelectionChanged.connect(self._on_rows)
        self._header = APART
        self.title = Words(TITLES["apart"])
        self.words = choice_words(self.table, KINDS, self.turn)
        self.panel = paper(self.title, self.table, (), tuple(self.words.values()))
        self.panel.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)

    @property
    def kind(self) -> str:
        """Which list is shown."""
        return self.wanted if self._there[self.wanted] else "apart"

    @property
    def _there(self) -> dict[str, bool]:
        work = self.work
        return {"apart": True, "incomplete": work.incomplete is not None, "new": work.new is not None}

    @property
    def later(self) -> Later | None:
        """The samples that took no part and are listed."""
        return {"incomplete": self.work.incomplete, "new": self.work.new}.get(self.kind)

    def turn(self, kind: str) -> None:
        """Show another list."""
        self.wanted = kind
        self._turned()

    def show(self) -> None:
        """What is known now."""
        there = self._there
        for kind, button in self.words.items():
            button.setVisible(there[kind] and sum(there.values()) > 1)
        self.words[self.kind].setChecked(True)
        self.title.setText(TITLES[self.kind])
        later, fitted = self.later, self.work.fitted
        header = APART if later is None else HEADER
        with QSignalBlocker(self.table):
            if header is not self._header:
                self._header = header
                self.table.name_columns(header, (1,))
            if later is not None and fitted is not None:
                self.table.show_rows(later_rows(fitted, later, self.work.steady))
            else:
                self.table.show_rows(apart_rows(fitted, self.work.checked))

    def _on_rows(self) -> None:
        rows = {index.row() for index in self.table.selectedIndexes()}
        if len(rows) == 1:
            self._chosen(rows.pop())
