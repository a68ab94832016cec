"""What can be done with the picked samples: set aside with a reason, bring back, tag."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QLineEdit, QWidget

from scutcher.core.errors import InputError
from scutcher.core.words import count_of
from scutcher.desk.context import Desk
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.popover import Ask, Listing
from scutcher.study.document.commands.classes import AssignClass, RenameClass
from scutcher.study.document.commands.samples import BringBack, SetAside, Watch
from scutcher.study.document.commands.shelf import RenameModel


class Acting:
    """Asks what must be asked, then runs the command."""

    def __init__(self, desk: Desk, window: QWidget) -> None:
        self.desk = desk
        self.window = window

    def set_aside(self, anchor: QWidget) -> Ask | None:
        """Ask for the reason, then set the picked samples aside."""
        picked = self._picked()
        if not picked:
            return None
        reason = QLineEdit()
        reason.setPlaceholderText("e.g. spilled in the sample cup")

        def answered() -> bool:
            done = self.desk.do(SetAside(picked, reason.text()))
            if done:
                self.desk.selection.pick(())
            return done

        ask = Ask(self.window, f"Set aside {count_of(picked)}", [("why", reason)], "Set aside", answered)
        ask.open_at(anchor, above=True)
        return ask

    def watch(self) -> None:
        """Take the picked samples out of the model and show them on it."""
        picked = self._picked()
        if picked and self.desk.do(Watch(picked)):
            self.desk.selection.pick(())

    def tag(self, anchor: QWidget) -> Ask | None:
        """Ask for a class, then give it to the picked samples."""
        picked = self._picked()
        table = self.desk.study.state.table
        if not picked or table is None:
            return None
        column, level = Combo(), Combo()
        for box in (column, level):
            box.setEditable(True)
            box.setInsertPolicy(Combo.InsertPolicy.NoInsert)
        column.addItems([known.name for known in table.classes] or ["class"])
        column.setCurrentText(self.desk.study.state.colour_by or column.itemText(0))

        def fill() -> None:
            level.clear()
            for known in table.classes:
                if known.name == column.currentText():
                    level.addItems(list(known.names))
            level.setCurrentText("")

        column.currentTextChanged.connect(lambda text: fill())
        fill()
        line = level.lineEdit()
        assert line is not None  # it can be edited
        line.setPlaceholderText("an existing class or a new one")

        def answered() -> bool:
            return self.desk.do(AssignClass(column.currentText(), picked, level.currentText()))

        ask = Ask(
            self.window,
            f"Tag {count_of(picked)}",
            [("class", level), ("in column", column)],
            "Tag",
            answered,
        )
        ask.open_at(anchor, above=True)
        return ask

    def rename(self, anchor: QWidget, level: str) -> Ask:
        """Ask for another name of a class; the name of another one merges the two."""
        column = self.desk.study.state.colour_by
        name = QLineEdit(level)
        ask = Ask(
            self.window,
            f"Rename {level} ({column})",
            [("name", name)],
            "Rename",
            lambda: self.desk.do(RenameClass(column, level, name.text())),
        )
        ask.open_at(anchor, above=True)
        name.selectAll()
        return ask

    def rename_model(self, anchor: QWidget, place: int) -> Ask:
        """Ask for another name of a model on the shelf."""
        model = self.desk.study.state.shelf[place]
        name = QLineEdit(model.name)
        ask = Ask(
            self.window,
            "Name of the model",
            [("name", name)],
            "Rename",
            lambda: self.desk.do(RenameModel(model.id, name.text())),
        )
        ask.open_at(anchor, above=True)
        name.selectAll()
        return ask

    def show_set_aside(self, anchor: QWidget) -> Listing | None:
        """List what no model sees, with the reasons; what a person set aside can be brought back."""
        table, found = self.desk.study.state.table, self.desk.moment.found
        if table is None:
            return None
        lines: list[tuple[str, str, object]] = [
            (f"{table.ids[row]}: {reason}", "Bring back", partial(self.desk.do, BringBack((row,))))
            for row, reason in sorted(table.set_aside.items())
        ]
        if found is not None:
            lines += [
                (f"{table.ids[row]}: {reason}", "", None)
                for row, reason in sorted(found.usable.left_out_rows.items())
                if row not in table.set_aside
            ]
            lines += [
                (f"{table.axis.name(column)}: {reason}", "", None)
                for column, reason in sorted(found.usable.left_out_columns.items())
            ]
        listing = Listing(self.window, "What the model does not see", lines[:14])  # type: ignore[arg-type]
        listing.open_at(anchor, above=False)
        return listing

    def _picked(self) -> tuple[int, ...]:
        picked = self.desk.selection.look.picked
        if not picked:
            self.desk.say(InputError("Nothing is picked.", "Pick samples on a plane or a strip first."))
        return picked
