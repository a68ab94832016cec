"""The report of a study: which sections there are, and the document that is chosen of them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from scutcher import __version__
from scutcher.charts.palettes import on_paper
from scutcher.charts.report import data, made, model
from scutcher.charts.report.blocks import blocks_section
from scutcher.charts.report.document import (
    Document,
    Heading,
    Paragraph,
    Part,
    Picture,
    Points,
    Rows,
    Section,
    section,
    with_captions,
)
from scutcher.charts.report.maps import maps_section
from scutcher.charts.report.material import Report
from scutcher.charts.report.series import series_section
from scutcher.charts.report.writing import check_ending, write_document
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch


@frozen
class SectionKind:
    """A section that a report can have: key, title, and what makes its parts, if any."""

    key: str
    title: str
    make: Callable[[Report], list[Part]]


def _groups(report: Report) -> list[Part]:
    """The classes, where there are two to tell apart."""
    groups = report.groups
    if groups is None:
        return []
    header, rows = groups.table
    parts: list[Part] = [
        Heading(f"Groups by {groups.column}"),
        Paragraph(groups.sentence),
        Rows([tuple(map(str, row)) for row in rows], tuple(header)),
        Paragraph("Above the diagonal: distance of centres; below: mixed up, held out; on it: right."),
    ]
    if groups.doubtful:
        parts += [Paragraph("Labels worth a look:"), Points(groups.doubtful)]
    return [*parts, *(Picture(chart, caption, report.legend) for chart, caption in groups.figures)]


SECTIONS = (
    SectionKind("question", "Question and data", data.question),
    SectionKind("found", "What was seen in the data", data.found_in_data),
    SectionKind("treatments", "Treatments", data.treatments),
    SectionKind("not-seen", "What the model does not see", data.not_seen),
    SectionKind("model", "Model and evidence", model.model),
    SectionKind("held-out", "Held out", model.held_out),
    SectionKind("scores", "Scores", model.scores_section),
    SectionKind("loadings", "Loadings", model.loadings_section),
    SectionKind("distances", "Distances to the model", model.distances_section),
    SectionKind("groups", "Groups", _groups),
    SectionKind("maps", "Maps", lambda report: maps_section(report.state, report.found)),
    SectionKind("series", "Series", lambda report: series_section(report.state, report.found)),
    SectionKind("blocks", "Several tables", lambda report: blocks_section(report.state)),
    SectionKind("models", "Other models", made.models),
    SectionKind("new", "New samples", made.new_samples),
    SectionKind("decisions", "Decisions", made.decisions),
    SectionKind("recipe", "Recipe", made.recipe),
    SectionKind("versions", "By what it was made", made.versions),
)
"""In the order that they have by themselves."""

KEYS = tuple(kind.key for kind in SECTIONS)


@on_paper()
def document_of(report: Report) -> Document:
    """What the study's settings choose of it."""
    chosen = report.state.report
    captions, hidden = dict(chosen.captions), frozenset(chosen.hidden)
    kinds = {kind.key: kind for kind in SECTIONS}
    found: list[Section] = []
    for key in chosen.ordered(KEYS):
        settings = chosen.of(key)
        if not settings.on:
            continue
        if key not in report.parts:
            report.parts[key] = kinds[key].make(report)
        remark = settings.remark
        if key == "question":  # what was asked comes before anything else that is said
            remark = f"{chosen.question}\n{remark}"
        made_of = section(key, kinds[key].title, _with_remark(report.parts[key], remark))
        kept = None if made_of is None else with_captions(made_of, captions, hidden)
        found += [kept] if kept is not None else []
    return Document(
        title=chosen.title or report.state.name,
        sections=tuple(found),
        author=chosen.author,
        paper=chosen.paper,
        made=_made(report),
        log_seal=report.log_seal,
    )


def _made(report: Report) -> str:
    if report.audit is None:
        return f"scutcher {__version__}"
    return f"{report.audit.program} · {report.audit.at} UTC · {report.audit.who}"


def _with_remark(parts: list[Part], remark: str) -> list[Part]:
    """Somebody's own words under the title of a section."""
    words: list[Part] = [Paragraph(line, remark=True) for line in remark.splitlines() if line.strip()]
    if parts and isinstance(parts[0], Heading):
        return [parts[0], *words, *parts[1:]]
    return [*words, *parts] if parts or words else []


@on_paper()
def write_report(report: Report, path: Path, watch: Watch | None = None) -> None:
    """Write a report as HTML or PDF, by the file's ending.

    Raises
    ------
    FileError
        The ending is another, or the file cannot be written.
    """
    check_ending(path)
    write_document(document_of(report), path, watch)
