"""The window: top bar, trail, page, bottom bar, and the actions that keys and the search field reach."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QCloseEvent, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from scutcher.charts.description import Chart
from scutcher.core.errors import InputError
from scutcher.desk.actions.dropping import Dropping
from scutcher.desk.actions.opening import Opening
from scutcher.desk.actions.picked_samples import Acting
from scutcher.desk.actions.recipe_files import RecipeFiling
from scutcher.desk.actions.study_files import Filing
from scutcher.desk.context import Desk, Mailbox, follow
from scutcher.desk.painting import busy
from scutcher.desk.shell.bottom_bar import BottomBar
from scutcher.desk.shell.finder import Finder
from scutcher.desk.shell.finder_entries import PAGES, Action, Entries
from scutcher.desk.shell.message import MessageBar
from scutcher.desk.shell.start_page import StartPaper
from scutcher.desk.shell.top_bar import TopBar
from scutcher.desk.trail.trail import Trail
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.commands.recipe import SwitchStep
from scutcher.study.document.study import Study
from scutcher.study.selection import Selection

DEMOS = (
    "intake-nir",
    "bench",
    "tank-log",
    "new-lots",
    "belt-scan",
    "drying",
    "liquor-landscapes",
    "practice",
)
"""Named here, so that the window opens without making any of them."""

if TYPE_CHECKING:
    from scutcher.desk.pages.inspect.page import InspectPage
    from scutcher.desk.pages.overlay import Over
    from scutcher.desk.pages.rank.page import RankPage
    from scutcher.desk.pages.samples.page import SamplesPage
    from scutcher.desk.pages.treat.page import TreatPage


class Window(Dropping):
    """One study in one window.

    With `filled` False it can be shown before the model and the page are there; `fill` brings them.
    """

    def __init__(self, study: Study, filled: bool = True) -> None:
        super().__init__()
        self.setObjectName("window")
        self.resize(1280, 800)
        self.setMinimumSize(980, 640)
        self.setAcceptDrops(True)
        self.mailbox = Mailbox(self)
        self.message = MessageBar(self)
        self.study, selection = study, Selection()
        self._ids = () if study.state.table is None else study.state.table.ids
        follow(self, study, self._keep_to_samples)  # before anybody draws the new samples
        live = CurrentModel(study, self.mailbox.post, start=False)
        self.selection = selection
        self.desk = Desk(study, live, selection, self.message.say)
        self.acting = Acting(self.desk, self)
        self.filing = Filing(self.desk, self)
        self.recipes = RecipeFiling(self.desk, self)
        self.opening = Opening(self.desk, self, self.mailbox)
        self.opening.show_import = self.show_import
        self.finder = Finder()
        self.topbar = TopBar(self.desk, self.finder, PAGES)
        self.page = "Inspect"
        self.trail = Trail(self.desk)
        self.bottom = BottomBar(self.desk)
        self.start_paper = StartPaper(self.opening)
        self.inspect: InspectPage | None = None
        self.samples: SamplesPage | None = None
        self.treat: TreatPage | None = None
        self.rank: RankPage | None = None
        self.over: Over | None = None
        self._arrange()
        self._connect()
        self.actions_list = self._actions()
        entries = Entries(self.desk, self.actions_list, self.show_page, self._rename, self._recolour)
        charts = self.filing.chart_entries(self._charts)
        for giver in (entries.actions, self.filing.entries, charts, entries.samples, entries.channels):
            self.finder.add(giver)
        self._install_keys()
        follow(self, study, self._on_study)
        follow(self, live, self._on_live)
        self._choose_paper()
        self.topbar.show_page(self.page)
        self.show_title()
        self.setFocus()  # or the first button of the bar would look chosen
        if filled:
            self.fill()

    # Building

    def _arrange(self) -> None:
        self._page_place = QVBoxLayout()
        self._page_place.addWidget(self.start_paper)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.trail)
        middle.addLayout(self._page_place, 1)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.topbar)
        column.addLayout(middle, 1)
        column.addWidget(self.bottom)
        self.setCentralWidget(body)

    def _connect(self) -> None:
        self.topbar.open_requested.connect(self.opening.ask_for_file)
        self.topbar.page_requested.connect(self.show_page)
        self.topbar.undo_requested.connect(self.undo)
        self.topbar.redo_requested.connect(self.redo)
        self.trail.columns_clicked.connect(self.show_columns)
        self.trail.add_requested.connect(self.add_treatment)
        self.trail.shelf.compare_requested.connect(self.compare)
        self.trail.shelf.rename_requested.connect(
            lambda place: self.acting.rename_model(self.trail.shelf, place)
        )
        self.trail.set_aside_clicked.connect(lambda: self.acting.show_set_aside(self.trail.set_aside_link))
        self.bottom.set_aside_requested.connect(lambda: self.acting.set_aside(self.bottom.set_aside))
        self.bottom.tag_requested.connect(lambda: self.acting.tag(self.bottom.tag))

    def _actions(self) -> tuple[Action, ...]:
        selection = self.desk.selection
        return (
            Action("Open a file…", "Ctrl+O", self.opening.ask_for_file),
            Action("Paste a table from a spreadsheet", "Ctrl+V", self.opening.paste),
            Action("Name this study…", "Ctrl+S", self.filing.ask_name),
            Action("Undo", "Ctrl+Z", self.undo),
            Action("Redo", "Ctrl+Shift+Z", self.redo),
            Action("Find…", "Ctrl+K", self.topbar.search.start),
            Action("Clear the pick", "Esc", self.clear),
            Action(
                "Set aside the picked samples…", "Del", lambda: self.acting.set_aside(self.bottom.set_aside)
            ),
            Action("Tag the picked samples…", "T", lambda: self.acting.tag(self.bottom.tag)),
            Action("What the model does not see", "A", lambda: self.acting.show_set_aside(self.topbar.study)),
            Action("What each column of the file is…", "I", self.show_columns),
            Action("Keep one component more", "Alt+Right", lambda: self.bottom.step(1)),
            Action("Keep one component fewer", "Alt+Left", lambda: self.bottom.step(-1)),
            Action("Switch the last treatment on or off", "S", self.switch_last_step),
            Action("Add a treatment…", "+", self.add_treatment),
            Action("Try several treatments…", "Ctrl+T", self.try_several),
            Action("Put the model by on the shelf", "B", self.trail.shelf.put),
            Action("Compare the models on the shelf", "Shift+B", self.compare),
            Action("Open a recipe…", "", self.recipes.ask_open),
            Action("Save the recipe…", "", self.recipes.ask_save),
            Action("Save the model (model.json)…", "", self.recipes.ask_save_model),
            Action("Why are the picked samples far?", "Y", self.why),
            Action("Project new samples onto the model…", "Ctrl+Shift+O", self.ask_new),
            Action("The list of new samples", "N", self.show_new),
            Action("Rebuild the picked sample", "R", lambda: self._toggle("rebuild_switch")),
            Action("The extremes of a component", "E", lambda: self._toggle("extremes_switch")),
            Action("All pairs of components", "P", lambda: self.show_space("pairs")),
            Action("Scores in space (3-D)", "D", lambda: self.show_space("space")),
            Action("Samples and loadings as pictures", "L", lambda: self.show_space("pictures")),
            Action("Samples rebuilt by more and more components", "G", lambda: self.show_space("rebuilds")),
            Action("Loadings as points", "", lambda: self.show_space("loadings")),
            Action("Loadings as correlations (circle)", "", lambda: self.show_space("circle")),
            Action("Loadings as a table", "", lambda: self.show_space("table")),
            Action("Is it right?", "", self.show_answer),
            Action("Propose outliers (robust fit)…", "", self.propose_outliers),
            Action("Show the whole axis", "W", self.whole),
            Action("Class means on or off", "M", self.toggle_means),
            Action("Show all classes", "C", lambda: selection.change(focus=None, alone=False)),
            *(Action(f"Open the demo: {name}", "", partial(self.opening.open_demo, name)) for name in DEMOS),
        )

    def _install_keys(self) -> None:
        for place, page in enumerate(PAGES):
            QShortcut(QKeySequence(f"Ctrl+{place + 1}"), self).activated.connect(
                partial(self.show_page, page)
            )
        for action in self.actions_list:
            if action.key:
                shortcut = QShortcut(QKeySequence(action.key), self)
                shortcut.activated.connect(action.run)

    def fill(self) -> None:
        """Compute the model and make the page: what the first frame does without."""
        self.filing.say_if_read_only()
        if not self.desk.live.busy and self.desk.moment.found is None:
            self.desk.live.refresh()
        self._make_page()

    def _choose_paper(self) -> None:
        """The start paper without data, else trail, page and bottom bar."""
        has_data = self.desk.study.state.table is not None
        self.start_paper.setVisible(not has_data)
        self.bottom.setVisible(has_data)
        self.trail.setVisible(has_data)
        for name, page in self.pages().items():
            if page is not None:
                page.setVisible(has_data and name == self.page and self.over is None)

    def _make_page(self) -> None:
        """Each page is made when it is first looked at and there are data."""
        if self.desk.study.state.table is None:
            return
        if self.page == "Inspect" and self.inspect is None:
            from scutcher.desk.pages.inspect.page import InspectPage

            self.inspect = InspectPage(self.desk)
            self._page_place.addWidget(self.inspect)
        elif self.page == "Samples" and self.samples is None:
            from scutcher.desk.pages.samples.page import SamplesPage

            self.samples = SamplesPage(self.desk)
            self._page_place.addWidget(self.samples)
        elif self.page == "Treat" and self.treat is None:
            from scutcher.desk.pages.treat.page import TreatPage

            self.treat = TreatPage(self.desk)
            self.treat.try_requested.connect(self.try_several)
            self._page_place.addWidget(self.treat)
        elif self.page == "Rank" and self.rank is None:
            from scutcher.desk.pages.rank.page import RankPage

            self.rank = RankPage(self.desk)
            self._page_place.addWidget(self.rank)

    def pages(self) -> dict[str, QWidget | None]:
        """The pages by name; None for those that nobody has looked at."""
        return {"Samples": self.samples, "Treat": self.treat, "Rank": self.rank, "Inspect": self.inspect}

    def show_page(self, page: str) -> None:
        """Go to a page; the place to look changes, nothing else."""
        self.hide_over()
        self.page = page
        self.topbar.show_page(page)
        self._make_page()
        self._choose_paper()

    # Doing

    def _charts(self) -> list[Chart]:
        """The charts on screen that have something in them."""
        page = self.pages()[self.page]
        views = () if page is None or self.over is not None else page.views()
        return [view.chart for view in views if view.chart is not None and not view.chart.is_blank]

    def _rename(self, level: str) -> None:
        self.acting.rename(self.bottom.tag, level)

    def _recolour(self, level: str) -> None:
        from scutcher.desk.widgets.class_menu import ask_on_legend

        ask_on_legend(self.desk, self.bottom.tag, level, self.bottom.tag.mapToGlobal(QPoint(0, -260)))

    def undo(self) -> None:
        """Take the last command back."""
        self._go(self.desk.study.undo)

    def redo(self) -> None:
        """Bring the command that was taken back again."""
        self._go(self.desk.study.redo)

    def _go(self, step: Callable[[], object]) -> None:
        try:
            step()
        except InputError as error:
            self.message.say(error)

    def clear(self) -> None:
        """Esc: first a paper that is open, then the message, then the pick and the class in focus."""
        from scutcher.desk.widgets.popover import Popover

        open_papers = [paper for paper in self.findChildren(Popover) if paper.isVisible()]
        if open_papers:
            for paper in open_papers:
                paper.dismiss()
        elif self.message.isVisible():
            self.message.hide()
        elif self.over is not None and self.over.leaves_on_escape:
            self.hide_over()
        else:
            self.desk.selection.pick(())
            self.desk.selection.change(channels=(), focus=None, alone=False)

    def switch_last_step(self) -> None:
        """Switch the last treatment of the chain on or off."""
        steps = self.desk.study.state.recipe.treat
        if steps:
            self.desk.do(SwitchStep(len(steps) - 1, not steps[-1].on))

    def whole(self) -> None:
        """Show all of every strip and plane."""
        page = self.pages()[self.page]
        for view in () if page is None else page.views():
            view.whole()

    def toggle_means(self) -> None:
        """Class means in place of every sample, or back."""
        if self.inspect is not None:
            self.inspect.means_switch.toggle()

    # Listening

    def _keep_to_samples(self, changed: frozenset[str]) -> None:
        """First of all listeners: where the samples are others now, the pick goes by their names."""
        table = self.study.state.table
        ids = () if table is None else table.ids
        if "table" in changed and ids != self._ids:
            before, self._ids = self._ids, ids
            self.selection.keep_to(before, ids)

    def _on_study(self, changed: frozenset[str]) -> None:
        if "table" in changed:
            self._make_page()
            self._choose_paper()
        self.show_title()

    def show_title(self) -> None:
        """The study's name in the window's title."""
        title = self.filing.title()
        self.setWindowTitle(f"{title} — Scutcher" if title else "Scutcher")

    def _on_live(self, changed: frozenset[str]) -> None:
        busy.mark(self, self.desk.live.busy)
        if "trouble" in changed:
            self.message.say(self.desk.live.trouble)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The message stays in the middle."""
        super().resizeEvent(event)
        if self.message.isVisible():
            self.message.place()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stop reading and computing before the window goes."""
        busy.mark(self, False)
        self.opening.close()
        self.hide_over()
        self.desk.live.close()
        super().closeEvent(event)
