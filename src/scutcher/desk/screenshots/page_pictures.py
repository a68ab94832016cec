"""The pages that need a demo set of their own, or much done first: Maps, Series, Blocks, Compare, Report."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from scutcher.charts.pixels import Subject
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.treatments import treatment
from scutcher.demo.belt_scan import WIDE
from scutcher.desk.screenshots.taking import at_page, patiently, pictured
from scutcher.study.document.commands.recipe import AddStep, UseRecipe
from scutcher.study.document.commands.report import ReportBy
from scutcher.study.document.report_settings import ReportSettings


def write_maps_picture(folder: Path) -> Path:
    """Draw the Maps page on the belt scan, its belt masked and its strangest object picked."""
    path = folder / "maps.png"
    with pictured("belt-scan", path) as window:
        page = at_page(window, "Maps")
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
        page = at_page(window, "Series")
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
        page = at_page(window, "Blocks")
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
        page = at_page(window, "Report")
        patiently(lambda: page.work.made is not None and not page.work.busy)
    return path


PAGES = (
    write_maps_picture,
    write_series_picture,
    write_blocks_picture,
    write_compare_picture,
    write_report_picture,
)
"""Each writes one PNG into a folder and says which."""
