"""A strip for each table: loadings or shares of variables, why a sample lies elsewhere, or a sample."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt

from scutcher.charts.blocks.later import later_strip
from scutcher.charts.blocks.tables import loading_strip, why_strip
from scutcher.charts.description import Chart, nothing
from scutcher.charts.memo import ChartMemo
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.later import Later
from scutcher.core.frozen import frozen
from scutcher.desk.context import Desk
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.gestures import how_of
from scutcher.desk.widgets.panel import ChartPanel, choice_words
from scutcher.study.selection import channels_joined

MOST = 5
"""Tables of a comparison."""


@frozen(eq=False)
class Shown:
    """What the strips are to show.

    Attributes
    ----------
    fitted : FittedBlocks or None
    pair : places of the two components on the plane
    why : (sample, component) or None
        Why this sample lies elsewhere.
    later, sample : samples that took no part, and the one of them that is looked at; "" for none
    """

    fitted: FittedBlocks | None
    pair: tuple[int, int]
    why: tuple[int, int] | None = None
    later: Later | None = None
    sample: str = ""


NOTHING = Shown(None, (0, 1))


class BlockStrips:
    """Each strip has an axis, a cursor and picked channels of its own."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.shares = False
        self._shown = NOTHING
        self._memo = ChartMemo()
        self.strips = [StripView() for _ in range(MOST)]
        self.panels = [
            ChartPanel(strip, "What the two components on the plane are made of in this table")
            for strip in self.strips
        ]
        self.words = choice_words(
            self.panels[0],
            {
                "loading": "loadings|What the two components are made of",
                "share": "shares|Which share of each variable the two components explain",
            },
            self._turn,
        )
        for button in self.words.values():
            self.panels[0].add_to_header(button)
        for strip in self.strips:
            strip.setMinimumHeight(40)
            strip.channel.connect(strip.set_cursor)
            strip.pick_channels_by_hand()
        self.picked: list[tuple[float, ...]] = [()] * MOST
        for b, strip in enumerate(self.strips):
            strip.channels_picked.connect(partial(self._pick, b))

    def show(self, shown: Shown) -> None:
        """A strip for each table of what is known."""
        if _names(shown) != _names(self._shown):
            self.picked = [()] * MOST
        self._shown = shown
        count = 0 if shown.fitted is None else len(shown.fitted.names)
        for b, (strip, panel) in enumerate(zip(self.strips, self.panels, strict=True)):
            panel.setVisible(b < count)
            if b < count:
                key = (shown.fitted, b, shown.pair, shown.why, shown.later, shown.sample, self.shares)
                chart = self._memo.get(f"strip {b}", key, partial(self._chart, b))
                show(self.desk, panel, strip, chart, self.desk.moment.state)
                strip.set_channels(self.picked[b])
        if not count:
            self.panels[0].setVisible(True)
            self.panels[0].describe(nothing("Loadings", ""))

    def _chart(self, b: int) -> Chart:
        shown = self._shown
        assert shown.fitted is not None
        if shown.later is not None and shown.sample:
            return later_strip(shown.fitted, shown.later, b, shown.sample)
        if shown.why is not None:
            return why_strip(shown.fitted, b, *shown.why)
        return loading_strip(shown.fitted, b, shown.pair, self.shares)

    def _pick(self, b: int, places: list[float], modifiers: Qt.KeyboardModifier) -> None:
        self.picked[b] = channels_joined(self.picked[b], places, how_of(modifiers))
        self.strips[b].set_channels(self.picked[b])

    def _turn(self, kind: str) -> None:
        self.shares = kind == "share"
        self.show(self._shown)


def _names(shown: Shown) -> tuple[str, ...]:
    return () if shown.fitted is None else shown.fitted.names
