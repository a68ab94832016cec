"""Cut one table into blocks: a line for each, typed into a paper."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtWidgets import QPlainTextEdit, QWidget

from scutcher.core.errors import InputError
from scutcher.core.recipes.block_parts import example, parts_of_text, text_of_parts
from scutcher.desk.context import Desk
from scutcher.desk.widgets.popover import Ask
from scutcher.study.document.commands.blocks import BlocksBy

TITLE = "Cut this table into blocks: a line for each"


def ask_to_cut(desk: Desk, window: QWidget, anchor: QWidget, done: Callable[[], object]) -> Ask | None:
    """Ask for two to five blocks; of a study of one table."""
    state = desk.study.state
    if state.table is None or len(state.datasets) > 1:
        words = "There are no data." if state.table is None else "This study has several tables already."
        desk.say(InputError(words, "A study of one table can be cut into blocks."))
        return None
    axis, settings = state.table.axis, state.blocks
    text = QPlainTextEdit(text_of_parts(settings.parts, axis))
    text.setToolTip(f"A line for each block, as {example(axis)}")
    text.setAccessibleName("Blocks, one on a line")
    text.setObjectName("words")
    text.setMinimumWidth(420)
    text.setFixedHeight(110)
    text.setTabChangesFocus(True)

    def cut() -> bool:
        try:
            parts = parts_of_text(text.toPlainText(), axis)
        except InputError as error:
            desk.say(error)
            return False
        if desk.do(BlocksBy(replace(settings, parts=parts))):
            done()
        return True

    asked = Ask(window, TITLE, [("blocks", text)], "Cut", cut)
    asked.open_at(anchor, above=False)
    return asked


def whole_again(desk: Desk) -> None:
    """One table again."""
    settings = desk.study.state.blocks
    if settings.parts:
        desk.do(BlocksBy(replace(settings, parts=(), counts=(), ranks=(), factors=())))
