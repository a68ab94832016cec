"""The Blocks page: several tables on the same samples, what they say together and who disagrees."""

from __future__ import annotations

from typing import TYPE_CHECKING

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageAct
from scutcher.study.document.state import has_several_tables
from scutcher.study.moment import Moment

if TYPE_CHECKING:
    from scutcher.desk.pages.blocks.page import BlocksPage


def make(desk: Desk) -> BlocksPage:
    """The view of the page."""
    from scutcher.desk.pages.blocks.page import BlocksPage

    return BlocksPage(desk)


def has_tables(moment: Moment) -> bool:
    """Whether the study has two tables or more."""
    return has_several_tables(moment.state)


PAGE = Page(
    name="Blocks",
    order=70,
    purpose="Several tables on the same samples: what they share, what is of one alone, who disagrees",
    make=make,
    suits=has_tables,
    acts=(
        PageAct(
            "Pick the sample on which the tables disagree most",
            "Shift+J",
            lambda page: page.pick_first(),
            "outlier, mismatch, swapped, inconsistent",
        ),
        PageAct(
            "Save the model of these tables (model.json)…",
            "",
            lambda page: page.ask_save(),
            "export, new samples, apply",
        ),
        PageAct(
            "Samples follow each other: allow for drift",
            "",
            lambda page: page.choices.change(series=not page.choices.settings.series),
            "autocorrelation, time series",
        ),
    ),
)
