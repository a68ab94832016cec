"""The Treat page of large data: from a slid parameter to the painted frame, at rest and with work behind."""

from __future__ import annotations

from msgspec.structs import replace

from bench.inspecting import rest, until
from bench.timing import best_seconds
from bench.treating import spectra
from scutcher.core.recipes.recipe import ModelSettings, Recipe, Step
from scutcher.core.treatments import treatment
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.commands.recipe import ChangeStep
from scutcher.study.document.state import State
from scutcher.study.document.study import Study

SLID = {"at rest": (9, 21, 13, 25, 17, 29), "validation under way": (11, 23, 15, 27, 19, 31)}


def report() -> list[str]:
    """The lines of this bench."""
    application()
    table = spectra(5000, 2000)
    product = best_seconds(lambda: table.values.T @ table.values, 5)
    declared = treatment("savitzky-golay")
    steps = (Step("snv", treatment("snv").parameters()), Step("savitzky-golay", declared.parameters()))
    study = Study(State.of("large", table, Recipe(treat=steps, model=ModelSettings(components=5))))
    window = Window(study)
    window.show()
    live = window.desk.live
    window.show_page("Treat")
    window.desk.selection.change(stage=2)
    until(lambda: live.evaluation is not None and not live.busy)
    lines = []
    for words, windows in SLID.items():
        treated, plane, whole = [], [], []
        for points in windows:
            old = live.evaluation
            if words == "at rest":
                live.stop_checking()
                rest(4.0)
            else:
                rest(1.5)
            study.do(ChangeStep(1, replace(declared.parameters(), window=points)))
            treated.append(until(lambda old=old: arrived(live, "staged") or live.evaluation is not old))
            early = until(lambda old=old: arrived(live, "early") or live.evaluation is not old)
            left = until(lambda old=old: live.evaluation is not old and not live.busy)
            plane.append(treated[-1] + early)
            whole.append(plane[-1] + left)
        named = {"the treated signals": treated, "the scores": plane, "the ladder and all": whole}
        for what, took in named.items():
            best, middle, worst = min(took), sorted(took)[len(took) // 2], max(took)
            lines.append(
                f"5000 × 2000, Savitzky–Golay's window slid on Treat, {words}, {what} painted: {best:.2f} s "
                f"= {best / product:.1f} × a Gram product (median {middle:.2f} s, slowest {worst:.2f} s)"
            )
    dispose(window)
    return lines


def arrived(live: CurrentModel, part: str) -> bool:
    """Whether a part of the model that is coming is there already."""
    return live.coming is not None and getattr(live.coming, part) is not None
