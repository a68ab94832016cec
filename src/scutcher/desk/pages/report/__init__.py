"""The Report page: what leaves the desk, as pages of paper that one can sign."""

from __future__ import annotations

from typing import TYPE_CHECKING

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageAct

if TYPE_CHECKING:
    from scutcher.desk.pages.report.page import ReportPage


def make(desk: Desk) -> ReportPage:
    """The view of the page."""
    from scutcher.desk.pages.report.page import ReportPage

    return ReportPage(desk)


PAGE = Page(
    name="Report",
    order=90,
    purpose="What was found, as pages of paper: sections to choose, remarks, HTML or PDF, signed",
    make=make,
    acts=(
        PageAct("Write the report…", "", lambda page: page.ask_path(), "html, pdf, document, save"),
        PageAct("Print the report…", "Ctrl+P", lambda page: page.ask_printer(), "printer, paper"),
        PageAct("Sign the report…", "", lambda page: page.ask_key(), "signature, ssh key, audit"),
    ),
)
