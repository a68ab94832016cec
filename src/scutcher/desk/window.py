"""The window: top bar, trail, page, bottom bar, and the actions that keys and the search field reach."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime
from itertools import combinations
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from scutcher.core.errors import AxesDiffer, FileError, InputError
from scutcher.core.recipe import Recipe
from scutcher.core.table import Table
from scutcher.desk.acting import Acting
from scutcher.desk.bottom_bar import BottomBar
from scutcher.desk.desk_context import Desk, Mailbox, follow
from scutcher.desk.filing import Filing
from scutcher.desk.message import MessageBar
from scutcher.desk.palette import Entry, Finder
from scutcher.desk.topbar import TopBar
from scutcher.desk.trail import Trail
from scutcher.files.safely import write_text
from scutcher.study.attention import Attention
from scutcher.study.commands.classes import ColourBy, SwapColours
from scutcher.study.commands.data import BringIn
from scutcher.study.commands.recipe import SwitchStep
from scutcher.study.live import LiveModel
from scutcher.study.state import NOWHERE, Source
from scutcher.study.storage import places
from scutcher.study.storage.places import SUFFIX
from scutcher.study.study import Study

PAGES = ("Samples", "Inspect")
if TYPE_CHECKING:
    from scutcher.desk.pages.bring_in import BringInPage
    from scutcher.desk.pages.inspect import InspectPage
    from scutcher.desk.pages.samples import SamplesPage
    from scutcher.desk.reading import ReadingPaper

FILE_FILTER = (
    "Tables, spectra and studies (*.csv *.tsv *.tab *.txt *.xy *.dat *.asc *.xlsx *.ods *.dx *.jdx *.jcm "
    "*.h5 *.hdf5 *.nc *.npy *.npz *.mat *.scutch);;All files (*)"
)


@dataclass(frozen=True)
class Action:
    """A thing to do: its words, its key, and the function."""

    words: str
    key: str
    run: Callable[[], object]


class Window(QMainWindow):
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
        live = LiveModel(study, self.mailbox.post, start=False)
        self.desk = Desk(study, live, Attention(), self.message.say)
        self.acting = Acting(self.desk, self)
        self.filing = Filing(self.desk, self)
        self.open_study: Callable[[Path], object] = lambda path: None
        self.finder = Finder()
        self.finder.add(self._action_entries)
        self.finder.add(self.filing.entries)
        self.finder.add(self._sample_entries)
        self.finder.add(self._channel_entries)
        self.topbar = TopBar(self.desk, self.finder, PAGES)
        self.page = "Inspect"
        self.trail = Trail(self.desk)
        self.bottom = BottomBar(self.desk)
        self.start_paper = self._start_paper()
        self.inspect: InspectPage | None = None
        self.samples: SamplesPage | None = None
        self.columns_view: BringInPage | None = None
        self.reading: ReadingPaper | None = None
        self._arrange()
        self._connect()
        self.actions_list = self._actions()
        self._install_keys()
        follow(self, study, self._on_study)
        follow(self, live, self._on_live)
        self._choose_paper()
        self.topbar.show_page(self.page)
        self.show_title()
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

    def _start_paper(self) -> QWidget:
        paper = QWidget()
        column = QVBoxLayout(paper)
        heading = QLabel("Bring in a table of spectra")
        heading.setObjectName("wordmark")
        words = QLabel(
            "Drop a CSV or TSV file here: one row per sample, a header row, numeric channel headers. "
            "Text columns become the sample id and the classes."
        )
        words.setObjectName("empty")
        words.setWordWrap(True)
        words.setFixedWidth(420)
        words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        bring, demo = (
            QPushButton("Open a file…  Ctrl+O"),
            QPushButton("Look at the demo: a flax mill's intake"),
        )
        bring.setObjectName("primary")
        bring.clicked.connect(self.ask_for_file)
        demo.clicked.connect(lambda: self.open_demo("intake-nir"))
        column.addStretch(2)
        for widget in (heading, words, bring, demo):
            column.addWidget(widget, 0, Qt.AlignmentFlag.AlignHCenter)
            column.addSpacing(8)
        for path in places.recent()[:5]:
            link = QToolButton()
            link.setText(f"{path.stem}   ·   {path.parent}")
            link.setToolTip(f"Open the study {path}")
            link.clicked.connect(lambda _=False, path=path: self.open_study(path))
            column.addWidget(link, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addStretch(3)
        return paper

    def _connect(self) -> None:
        self.topbar.open_requested.connect(self.ask_for_file)
        self.topbar.page_requested.connect(self.show_page)
        self.topbar.undo_requested.connect(self.undo)
        self.topbar.redo_requested.connect(self.redo)
        self.trail.columns_clicked.connect(self.show_columns)
        self.trail.set_aside_clicked.connect(lambda: self.acting.show_set_aside(self.trail.set_aside_link))
        self.bottom.set_aside_requested.connect(lambda: self.acting.set_aside(self.bottom.set_aside))
        self.bottom.tag_requested.connect(lambda: self.acting.tag(self.bottom.tag))

    def _actions(self) -> tuple[Action, ...]:
        attention = self.desk.attention
        return (
            Action("Open a file…", "Ctrl+O", self.ask_for_file),
            Action("Paste a table from a spreadsheet", "Ctrl+V", self.paste),
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
            Action("Show the whole axis", "W", self.whole),
            Action("Class means on or off", "M", self.toggle_means),
            Action("Show all classes", "C", lambda: attention.change(focus=None, alone=False)),
            Action("Open the demo: intake-nir", "", lambda: self.open_demo("intake-nir")),
        )

    def _install_keys(self) -> None:
        for place, page in enumerate(PAGES):
            QShortcut(QKeySequence(f"Ctrl+{place + 1}"), self).activated.connect(self._goer(page))
        for action in self.actions_list:
            if action.key:
                shortcut = QShortcut(QKeySequence(action.key), self)
                shortcut.activated.connect(action.run)

    def fill(self) -> None:
        """Compute the model and make the page: what the first frame does without."""
        self.filing.say_if_read_only()
        if not self.desk.live.busy and self.desk.live.evaluation is None:
            self.desk.live.refresh()
        self._make_page()

    def _choose_paper(self) -> None:
        """The start paper without data, else trail, page and bottom bar."""
        has_data = self.desk.study.state.table is not None
        self.start_paper.setVisible(not has_data)
        self.bottom.setVisible(has_data)
        self.trail.setVisible(has_data)
        for name, page in (("Samples", self.samples), ("Inspect", self.inspect)):
            if page is not None:
                page.setVisible(has_data and name == self.page and self.columns_view is None)

    def _make_page(self) -> None:
        """Each page is made when it is first looked at and there are data."""
        if self.desk.study.state.table is None:
            return
        if self.page == "Inspect" and self.inspect is None:
            from scutcher.desk.pages.inspect import InspectPage

            self.inspect = InspectPage(self.desk)
            self._page_place.addWidget(self.inspect)
        elif self.page == "Samples" and self.samples is None:
            from scutcher.desk.pages.samples import SamplesPage

            self.samples = SamplesPage(self.desk)
            self._page_place.addWidget(self.samples)

    def show_page(self, page: str) -> None:
        """Go to a page; the place to look changes, nothing else."""
        self.hide_columns()
        self.page = page
        self.topbar.show_page(page)
        self._make_page()
        self._choose_paper()

    # What can be found

    def _action_entries(self) -> Iterable[Entry]:
        for action in self.actions_list:
            yield Entry(action.words, "action", action.run, action.key)
        for place, page in enumerate(PAGES):
            yield Entry(page, "page", self._goer(page), f"Ctrl+{place + 1}")
        state = self.desk.study.state
        for column in state.table.classes if state.table is not None else ():
            yield Entry(f"Colour by {column.name}", "action", self._runner(ColourBy(column.name)))
            if column.name == state.colour_by:
                for level in column.levels:
                    yield Entry(f"Rename class {level}…", "action", self._renamer(level))
                for first, second in combinations(column.levels[:12], 2):
                    words = f"Swap the colours of {first} and {second}"
                    yield Entry(words, "action", self._runner(SwapColours(column.name, first, second)))
        for place, step in enumerate(state.recipe.treat):
            word = "off" if step.on else "on"
            name = step.treatment.short(step.parameters)
            yield Entry(f"Switch {name} {word}", "action", self._runner(SwitchStep(place, not step.on)))

    def _sample_entries(self) -> Iterable[Entry]:
        table = self.desk.study.state.table
        if table is not None:
            for row, name in enumerate(table.ids):
                yield Entry(name, "sample", lambda row=row: self.desk.attention.pick([row]))

    def _channel_entries(self) -> Iterable[Entry]:
        table = self.desk.study.state.table
        if table is not None:
            places = table.axis.places()
            for column in range(len(table.axis)):
                place = float(places[column])
                yield Entry(
                    table.axis.name(column),
                    "channel",
                    lambda place=place: self.desk.attention.change(channel=place),
                )

    def _goer(self, page: str) -> Callable[[], object]:
        return lambda: self.show_page(page)

    def _runner(self, command: object) -> Callable[[], object]:
        return lambda: self.desk.do(command)  # type: ignore[arg-type]

    def _renamer(self, level: str) -> Callable[[], object]:
        return lambda: self.acting.rename(self.bottom.tag, level)

    # Doing

    def open_files(self, paths: list[Path], resample: bool = False) -> bool:
        """Bring in files; whatever is wrong with them becomes a message and the study stays as it was."""
        from scutcher.desk.reading import LARGE, ReadingPaper
        from scutcher.files.formats import read_tables

        studies = [path for path in paths if path.suffix == SUFFIX]
        for path in studies:
            self.open_study(path)
        paths = [path for path in paths if path not in studies]
        if not paths:
            return bool(studies)
        if sum(path.stat().st_size for path in paths if path.is_file()) > LARGE:
            self.reading = ReadingPaper(self, self.mailbox, paths, lambda answer: self._take(answer, paths))
            return True
        try:
            table = read_tables(paths, resample=resample)
        except InputError as error:
            return self._take(error, paths)
        return self._take(table, paths, resample)

    def _take(self, table: Table | InputError, paths: list[Path], resampled: bool = False) -> bool:
        """What a file gave: a table that becomes the data, or a sentence."""
        self.reading = None
        if isinstance(table, AxesDiffer):
            self.message.say(table, "Resample to the common channels", lambda: self.open_files(paths, True))
            return False
        if isinstance(table, InputError):
            self.message.say(table)
            return False
        names = tuple(str(path.absolute()) for path in paths)
        return self.bring_in(table, Recipe(), Source(names, resampled=resampled))

    def open_demo(self, name: str) -> bool:
        """Bring in a demo set with its recipe."""
        from scutcher.core.import_check import leave_out_unusable
        from scutcher.demo.sets import demo_recipe, demo_set

        return self.bring_in(leave_out_unusable(demo_set(name)[0]), demo_recipe())

    def bring_in(self, table: Table, recipe: Recipe, source: Source = NOWHERE) -> bool:
        """Make a table the data of the study, unless no model could be made of it."""
        from scutcher.core.gaps import usable_part

        try:
            usable_part(table, recipe.model)
        except InputError as error:
            self.message.say(error)
            return False
        self.desk.attention.change(
            picked=(), hovered=None, focus=None, alone=False, channel=None, pair=(0, 1), stage=None
        )
        return self.desk.do(BringIn(table.name, table, recipe, source))

    def paste(self) -> bool:
        """Bring in a table that was copied from a spreadsheet: it is kept beside the study as TSV."""
        text = QApplication.clipboard().text()
        if "\t" not in text and "," not in text and ";" not in text:
            self.message.say(
                InputError("The clipboard holds no table.", "Copy cells from a spreadsheet first.")
            )
            return False
        path = places.state_folder() / f"pasted-{datetime.now():%Y-%m-%d-%H%M%S}.tsv"
        try:
            write_text(path, text)
        except InputError as error:
            self.message.say(error)
            return False
        return self.open_files([path])

    def show_columns(self) -> None:
        """The import view of the files that the data came from: nothing that was guessed is final."""
        source = self.desk.study.state.source
        if not source.paths:
            self.message.say(InputError("These data did not come from a file.", "Open one first (Ctrl+O)."))
            return
        from scutcher.desk.pages.bring_in import BringInPage

        try:
            view = BringInPage(self.desk, source)
        except InputError as error:
            self.message.say(error)
            return
        self.hide_columns()
        self.columns_view = view
        view.done.connect(self.hide_columns)
        self._page_place.addWidget(view)
        self._choose_paper()

    def hide_columns(self) -> None:
        """Back from the import view to the page."""
        if self.columns_view is not None:
            self.columns_view.setParent(None)
            self.columns_view.deleteLater()
            self.columns_view = None
            self._choose_paper()

    def ask_for_file(self) -> None:
        """Let the person choose files."""
        names, _ = QFileDialog.getOpenFileNames(self, "Open a table", "", FILE_FILTER)
        if names:
            self.open_files([Path(name) for name in names])

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
        from scutcher.desk.popover import Popover

        open_papers = [paper for paper in self.findChildren(Popover) if paper.isVisible()]
        if open_papers:
            for paper in open_papers:
                paper.dismiss()
        elif self.message.isVisible():
            self.message.hide()
        else:
            self.desk.attention.change(picked=(), focus=None, alone=False)

    def switch_last_step(self) -> None:
        """Switch the last treatment of the chain on or off."""
        steps = self.desk.study.state.recipe.treat
        if steps:
            self.desk.do(SwitchStep(len(steps) - 1, not steps[-1].on))

    def whole(self) -> None:
        """Show all of every strip and plane."""
        if self.inspect is not None:
            for view in (*self.inspect.strips, *self.inspect.planes):
                view.whole()

    def toggle_means(self) -> None:
        """Class means in place of every sample, or back."""
        if self.inspect is not None:
            self.inspect.means_switch.toggle()

    # Listening

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
        if "trouble" in changed:
            self.message.say(self.desk.live.trouble)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The message stays in the middle."""
        super().resizeEvent(event)
        if self.message.isVisible():
            self.message.place()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Bring in what was dropped."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            self.open_files(paths)
        else:
            self.message.say(FileError("What was dropped is not a file on this machine.", "Save it first."))

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stop reading and computing before the window goes."""
        if self.reading is not None:
            self.reading.wait()
            self.reading = None
        self.desk.live.close()
        super().closeEvent(event)
