"""What leaves the window from its charts and tables: numbers, pictures, figures."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtWidgets import QApplication, QMenu, QTableView, QWidget

from scutcher.charts.description import Chart
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.figure import Figure
from scutcher.charts.printing import in_three_forms
from scutcher.charts.whole_numbers import Whole
from scutcher.core.errors import InputError
from scutcher.desk.actions.action import Entry
from scutcher.desk.actions.clipboard import copy_forms, copy_table
from scutcher.desk.actions.outcome import ask_path, write_behind
from scutcher.desk.actions.save_figure import SaveFigure
from scutcher.desk.context import Desk
from scutcher.desk.widgets.shown_tables import Numbers, TellsNumbers, has_selected, numbers_of
from scutcher.files.writing import write_numbers

OF_CHARTS = "Charts on this page"
TABLES = "CSV (*.csv);;XLSX (*.xlsx);;HDF5 (*.h5)"
MOST_NAMES = 40  # beside the marks of a figure
HEAVY = 300_000  # points of lines, from which drawings on the clipboard have them as dots


class ChartsOut:
    """Copies and writes what is on screen.

    Parameters
    ----------
    charts : the charts on the page that is shown
    ask_data : asks where the data of the chosen knot go
    """

    def __init__(
        self, desk: Desk, window: QWidget, charts: Callable[[], list[Chart]], ask_data: Callable[[], object]
    ) -> None:
        self.desk, self.window = desk, window
        self.charts, self._ask_data = charts, ask_data

    def write_numbers(self, chart: Chart, path: Path) -> bool:
        """Write the numbers behind a chart."""
        return self._written(chart.numbers, path)

    def copy_numbers(self, chart: Chart) -> None:
        """Put the numbers behind a chart on the clipboard, for a spreadsheet."""
        header, rows = chart.numbers()
        table: list[list[object]] = [list(header), *rows]
        copy_table(table)

    def chart_entries(self, charts: Callable[[], Iterable[Chart]]) -> Callable[[], Iterable[Entry]]:
        """What the search field finds for the charts on screen."""

        def entries() -> Iterable[Entry]:
            for chart in charts():
                title = chart.title.lower()
                for words, act in (
                    (f"Copy the numbers of {title}", self.copy_numbers),
                    (f"Write the numbers of {title}…", self._ask_numbers),
                    (f"Copy the picture of {title}", self.copy_picture),
                    (f"Save the figure of {title}…", self.figure),
                ):
                    yield Entry(words, "action", partial(act, chart), about=OF_CHARTS)
                if chart.whole is not None:
                    for words, run in (
                        (f"Copy all components of {title}", partial(self._copy_whole, chart.whole)),
                        (f"Write all components of {title}…", partial(self._ask_whole, chart.whole)),
                    ):
                        yield Entry(words, "action", run, about=OF_CHARTS)

        return entries

    def _copy_whole(self, whole: Whole) -> None:
        header, rows = whole()
        copy_table([header, *rows])

    def _ask_whole(self, whole: Whole) -> None:
        self._ask_path("Write all components", TABLES, partial(self.write_whole, whole))

    def write_whole(self, whole: Whole, path: Path) -> bool:
        """Write the numbers of all components."""
        return self._written(whole, path)

    def copy_picture(self, chart: Chart) -> None:
        """Put a chart on the clipboard: as a picture, and as drawings (SVG, PDF); it is drawn behind."""
        heavy = chart.lines is not None and chart.lines.ys.size > HEAVY
        figure = Figure(width=150.0, height=90.0, dots=200, legend=self.legend_of(chart), light=heavy)

        def done(answer: tuple[bytes, bytes, bytes] | Exception) -> None:
            if isinstance(answer, Exception):
                raise answer
            copy_forms(*answer)
            self.desk.say(InputError(f"The picture of {chart.title.lower()} is on the clipboard.", ""))

        self.desk.live.ask("copied picture", None, lambda watch: in_three_forms(chart, figure, watch), done)

    def legend_of(self, chart: Chart) -> tuple[tuple[int, str], ...]:
        """The classes of a chart of samples, for a printed figure."""
        return () if chart.marks is None else colouring_of(self.desk.study.state).named()[:8]

    def names_of(self, chart: Chart) -> tuple[tuple[float, float, str], ...]:
        """The names that stand on screen beside marks: of the picked samples, and those that always do."""
        marks = chart.marks
        if marks is None:
            return ()
        picked = np.isin(marks.keys, self.desk.selection.look.picked)
        always = np.array([bool(name) and not name.startswith("\0") for name in chart.labels], dtype=bool)
        wanted = picked | always if len(always) == len(picked) else picked
        names = chart.labels if len(chart.labels) == len(marks.keys) else marks.names
        places = np.flatnonzero(wanted)[:MOST_NAMES].tolist()
        return tuple((float(marks.x[p]), float(marks.y[p]), names[p].removeprefix("\0")) for p in places)

    def figure(self, chart: Chart) -> SaveFigure:
        """Ask how a figure is to look, and where it goes."""
        beside = [other for other in self.charts() if not other.is_blank]
        paper = SaveFigure(self.window, self.desk, chart, self.legend_of(chart), beside, self.names_of(chart))
        paper.open_at(self.window, above=False)
        return paper

    def menu_of(self, chart: Chart, parent: QWidget) -> QMenu:
        """What can be done with a chart, for its context menu: the same as the search field finds."""
        menu = QMenu(parent)
        for entry in self.chart_entries(lambda: [chart])():
            menu.addAction(entry.words).triggered.connect(lambda _=False, run=entry.run: run())
        menu.addSeparator()
        menu.addAction("Write the data of this knot…").triggered.connect(lambda _=False: self._ask_data())
        return menu

    def menu_of_numbers(self, parent: QWidget, source: QTableView | TellsNumbers) -> QMenu:
        """What can be done with a table, or with a view that tells its numbers."""
        menu = QMenu(parent)
        menu.aboutToHide.connect(menu.deleteLater)

        def add(words: str, act: Callable[[], object]) -> None:
            menu.addAction(words).triggered.connect(lambda _=False: act())

        add("Copy the table", lambda: self._copy_shown(source))
        if has_selected(source):
            add("Copy the selected rows", lambda: self._copy_shown(source, selected=True))
        add("Write the table…", lambda: self._ask_shown(source))
        add("Copy as a picture", lambda: QApplication.clipboard().setPixmap(parent.grab()))
        return menu

    def _copy_shown(self, source: QTableView | TellsNumbers, selected: bool = False) -> None:
        header, rows = numbers_of(source, selected)
        copy_table([header, *rows])

    def _ask_shown(self, source: QTableView | TellsNumbers) -> None:
        self._ask_path("Write the table", TABLES, lambda path: self.write_shown(source, path))

    def write_shown(self, source: QTableView | TellsNumbers, path: Path) -> bool:
        """Write a table as it stands on screen, numbers to the last digit."""
        numbers = numbers_of(source)  # of a widget: here, not behind
        return self._written(lambda: numbers, path)

    def _written(self, numbers: Callable[[], Numbers], path: Path) -> bool:
        return write_behind(self.desk, "The table is", path, lambda watch: write_numbers(*numbers(), path))

    def _ask_numbers(self, chart: Chart) -> None:
        self._ask_path(f"Write the numbers of {chart.title}", TABLES, partial(self.write_numbers, chart))

    def _ask_path(self, title: str, kinds: str, use: Callable[[Path], object]) -> None:
        ask_path(self.window, title, "", kinds, use)
