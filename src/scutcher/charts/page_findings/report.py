"""What a report holds and whether it can be checked, in one sentence."""

from __future__ import annotations

from scutcher.charts.report.material import Report
from scutcher.charts.words import Pieces
from scutcher.core.words import count_of
from scutcher.study.document.parts import WATCHED


def finding(report: Report, sections: int, pages: int) -> Pieces:
    """How much it is, whether the log is whole, and what is missing that an auditor would ask for."""
    parts = [f"{count_of(sections, 'section')} on {count_of(pages, 'page')}"]
    usable = report.found.usable
    aside = tuple(row for row, reason in usable.left_out_rows.items() if reason != WATCHED)
    pieces: list[tuple[str, tuple[int, ...]]] = []
    if report.altered:
        parts.append(f"the study was changed by another program ({report.altered})")
    elif report.log:
        parts.append(f"the log of {count_of(report.log, 'decision')} is whole")
    if report.checked.validation is None:
        parts.append("nothing was held out")
    pieces.append(("; ".join(parts), ()))
    if aside:
        pieces += [("; ", ()), (f"{count_of(aside)} not in the model", aside), (", with the reasons", ())]
    lacks = [word for word, there in (("a question", report.state.report.question),
                                      ("an author", report.state.report.author)) if not there]  # fmt: skip
    if lacks:
        pieces.append((f"; it names no {' and no '.join(word.split(' ')[1] for word in lacks)}", ()))
    return [*pieces, (".", ())]
