"""From a changed parameter to the painted frame, on the demo window (144 × 700), beside an idle repaint."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QApplication

from bench.timing import best_seconds
from scutcher.core.treatments import treatment
from scutcher.desk.actions.add_treatment import suggested
from scutcher.desk.shell.start import application, demo_study, dispose
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.recipe import AddStep, KeepComponents, SwitchStep


def treat_page(
    window: Window, painted: Callable[[Callable[[], object]], Callable[[], object]], idle: float
) -> list[str]:
    """A slider of the Treat page, held and moved: preview to frame; what stands before the step is kept."""
    found = window.desk.moment.found
    assert found is not None
    kept = window.desk.live._evaluator.memo._entries
    before = set(kept)
    declared = treatment("savitzky-golay")
    window.desk.do(AddStep(declared.key, suggested(declared, found.treated)))
    window.show_page("Treat")
    window.desk.selection.change(stage=2)
    for _ in range(20):
        QApplication.processEvents()
    slider = window.view("Treat").form.sliders["window"]
    slider.setSliderDown(True)

    def slide() -> None:
        for key in set(kept) - before:
            del kept[key]
        slider.setValue(4 + (slider.value() - 3) % 12)

    seconds = best_seconds(painted(slide))
    slider.setSliderDown(False)
    words = f"{1e3 * seconds:.0f} ms = {seconds / idle:.1f} × an idle repaint"
    return [f"Savitzky–Golay window slid on the Treat page: {words}"]


def report() -> list[str]:
    """The lines of this bench."""
    application()
    window = Window(demo_study("intake-nir"))
    window.show()
    QApplication.processEvents()
    study, live, selection = window.desk.study, window.desk.live, window.desk.selection

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
        selection.pick([len(selection.look.picked) + 3], "add")

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
    lines += treat_page(window, painted, idle)
    dispose(window)
    return [f"idle repaint of the window: {1e3 * idle:.1f} ms", *lines]
