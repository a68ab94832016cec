"""The main views on the lots of an intake, one after the other in one window."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from scutcher.charts.overlays import Overlays
from scutcher.core.treatments import treatment
from scutcher.core.validation.evidence import KEYS
from scutcher.demo.sets import demo_set, write_demo_sets
from scutcher.desk.actions.add_treatment import suggested
from scutcher.desk.screenshots.taking import at_page, patiently, save_picture, window_on
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.recipe import AddStep, KeepComponents
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study


def write_pictures(study: Study, folder: Path) -> list[Path]:
    """Draw the main views of a demo study, each as one PNG of 1280 × 800."""
    window = window_on(study)
    written = []
    with tempfile.TemporaryDirectory() as scratch:
        for name, prepare in Walk(window, Path(scratch)).views().items():
            prepare()
            written.append(folder / f"{name}.png")
            save_picture(window, written[-1])
    dispose(window)
    return written


class Walk:
    """Brings up one view after the other; each begins where the one before has ended.

    `scratch` is a folder for files.
    """

    def __init__(self, window: Window, scratch: Path) -> None:
        self.window, self.scratch, self.selection = window, scratch, window.desk.selection
        table = window.desk.study.state.table
        assert table is not None
        self.ids = list(table.ids)

    def views(self) -> dict[str, Callable[[], object]]:
        """By name, each with what brings it up, in this order."""
        return {
            "treat": self.treat,
            "rank": self.rank,
            "try-several": self.trying,
            "groups": partial(self.groups, "labelled"),
            "groups-found": partial(self.groups, "found"),
            "groups-models": partial(self.groups, "models"),
            "new-samples": self.new_samples,
            "pairs": self.pairs,
            "rebuilds": self.rebuilds,
            "samples": partial(self.show, "Samples", ["L42-3"]),
            "inspect": partial(self.show, "Inspect", []),
            "inspect-picked": self.inspect_picked,
            "find": self.find,
            "columns": self.columns,
        }

    def rows(self, names: list[str]) -> list[int]:
        """The rows of some samples."""
        return [row for row, name in enumerate(self.ids) if name in names]

    def show(self, page: str, names: list[str]) -> None:
        """A page with some samples picked."""
        self.window.show_page(page)
        self.selection.pick(self.rows(names))

    def treat(self) -> None:
        """A second treatment, and what comes of it."""
        found = self.window.desk.moment.found
        assert found is not None
        self.window.desk.do(AddStep("savitzky-golay", suggested(treatment("savitzky-golay"), found.treated)))
        self.window.show_page("Treat")
        self.selection.change(stage=2, channel=None)
        page: Any = self.window.view("Treat")
        patiently(lambda: page.without.q2 is not None and self.window.desk.moment.checked is not None)

    def rank(self) -> None:
        """All lines of evidence."""
        self.window.undo()
        self.selection.change(stage=None)
        self.window.show_page("Rank")

        def complete() -> bool:
            checked = self.window.desk.moment.checked
            return checked is not None and len(checked.lines) == len(KEYS)

        patiently(complete)

    def trying(self) -> None:
        """Several treatments beside each other, those that hold the classes apart first."""
        self.window.papers.try_several()
        page: Any = self.window.stack.over
        patiently(lambda: len(page.outcomes) == 15)
        page.sort.setCurrentText("classes apart")
        page._lay()

    def groups(self, mode: str) -> None:
        """One of the three modes of Groups, the planted outliers set aside."""
        self.window.stack.hide_over()
        if mode == "labelled":
            planted = [
                row for row, name in enumerate(self.ids) if name[:3] in ("L17", "L30") or name == "L42-3"
            ]
            self.window.desk.do(SetAside(tuple(planted), "wet, oily, a spike"))
            self.window.desk.do(KeepComponents(5))
        page = at_page(self.window, "Groups")
        page.show_mode(mode)

        def held() -> Any:
            return page.labelled.judging.held

        done: dict[str, Callable[[], bool]] = {
            "labelled": lambda: (
                held() is not None
                and held().p_value is not None
                and self.window.desk.moment.checked is not None
            ),
            "found": lambda: page.found.judged is not None,
            "models": lambda: page.models.found is not None,
        }
        patiently(done[mode])
        if mode == "models":  # few far samples would widen the limits of their classes
            before = page.models.found
            page.models.robust.click()
            patiently(lambda: page.models.found not in (None, before))

    def new_samples(self) -> None:
        """The lots that came later, on the model of the former."""
        for _ in range(3):
            self.window.undo()
        self.window.stack.hide_over()
        self.window.show_page("Inspect")
        self._inspect.score_menu.take(Overlays(ellipses="class"))
        self.window.desk.live.bring(demo_set("new-lots")[0])
        self.window.papers.show_new()

    def pairs(self) -> None:
        """Every pair of components."""
        self.window.clear()
        self.window.desk.live.bring(None)
        self._inspect.score_menu.take(Overlays())
        self.window.papers.show_space("pairs")

    def rebuilds(self) -> None:
        """Three samples put together from their components."""
        self.selection.pick(self.rows(["L05-1", "L17-1", "L42-1"]))
        self.window.papers.show_space("rebuilds")

    def inspect_picked(self) -> None:
        """Two strangers, at the channel that sets them apart."""
        self._inspect.strips.choose_shade("size")
        self.selection.pick(self.rows(["L30-2", "L17-1"]))
        self.selection.change(channel=2012.0)

    def find(self) -> None:
        """What the search field finds."""
        self._inspect.strips.choose_shade("none")
        self.window.stack.hide_over()
        self.selection.pick(())
        self.selection.change(channel=None)
        self.window.topbar.search.setText("co")
        self.window.topbar.search.look_up()

    def columns(self) -> None:
        """What each column of a file is."""
        self.window.topbar.search.leave()
        self.window.opening.open_files(write_demo_sets(self.scratch)[:1], adding=True)
        patiently(lambda: not self.window.opening.reading.busy)
        self.window.papers.show_columns()
        shown: Any = self.window.stack.over
        patiently(lambda: not shown.busy)

    @property
    def _inspect(self) -> Any:
        return self.window.view("Inspect")
