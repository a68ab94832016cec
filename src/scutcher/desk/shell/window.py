"""The window: top bar, trail, pages, bottom bar, and the keys that reach everything."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import (
    QCloseEvent,
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QMainWindow, QVBoxLayout, QWidget

from scutcher.charts.description import Chart
from scutcher.core.errors import InputError
from scutcher.desk.actions.charts_out import ChartsOut
from scutcher.desk.actions.opening import Opening
from scutcher.desk.actions.picked_samples import Acting
from scutcher.desk.actions.preferences import Preferences
from scutcher.desk.actions.recipe_files import RecipeFiling
from scutcher.desk.actions.study_files import Filing
from scutcher.desk.context import Desk, Mailbox, follow
from scutcher.desk.pages.declaration import PageView, all_pages
from scutcher.desk.pages.page_stack import PageStack
from scutcher.desk.painting import busy
from scutcher.desk.shell.areas import Areas
from scutcher.desk.shell.bottom_bar import BottomBar
from scutcher.desk.shell.chart_menus import ChartMenus, charts_on
from scutcher.desk.shell.dropping import Dropping
from scutcher.desk.shell.finder import Finder
from scutcher.desk.shell.message import MessageBar
from scutcher.desk.shell.papers import Papers
from scutcher.desk.shell.reach import Reach
from scutcher.desk.shell.start_page import StartPaper
from scutcher.desk.shell.top_bar import TopBar
from scutcher.desk.shell.window_actions import window_actions
from scutcher.desk.trail.trail import Trail
from scutcher.desk.widgets.popover import Popover
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.commands.recipe import SwitchStep
from scutcher.study.document.study import Study
from scutcher.study.selection import PickByName, Selection
from scutcher.study.writing import WritingBehind

SIZE, SMALLEST = (1280, 760), (960, 600)
"""Pixels, the title bar not among them: whole on 1280 × 800 and on 1024 × 640."""

FIRST_PAGE = "Inspect"


class Window(QMainWindow):
    """One study in one window.

    With `filled` False it can be shown before the model and the page are there; `fill` brings them. `first`
    is the page that it begins with.
    """

    closed = Signal()
    ended = Signal()
    """All windows are to be closed."""

    def __init__(self, study: Study, filled: bool = True, first: str | None = None) -> None:
        super().__init__()
        self.setObjectName("window")
        self.resize(*SIZE)
        self.setMinimumSize(*SMALLEST)
        self.setAcceptDrops(True)
        self.mailbox = Mailbox(self)
        self.message = MessageBar(self)
        self.study, self.selection = study, Selection()
        follow(self, study, PickByName(study, self.selection))  # before anybody draws the new samples
        live = CurrentModel(study, self.mailbox.post, start=False)
        self.desk = Desk(study, live, self.selection, self.message.say)
        self.writing = WritingBehind(live.queue, self.message.say)
        study.write_by(self.writing)
        self.acting = Acting(self.desk, self)
        self.filing = Filing(self.desk, self)
        self.recipes = RecipeFiling(self.desk, self)
        self.opening = Opening(self.desk, self)
        self.preferences = Preferences(self.desk, self)
        self.finder = Finder()
        pages = all_pages()
        body = QWidget(self)
        self.setCentralWidget(body)  # at first: what moves from one parent to another is dressed anew
        self.topbar = TopBar(self.desk, self.finder, pages, body)
        self.trail, self.bottom = Trail(self.desk, body), BottomBar(self.desk, body)
        start = StartPaper(self.opening, body)
        self.stack = PageStack(self.desk, start, pages, first or FIRST_PAGE, first is not None)
        anchor = self.bottom.set_aside
        self.papers = Papers(self.desk, self, self.stack, self.opening, self.trail, anchor)
        self.opening.show_import = self.papers.show_import
        self.dropping = Dropping(self, self.papers)
        self.charts_out = ChartsOut(self.desk, self, self.charts, self.filing.ask_data)
        self.chart_menus = ChartMenus(self, self.charts_out.menu_of, self.charts_out.menu_of_numbers)
        self._arrange(body)
        self._connect()
        self.areas = Areas(self, (self.topbar, self.trail, self.bottom), self.stack)
        self.actions_list = window_actions(self)
        self.reach = Reach(self)
        self.reach.install()
        follow(self, study, self._on_study)
        follow(self, live, self._on_live)
        self._choose_paper()
        self.topbar.show_page(self.stack.current)
        self.show_title()
        self.setFocus()  # or the first button of the bar would look chosen
        if filled:
            self.fill()

    # Building

    def _arrange(self, body: QWidget) -> None:
        middle = QHBoxLayout()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.topbar)
        column.addLayout(middle, 1)
        middle.setSpacing(0)
        middle.addWidget(self.trail)
        middle.addWidget(self.stack, 1)
        column.addWidget(self.bottom)

    def _connect(self) -> None:
        self.topbar.open_requested.connect(self.opening.ask_for_file)
        self.topbar.page_requested.connect(self.stack.show_page)
        self.topbar.undo_requested.connect(self.undo)
        self.topbar.redo_requested.connect(self.redo)
        self.stack.chosen.connect(self.topbar.show_page)
        self.stack.settled.connect(self._fill_bottom)
        self.trail.columns_clicked.connect(self.papers.show_columns)
        self.trail.add_requested.connect(self.papers.add_treatment)
        self.trail.shelf.put_instead = lambda: self.stack.shown is not None and self.stack.shown.put_by()
        self.trail.shelf.tables_opened.connect(lambda: self.stack.show_page("Blocks"))
        self.trail.shelf.compare_requested.connect(self.papers.compare)
        self.trail.shelf.beside_requested.connect(lambda key: self.papers.side_by_side("", key))
        self.trail.shelf.rename_requested.connect(
            lambda place: self.acting.rename_model(self.trail.shelf, place)
        )
        self.trail.set_aside_clicked.connect(
            lambda: self.acting.show_set_aside(self.trail.data_knot.set_aside_link)
        )
        self.bottom.set_aside_requested.connect(lambda: self.acting.set_aside(self.bottom.set_aside))
        self.bottom.tag_requested.connect(lambda: self.acting.tag(self.bottom.tag))

    def fill(self) -> None:
        """Compute the model and make the page: what the first frame does without."""
        self.filing.say_how_it_was_found()
        if not self.desk.live.busy and self.desk.moment.found is None:
            self.desk.live.refresh()
        self.stack.settle()

    def _choose_paper(self) -> None:
        """Trail and bottom bar only where there are data."""
        has_data = self.study.state.table is not None
        self.bottom.setVisible(has_data)
        self.trail.setVisible(has_data)
        self.stack.choose()

    def _fill_bottom(self) -> None:
        """The ladder, or what the page has in its place."""
        shown = self.stack.shown
        self.bottom.stand_in(None if shown is None else shown.in_bottom_bar)

    def view(self, page: str) -> PageView | None:
        """The view of a page, where somebody has looked at it."""
        return self.stack.view(page)

    def show_page(self, page: str) -> None:
        """Go to a page."""
        self.stack.show_page(page)

    # Doing

    def charts(self) -> list[Chart]:
        """The charts on screen that have something in them."""
        return charts_on(self.stack.over if self.stack.over is not None else self.stack.shown)

    def quit(self) -> None:
        """Close all windows; the next start brings them back."""
        self.ended.emit()

    def come_forward(self) -> None:
        """Somebody has asked for the study that is shown here."""
        self.setWindowState(self.windowState() & ~Qt.WindowState.WindowMinimized)
        self.show()
        self.raise_()
        self.activateWindow()

    def return_to(self, page: str) -> None:
        """The page that was looked at the last time, where the data still allow it."""
        if page in self.stack.pages and self.study.state.table is not None and self.stack.suits(page):
            self.stack.show_page(page)

    def full_screen(self) -> None:
        """Fill the screen, or no longer."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def show_menu(self) -> None:
        """All actions by what they act on."""
        self.topbar.menu.showMenu()

    def undo(self) -> None:
        """Take the last command back."""
        self._go(self.study.undo)

    def redo(self) -> None:
        """Bring the command that was taken back again."""
        self._go(self.study.redo)

    def _go(self, step: Callable[[], object]) -> None:
        try:
            step()
        except InputError as error:
            self.message.say(error)

    def clear(self) -> None:
        """Esc: first a paper that is open, then the message, then the pick and the class in focus."""
        open_papers = [paper for paper in self.findChildren(Popover) if paper.isVisible()]
        if open_papers:
            for paper in open_papers:
                paper.dismiss()
        elif self.message.isVisible():
            self.message.hide()
        elif self.stack.over is not None and self.stack.over.leaves_on_escape:
            self.stack.hide_over()
        else:
            self.selection.pick(())
            self.selection.change(channels=(), focus=None, alone=False)

    def switch_last_step(self) -> None:
        """Switch the last treatment of the chain on or off."""
        steps = self.study.state.recipe.treat
        if steps:
            self.desk.do(SwitchStep(len(steps) - 1, not steps[-1].on))

    def whole(self) -> None:
        """Show all of every strip and plane."""
        if self.stack.shown is not None:
            self.stack.shown.whole()

    # Listening

    def _on_study(self, changed: frozenset[str]) -> None:
        if "table" in changed:
            self.stack.settle()
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

    def changeEvent(self, event: QEvent) -> None:
        """Who comes back to the window hears what others have done to its file."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            self.filing.check_undisturbed()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """A right click that nothing else has answered: the menu of the chart under it."""
        self.chart_menus.open_at(event.globalPos())

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped."""
        self.dropping.enter(event)

    def dropEvent(self, event: QDropEvent) -> None:
        """Bring in what was dropped."""
        self.dropping.drop(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stop reading and computing before the window goes; what cannot be written is said first."""
        if not self.writing.finish() or not self.desk.live.queue.finish():
            event.ignore()
            return
        if self.study.writer is self.writing:
            self.study.write_by(None)
        busy.mark(self, False)
        self.stack.hide_over()
        self.desk.live.close()
        super().closeEvent(event)
        self.closed.emit()
