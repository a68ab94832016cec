"""The Inspect page: scores, loadings, residuals and distances together."""

from __future__ import annotations

from typing import TYPE_CHECKING

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageAct

if TYPE_CHECKING:
    from scutcher.desk.pages.inspect.page import InspectPage


def make(desk: Desk) -> InspectPage:
    """The view of the page."""
    from scutcher.desk.pages.inspect.page import InspectPage

    return InspectPage(desk)


ELLIPSE, ARROW = "ellipse, confidence ellipse, hotelling", "biplot, arrow, loadings"

PAGE = Page(
    name="Inspect",
    order=40,
    purpose="Scores, loadings, residuals and distances of the model",
    make=make,
    acts=(
        PageAct(
            "Why are the picked samples far?",
            "Y",
            lambda page: page.questions.why(),
            "contributions, explain",
        ),
        PageAct("The list of new samples", "N", lambda page: page.questions.show_new()),
        PageAct("Rebuild the picked sample", "R", lambda page: page.strips.rebuild_switch.toggle()),
        PageAct("The extremes of a component", "E", lambda page: page.strips.extremes_switch.toggle()),
        PageAct("Class means on or off", "M", lambda page: page.strips.means_switch.toggle()),
        PageAct("Ellipse of each class", "", lambda page: page.score_menu.turn("ellipses", "class"), ELLIPSE),
        PageAct(
            "Ellipse of all samples (T²)", "", lambda page: page.score_menu.turn("ellipses", "all"), ELLIPSE
        ),
        PageAct("Hull of each class", "", lambda page: page.score_menu.turn("hulls", True), "convex hull"),
        PageAct(
            "Variables as arrows on the scores",
            "",
            lambda page: page.score_menu.turn("arrows", True),
            ARROW,
        ),
        PageAct("Replicates joined on the scores", "", lambda page: page.score_menu.turn("replicates", True)),
        PageAct(
            "Distances as if the samples were new, or as fitted",
            "",
            lambda page: page.distances.new_switch.click(),
            "held-out, as new, limits for new samples",
        ),
        PageAct(
            "Limits of T² and Q…",
            "",
            lambda page: page.distances.limit_menu.showMenu(),
            "limit, confidence, coverage",
        ),
    ),
)
