"""From a change to the painted frame on the demo window (144 × 700), as multiples of an idle repaint."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QApplication

from bench.forgetting import forget
from bench.timing import median_ratio
from scutcher.core.treatments import treatment
from scutcher.desk.actions.add_treatment import suggested
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.computed_ahead import SWITCHED
from scutcher.study.document.commands.recipe import AddStep, KeepComponents, SwitchStep
from scutcher.study.evaluation.cache import shared

WANTED = {
    "component handle moved by one": 3.0,
    "a sample picked": 2.5,
    "SNV on or off": 4.0,
    "SNV on or off before that was computed ahead": 4.0,
    "Savitzky–Golay window slid": 4.0,
}
"""What is asked for, by the words of the line."""


def report() -> list[str]:
    """The lines of this bench."""
    application()
    shared.cache_clear()
    window = Window(demo_study("intake-nir"))
    window.resize(1280, 800)
    window.show()
    for _ in range(10):
        QApplication.processEvents()
    study, live, selection = window.study, window.desk.live, window.desk.selection
    kept: set[object] = set()

    def painted(change: Callable[[], object]) -> Callable[[], object]:
        def run() -> None:
            change()
            for _ in range(3):  # the change, the redraw it asked for, the painting of that
                QApplication.processEvents()

        return run

    def idle() -> None:
        window.repaint()
        QApplication.processEvents()

    def handle() -> None:
        found = window.desk.moment.found
        assert found is not None
        study.do(KeepComponents(3 if found.model.k == 4 else 4))

    def pick() -> None:
        selection.pick([(selection.look.picked or (3,))[0] % 140 + 1])

    def snv() -> None:
        study.do(SwitchStep(0, not study.state.recipe.treat[0].on))

    lines = []

    def ready() -> None:
        live.stop_checking()
        QApplication.processEvents()

    def nothing_ahead() -> None:
        live.queue.drop(SWITCHED)
        forget(kept)
        ready()

    def all_ahead() -> None:
        if live.queue.has(SWITCHED):
            forget(kept)
            live.stop_checking()
            live.queue.wait_for(SWITCHED)
        ready()

    def measure(words: str, change: Callable[[], object], ready: Callable[[], object] = ready) -> None:
        taken, beside = median_ratio(painted(change), idle, ready=ready)
        lines.append(
            f"{words}: {1e3 * taken:.0f} ms = {taken / beside:.1f} × an idle repaint "
            f"of {1e3 * beside:.0f} ms (asked: {WANTED[words]:g})"
        )

    measure("component handle moved by one", handle)
    measure("a sample picked", pick)
    selection.pick(())
    measure("SNV on or off", snv, all_ahead)
    measure("SNV on or off before that was computed ahead", snv, nothing_ahead)
    found = window.desk.moment.found
    assert found is not None
    declared = treatment("savitzky-golay")
    window.desk.do(AddStep(declared.key, suggested(declared, found.treated)))
    window.show_page("Treat")
    selection.change(stage=len(study.state.recipe.treat))
    for _ in range(20):
        QApplication.processEvents()
    kept |= set(shared()._entries)
    slider = window.view("Treat").form.sliders["window"]  # type: ignore[union-attr]
    slider.setSliderDown(True)

    def slide() -> None:
        slider.setValue(4 + (slider.value() - 3) % 12)

    measure("Savitzky–Golay window slid", slide, nothing_ahead)
    slider.setSliderDown(False)
    dispose(window)
    return lines
