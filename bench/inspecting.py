"""Looking at large data: pick, refit after setting aside, lasso over very many points, the probe."""

from __future__ import annotations

import time

import numpy as np
from PySide6.QtWidgets import QApplication

from bench.forgetting import forget
from bench.timing import best_seconds
from bench.treating import spectra
from scutcher.charts.sample_views import probe
from scutcher.core.recipes.recipe import ModelSettings, Recipe, Step
from scutcher.core.treatments import treatment
from scutcher.desk.painting.mark_finding import inside_polygon
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.computed_ahead import SWITCHED
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.commands.recipe import SwitchStep
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study

TURNS = 12
"""After the one in which a model arrives: a view of very many values is made in one, painted in the next."""


def until(true: object, seconds: float = 60.0) -> float:
    """Seconds until something that is computed behind is on screen, in the last of its views."""
    start = time.perf_counter()
    while not true() and time.perf_counter() - start < seconds:  # type: ignore[operator]
        QApplication.processEvents()
        time.sleep(0.004)  # a window waits for events; one that looks all the time takes a tenth of a core
    for _ in range(TURNS):
        QApplication.processEvents()
    return time.perf_counter() - start


def rest(seconds: float) -> None:
    """Let what is under way on screen come to its end."""
    end = time.perf_counter() + seconds
    while time.perf_counter() < end:
        QApplication.processEvents()
        time.sleep(0.005)


def report() -> list[str]:
    """The lines of this bench."""
    rng = np.random.default_rng(0)
    x, y = rng.normal(size=(2, 100_000))
    turn = np.linspace(0, 2 * np.pi, 200)
    lasso = np.column_stack([1.5 * np.cos(turn), (1.2 + 0.2 * np.sin(5 * turn)) * np.sin(turn)])
    took = best_seconds(lambda: inside_polygon(x, y, lasso), 5)
    copy = best_seconds((x + y).copy)
    lines = [
        f"lasso of 200 corners over 100 000 points: {1e3 * took:.0f} ms = {took / copy:.0f} × a copy of them"
    ]
    application()
    table = spectra(5000, 2000)
    snv = Step("snv", treatment("snv").parameters())
    study = Study(State.of("large", table, Recipe(treat=(snv,), model=ModelSettings(components=5))))
    window = Window(study)
    window.show()
    live = window.desk.live
    until(lambda: live.evaluation is not None and not live.busy)
    live.stop_checking()
    idle = best_seconds(window.repaint, 5)
    places = iter(range(10_000))

    def pick() -> None:
        window.desk.selection.pick([next(places)], "add")
        for _ in range(3):  # the pick, the redraw it asked for, the painting of that
            QApplication.processEvents()

    took = best_seconds(pick, 9)
    lines.append(
        f"5000 × 2000, one more picked and painted: {1e3 * took:.0f} ms = {took / idle:.1f} × a repaint"
    )
    found = live.evaluation
    took = best_seconds(lambda: probe(study.state, found, (0, 1), (0.1, 0.2)), 5)
    lines.append(f"5000 × 2000, the probe's chart: {1e3 * took:.1f} ms")
    window.papers.show_space("space")
    rest(0.5)
    view = window.stack.over.turn_view  # type: ignore[union-attr]

    def turn_a_little() -> None:
        view.turned += 0.02
        view.repaint()

    took = best_seconds(turn_a_little, 9)
    lines.append(
        f"5000 points in space, one step of a turn: {1e3 * took:.1f} ms = {took / idle:.1f} × a repaint"
    )
    window.stack.hide_over()
    lines += large_changes(study, live)
    dispose(window)
    return lines


def large_changes(study: Study, live: CurrentModel) -> list[str]:
    """From a change to the model of it on screen, beside a Gram product of the same data."""

    def set_aside(turn: int) -> None:
        study.do(SetAside((7 + 2 * turn, 8 + 2 * turn), "a bench"))

    def switch(turn: int) -> None:
        study.do(SwitchStep(0, bool(turn % 2)))

    lines, values = [], study.state.table.values  # type: ignore[union-attr]
    for words, change, anew, ahead in (
        ("two samples set aside", set_aside, False, True),
        ("SNV switched", switch, True, True),
        ("SNV switched before that was computed ahead", switch, True, False),
    ):
        took, products = [], []

        def forgotten(anew: bool = anew, ahead: bool = ahead) -> None:
            live.stop_checking()
            if anew:
                forget()  # it has been like this before
            if not ahead:
                live.queue.drop(SWITCHED)

        forgotten()
        for turn in range(4):
            old = live.evaluation
            rest(4.0)  # until every line of the picture before is drawn, and what comes ahead is there
            live.stop_checking()
            live.queue.wait_for(SWITCHED)
            rest(0.5)
            products.append(best_seconds(lambda: values.T @ values, 2))
            rest(0.3)  # its second thread looks for more work for a while, on a processor
            change(turn)
            took.append(until(lambda old=old: live.evaluation is not old and not live.busy))
            forgotten()
        usual, product = float(np.median(took)), float(np.median(products))
        figures = f"{usual:.2f} s = {usual / product:.1f} × a Gram product of {product:.2f} s, both in turn"
        lines.append(f"5000 × 2000, {words}, until the new model is painted: {figures}")
    return lines
