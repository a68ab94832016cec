"""The Maps page: samples that are pixels, as pictures; objects found, explained and picked."""

from __future__ import annotations

from typing import TYPE_CHECKING

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageAct
from scutcher.study.evaluation.pixels import pixel_grid
from scutcher.study.moment import Moment

if TYPE_CHECKING:
    from scutcher.desk.pages.maps.page import MapsPage


def make(desk: Desk) -> MapsPage:
    """The view of the page."""
    from scutcher.desk.pages.maps.page import MapsPage

    return MapsPage(desk)


def has_pixels(moment: Moment) -> bool:
    """Whether two columns say where on a picture the samples lie."""
    return pixel_grid(moment.state.table) is not None


PAGE = Page(
    name="Maps",
    order=60,
    purpose="Samples that are pixels, as pictures: what lies where, what is strange, and why",
    make=make,
    suits=has_pixels,
    begins=has_pixels,
    acts=(
        PageAct(
            "Pick the strangest object",
            "Shift+O",
            lambda page: page.pick_object(),
            "outlier, foreign body, area, region, flagged",
        ),
        PageAct(
            "Mask pixels outside the range of the map",
            "Shift+M",
            lambda page: page.masking.outside(),
            "threshold, background, belt, leave out",
        ),
        PageAct(
            "Mask the picked pixels",
            "Ctrl+Shift+M",
            lambda page: page.masking.picked(),
            "region, leave out, exclude, background",
        ),
        PageAct(
            "Pick all other pixels",
            "Shift+I",
            lambda page: page.pick_others(),
            "invert, not, complement",
        ),
        PageAct(
            "Picked pixels as a data set of their own",
            "",
            lambda page: page.picked_apart(),
            "region, crop, cut out, new table",
        ),
        PageAct(
            "Components by smoothness",
            "",
            lambda page: page.show_kind("smooth"),
            "maximum autocorrelation, MAF, noise fraction, MNF, spatial",
        ),
        PageAct(
            "Order components by smoothness, or by variance",
            "",
            lambda page: page.wall.order_by_smoothness(not page.wall.by_smoothness),
            "maximum autocorrelation, MAF, kind of model",
        ),
        PageAct(
            "Groups of pixels",
            "",
            lambda page: page.show_kind("groups"),
            "cluster, k-means, segmentation",
        ),
    ),
)
