"""What the search field finds: actions, pages, commands that fit the study, samples, channels."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial

from scutcher.core.treatments import all_treatments
from scutcher.desk.actions.action import Action, Entry
from scutcher.desk.context import Desk
from scutcher.desk.pages.page_stack import PageStack
from scutcher.desk.shell.finder import few
from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.document.commands.recipe import SwitchStep
from scutcher.study.document.study import Command


class Entries:
    """Gives the entries of one window.

    Attributes
    ----------
    listed : the actions of the window
    stack : its pages
    rename, recolour : what a class's entries do
    add : adds a treatment by its key
    """

    def __init__(
        self,
        desk: Desk,
        listed: tuple[Action, ...],
        stack: PageStack,
        rename: Callable[[str], object],
        recolour: Callable[[str], object],
        add: Callable[[str], object],
    ) -> None:
        self.desk, self.listed, self.stack, self.add = desk, listed, stack, add
        self.rename, self.recolour = rename, recolour
        self._names: tuple[object, list[str]] = (None, [])

    def actions(self) -> Iterable[Entry]:
        """Everything that can be done now."""
        for action in self.listed:
            yield Entry(action.words, "action", action.run, action.key, action.also, action.about)
        for place, page in enumerate(self.stack.pages):
            yield Entry(page, "page", partial(self.stack.show_page, page), f"Ctrl+{place + 1}")
        state = self.desk.study.state
        for column in state.table.classes if state.table is not None else ():
            yield Entry(f"Colour by {column.name}", "action", self._runner(ColourBy(column.name)))
            if column.name == state.colour_by:
                for level in column.names:
                    yield Entry(f"Rename class {level}…", "action", partial(self.rename, level))
                    yield Entry(f"Colour of class {level}…", "action", partial(self.recolour, level))
        for place, step in enumerate(state.recipe.treat):
            word = "off" if step.on else "on"
            name = step.treatment.short(step.parameters)
            yield Entry(f"Switch {name} {word}", "action", self._runner(SwitchStep(place, not step.on)))

    def treatments(self) -> Iterable[Entry]:
        """Every treatment, to be added, by its name, its abbreviation and what it is for."""
        if self.desk.study.state.table is None:
            return
        for declared in all_treatments().values():
            also = f"{declared.key}, {declared.key.replace('-', ' ')}, {declared.family}, {declared.purpose}"
            yield Entry(f"Add {declared.name}", "treatment", partial(self.add, declared.key), also=also)

    def samples(self, query: str) -> Iterable[Entry]:
        """The samples that answer a query best, to be picked."""
        table = self.desk.study.state.table
        for row in few(query, table.ids) if table is not None else ():
            assert table is not None
            yield Entry(table.ids[row], "sample", partial(self.desk.selection.pick, [row]))

    def channels(self, query: str) -> Iterable[Entry]:
        """The channels that answer a query best, for the cursor."""
        table = self.desk.study.state.table
        if table is None:
            return
        if self._names[0] is not table.axis:
            self._names = table.axis, [table.axis.name(column) for column in range(len(table.axis))]
        names, places = self._names[1], table.axis.places()
        for column in few(query, names):
            place = float(places[column])
            yield Entry(names[column], "channel", partial(self.desk.selection.change, channel=place))

    def _runner(self, command: Command) -> Callable[[], object]:
        return partial(self.desk.do, command)
