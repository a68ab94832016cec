"""The Treat page: before, after, and what the chosen step did."""

from __future__ import annotations

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageView


def make(desk: Desk) -> PageView:
    """The view of the page."""
    from scutcher.desk.pages.treat.page import TreatPage

    return TreatPage(desk)


PAGE = Page(
    name="Treat",
    order=20,
    purpose="Work on a treatment: before, after, what it did",
    make=make,
)
