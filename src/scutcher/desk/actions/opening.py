"""Bringing data in from the window: files, studies, the demo, the clipboard."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

from scutcher.core.data.table import Table
from scutcher.core.errors import AxesDiffer, InputError
from scutcher.core.recipes.recipe import Recipe
from scutcher.desk.context import Desk, Mailbox
from scutcher.files.safely import write_text
from scutcher.study.document.commands.data import BringIn
from scutcher.study.document.state import NOWHERE, Source
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.state_folder import SUFFIX

if TYPE_CHECKING:
    from scutcher.desk.actions.reading import ReadingPaper

FILE_FILTER = (
    "Tables, spectra and studies (*.csv *.tsv *.tab *.txt *.xy *.dat *.asc *.xlsx *.ods *.dx *.jdx *.jcm "
    "*.h5 *.hdf5 *.nc *.npy *.npz *.mat *.scutch);;All files (*)"
)


class Opening:
    """Whatever is wrong with what is brought in becomes a message, and the study stays as it was."""

    def __init__(self, desk: Desk, window: QWidget, mailbox: Mailbox) -> None:
        self.desk, self.window, self.mailbox = desk, window, mailbox
        self.reading: ReadingPaper | None = None
        self.open_study: Callable[[Path], object] = lambda path: None
        self.show_import: Callable[[Source], object] = lambda source: None

    def close(self) -> None:
        """Stop reading: the window is about to go."""
        if self.reading is not None:
            self.reading.wait()
            self.reading = None

    def open_files(self, paths: list[Path], resample: bool = False) -> bool:
        """Bring in files; whatever is wrong with them becomes a message and the study stays as it was."""
        from scutcher.desk.actions.reading import LARGE, ReadingPaper
        from scutcher.files.formats import read_tables

        studies = [path for path in paths if path.suffix == SUFFIX]
        for path in studies:
            self.open_study(path)
        paths = [path for path in paths if path not in studies]
        if not paths:
            return bool(studies)
        if sum(path.stat().st_size for path in paths if path.is_file()) > LARGE:
            self.reading = ReadingPaper(
                self.window, self.mailbox, paths, lambda answer: self._take(answer, paths)
            )
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
            self.desk.say(table, "Resample to the common channels", lambda: self.open_files(paths, True))
            return False
        source = Source(tuple(str(path.absolute()) for path in paths), resampled=resampled)
        if isinstance(table, InputError) and table.mends:
            self.desk.say(table, "Look at the file", lambda: self.show_import(source))
            return False
        if isinstance(table, InputError):
            self.desk.say(table)
            return False
        return self.bring_in(table, Recipe(), source)

    def open_demo(self, name: str) -> bool:
        """Bring in a demo set with its recipe."""
        from scutcher.core.data.constant_variables import leave_out_unusable
        from scutcher.demo.sets import demo_recipe, demo_set

        return self.bring_in(leave_out_unusable(demo_set(name)[0]), demo_recipe(name))

    def bring_in(self, table: Table, recipe: Recipe, source: Source = NOWHERE) -> bool:
        """Make a table the data of the study, unless no model could be made of it."""
        from scutcher.core.models.missing_values import usable_part

        try:
            usable_part(table, recipe.model)
        except InputError as error:
            self.desk.say(error)
            return False
        self.desk.selection.forget()
        return self.desk.do(BringIn(table.name, table, recipe, source))

    def paste(self) -> bool:
        """Bring in a table that was copied from a spreadsheet: it is kept beside the study as TSV."""
        text = QApplication.clipboard().text()
        if "\t" not in text and "," not in text and ";" not in text:
            self.desk.say(InputError("The clipboard holds no table.", "Copy cells from a spreadsheet first."))
            return False
        path = places.state_folder() / f"pasted-{datetime.now():%Y-%m-%d-%H%M%S}.tsv"
        try:
            write_text(path, text)
        except InputError as error:
            self.desk.say(error)
            return False
        return self.open_files([path])

    def ask_for_file(self) -> None:
        """Let the person choose files."""
        names, _ = QFileDialog.getOpenFileNames(self.window, "Open a table", "", FILE_FILTER)
        if names:
            self.open_files([Path(name) for name in names])
