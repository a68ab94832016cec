"""What comes over the page: lists, comparisons, looks from outside, new samples, the import view."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QMainWindow

from scutcher.core.errors import InputError

if TYPE_CHECKING:
    from scutcher.desk.actions.add_treatment import AddTreatment
    from scutcher.desk.actions.compare_models import Compare
    from scutcher.desk.actions.opening import Opening
    from scutcher.desk.actions.picked_samples import Acting
    from scutcher.desk.context import Desk
    from scutcher.desk.pages.inspect.page import InspectPage
    from scutcher.desk.pages.overlay import Over
    from scutcher.desk.shell.bottom_bar import BottomBar
    from scutcher.desk.shell.message import MessageBar
    from scutcher.desk.trail.trail import Trail
    from scutcher.study.document.state import Source


class Overs(QMainWindow):
    """The part of the window that puts papers and views over its pages.

    Attributes
    ----------
    over : the view in place of the page, or None
    """

    desk: Desk
    message: MessageBar
    acting: Acting
    opening: Opening
    trail: Trail
    bottom: BottomBar
    inspect: InspectPage | None
    over: Over | None

    def show_columns(self) -> None:
        """The import view of the files that the data came from: nothing that was guessed is final."""
        source = self.desk.study.state.source
        if not source.paths:
            self.message.say(InputError("These data did not come from a file.", "Open one first (Ctrl+O)."))
            return
        self.show_import(source)

    def show_import(self, source: Source) -> None:
        """The import view of files, also of such as were refused for something that can be mended."""
        from scutcher.desk.pages.import_view.page import BringInPage

        try:
            view = BringInPage(self.desk, source)
        except InputError as error:
            self.message.say(error)
            return
        self._put_over(view)

    def hide_over(self) -> None:
        """Back to the page."""
        if self.over is not None:
            self.over.close_down()
            self.over.setParent(None)
            self.over.deleteLater()
            self.over = None
            self._choose_paper()

    def why(self) -> object:
        """Why the picked samples are far."""
        self.show_page("Inspect")
        return None if self.inspect is None else self.inspect.why()

    def _toggle(self, name: str) -> None:
        self.show_page("Inspect")
        if self.inspect is not None:
            getattr(self.inspect, name).toggle()

    def ask_new(self) -> None:
        """Ask which file holds new samples."""
        paths, _ = QFileDialog.getOpenFileNames(self, "New samples for this model")
        if paths:
            self.bring_new([Path(path) for path in paths])

    def bring_new(self, paths: list[Path], resample: bool = False) -> None:
        """Project the samples of files onto the model of now."""
        from scutcher.files.formats import read_tables
        from scutcher.study.evaluation.new_samples import newcomers

        found = self.desk.moment.found
        if found is None:
            self.message.say(
                InputError("There is no model to project onto.", "Bring in its data first (Ctrl+O).")
            )
            return
        try:
            table = read_tables(paths)
            newcomers(found, table, resample)
        except InputError as error:
            again = partial(self.bring_new, paths, True) if "resampl" in error.remedy else None
            self.message.say(error, "Resample", again)
            return
        self.desk.live.bring(table, resample)
        self.show_new()

    def show_new(self) -> object:
        """The list of new samples on the model."""
        if self.desk.live.brought is None:
            self.message.say(
                InputError("There are no new samples.", "Drop a file onto a plane, or Ctrl+Shift+O.")
            )
            return None
        self.show_page("Inspect")
        return None if self.inspect is None else self.inspect.show_new()

    def propose_outliers(self) -> object:
        """The robust fit proposes samples that stand apart together; nothing is set aside by itself."""
        from scutcher.desk.actions.outlier_proposal import Proposal

        found = self.desk.moment.found
        if found is None:
            return None
        try:
            paper = Proposal(self, self.desk, found)
        except InputError as error:
            self.message.say(error)
            return None
        paper.open_at(self.bottom.set_aside, above=True)
        return paper

    def add_treatment(self, place: int | None = None) -> AddTreatment | None:
        """The list of treatments, to search and choose from."""
        from scutcher.desk.actions.add_treatment import AddTreatment

        if self.desk.study.state.table is None:
            return None
        listing = AddTreatment(self, self.desk, place)
        listing.open_at(self.trail.add_link, above=False)
        return listing

    def compare(self) -> Compare | None:
        """All models on the shelf in one table."""
        from scutcher.desk.actions.compare_models import Compare

        if not self.desk.study.state.named:
            self.message.say(InputError("The shelf is empty.", "Put a model by first (B)."))
            return None
        table = Compare(self, self.desk)
        table.open_at(self.trail.shelf.compare, above=True)
        return table

    def try_several(self) -> None:
        """Try a grid of treatments behind, and compare the outcomes."""
        from scutcher.desk.pages.try_several.page import TrySeveral

        if self.desk.study.state.table is None:
            return
        self._put_over(TrySeveral(self.desk))

    def _put_over(self, view: Over) -> None:
        """Show a view in place of the page, and of the one that was there, until it is done."""
        self.hide_over()
        self.over = view
        view.done.connect(self.hide_over)
        self._page_place.addWidget(view)
        self._choose_paper()

    def show_space(self, kind: str) -> None:
        """All pairs of components, three of them in space, or samples as pictures."""
        from scutcher.desk.pages.scores_space.page import SpacePage

        if self.desk.moment.found is None:
            return
        self._put_over(SpacePage(self.desk, kind))

    def show_answer(self) -> None:
        """The known answer beside the one found, for the practice set."""
        from scutcher.desk.pages.known_answer.page import AnswerPage

        table = self.desk.study.state.table
        if table is None or table.name != "practice":
            error = InputError("Only the practice set has a known answer.", "Open it, and ask again.")
            self.message.say(error, "Open it", lambda: self.opening.open_demo("practice"))
            return
        self._put_over(AnswerPage(self.desk))
