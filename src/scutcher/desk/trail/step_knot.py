"""The knot of a treatment: switched, dragged along the thread, taken off, with a menu."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QMenu

from scutcher.charts.description import Lines
from scutcher.core.recipes.recipe import Step
from scutcher.desk.context import Desk
from scutcher.desk.trail.knot import Knot, link
from scutcher.study.document.commands.recipe import DuplicateStep, MoveStep, RemoveStep, SwitchStep


class StepKnot(Knot):
    """Of the treatment at a place of the recipe."""

    add_before = Signal(object)
    put_by = Signal()

    def __init__(self, desk: Desk, place: int) -> None:
        super().__init__()
        self.desk, self.place = desk, place
        self.movable = True
        self.setToolTip(
            "Click: work on it. Drag: move it along the thread. Right click: duplicate, move, delete."
        )
        self.switch.show()
        self.switch.setToolTip("Switch this treatment on or off")
        self.switched.connect(lambda on: self.desk.do(SwitchStep(place, on)))
        self.menu_asked.connect(self._open_menu)
        remove = link("×", "Take this treatment off the trail")
        remove.clicked.connect(lambda: self.desk.do(RemoveStep(place)))
        self.words.addWidget(remove)

    def refresh(self, step: Step, picture: Lines | None, trouble: Exception | None) -> None:
        """The treatment as it is now.

        Parameters
        ----------
        trouble : why it was passed over, or None
        """
        name, small = titles(step)
        self.trouble = trouble is not None
        if trouble is None:
            self.describe(name, small, picture, step.on)
        else:
            self.describe(name, f"passed over: {getattr(trouble, 'problem', trouble)}", None, False)
        self.switch.setChecked(step.on)
        self.switch.setText("on" if step.on else "off")
        self.small.setToolTip("" if trouble is None else str(trouble))

    def _open_menu(self, where: QPoint) -> None:
        place, last = self.place, len(self.desk.study.state.recipe.treat) - 1
        menu = QMenu(self)
        entries: list[tuple[str, DuplicateStep | MoveStep | RemoveStep, bool]] = [
            ("Duplicate", DuplicateStep(place), True),
            ("Move up", MoveStep(place, place - 1), place > 0),
            ("Move down", MoveStep(place, place + 1), place < last),
            ("Delete", RemoveStep(place), True),
        ]
        for word, command, possible in entries:
            action = menu.addAction(word)
            action.setEnabled(possible)
            action.triggered.connect(lambda _=False, command=command: self.desk.do(command))
        before = menu.addAction("Add a treatment before it…")
        before.triggered.connect(lambda: self.add_before.emit(place))
        fork = menu.addAction("Put the model by as it is now")
        fork.triggered.connect(self.put_by)
        menu.popup(where)


def titles(step: Step) -> tuple[str, str]:
    """The bold words of a step and the quiet ones: its abbreviation where it has one, else its name first."""
    declared = step.treatment
    short = declared.short(step.parameters)
    return (short, declared.name) if short.isupper() else (declared.name, short)
