"""What comes over the page: lists, comparisons, looks from outside, new samples, the import view."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QMainWindow, QWidget

from scutcher import __version__
from scutcher.core.errors import FileError, InputError
from scutcher.core.progress import Watch
from scutcher.desk.actions.opening import Opening
from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.page_stack import PageStack
from scutcher.desk.trail.trail import Trail
from scutcher.desk.widgets.popover import Choice
from scutcher.study.document.parts import Source

if TYPE_CHECKING:
    from scutcher.core.data.table import Table
    from scutcher.desk.actions.add_treatment import AddTreatment
    from scutcher.desk.actions.compare_models import Compare


STANDS_ON = (
    ("Qt and PySide6", "LGPL-3.0"), ("pyqtgraph", "MIT"), ("NumPy", "BSD-3-Clause"), ("SciPy",
    "BSD-3-Clause"),
    ("pandas", "BSD-3-Clause"), ("Matplotlib", "PSF-based"), ("h5py", "BSD-3-Clause"), ("calamine", "MIT"),
    ("openpyxl", "MIT"), ("msgspec", "BSD-3-Clause"), ("platformdirs", "MIT"), ("threadpoolctl",
    "BSD-3-Clause"),
    ("charset-normalizer", "MIT"), ("the typeface Inter", "OFL-1.1"),
)  # fmt: skip
"""What the program is built on, and under which licence."""


class Papers:
    """Opens papers and views over the page of one window.

    Parameters
    ----------
    window : what papers stand over
    stack : the pages
    opening : brings data in
    trail, anchor : what papers open beside
    """

    def __init__(
        self,
        desk: Desk,
        window: QMainWindow,
        stack: PageStack,
        opening: Opening,
        trail: Trail,
        anchor: QWidget,
    ) -> None:
        self.desk, self.window, self.stack = desk, window, stack
        self.opening, self.trail, self.anchor = opening, trail, anchor
        self.keys: Callable[[], str] = str

    def show_columns(self) -> None:
        """The import view of the files that the data came from: nothing that was guessed is final."""
        source = self.desk.study.state.source
        if not source.paths:
            self.desk.say(InputError("These data did not come from a file.", "Open one first (Ctrl+O)."))
            return
        self.show_import(source)

    def show_import(self, source: Source) -> None:
        """The import view of files, also of such as were refused."""
        from scutcher.desk.pages.import_view.page import BringInPage

        missing = next((path for path in map(Path, source.paths) if not path.exists()), None)
        if missing is not None:
            self.desk.say(
                FileError(f"There is no file {missing.name} in {missing.parent}.", "Check the name.")
            )
            return
        self.desk.say(None)  # what was said of the file stands in the view itself, and would cover it
        self.stack.put_over(BringInPage(self.desk, source, self.opening.bring_in))

    def ask_new(self) -> None:
        """Ask which file holds new samples."""
        paths, _ = QFileDialog.getOpenFileNames(self.window, "New samples for this model")
        if paths:
            self.bring_new([Path(path) for path in paths])

    def bring_new(self, paths: list[Path], resample: bool = False) -> None:
        """Project the samples of files onto the model of now."""
        if self.desk.moment.found is None:
            words = "There is no model to project onto."
            self.desk.say(InputError(words, "Bring in its data first (Ctrl+O)."))
            return
        page = self.stack.shown
        if page is not None and page.takes_several_tables:
            self._read_each(page, paths, [])
            return
        self.opening.read(paths, partial(self._take_new, paths, resample), resample=False)

    def _read_each(self, page: PageView, paths: list[Path], tables: list[Table]) -> None:
        """Files one after another, each a table, and then all of them to the page."""
        if not paths:
            page.bring_tables(tables)
            return

        def read(table: Table | InputError) -> None:
            if isinstance(table, InputError):
                self.desk.say(table)
            else:
                self._read_each(page, paths[1:], [*tables, table])

        self.opening.read(paths[:1], read, resample=False)

    def _take_new(self, paths: list[Path], resample: bool, table: Table | InputError) -> None:
        """What a file of new samples gave: shown where the model takes them, which is tried behind."""
        found = self.desk.moment.found
        if isinstance(table, InputError):
            self.desk.say(table)
            return
        if found is None:
            return

        def tried(watch: Watch) -> None:
            from scutcher.study.evaluation.new_samples import newcomers

            newcomers(found, table, resample)

        def done(answer: object) -> None:
            if isinstance(answer, InputError):
                again = partial(self.bring_new, paths, True) if "resampl" in answer.remedy else None
                self.desk.say(answer, "Resample", again)
            elif isinstance(answer, Exception):
                raise answer
            else:
                self.desk.live.bring(table, resample)
                self.show_new()

        self.desk.live.ask("try new samples", None, tried, done)

    def show_new(self) -> object:
        """The list of new samples on the model."""
        if self.desk.live.brought is None:
            words = "Drop a file onto a plane, or Ctrl+Shift+O."
            self.desk.say(InputError("There are no new samples.", words))
            return None
        here = None if self.stack.shown is None else self.stack.shown.show_new_samples()
        if here is not None:
            return here
        page = self.stack.show_page("Inspect", at_once=True)
        return None if page is None else page.show_new_samples()

    def propose_outliers(self) -> None:
        """The robust fit proposes samples that stand apart together; nothing is set aside by itself."""
        from scutcher.desk.actions.outlier_proposal import propose

        found = self.desk.moment.found
        if found is not None:
            propose(self.window, self.desk, found, self.anchor)

    def add_treatment(self, place: int | None = None) -> AddTreatment | None:
        """The list of treatments, to search and choose from."""
        from scutcher.desk.actions.add_treatment import AddTreatment

        if self.desk.study.state.table is None:
            return None
        listing = AddTreatment(self.window, self.desk, place)
        listing.open_at(self.trail.add_link, above=False)
        return listing

    def compare(self) -> Compare | None:
        """All models with a name in one table."""
        from scutcher.desk.actions.compare_models import Compare

        if not self.desk.study.state.named:
            self.desk.say(InputError("The shelf is empty.", "Put a model by first (B)."))
            return None
        table = Compare(self.window, self.desk, self.side_by_side)
        table.open_at(self.trail.shelf.compare, above=True)
        return table

    def side_by_side(self, a: str = "", b: str = "") -> None:
        """Two models beside each other: by their ids, or the one of now and the last that was put by."""
        from scutcher.desk.pages.compare.page import ComparePage

        state = self.desk.study.state
        others = [model.id for model in reversed(state.shelf) if model.id != (a or state.current)]
        others += [state.current] if a and a != state.current else []
        if self.desk.moment.found is None or not others:
            self.desk.say(InputError("There is only one model.", "Put it by (B), and change it."))
            return
        self.stack.put_over(ComparePage(self.desk, a or state.current, b or others[0]))

    def try_several(self) -> None:
        """Try a grid of treatments behind, and compare the outcomes."""
        from scutcher.desk.pages.try_several.page import TrySeveral

        if self.desk.study.state.table is not None:
            self.stack.put_over(TrySeveral(self.desk))

    def ask_to_watch(self) -> None:
        """Ask which folder an instrument writes into, and watch it."""
        folder = QFileDialog.getExistingDirectory(self.window, "The folder that the instrument writes into")
        if folder:
            self.watch(Path(folder))

    def watch(self, folder: Path) -> None:
        """Judge what comes into a folder by the model of now; beside it grows a CSV of all that came."""
        from scutcher.desk.pages.watching.page import begin

        try:
            self.stack.put_over(begin(self.desk, folder, folder / "scutcher-watched.csv"))
        except InputError as error:
            self.desk.say(error)

    def cut_into_blocks(self) -> object:
        """Ask how the table is cut into blocks, and look at them."""
        from scutcher.desk.actions.cutting import ask_to_cut

        anchor = self.trail.knots[0] if self.trail.knots else self.trail
        return ask_to_cut(self.desk, self.window, anchor, lambda: self.stack.show_page("Blocks"))

    def show_space(self, kind: str) -> None:
        """All pairs of components, three of them in space, or samples as pictures."""
        from scutcher.desk.pages.scores_space.page import SpacePage

        if self.desk.moment.found is not None:
            self.stack.put_over(SpacePage(self.desk, kind))

    def show_guide(self) -> None:
        """The guide, opened at the page that one is on."""
        from scutcher.desk.pages.guide import GuidePage

        chapter = self.stack.current if self.desk.study.state.table is not None else "First steps"
        self.stack.put_over(GuidePage(chapter, self.keys()))

    def show_about(self) -> Choice:
        """Version and licences."""
        words = f"Version {__version__}. It stands on: " + "; ".join(
            f"{name} ({licence})" for name, licence in STANDS_ON
        )
        about = Choice(self.window, "About Scutcher", f"{words}.", {"Well then": lambda: None})
        about.open_in_middle()
        return about

    def practise(self) -> object:
        """Three exercises with known answers."""
        from scutcher.desk.actions.exercises import Practice

        paper = Practice(self.window, self.desk, self.opening.bring_in)
        paper.open_in_middle()
        return paper

    def show_answer(self) -> None:
        """The known answer beside the one found, for the practice set."""
        from scutcher.desk.pages.known_answer.page import AnswerPage

        table = self.desk.study.state.table
        if table is None or table.name != "practice":
            error = InputError("Only the practice set has a known answer.", "Open it, and ask again.")
            self.desk.say(error, "Open it", lambda: self.opening.open_demo("practice"))
            return
        self.stack.put_over(AnswerPage(self.desk))
