"""The menu: every action by what it acts on, with its key; the same list as the search field's."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtWidgets import QMenu, QWidget

from scutcher.desk.actions.action import Action, Entry


def fill_menu(menu: QMenu, actions: Iterable[Action], entries: Iterable[Entry]) -> None:
    """Fill a menu anew.

    Parameters
    ----------
    menu : cleared first
    actions : of the window and its pages
    entries : what else can be done now; those that say what they are about
    """
    menu.clear()
    parts: dict[str, QMenu] = {}

    def part(name: str) -> QMenu:
        if name not in parts:
            parts[name] = menu.addMenu(name)
        return parts[name]

    seen = set()
    for action in actions:
        seen.add(action.words)
        added = part(action.about or "Other").addAction(f"{action.words}\t{action.key}".rstrip("\t"))
        added.triggered.connect(lambda _=False, run=action.run: run())
    for entry in entries:
        if entry.about and entry.words not in seen:
            added = part(entry.about).addAction(f"{entry.words}\t{entry.key}".rstrip("\t"))
            added.triggered.connect(lambda _=False, run=entry.run: run())


def menu_of(parent: QWidget) -> QMenu:
    """An empty menu for a button."""
    menu = QMenu(parent)
    menu.setToolTipsVisible(True)
    return menu
