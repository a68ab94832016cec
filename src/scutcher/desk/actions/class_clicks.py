"""What clicks on a class in a legend mean."""

from __future__ import annotations

from functools import partial

from scutcher.desk.actions.class_menu import ask_on_legend
from scutcher.desk.context import Desk
from scutcher.desk.widgets.legend import LegendRow


class ClassClicks:
    """A click on a class fades the others, a double click shows it alone; the same again shows all.

    A right click opens its menu.
    """

    def __init__(self, legend: LegendRow, desk: Desk) -> None:
        self._selection = desk.selection
        self._was_alone = False
        legend.clicked.connect(self._on_click)
        legend.double_clicked.connect(self._on_double_click)
        legend.menu_asked.connect(partial(ask_on_legend, desk, legend))

    def _on_click(self, level: str) -> None:
        look = self._selection.look
        same = look.focus == level
        self._was_alone = same and look.alone
        self._selection.change(focus=None if same else level, alone=False)

    def _on_double_click(self, level: str) -> None:
        """Comes after the click: what was alone before that one stays taken back."""
        alone = not self._was_alone
        self._selection.change(focus=level if alone else None, alone=alone)
