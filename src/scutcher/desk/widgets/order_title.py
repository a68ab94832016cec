"""The title of an axis in run order: a click chooses between the order of the table and the positions."""

from __future__ import annotations

from PySide6.QtWidgets import QMenu

from scutcher.desk.context import Desk
from scutcher.desk.widgets.axis_title import AxisTitle
from scutcher.study.document.state import State
from scutcher.study.evaluation.orders import order_of


def offer_order(title: AxisTitle, state: State) -> None:
    """Whether there is anything to choose."""
    there = order_of(state) is not None
    title.set_clickable(there)
    title.setToolTip("Click to choose between run order and position" if there else "")


def ask_order(title: AxisTitle, desk: Desk) -> QMenu | None:
    """The two choices, under the title."""
    order = order_of(desk.moment.state)
    if order is None:
        return None
    menu = QMenu(title)
    menu.aboutToHide.connect(menu.deleteLater)
    for along, words in ((False, "run order"), (True, order.title)):
        action = menu.addAction(words)
        action.setCheckable(True)
        action.setChecked(desk.selection.look.along == along)
        action.triggered.connect(lambda _=False, along=along: desk.selection.change(along=along))
    menu.popup(title.mapToGlobal(title.rect().center()))
    return menu
