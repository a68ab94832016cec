"""The demo without a display: the main views as PNG, the tables and a one-screen summary in a folder."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QApplication

from scutcher.charts.overlays import Overlays
from scutcher.charts.pixels import Subject
from scutcher.core.errors import FileError
from scutcher.core.models.pca.component_model import explained
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.treatments import treatment
from scutcher.core.validation.evidence import KEYS
from scutcher.core.words import count_of
from scutcher.demo.belt_scan import WIDE
from scutcher.demo.sets import demo_set, write_demo_sets
from scutcher.desk.actions.add_treatment import suggested
from scutcher.desk.pages.guide import whole_guide
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.files.safely import make_folder, write_text
from scutcher.study.document.commands.recipe import AddStep, KeepComponents, UseRecipe
from scutcher.study.document.commands.report import ReportBy
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.report_settings import ReportSettings
from scutcher.study.document.study import Study
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.results.fit_results import write_fit

SIZE = (1280, 800)


def write_gallery(name: str, folder: Path) -> int:
    """Write pictures, tables and a summary of a demo set into a folder, and say where.

    Raises
    ------
    InputError
        There is no such demo set, or the folder cannot be written to.
    """
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    make_folder(folder)
    from scutcher.study.evaluation.checks import check
    from scutcher.study.evaluation.evaluator import Evaluator

    state = demo_study(name).state
    assert state.table is not None
    start = time.perf_counter()
    found = Evaluator().evaluate(state.table, state.recipe)
    seconds = time.perf_counter() - start
    tables = write_fit(folder, found, check(found), seconds, full=False)
    pictures = write_pictures(demo_study(name), folder)
    text = summary_text(found)
    write_text(folder / "summary.txt", text)
    print(text)
    for path in [*pictures, *tables, folder / "summary.txt"]:
        print(path)
    return 0


def write_pictures(study: Study, folder: Path) -> list[Path]:
    """Draw the main views of a demo study, each as one PNG of 1280 × 800."""
    application()
    window = Window(study)
    window.trail.hints.forbid()
    window.resize(*SIZE)
    window.show()
    written = []
    with tempfile.TemporaryDirectory() as scratch:
        for name, prepare in views(window, scratch).items():
            prepare()
            written.append(folder / f"{name}.png")
            save_picture(window, written[-1])
    dispose(window)
    return written


@contextmanager
def pictured(demo: str, path: Path) -> Iterator[Window]:
    """The window on a demo study, whose picture is written at the end."""
    application()
    window = Window(demo_study(demo))
    window.trail.hints.forbid()
    window.resize(*SIZE)
    window.show()
    patiently(lambda: window.desk.moment.found is not None)
    yield window
    patiently(lambda: window.desk.moment.checked is not None)
    save_picture(window, path)
    dispose(window)


def save_picture(window: Window, path: Path) -> None:
    """The window as it is once everything has settled.

    Raises
    ------
    FileError
    """
    for _ in range(6):
        QApplication.processEvents()
    if not window.grab().save(str(path)):
        raise FileError(f"{path} cannot be written.", "Choose another folder.")


def write_maps_picture(folder: Path) -> Path:
    """Draw the Maps page on the belt scan, its belt masked and its strangest object picked."""
    path = folder / "maps.png"
    with pictured("belt-scan", path) as window:
        window.show_page("Maps")
        page: Any = window.view("Maps")
        page.wall.choose_subject(0, Subject("raw", (1300.0,)))
        page.wall.set_range(0.0, 0.455)
        page.masking.outside()
        page.wall.choose_subject(0, Subject("score", (0.0,)))
        patiently(lambda: bool(page.objects))
        page.pick_object()
        window.desk.selection.change(hovered=33 * WIDE + 21)
    return path


def write_series_picture(folder: Path) -> Path:
    """Draw the Series page on the lot that dries, aligned, b before the third change begins."""
    path = folder / "series.png"
    with pictured("drying", path) as window:
        how = treatment("shift-to-peak").parameters(position=1386.0, half_width=10.0)
        window.desk.do(AddStep("shift-to-peak", how))
        patiently(lambda: not window.desk.live.busy and window.desk.moment.found is not None)
        window.show_page("Series")
        page: Any = window.view("Series")
        page.put_handle(1, 76.0)
        page.shapes.keep_both()
        window.desk.selection.change(channel=1512.0)
        page.references.want_peak()
        patiently(lambda: page.work.windows is not None and page.work.pairs is not None)
    return path


def write_blocks_picture(folder: Path) -> Path:
    """Draw the Blocks page on three tables of the same lots."""
    path = folder / "blocks.png"
    with pictured("three-tables", path) as window:
        window.show_page("Blocks")
        page: Any = window.view("Blocks")
        patiently(lambda: page.checked is not None)
    return path


def write_compare_picture(folder: Path) -> Path:
    """Draw two treatments of the lots side by side, the wet lot picked."""
    path = folder / "compare.png"
    with pictured("intake-nir", path) as window:
        for method, name in (("snv", "SNV"), ("extended-msc", "extended MSC")):
            plain = {"treat": [{"method": method}], "model": {"components": 5}}
            window.desk.do(UseRecipe(recipe_from_plain(plain), name))
            patiently(lambda: not window.desk.live.busy and window.desk.moment.found is not None)
            if method == "snv":
                window.trail.shelf.put()
        window.papers.side_by_side()
        page: Any = window.stack.over
        patiently(lambda: page.work.compared is not None and not page.work.checking)
        page.refresh()
    return path


def write_report_picture(folder: Path) -> Path:
    """Draw the Report page: the pages of the lots, with a question and an author."""
    path = folder / "report.png"
    with pictured("intake-nir", path) as window:
        patiently(lambda: window.desk.live.checking is None and window.desk.moment.checked is not None)
        asked = "Do the lots of this season differ by retting, and which do not belong?"
        window.desk.do(ReportBy(ReportSettings(author="M. Aster, intake laboratory", question=asked)))
        window.show_page("Report")
        page: Any = window.view("Report")
        patiently(lambda: page.work.made is not None and not page.work.busy)
    return path


def patiently(true: Callable[[], bool], seconds: float = 60.0) -> None:
    """Wait for something that is computed behind."""
    end = time.monotonic() + seconds
    while not true() and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)


def views(window: Window, scratch: str) -> dict[str, Callable[[], object]]:
    """The main views by name, each with what brings it up, in this order; `scratch` is a folder for files."""
    table = window.desk.study.state.table
    assert table is not None
    selection = window.desk.selection
    strangers = [row for row, name in enumerate(table.ids) if name in ("L30-2", "L17-1")]

    def columns() -> None:
        window.topbar.search.leave()
        window.opening.open_files(write_demo_sets(Path(scratch))[:1], adding=True)
        patiently(lambda: not window.opening.reading.busy)
        window.papers.show_columns()
        shown: Any = window.stack.over
        patiently(lambda: not shown.busy)

    def inspect() -> Any:
        return window.view("Inspect")

    spiked = [row for row, name in enumerate(table.ids) if name == "L42-3"]

    def show(page: str, rows: list[int]) -> None:
        window.show_page(page)
        selection.pick(rows)

    def find() -> None:
        selection.pick(())
        selection.change(channel=None)
        window.topbar.search.setText("co")
        window.topbar.search.look_up()

    def treat() -> None:
        found = window.desk.moment.found
        assert found is not None
        window.desk.do(AddStep("savitzky-golay", suggested(treatment("savitzky-golay"), found.treated)))
        window.show_page("Treat")
        selection.change(stage=2, channel=None)
        page: Any = window.view("Treat")
        patiently(lambda: page.without.q2 is not None and window.desk.moment.checked is not None)

    def rank() -> None:
        window.undo()
        selection.change(stage=None)
        window.show_page("Rank")
        patiently(
            lambda: (
                window.desk.moment.checked is not None and len(window.desk.moment.checked.lines) == len(KEYS)
            )
        )

    def trying() -> None:
        window.papers.try_several()
        page: Any = window.stack.over
        patiently(lambda: len(page.outcomes) == 15)
        page.sort.setCurrentText("classes apart")
        page._lay()

    def groups(mode: str) -> None:
        window.stack.hide_over()
        ids = list(table.ids)
        if mode == "labelled":
            planted = [row for row, name in enumerate(ids) if name[:3] in ("L17", "L30") or name == "L42-3"]
            window.desk.do(SetAside(tuple(planted), "wet, oily, a spike"))
            window.desk.do(KeepComponents(5))
        window.show_page("Groups")
        page: Any = window.view("Groups")
        page.show_mode(mode)
        done = {
            "labelled": lambda: (
                page.labelled.judging.held is not None and page.labelled.judging.held.p_value is not None
            ),
            "found": lambda: page.found.judged is not None,
            "models": lambda: page.models.found is not None,
        }
        patiently(done[mode])
        if mode == "models":  # few far samples would widen the limits of their classes
            before = page.models.found
            page.models.robust.click()
            patiently(lambda: page.models.found not in (None, before))

    def as_before() -> None:
        for _ in range(3):
            window.undo()

    def new_samples() -> None:
        as_before()
        window.stack.hide_over()
        window.show_page("Inspect")
        inspect().score_menu.take(Overlays(ellipses="class"))
        window.desk.live.bring(demo_set("new-lots")[0])
        window.papers.show_new()

    def pairs() -> None:
        window.clear()
        window.desk.live.bring(None)
        inspect().score_menu.take(Overlays())
        window.papers.show_space("pairs")

    def rebuilds() -> None:
        selection.pick([row for row, name in enumerate(table.ids) if name in ("L05-1", "L17-1", "L42-1")])
        window.papers.show_space("rebuilds")

    def inspect_picked() -> None:
        inspect().strips.choose_shade("size")
        selection.pick(strangers)
        selection.change(channel=2012.0)

    def find_again() -> None:
        inspect().strips.choose_shade("none")
        window.stack.hide_over()
        find()

    return {
        "treat": treat,
        "rank": rank,
        "try-several": trying,
        "groups": partial(groups, "labelled"),
        "groups-found": partial(groups, "found"),
        "groups-models": partial(groups, "models"),
        "new-samples": new_samples,
        "pairs": pairs,
        "rebuilds": rebuilds,
        "samples": partial(show, "Samples", spiked),
        "inspect": partial(show, "Inspect", []),
        "inspect-picked": inspect_picked,
        "find": find_again,
        "columns": columns,
    }


def summary_text(found: Evaluation) -> str:
    """One screen of text: what was modelled, what it explains, who is far."""
    model, table = found.model, found.table
    shares = explained(found.decomposition)
    ids = [table.ids[row] for row in found.usable.rows]
    lines = [
        f"Scutcher: {table.name}, {table.shape[0]} samples × {table.shape[1]} variables",
        f"treatments: {', '.join(step.method for step in found.recipe.treat if step.on) or 'none'}; "
        f"centre {found.scaling.centre}, scale {found.scaling.method}",
        f"left out: {count_of(found.usable.left_out_rows)}, "
        f"{count_of(found.usable.left_out_columns, 'variable')}",
        f"{model.k} of {found.decomposition.most} components, R² {shares[: model.k].sum():.4f}",
        "",
        "component  share   cumulative",
    ]
    total = 0.0
    for component in range(model.k):
        total += float(shares[component])
        lines.append(f"{component + 1:>9}  {shares[component]:6.3f}  {total:10.3f}")
    for word, distances, limit in (("T²", model.t2, model.t2_limit), ("Q", model.q, model.q_limit)):
        past = model.past(distances, limit)
        if past is None or limit.value is None:
            lines.append(f"\n{word}: {limit.reason}")
            continue
        worst = sorted(((distances[row], ids[row]) for row in past.nonzero()[0]), reverse=True)
        named = ", ".join(f"{name} ({value / limit.value:.1f} ×)" for value, name in worst[:8])
        lines.append(
            f"\n{word} past its {100 * limit.level:g} % limit ({limit.value:.4g}): {named or 'none'}"
        )
    return "\n".join(lines) + "\n"


def main() -> int:
    """Draw the main views of the demo into the folder named on the command line."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots")
    make_folder(folder)
    for path in [
        *write_pictures(demo_study("intake-nir"), folder),
        write_maps_picture(folder),
        write_series_picture(folder),
        write_blocks_picture(folder),
        write_compare_picture(folder),
        write_report_picture(folder),
    ]:
        print(path)
    write_text(folder.parent / "guide.md", guide_text())
    return 0


def guide_text() -> str:
    """The guide as it stands in the docs."""
    application()
    window = Window(Study())
    whole = whole_guide(window.papers.keys())
    dispose(window)
    return whole


if __name__ == "__main__":
    sys.exit(main())
