"""From a changed parameter to the painted frame, on the demo window (144 × 700), beside an idle repaint."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QApplication

from bench.timing import best_seconds
from scutcher.desk.start import application, demo_study, dispose
from scutcher.desk.window import Window
from scutcher.study.commands.recipe import KeepComponents, SwitchStep


def report() -> list[str]:
    """The lines of this bench."""
    application()
    window = Window(demo_study("intake-nir"))
    window.show()
    QApplication.processEvents()
    study, live, attention = window.desk.study, window.desk.live, window.desk.attention

    def painted(change: Callable[[], object]) -> Callable[[], object]:
        def run() -> None:
            change()
            for _ in range(3):  # the change, the redraw it asked for, the painting of that
                QApplication.processEvents()

        return run

    def other_k() -> None:
        study.do(KeepComponents(3 if live.evaluation.model.k == 4 else 4))

    def snv() -> None:
        study.do(SwitchStep(0, not study.state.recipe.treat[0].on))

    def snv_computed() -> None:
        live._evaluator.memo._entries.clear()
        live._turned = None
        snv()

    def pick() -> None:
        attention.pick([len(attention.look.picked) + 3], "add")

    idle = best_seconds(window.repaint)
    lines = []
    for words, change in (
        ("number of components", other_k),
        ("SNV on or off, computed anew", snv_computed),
        ("SNV on or off, kept results", snv),
        ("one sample more picked", pick),
    ):
        seconds = best_seconds(painted(change))
        lines.append(f"{words}: {1e3 * seconds:.0f} ms = {seconds / idle:.1f} × an idle repaint")
    dispose(window)
    return [f"idle repaint of the window: {1e3 * idle:.1f} ms", *lines]
