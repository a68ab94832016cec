"""The command on the report of a study."""

from __future__ import annotations

from dataclasses import replace

from scutcher.core.frozen import frozen
from scutcher.study.document.report_settings import ReportSettings
from scutcher.study.document.state import State


@frozen
class ReportBy:
    """Other settings of the report."""

    settings: ReportSettings

    def label(self, state: State) -> str:
        return "Report: " + (_said(state.report, self.settings) or "as before")

    def apply(self, state: State) -> State:
        return state if self.settings == state.report else replace(state, report=self.settings)


def _said(before: ReportSettings, after: ReportSettings) -> str:
    words = [
        f"{name} {getattr(after, name)!r}" if getattr(after, name) else f"no {name}"
        for name in ("title", "author")
        if getattr(before, name) != getattr(after, name)
    ]
    if before.question != after.question:
        words.append("the question")
    if before.paper != after.paper:
        words.append(f"paper {before.paper} → {after.paper}")
    for one in after.sections:
        was = before.of(one.key)
        if was.on != one.on:
            words.append(f"{'with' if one.on else 'without'} {one.key}")
        if was.remark != one.remark:
            words.append(f"a remark on {one.key}")
    if [one.key for one in before.sections] != [one.key for one in after.sections] and not words:
        words.append("another order")
    words += [f"without the figure {key}" for key in after.hidden if key not in before.hidden]
    words += [f"with the figure {key}" for key in before.hidden if key not in after.hidden]
    words += [f"a caption for {key}" for key, text in after.captions if (key, text) not in before.captions]
    return ", ".join(words)
