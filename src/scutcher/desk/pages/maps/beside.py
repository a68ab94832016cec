"""What stands beside the maps: the pixels by their scores, their spectra, what a map is made of, readings."""

from __future__ import annotations

from scutcher.charts.description import Chart
from scutcher.charts.memo import ChartMemo
from scutcher.charts.pixel_spectra import loading_strip, readings, spectra_strip, two_regions
from scutcher.charts.pixels import Subject
from scutcher.desk.context import Desk
from scutcher.desk.pages.maps.pixel_plane import PixelPlane
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.gestures import attend_strip
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.evaluation.pixel_passes import Behind
from scutcher.study.evaluation.whole_image import OnePixel

KINDS = {
    "less": "less mean|Less the mean of all pixels, so that small differences show",
    "plain": "as they are|Treated spectra",
    "two": "two regions|The mean of the pick less that of the pick before, with the SD of pixels",
}


class Beside:
    """Reads the moment and the look; its views tell the selection what hands do on them."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.kind = desk, "less"
        self._memo = ChartMemo()
        self.here: OnePixel | None = None
        self._of_maps: tuple[tuple[Subject, ...], Behind] = ((), Behind())
        self.pixels = PixelPlane(desk)
        self.spectra, self.loading = StripView(), StripView()
        self.spectra_panel = ChartPanel(self.spectra, "Spectra of pixels, treated", bottom_title=False)
        self.kinds = self.spectra_panel.add_choices(KINDS, self._set_kind)
        self.loading_panel = ChartPanel(self.loading, "What the component on the map is made of")
        for strip in (self.spectra, self.loading):
            strip.setMinimumHeight(50)
            attend_strip(strip, desk.selection)
        self.spectra.hide_figures()
        self.spectra.ground.setXLink(self.loading.ground)
        self.table = FiguresTable(["", "cursor", "picked"], (1, 2))

    @property
    def views(self) -> tuple[PlaneView, StripView, StripView]:
        """Everything that draws a chart."""
        return self.pixels.plane, self.spectra, self.loading

    def show_strips(self, subjects: tuple[Subject, ...], behind: Behind) -> None:
        """Spectra, and what the maps of these subjects are made of."""
        self._of_maps = (subjects, behind)
        found, look, state = self.desk.moment.found, self.desk.selection.look, self.desk.moment.state
        hovered = look.hovered if self.kind != "two" else None

        def spectra() -> Chart:
            if self.kind == "two":
                return two_regions(found, look.picked, look.before)
            return spectra_strip(found, look.picked, hovered, self.kind == "less", self.here)

        chart = self._memo.get(
            "spectra", (found, look.picked, look.before, hovered, self.kind, self.here), spectra
        )
        show(self.desk, self.spectra_panel, self.spectra, chart, state)
        inputs = (found and found.model, subjects, behind)
        chart = self._memo.get("loading", inputs, lambda: loading_strip(found, subjects, behind))
        show(self.desk, self.loading_panel, self.loading, chart, state)

    def show_readings(self) -> None:
        """What the pixel under the pointer and the picked ones have."""
        found, look = self.desk.moment.found, self.desk.selection.look
        if found is not None:
            self.table.show_rows(
                readings(found, look.picked, look.hovered, self.desk.moment.state, self.here)
            )
        self.spectra.set_cursor(look.channel)
        self.loading.set_cursor(look.channel)

    def show_here(self, here: OnePixel | None) -> None:
        """The pixel under the cursor as the file has it, or the sample near it again."""
        if here is not self.here:
            self.here = here
            self.show_strips(*self._of_maps)
            self.show_readings()

    def _set_kind(self, kind: str) -> None:
        self.kind = kind
        self.show_strips(*self._of_maps)
