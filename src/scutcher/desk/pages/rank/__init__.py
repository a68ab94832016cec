"""The Rank page: how many components, and the evidence for it."""

from __future__ import annotations

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageView


def make(desk: Desk) -> PageView:
    """The view of the page."""
    from scutcher.desk.pages.rank.page import RankPage

    return RankPage(desk)


PAGE = Page(
    name="Rank",
    order=30,
    purpose="How many components, and the evidence for it",
    make=make,
)
