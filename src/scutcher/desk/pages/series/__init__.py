"""The Series page: samples in an order, what changes, when, into what, and how much of each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageAct
from scutcher.study.evaluation.orders import layout_of_state
from scutcher.study.moment import Moment

if TYPE_CHECKING:
    from scutcher.desk.pages.series.page import SeriesPage


def make(desk: Desk) -> SeriesPage:
    """The view of the page."""
    from scutcher.desk.pages.series.page import SeriesPage

    return SeriesPage(desk)


def has_order(moment: Moment) -> bool:
    """Whether a column says in which order the samples came, or it was said that they follow each other."""
    return layout_of_state(moment.state) is not None


PAGE = Page(
    name="Series",
    order=65,
    purpose="Samples in time or depth: what changes, when, into what, and how much of each",
    make=make,
    suits=has_order,
    acts=(
        PageAct(
            "Go to the best pair",
            "Shift+G",
            lambda page: page.go_to_best(),
            "difference, reference, likeness, all pairs",
        ),
        PageAct(
            "Keep a and b as shapes",
            "Shift+K",
            lambda page: page.shapes.keep_both(),
            "pure spectrum, component, end member, state, linear combination fit",
        ),
        PageAct(
            "Keep a − b as a shape",
            "",
            lambda page: page.shapes.keep_difference(),
            "difference spectrum, transient",
        ),
        PageAct(
            "Find shapes without references",
            "",
            lambda page: page.shapes.find(None),
            "unmix, curve resolution, MCR-ALS, alternating least squares, end members",
        ),
        PageAct(
            "Rebuild from the components that go along the order",
            "",
            lambda page: page.rebuild(),
            "denoise, clean, filter by components",
        ),
        PageAct(
            "Watch the samples from a on",
            "",
            lambda page: page.watch_from_a(),
            "process, monitor, limits in time, new samples",
        ),
        PageAct(
            "Two variables against each other, in time order",
            "",
            lambda page: page.show_two_variables(),
            "raw variables, trajectory, scatter, sensors",
        ),
    ),
)
