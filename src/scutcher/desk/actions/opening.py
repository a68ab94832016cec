"""Bringing data in from the window: files, studies, the demo, the clipboard; and where they go."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

from scutcher.core.data.table import Table
from scutcher.core.errors import AxesDiffer, InputError, Unclear
from scutcher.core.recipes.first_recipe import first_recipe
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.words import counted
from scutcher.desk.actions.reading import Reading, Taken
from scutcher.desk.context import Desk
from scutcher.desk.widgets.popover import Choice
from scutcher.files.layout.reading import reading_of_pairs
from scutcher.files.roles import roles_of_pairs
from scutcher.files.safely import write_text
from scutcher.study.document.commands.data import AddDataSet, BringIn, first_colouring
from scutcher.study.document.parts import NOWHERE, Source
from scutcher.study.document.state import State
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.settings import settings
from scutcher.study.storage.state_folder import SUFFIX

DEMOS = (
    "intake-nir",
    "bench",
    "tank-log",
    "new-lots",
    "belt-scan",
    "drying",
    "bark-profile",
    "drying-curves",
    "liquor-landscapes",
    "practice",
)
"""Named here, so that the window opens without making any of them."""

FILE_FILTER = (
    "Tables, spectra and studies (*.csv *.tsv *.tab *.txt *.xy *.dat *.asc *.prn *.dpt *.xlsx *.ods *.xls "
    "*.xlsm *.xlsb *.dx *.jdx *.jcm *.h5 *.hdf5 *.nc *.cdf *.npy *.npz *.mat "
    "*.tif *.tiff *.parquet *.feather *.gz *.zip "
    "*.scutch);;All files (*)"
)


class Opening:
    """Whatever is wrong with what is brought in becomes a message, and the study stays as it was.

    Attributes
    ----------
    open_study : opens a study file in a window of its own
    open_state : opens a new study that holds a state, in a window of its own
    show_import : shows the import view of files
    """

    def __init__(self, desk: Desk, window: QWidget) -> None:
        self.desk, self.window = desk, window
        self.reading = Reading(desk, window)
        self.open_study: Callable[[Path], object] = lambda path: None
        self.open_state: Callable[[State], object] = lambda state: None
        self.show_import: Callable[[Source], object] = lambda source: None

    def read(self, paths: list[Path], done: Taken, resample: bool) -> None:
        """Read files behind, and hand over the table or the sentence."""
        self.reading.read(paths, None, resample, done)

    def open_files(self, paths: list[Path], resample: bool = False, adding: bool = False) -> None:
        """Bring in files; whatever is wrong with them becomes a message and the study stays as it was."""
        studies = [path for path in paths if path.suffix == SUFFIX]
        for path in studies:
            self.open_study(path)
        paths = [path for path in paths if path not in studies]
        if paths:
            self.read(paths, partial(self._take, paths, resample, adding), resample)

    def _take(self, paths: list[Path], resampled: bool, adding: bool, table: Table | InputError) -> None:
        """What files gave: a table that becomes the data, or a sentence."""
        if isinstance(table, AxesDiffer):
            again = partial(self.open_files, paths, True, adding)
            self.desk.say(table, "Resample to the common channels", again)
            return
        contents = () if isinstance(table, InputError) else self.reading.contents
        where = tuple(str(path.absolute()) for path in paths)
        reading = () if isinstance(table, InputError) or len(paths) > 1 else table.origin.reading
        source = Source(where, resampled=resampled, reading=reading, contents=contents)
        if isinstance(table, Unclear):
            self.show_import(source)
        elif isinstance(table, InputError):
            if all(path.exists() for path in paths):
                self.desk.say(table, "Look at the file", lambda: self.show_import(source))
            else:
                self.desk.say(table)
        elif settings().look_first:
            self.show_import(source)
        elif adding:
            self.add(table, first_recipe(table), source)
            self._say_what_was_not_read(table, source)
        else:
            self.bring_in(table, first_recipe(table), source)
            self._say_what_was_not_read(table, source)

    def _say_what_was_not_read(self, table: Table, source: Source) -> None:
        """Where something of a file was left behind, it is said, with the way to see it."""
        remarks = table.origin.remarks
        now = self.desk.study.state.table
        if remarks and now is not None and now.values is table.values:
            more = f" {len(remarks) - 1} more remarks." if len(remarks) > 1 else ""
            self.desk.say(
                InputError(f"{remarks[0]}.{more}", ""), "Look at the file", lambda: self.show_import(source)
            )

    def open_demo(self, name: str) -> None:
        """Bring in a demo set with its recipe."""
        from scutcher.core.data.constant_variables import leave_out_dead
        from scutcher.demo.sets import demo_recipe, demo_set

        self.bring_in(leave_out_dead(demo_set(name)[0]), demo_recipe(name))

    def open_three_tables(self) -> None:
        """Three tables on the same lots: a new study's, or beside what is there."""
        from scutcher.core.data.constant_variables import leave_out_dead
        from scutcher.demo.sets import three_tables

        if self._has_work():
            words = "This study has work in it."
            self.desk.say(InputError(words, "Begin a new study (Ctrl+N), then open the demo there."))
            return
        self.desk.selection.forget()
        for place, (own, recipe) in enumerate(three_tables()):
            table = leave_out_dead(own)
            fresh = BringIn(table.name, table, recipe)
            self.desk.do(fresh if not place else AddDataSet(table.name, table, recipe))

    def bring_in(self, table: Table, recipe: Recipe, source: Source = NOWHERE) -> None:
        """Make a table the data of a study: of this one where it has none of its own yet, else it is asked.

        A study that has a name, or in which something was done, is not changed by opening something.
        """
        if self._has_work():
            self._ask_where(table, recipe, source)
        elif self._usable(table, recipe):
            self.desk.selection.forget()
            self.desk.do(BringIn(table.name, table, recipe, source))

    def _has_work(self) -> bool:
        """Whether the study holds more than data that were just opened."""
        study = self.desk.study
        if study.state.table is None:
            return False
        named = study.path is not None and not places.is_unnamed(study.path)
        label = study.undo_label
        return named or (label is not None and not label.startswith("Bring in "))

    def _ask_where(self, table: Table, recipe: Recipe, source: Source) -> None:
        name = self.desk.study.state.name
        n, p = table.shape
        asked = Choice(
            self.window,
            f"Where do these data go: {table.name}, {counted(n)} × {counted(p)}?",
            f"The study {name} stays as it is, unless they are added to it as one more data set.",
            {
                "Open a new study": partial(self._open_new, table, recipe, source),
                f"Add to {name}"[:40]: partial(self.add, table, recipe, source),
            },
        )
        asked.open_in_middle()

    def _open_new(self, table: Table, recipe: Recipe, source: Source) -> None:
        if self._usable(table, recipe):
            self.open_state(State.of(table.name, table, recipe, first_colouring(table), source))

    def add(self, table: Table, recipe: Recipe, source: Source = NOWHERE) -> None:
        """Put a table into this study, beside what is there."""
        if self._usable(table, recipe):
            self.desk.selection.forget()
            self.desk.do(AddDataSet(table.name, table, recipe, source))

    def _usable(self, table: Table, recipe: Recipe) -> bool:
        """Whether a model could be made of a table; if not, it is said why."""
        from scutcher.core.models.missing_values import check_usable

        try:
            check_usable(table, recipe.model)
        except InputError as error:
            self.desk.say(error)
            return False
        return True

    def new_study(self) -> None:
        """An empty study in a window of its own."""
        self.open_state(State())

    def paste(self) -> None:
        """Bring in a table that was copied from a spreadsheet: it is kept beside the study as TSV."""
        text = QApplication.clipboard().text()
        if "\t" not in text and "," not in text and ";" not in text:
            self.desk.say(InputError("The clipboard holds no table.", "Copy cells from a spreadsheet first."))
            return
        try:
            path = places.state_folder() / f"pasted-{datetime.now():%Y-%m-%d-%H%M%S}.tsv"
            write_text(path, text)
        except InputError as error:
            self.desk.say(error)
            return
        self.open_files([path])

    def ask_for_file(self) -> None:
        """Let the person choose files."""
        names, _ = QFileDialog.getOpenFileNames(self.window, "Open a table", "", FILE_FILTER)
        if names:
            self.open_files([Path(name) for name in names])

    def ask_for_like(self) -> None:
        """Let the person choose a file that is read as the one that is there was."""
        source = self.desk.study.state.source
        if not source.paths:
            self.desk.say(InputError("These data did not come from a file.", "Open one first (Ctrl+O)."))
            return
        names, _ = QFileDialog.getOpenFileNames(self.window, "Read in the same way", "", FILE_FILTER)
        if names:
            self.open_like([Path(name) for name in names])

    def open_like(self, paths: list[Path]) -> None:
        """Read files with the reading, the roles and the mends of those that are there."""
        source = self.desk.study.state.source
        reading = reading_of_pairs(source.reading)
        roles = roles_of_pairs(source.roles, source.sheet, reading, source.mends)

        def done(table: Table | InputError) -> None:
            where = tuple(str(path.absolute()) for path in paths)
            again = replace(source, paths=where, contents=())
            if isinstance(table, InputError):
                self.desk.say(table, "Look at the file", lambda: self.show_import(again))
            else:
                self.bring_in(table, Recipe(), again)

        self.reading.read(paths, roles, source.resampled, done)

    def ask_to_add(self) -> None:
        """Let the person choose files whose table is put beside the one that is there."""
        names, _ = QFileDialog.getOpenFileNames(self.window, "Add a data set", "", FILE_FILTER)
        if names:
            self.open_files([Path(name) for name in names], adding=True)
