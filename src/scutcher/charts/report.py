"""The report of a study: data, trail, model, validation, figures, what was set aside and every decision."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.loadings import loadings
from scutcher.charts.rank import EVIDENCE, by_variable
from scutcher.charts.report_blocks import blocks_section
from scutcher.charts.report_document import (
    Document,
    Heading,
    Paragraph,
    Part,
    Picture,
    Points,
    Rows,
    write_document,
)
from scutcher.charts.report_groups import GroupsSection, groups_section
from scutcher.charts.report_maps import maps_section
from scutcher.charts.report_series import series_section
from scutcher.charts.scores import scores
from scutcher.charts.signals import signals
from scutcher.core.models.pca.component_model import explained
from scutcher.core.validation.evidence import Line
from scutcher.files.recipe_toml import recipe_text
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.stability import stability_of
from scutcher.study.storage.study_file import LogEntry

MOST_LINES = 600
"""Samples up to which each has a line in a report: of more, the means of the classes."""


@dataclass(frozen=True, eq=False)
class Report:
    """All that a report is made of."""

    state: State
    found: Evaluation
    checked: Checked
    log: tuple[LogEntry, ...]

    @cached_property
    def groups(self) -> GroupsSection | None:
        """What is said of the classes; computed when it is first asked for."""
        return groups_section(self.state, self.found)


def write_report(report: Report, path: Path) -> None:
    """Write a report as HTML or PDF, by the file's ending.

    Raises
    ------
    FileError
        The ending is another, or the file cannot be written.
    """
    write_document(document_of(report), path)


def charts_of(report: Report) -> list[tuple[Chart, str]]:
    """The figures of a report with their captions."""
    state, found = report.state, report.found
    last, means = len(found.stages) - 1, len(found.usable.rows) > MOST_LINES
    what = " Mean of each class." if means else ""
    return [
        (signals(state, found, 0, means), f"The data as brought in.{what}"),
        (signals(state, found, last, means), f"After the last treatment.{what}"),
        (scores(state, found, (0, min(1, found.model.k - 1))), DEFINITIONS["scores"]),
        (
            loadings(found, (0, min(1, found.model.k - 1)), stability_of(found, report.checked)),
            DEFINITIONS["loadings"],
        ),
        (distances(state, found, False), f"{DEFINITIONS['t2']} {DEFINITIONS['q']}"),
        (run_order(state, found, "q"), DEFINITIONS["q"]),
        (by_variable(found, "variance"), DEFINITIONS["variance"]),
    ]


def facts(report: Report) -> list[tuple[str, str]]:
    """The figures of the model in words."""
    state, found, checked = report.state, report.found, report.checked
    model, shares = found.model, explained(found.decomposition)
    assert state.table is not None
    rows = [
        ("study", state.name),
        ("data", f"{state.table.name}: {state.table.shape[0]} samples × {state.table.shape[1]} variables"),
        ("in the model", "{} samples × {} variables".format(*found.scaled.shape)),
        ("centre and scale", f"{found.scaling.centre}, {found.scaling.method}"),
        ("components", f"{model.k}, engine {found.decomposition.engine}"),
        ("R²", f"{float(shares[: model.k].sum()):.4f}"),
    ]
    validation = checked.validation
    if validation is not None and model.k <= len(validation.q2):
        how = f"{validation.settings.scheme}, {validation.segments} segments, {validation.block} together"
        rows.append(("Q² held out", f"{validation.q2[model.k - 1]:.4f} ({how})"))
    elif validation is None:
        rows.append(("Q² held out", f"none: {checked.why_not}"))
    for name, limit in (("T² limit", model.t2_limit), ("Q limit", model.q_limit)):
        value = limit.reason if limit.value is None else f"{limit.value:.5g}"
        rows.append((name, f"{value} ({100 * limit.level:g} %, {limit.method})"))
    return rows


def left_out(report: Report) -> list[tuple[str, str]]:
    """Samples and variables that the model does not see, with the reasons."""
    table, usable = report.found.table, report.found.usable
    rows = [(table.ids[row], reason) for row, reason in sorted(usable.left_out_rows.items())]
    return rows + [(table.axis.name(c), reason) for c, reason in sorted(usable.left_out_columns.items())]


def _told(line: Line) -> str:
    if line.suggested is None:
        return line.reason
    return f"{line.suggested} ({line.note})" if line.note else str(line.suggested)


def document_of(report: Report) -> Document:
    """The whole report from top to bottom."""
    state = report.state
    legend = colouring_of(state).named()[:8]
    evidence = [(EVIDENCE[key][0], _told(line)) for key, line in report.checked.lines.items()]
    unseen = left_out(report)
    parts: list[Part] = [
        Rows(facts(report)),
        Heading("Recipe"),
        Paragraph(recipe_text(report.found.recipe), as_written=True),
        Heading("Evidence on the number of components"),
        Rows(evidence),
        Heading("What the model does not see"),
        Rows(unseen) if unseen else Paragraph("Nothing is left out."),
        Heading("Figures"),
        *(Picture(chart, caption, legend) for chart, caption in charts_of(report)),
        *_groups(report, legend),
        *maps_section(state, report.found),
        *series_section(state, report.found),
        *blocks_section(state),
    ]
    if report.log:
        rows = [(entry.at, entry.who, entry.what, entry.why) for entry in report.log]
        parts += [Heading("Decisions"), Rows(rows, ("when (UTC)", "who", "what", "why"))]
    return Document(state.name, tuple(parts))


def _groups(report: Report, legend: tuple[tuple[int, str], ...]) -> list[Part]:
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
    return [*parts, *(Picture(chart, caption, legend) for chart, caption in groups.figures)]
