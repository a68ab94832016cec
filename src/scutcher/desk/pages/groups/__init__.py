"""The Groups page: which classes differ, by how much, where, and whether it holds."""

from __future__ import annotations

from typing import TYPE_CHECKING

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageAct

if TYPE_CHECKING:
    from scutcher.desk.pages.groups.page import GroupsPage


def make(desk: Desk) -> GroupsPage:
    """The view of the page."""
    from scutcher.desk.pages.groups.page import GroupsPage

    return GroupsPage(desk)


PAGE = Page(
    name="Groups",
    order=50,
    purpose="Which classes differ, by how much, where, and whether it holds for left-out samples",
    make=make,
    acts=(
        PageAct(
            "Pick the samples with doubtful labels",
            "Shift+D",
            lambda page: page.labelled.pick_doubtful(),
            "mislabelled, wrong class, label, swapped",
        ),
        PageAct(
            "Classes as labelled",
            "",
            lambda page: page.show_mode("labelled"),
            "confusion, mixed up, distance, dendrogram, mahalanobis, discriminant, knn, neighbours",
        ),
        PageAct(
            "Find groups without labels",
            "",
            lambda page: page.show_mode("found"),
            "cluster, k-means, ward, dendrogram, gap statistic, silhouette",
        ),
        PageAct(
            "One model per class",
            "",
            lambda page: page.show_mode("models"),
            "class models, disjoint, sensitivity, specificity, membership, discriminating power",
        ),
    ),
)
