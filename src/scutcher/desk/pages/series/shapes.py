"""Shapes of a series: kept from the handles or files, taken away, found; amounts as columns and files."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtWidgets import QFileDialog, QWidget

from scutcher.core.errors import InputError
from scutcher.core.recipes.unmix_settings import Shape
from scutcher.desk.actions.outcome import ask_path, tried, write_behind
from scutcher.desk.context import Desk
from scutcher.desk.pages.series.hands import Hands
from scutcher.desk.pages.series.work import SeriesWork
from scutcher.desk.pages.shape_settings import ShapeSettings
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.files.csv_text import csv_text
from scutcher.files.safely import write_text
from scutcher.study.document.commands.series import AmountsAsColumns
from scutcher.study.results.unmix_results import amounts_text

BACKGROUNDS = {
    -1: "no background",
    0: "constant background",
    1: "background with slope",
    2: "curved background",
}
STARTS = {"projected": "begin with the most different spectra", "purest": "begin with the purest channels"}


class ShapeChoices(ShapeSettings):
    """Reads the hands and the work; everything it changes is a command of the study."""

    def __init__(self, desk: Desk, work: SeriesWork, hands: Callable[[], Hands], window: QWidget) -> None:
        super().__init__(desk)
        self.work, self.hands, self.window = work, hands, window

    def fill(self, menu: ChoiceMenu) -> None:
        """All that can be done with shapes."""
        menu.add("keep a and b as shapes", False, self.keep_both)
        menu.add("keep a as a shape", False, partial(self.keep_one, "a"))
        menu.add("keep b as a shape", False, partial(self.keep_one, "b"))
        menu.add("keep a − b as a shape", False, self.keep_difference)
        menu.add("shapes from a file…", False, self._ask_file)
        self.offer_drops(menu)
        menu.line()
        self.offer_numbers(menu, self.find)
        for start, words in STARTS.items():
            menu.add(words, self.settings.start == start, partial(self.change, start=start))
        menu.add(
            "each amount has one hump",
            self.settings.humps,
            lambda: self.change(humps=not self.settings.humps),
        )
        windows = self.settings.windows
        words = "absent before and after their windows (first in, first out)"
        menu.add(words, windows, partial(self.change, windows=not windows))
        menu.line()
        self.offer_rules(menu)
        for degree, words in BACKGROUNDS.items():
            menu.add(words, self.settings.background == degree, partial(self.change, background=degree))
        menu.line()
        menu.add("amounts as columns of the table", False, self.as_columns)
        menu.add("write amounts…", False, partial(self._ask_write, "amounts", self.write_amounts))
        menu.add("write shapes…", False, partial(self._ask_write, "shapes", self.write_shapes))

    # Keeping

    def keep_both(self) -> None:
        """a and b in place of the shapes of before."""
        series, hands = self.work.series, self.hands()
        if series is not None:
            stretches = (hands.a, hands.b)
            names = [stretch.said(series) for stretch in stretches]
            if names[0] == names[1]:
                self.desk.say(InputError("a and b are the same.", "Drag one of them elsewhere."))
                return
            shapes = tuple(
                Shape(name=name, samples=stretch.ids(series))
                for name, stretch in zip(names, stretches, strict=True)
            )
            self.change(shapes=shapes, number=None, rule="free")

    def keep_one(self, which: str) -> None:
        """One of the two beside the shapes that there are."""
        series, hands = self.work.series, self.hands()
        if series is not None:
            stretch = hands.at("ab".index(which))
            self.add(Shape(name=stretch.said(series), samples=stretch.ids(series)))

    def keep_difference(self) -> None:
        """a less b as a shape."""
        series, hands = self.work.series, self.hands()
        if series is not None:
            a, b = hands.a, hands.b
            name = f"{a.said(series)} less {b.said(series)}"
            self.add(Shape(name=name, samples=a.ids(series), less=b.ids(series)))

    def find(self, number: int | None) -> None:
        """So many shapes are to be found; None for as many as go along the order, or for none any more."""
        series = self.work.series
        if number is None and self.settings.number is None and series is not None:
            number = min(max(series.components.suggested + 1, 2), 8)
        rule = "not-negative" if number and self.settings.rule == "free" else self.settings.rule
        self.change(number=number, rule=rule)

    def from_file(self, path: Path) -> bool:
        """The rows of a file as shapes."""
        from scutcher.files.shape_tables import read_shapes

        series = self.work.series
        if series is None:
            return False
        axis = series.found.treated.axis
        return tried(self.desk, lambda: self.add(*read_shapes(path, axis, axis.ordered)))

    def _ask_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.window, "Shapes, one in each row", "")
        if name:
            self.from_file(Path(name))

    # Out

    def as_columns(self) -> None:
        """Amounts beside the other columns of the table."""
        found, series = self.work.mixture, self.work.series
        if found is None or series is None:
            self.desk.say(InputError("There are no amounts yet.", "Keep shapes first."))
            return
        rows = np.asarray(series.found.usable.rows, dtype=np.intp)
        self.desk.do(AmountsAsColumns(found.names, rows, found.amounts))

    def write_amounts(self, path: Path) -> bool:
        """Every amount with its band as CSV."""
        found, series = self.work.mixture, self.work.series
        if found is None or series is None:
            return False
        text = amounts_text(series.found.treated, found.names, found.amounts, found.low, found.high)
        return write_behind(self.desk, "The amounts are", path, lambda watch: write_text(path, text))

    def write_shapes(self, path: Path) -> bool:
        """Every shape as a row, as `from_file` reads it."""
        found, series = self.work.mixture, self.work.series
        if found is None or series is None:
            return False
        rows = (
            [name, *map(repr, line)] for name, line in zip(found.names, found.shapes.tolist(), strict=True)
        )
        text = csv_text(["shape", *series.found.treated.axis.labels], rows)
        return write_behind(self.desk, "The shapes are", path, lambda watch: write_text(path, text))

    def _ask_write(self, what: str, use: Callable[[Path], object]) -> None:
        ask_path(self.window, f"Write the {what}", f"{what}.csv", "Table (*.csv)", use)
