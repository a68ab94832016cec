"""How what can be done in a window is reached: by a key, in the menu, through the search field."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QKeySequence, QShortcut

from scutcher.desk.shell.finder_entries import Entries
from scutcher.desk.shell.menu import fill_menu

if TYPE_CHECKING:
    from scutcher.desk.shell.window import Window

MORE_KEYS = {"Redo": ("Ctrl+Y",)}
"""Other keys that do the same."""


class Reach:
    """Of the actions of one window."""

    def __init__(self, window: Window) -> None:
        self._window, self.desk, self.actions = window, window.desk, window.actions_list

    def install(self) -> None:
        """Keys, menu, search field, and the list of keys in the guide."""
        window = self._window
        window.papers.keys = self.keys
        window.topbar.choices.aboutToShow.connect(self.fill_menu)
        self._fill_finder()
        for place, page in enumerate(window.stack.pages):
            shortcut = QShortcut(QKeySequence(f"Ctrl+{place + 1}"), window)
            shortcut.activated.connect(partial(window.stack.show_page, page))
        for action in self.actions:
            for key in (action.key, *MORE_KEYS.get(action.words, ())):
                if key:
                    shortcut = QShortcut(QKeySequence(key), window)
                    shortcut.activated.connect(action.run)

    def keys(self) -> str:
        """Every key in words, for the guide."""
        listed = [(action.key, action.words) for action in self.actions if action.key]
        pages = [(f"Ctrl+{place + 1}", page) for place, page in enumerate(self._window.stack.pages)]
        keyed = [f"- **{key}** {words}" for key, words in (*pages, *listed)]
        others = [f"- {action.words}" for action in self.actions if not action.key]
        return "\n".join([*keyed, "\n## Without a key\n", *others])

    def fill_menu(self) -> None:
        """All actions by what they act on."""
        window = self._window
        fill_menu(window.topbar.choices, self.actions, window.finder.entries())

    def _fill_finder(self) -> None:
        window = self._window
        entries = Entries(self.desk, self.actions, window.stack, self._rename, self._recolour, self._add)
        charts = window.charts_out.chart_entries(window.charts)
        givers = (entries.actions, window.filing.entries, charts, entries.treatments)
        for giver in givers:
            window.finder.add(giver)
        for many in (entries.samples, entries.channels):
            window.finder.add_many(many)

    def _rename(self, level: str) -> None:
        self._window.acting.rename(self._window.bottom.tag, level)

    def _recolour(self, level: str) -> None:
        from scutcher.desk.actions.class_menu import ask_on_legend

        anchor = self._window.bottom.tag
        ask_on_legend(self.desk, anchor, level, anchor.mapToGlobal(QPoint(0, -260)))

    def _add(self, key: str) -> None:
        """Add a treatment with settings that suit the data."""
        from scutcher.desk.actions.add_treatment import add_by_key

        add_by_key(self.desk, key)
