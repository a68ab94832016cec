"""The strips of the Inspect page: signals, loadings and what is left over, and the shade behind them."""

from __future__ import annotations

from dataclasses import replace

from scutcher.charts.channel_shading import shade_of
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart, Shade
from scutcher.charts.residuals import BandMemo, leftover
from scutcher.charts.sample_views import extremes, probe, rebuilt
from scutcher.charts.scores import usable_pair
from scutcher.charts.signals import signals, stage_of
from scutcher.core.errors import InputError
from scutcher.desk.pages.inspect.questions import InspectAsks
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.gestures import attend_strip, how_of
from scutcher.desk.widgets.panel import ChartPanel


class InspectStrips(InspectAsks):
    """The part of the Inspect page along the channel axis."""

    means: bool
    share_kind: str
    signal_kind: str
    shade_kind: str
    probe_at: tuple[float, float] | None
    _shade: Shade | None
    _band: BandMemo

    def _show(self, panel: ChartPanel, view: StripView | PlaneView, chart: Chart) -> None:
        raise NotImplementedError

    def _show_pair(self) -> None:
        raise NotImplementedError

    def _make_strips(self) -> None:
        self.signals_view, self.loadings_view, self.leftover_view = StripView(), StripView(), StripView()
        self.strips = (self.signals_view, self.loadings_view, self.leftover_view)
        self.signals_panel = ChartPanel(self.signals_view, DEFINITIONS["signals"], bottom_title=False)
        self.loadings_panel = ChartPanel(self.loadings_view, DEFINITIONS["loadings"], bottom_title=False)
        self.leftover_panel = ChartPanel(self.leftover_view, DEFINITIONS["leftover"])
        for strip in self.strips:
            strip.setMinimumHeight(60)
            attend_strip(strip, self.desk.selection)
        for strip in self.strips[:2]:
            strip.hide_figures()
            strip.ground.setXLink(self.leftover_view.ground)
        self.means_switch = self.signals_panel.add_switch(
            "class means|One mean per class in place of every sample", self._set_means
        )
        self.rebuild_switch = self.signals_panel.add_switch(
            "rebuild|The picked sample, what the components make of it, and the difference (R)",
            lambda on: self._set_signal("rebuild", on),
        )
        self.extremes_switch = self.signals_panel.add_switch(
            "extremes|The samples at both ends of the level component, and mean ± 2 SD along it (E)",
            lambda on: self._set_signal("extremes", on),
        )
        self.shade_words = self.loadings_panel.add_choices(
            {
                "none": "plain|No shade. Click picks a channel, Shift or Ctrl and a drag a range of them",
                "size": "size|Shade on all strips: how long the loadings of both components are together",
                "group": "groups|Shade on all strips: the blocks of the scaling, or variables with one unit",
            },
            self._set_shade,
        )
        self.loadings_view.pick_channels_by_hand()
        self.loadings_view.channels_picked.connect(
            lambda places, modifiers: self.desk.selection.pick_channels(places, how_of(modifiers))
        )
        self.leftover_panel.add_choices(
            {
                "residual": f"residual|{DEFINITIONS['leftover']}",
                "q": f"Q share|{DEFINITIONS['q_share']}",
                "t2": f"T² share|{DEFINITIONS['t2_share']}",
            },
            self._set_share,
        )
        self.leftover_panel.x_title.clicked.connect(self._name_axis)

    def _show_signals(self) -> None:
        state, found, look = self.desk.moment.state, self._found, self.desk.selection.look
        if self.probe_at is not None and found is not None:
            chart = probe(state, found, usable_pair(found, look.pair), self.probe_at)
        elif self.signal_kind == "rebuild":
            chart = rebuilt(state, found, look.picked)
        elif self.signal_kind == "extremes":
            chart = extremes(state, found, look.pair[0])
        else:
            chart = signals(state, found, stage_of(look.stage, found), self.means)
        self._show(self.signals_panel, self.signals_view, replace(chart, shade=self._shade))

    def _show_leftover(self) -> None:
        look = self.desk.selection.look
        chart = leftover(self.desk.moment.state, self._found, look.picked, self.share_kind, self._band)
        self._show(self.leftover_panel, self.leftover_view, replace(chart, shade=self._shade))
        state = self.desk.moment.state
        ordered = state.table is not None and state.table.axis.ordered
        self.leftover_panel.x_title.set_clickable(ordered)
        self.leftover_panel.x_title.setToolTip("Click to say what the axis is" if ordered else "")

    def _make_shade(self) -> Shade | None:
        if self._found is None:
            return None
        return shade_of(self._found, usable_pair(self._found, self.desk.selection.look.pair), self.shade_kind)

    def choose_shade(self, kind: str) -> None:
        """As if one of its words had been clicked."""
        self.shade_words[kind].click()

    def _set_shade(self, kind: str) -> None:
        """What the shade behind the strips says; one that says nothing here is told."""
        self.shade_kind = kind
        self._shade = self._make_shade()
        if kind == "group" and self._shade is None and self._found is not None:
            words = "These variables are in no blocks and have no units."
            self.desk.say(InputError(words, "Make blocks in the scaling table of the Treat page."))
        self._show_signals()
        self._show_pair()
        self._show_leftover()

    def _set_share(self, kind: str) -> None:
        self.share_kind = kind
        self._show_leftover()

    def _set_means(self, on: bool) -> None:
        self.means = on
        self.refresh()

    def _set_signal(self, kind: str, on: bool) -> None:
        """Rebuilt or extreme samples in place of the data; one at a time."""
        other = {"rebuild": self.extremes_switch, "extremes": self.rebuild_switch}[kind]
        if on:
            other.setChecked(False)
            self.means_switch.setChecked(False)
        self.signal_kind = kind if on else "data"
        self._show_signals()

    def _on_probe(self, at: tuple[float, float] | None) -> None:
        """The probe is somewhere else on the plane."""
        self.probe_at = at
        self._show_signals()
