"""Bars and curves over a number, of components or groups, with the handle that is dragged."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.rank import Shares
from scutcher.charts.runs import Run, RunLine
from scutcher.core.arrays import Floats
from scutcher.core.words import shown
from scutcher.desk.painting.area import PlotArea
from scutcher.desk.painting.labels import Label
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.setup import pen
from scutcher.desk.painting.strokes import Across, Bars, Line, Signs, Stroke, Whiskers

TOP = 1.05
"""Of the shares."""

DRAWN, WORDS_PX = 1.0, 12
"""The depth of all but the handle; pixels of words that stand alone."""


class HandlePlot(PlotArea):
    """Shares, eigenvalues or a run of figures; `moving` and `moved` tell how many are kept."""

    moving = Signal(int)
    moved = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ground.setMouseEnabled(x=False, y=False)
        self.found: Shares | None = None
        self.run: Run | None = None
        self.kept, self.least, self.most = 1, 1, 0
        self.strokes: list[Stroke] = []
        self.handle = pg.InfiniteLine(angle=90, movable=True, pen=pen(colours.INK, 2.0))
        self.handle.setHoverPen(pen(colours.ACCENT, 3.0))
        self.handle.setZValue(30)
        self.addItem(self.handle, ignoreBounds=True)
        self.handle.sigDragged.connect(self._on_dragged)
        self.handle.sigPositionChangeFinished.connect(self._on_let_go)

    def show_shares(self, found: Shares | None, kind: str) -> None:
        """Draw "shares", "eigenvalues" or "log"."""
        self.found, self.run = found, None
        m = 0 if found is None else len(found.each)
        self._begin(1, m, 1 if found is None else found.kept)
        if found is None:
            return
        x = np.arange(1.0, m + 1.0)
        if kind == "shares":
            self._bars(x, found.each)
            self._held_out(x, found)
            self._curve(x, found.fitted, colours.INK, "circle")
            self.ground.setYRange(0.0, TOP, padding=0.0)
        else:
            values = np.log10(found.eigenvalues) if kind == "log" else found.eigenvalues
            if kind == "eigenvalues":
                self._bars(x, values)
            self._curve(x, values, colours.ACCENT, "circle")
            low, high = float(values.min()), float(values.max())
            air = 0.06 * (high - low) or 1.0
            self.ground.setYRange(0.0 if kind == "eigenvalues" else low - air, high + air, padding=0.0)
        self._end()

    def show_run(self, run: Run | None) -> None:
        """Draw figures over a number, with their spread and what they are held against."""
        self.found, self.run = None, run
        if run is None:
            self._begin(1, 0, 1)
            return
        self._begin(run.least, run.least + len(run.lines[0].y) - 1, run.kept)
        x = np.arange(run.least, self.most + 1.0)
        for level, _ in run.levels:
            self.strokes.append(Across(level, False, pen(colours.ALARM, 1.0, dashes=True)))
        for line in sorted(run.lines, key=lambda line: line.bold):
            self._run_line(x, line)
        if run.best is not None:
            here = x == run.best
            ring = pen(colours.ACCENT, 1.6)
            self.strokes.append(Signs(x[here], run.lines[0].y[here], "circle", 13.0, ring))
        for level, words in run.levels:
            self.strokes.append(Label(words, self.most + 0.55, level, colours.ALARM, (1.0, 1.0)))
        self.ground.setYRange(*run.span, padding=0.0)
        self._end()

    def _run_line(self, x: Floats, line: RunLine) -> None:
        known = np.isfinite(line.y)
        at, y = x[known], line.y[known]
        if line.error is not None:
            error = np.nan_to_num(line.error)[known]
            self.strokes.append(Whiskers(at, y - error, y + error, pen(line.colour, 1.0), 0.12))
        if line.bold:
            self._curve(at, y, line.colour, "square")
        else:
            self.strokes.append(Line(at, y, pen(line.colour, 1.0)))

    def _begin(self, least: int, most: int, kept: int) -> None:
        """Take away what was there."""
        self.least, self.most, self.kept = least, most, kept
        self.strokes = []
        self.layers.show(DRAWN, ())
        self.handle.setVisible(most >= least)

    def _end(self) -> None:
        self.ground.setXRange(self.least - 0.6, self.most + 0.6, padding=0.0)
        self.handle.setBounds((self.least + 0.5, self.most + 0.5))
        self.handle.setValue(self.kept + 0.5)
        self.layers.show(DRAWN, self.strokes)
        self.settle()

    def numbers(self) -> tuple[Sequence[str], Sequence[Sequence[object]]]:
        """The table behind what is drawn."""
        if self.found is not None:
            return self.found.rows()
        return ([], []) if self.run is None else self.run.rows()

    def kept_at(self, place: float) -> int:
        """How many are kept with the handle at a place."""
        return int(min(max(round(place - 0.5), self.least), self.most))

    def _on_dragged(self) -> None:
        if self.most:
            kept = self.kept_at(float(self.handle.value()))
            if kept != self.kept:
                self.moving.emit(kept)

    def _on_let_go(self) -> None:
        if self.most:
            kept = self.kept_at(float(self.handle.value()))
            self.handle.setValue(kept + 0.5)
            self.moved.emit(kept)

    def _bars(self, x: Floats, heights: Floats) -> None:
        colour = tuple(colours.ACCENT if place < self.kept else colours.CHIP for place in range(len(x)))
        self.strokes.append(Bars(x, heights, 0.56, colour))

    def _curve(self, x: Floats, y: Floats, colour: str, sign: str) -> None:
        self.strokes += [Line(x, y, pen(colour, 1.5)), Signs(x, y, sign, 6.0, fill=colour)]

    def _held_out(self, x: Floats, found: Shares) -> None:
        known = np.isfinite(found.held_out)
        if not known.any():
            return
        below = known & (found.held_out < 0.0)
        inside = known & ~below
        errors = np.where(np.isfinite(found.error), found.error, 0.0)
        low = np.clip(found.held_out - errors, 0.0, TOP)
        high = np.clip(found.held_out + errors, 0.0, TOP)
        self.strokes.append(Whiskers(x[inside], low[inside], high[inside], pen(colours.ALARM, 1.0), 0.16))
        self._curve(x[inside], found.held_out[inside], colours.ALARM, "square")
        if below.any():
            self._mark_below(x[below], found.held_out[below])

    def _mark_below(self, x: Floats, q2: Floats) -> None:
        """Q² below the chart: hollow marks that point down, and how far the lowest is."""
        self.strokes.append(Signs(x, np.full(len(x), 0.03), "down", 10.0, pen(colours.ALARM, 1.5)))
        words = f"Q² {shown(q2.min(), '.2f')}" if len(q2) == 1 else f"Q² below 0, to {shown(q2.min(), '.2f')}"
        end = float(x[-1]) + 0.3, 0.05
        self.strokes.append(Label(words.replace("-", "−"), *end, colours.ALARM, (1.0, 1.0), WORDS_PX))
