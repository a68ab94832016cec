"""The strips of the Inspect page: signals, loadings and residuals along the channels."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
from PySide6.QtWidgets import QMenu

from scutcher.charts import colours
from scutcher.charts.channel_shading import shade_of
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart, Shade
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.loadings import loadings
from scutcher.charts.memo import ChartMemo
from scutcher.charts.residuals import (
    Usual,
    leftover,
    picked_group,
    reference_rows,
    unknown_range,
    usual_range,
)
from scutcher.charts.sample_views import extremes, probe, rebuilt
from scutcher.charts.scores import usable_pair
from scutcher.charts.signals import signals, stage_of, stage_source
from scutcher.charts.words import with_minus
from scutcher.core.distances.contributions import DRAWS
from scutcher.core.errors import InputError
from scutcher.core.words import shown
from scutcher.desk.context import Desk
from scutcher.desk.deferred import InTurns
from scutcher.desk.kept_behind import Behind
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.axis_units import AXES
from scutcher.desk.widgets.gestures import attend_strip, how_of
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.desk.words import escaped
from scutcher.study.document.commands.data import NameAxis
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.stability import stability_of

AT_ONCE = 1_500_000
"""Values that a normal range rests on, up to which it takes less than a frame."""


class InspectStrips:
    """What runs along the channel axis; `refresh` draws it as the moment is."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.means = False
        self.share_kind, self.signal_kind, self.shade_kind = "residual", "data", "none"
        self.probe_at: tuple[float, float] | None = None
        self.shade: Shade | None = None
        self._memo = ChartMemo()
        self._range = Behind[Usual](desk, "normal range", self.show_leftover)

    # What is on the strips

    def build(self) -> Iterator[None]:
        """Part by part, as a page is made."""
        self.signals_view, self.loadings_view = StripView(), StripView()
        yield
        self.leftover_view = StripView()
        self._make_panels()
        yield
        self._make_choices()

    def _make_panels(self) -> None:
        self.views = (self.signals_view, self.loadings_view, self.leftover_view)
        self.signals_panel = ChartPanel(self.signals_view, DEFINITIONS["signals"], bottom_title=False)
        self.signals_panel.readout.show()
        self._turns = InTurns(self.signals_panel)
        self.loadings_panel = ChartPanel(self.loadings_view, DEFINITIONS["loadings"], bottom_title=False)
        self.leftover_panel = ChartPanel(self.leftover_view, DEFINITIONS["leftover"])
        for strip in self.views:
            strip.setMinimumHeight(60)
            attend_strip(strip, self.desk.selection)
        for strip in self.views[:2]:
            strip.hide_figures()
            strip.ground.setXLink(self.leftover_view.ground)
        self.loadings_view.pick_channels_by_hand()
        self.loadings_view.channels_picked.connect(
            lambda places, modifiers: self.desk.selection.pick_channels(places, how_of(modifiers))
        )
        self.leftover_panel.x_title.clicked.connect(self._name_axis)

    def _make_choices(self) -> None:
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
        self.leftover_panel.add_choices(
            {
                "residual": f"residual|{DEFINITIONS['leftover']}",
                "q": f"Q share|{DEFINITIONS['q_share']}",
                "t2": f"T² share|{DEFINITIONS['t2_share']}",
            },
            self._set_share,
        )

    # From the moment to the views

    @property
    def _found(self) -> Evaluation | None:
        return self.desk.moment.found

    def refresh(self) -> None:
        """Draw all strips, each in a turn of its own where there are very many values."""
        self._turns.run(self.parts(), self.desk.has_much)

    def parts(self) -> tuple[Callable[[], None], ...]:
        """What draws all strips, one after the other."""
        return self._shade_anew, self.show_signals, self.show_loadings, self.show_leftover

    def _shade_anew(self) -> None:
        self.shade = self._make_shade()

    def show_signals(self) -> None:
        """The data at the chosen knot, or what stands in their place."""
        state, found, look = self.desk.moment.state, self._found, self.desk.selection.look
        if self.probe_at is not None and found is not None:
            chart = probe(state, found, usable_pair(found, look.pair), self.probe_at)
        elif self.signal_kind == "rebuild":
            chart = rebuilt(state, found, look.picked)
        elif self.signal_kind == "extremes":
            chart = extremes(state, found, look.pair[0])
        else:
            self._show(self.signals_panel, self.signals_view, self._data_chart())
            return
        self._show(self.signals_panel, self.signals_view, replace(chart, shade=self.shade))

    def _data_chart(self) -> Chart:
        state, found = self.desk.moment.state, self._found
        stage = stage_of(self.desk.selection.look.stage, found)

        def make() -> Chart:
            return replace(signals(state, found, stage, self.means), shade=self.shade)

        if found is None or state.table is None:
            return make()
        _, source, _, rows = stage_source(state, stage, found)
        inputs = (state.table, colouring_of(state), source.values, source.scaler, rows, stage, self.means)
        return self._memo.get("signals", (*inputs, found.recipe.treat, found.scaling, self.shade), make)

    def show_loadings(self) -> None:
        """The loadings of the two components on the score plane."""
        found, pair = self._found, self.desk.selection.look.pair
        if found is not None:
            pair = usable_pair(found, pair)
        stable = stability_of(found, self.desk.moment.checked)
        inputs = (found and found.decomposition, found and found.treated.axis, pair, self.shade, stable)

        def make() -> Chart:
            return replace(loadings(found, pair, stable), shade=self.shade)

        chart = self._memo.get("loadings", inputs, make)
        self._show(self.loadings_panel, self.loadings_view, chart, _key_of(chart))

    def show_leftover(self) -> None:
        """Residuals, or why the pick is far."""
        state, look = self.desk.moment.state, self.desk.selection.look
        chart = leftover(state, self._found, look.picked, self.share_kind, self._usual_range())
        self._show(self.leftover_panel, self.leftover_view, replace(chart, shade=self.shade))
        ordered = state.table is not None and state.table.axis.ordered
        self.leftover_panel.x_title.set_clickable(ordered)
        self.leftover_panel.x_title.setToolTip("Click to say what the axis is" if ordered else "")

    def _usual_range(self) -> Usual | None:
        """The normal range of what is shown; of very many values it comes later."""
        found, kind = self._found, self.share_kind
        if found is None:
            return None
        group = picked_group(found, self.desk.selection.look.picked)
        drawn = DRAWS if len(group) else 0  # means of as many others, each as wide as a sample
        values = (len(reference_rows(found, group)) + len(group) + drawn) * found.scaled.shape[1]
        known = self._range.of(
            (found.decomposition, found.model.k, kind, group.tobytes()),
            lambda watch: usual_range(found, kind, group, watch),
            values <= AT_ONCE,
        )
        return unknown_range(found, group) if known is None else known

    def show_cursor(self) -> None:
        """Channel cursor, picked channels, the line under the pointer, and what is read off there."""
        look = self.desk.selection.look
        for strip in self.views:
            strip.set_cursor(look.channel)
            strip.set_channels(look.channels)
        self.signals_view.hover_line(look.hovered)
        self.signals_panel.readout.setText(self._readout())

    def _show(self, panel: ChartPanel, view: StripView, chart: Chart, key: str = "") -> None:
        show(self.desk, panel, view, chart, self.desk.moment.state, key)

    def _readout(self) -> str:
        """The channel under the cursor, and the sample under the pointer with its value there."""
        look, state = self.desk.selection.look, self.desk.moment.state
        chart = self.signals_view.chart
        if state.table is None or chart is None or chart.lines is None:
            return ""
        words = []
        column = None
        if look.channel is not None:
            column = int(np.abs(chart.lines.x - look.channel).argmin())
            axis = state.table.axis
            place = int(np.abs(axis.places() - look.channel).argmin())
            words.append(axis.name(place))
        if look.hovered is not None and look.hovered < len(state.table.ids):
            words.append(state.table.ids[look.hovered])
            found = np.flatnonzero(chart.lines.keys == look.hovered)
            if column is not None and chart.lines.role == "sample" and len(found):
                words.append(with_minus(shown(chart.lines.ys[found[0], column], ".4g")))
        return "  ".join(words)

    # From the person

    def _make_shade(self) -> Shade | None:
        if self._found is None or self.shade_kind == "none":
            return None
        return shade_of(self._found, usable_pair(self._found, self.desk.selection.look.pair), self.shade_kind)

    def choose_shade(self, kind: str) -> None:
        """As if one of its words had been clicked."""
        self.shade_words[kind].click()

    def _set_shade(self, kind: str) -> None:
        """What the shade behind the strips says; one that says nothing here is told."""
        self.shade_kind = kind
        self.refresh()
        if kind == "group" and self.shade is None and self._found is not None:
            words = "These variables are in no blocks and have no units."
            self.desk.say(InputError(words, "Make blocks in the scaling table of the Treat page."))

    def _set_share(self, kind: str) -> None:
        self.share_kind = kind
        self.show_leftover()

    def _set_means(self, on: bool) -> None:
        self.means = on
        self.show_signals()

    def _set_signal(self, kind: str, on: bool) -> None:
        """Rebuilt or extreme samples in place of the data; one at a time."""
        other = {"rebuild": self.extremes_switch, "extremes": self.rebuild_switch}[kind]
        if on:
            other.setChecked(False)
            self.means_switch.setChecked(False)
        self.signal_kind = kind if on else "data"
        self.show_signals()

    def set_probe(self, at: tuple[float, float] | None) -> None:
        """The probe is somewhere else on the plane, or nowhere."""
        self.probe_at = at
        self.show_signals()

    def _name_axis(self) -> None:
        title = self.leftover_panel.x_title
        menu = QMenu(title)
        menu.aboutToHide.connect(menu.deleteLater)
        for quantity, unit in AXES:
            action = menu.addAction(f"{quantity} / {unit}" if unit else quantity)
            action.triggered.connect(self._axis_namer(quantity, unit))
        menu.popup(title.mapToGlobal(title.rect().center()))

    def _axis_namer(self, quantity: str, unit: str) -> Callable[[], object]:
        return lambda: self.desk.do(NameAxis(quantity, unit))


def _key_of(chart: Chart) -> str:
    """The components in their colours, and the groups of a shade in theirs, as rich text."""
    if chart.lines is None:
        return ""
    words = [
        f'<span style="color:{colours.COMPONENT_COLOURS[place % 2]}">━</span> {escaped(name.split()[-1])}'
        for place, name in enumerate(chart.lines.names)
    ]
    for code, name in enumerate(chart.shade.names if chart.shade is not None else ()):
        words.append(f'<span style="color:{colours.group_colour(code)}">■</span> {escaped(name)}')
    return "&nbsp;&nbsp;".join(words)
