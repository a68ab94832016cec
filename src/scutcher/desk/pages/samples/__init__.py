"""The Samples page: signals as brought in, the roster, the variables."""

from __future__ import annotations

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageView


def make(desk: Desk) -> PageView:
    """The view of the page."""
    from scutcher.desk.pages.samples.page import SamplesPage

    return SamplesPage(desk)


PAGE = Page(
    name="Samples",
    order=10,
    purpose="The signals as brought in, every sample and every variable",
    make=make,
)
