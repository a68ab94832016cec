"""The report of a study: data, trail, model, validation, figures, what was set aside and every decision."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from html import escape
from pathlib import Path

from scutcher import __version__
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.loadings import loadings
from scutcher.charts.printing import DOUBLE, Figure, draw, svg_text
from scutcher.charts.rank import EVIDENCE, by_variable
from scutcher.charts.report_groups import GroupsSection, groups_section
from scutcher.charts.scores import scores
from scutcher.charts.signals import signals
from scutcher.core.errors import FileError
from scutcher.core.models.pca.component_model import explained
from scutcher.core.validation.evidence import Line
from scutcher.files.recipe_toml import recipe_text
from scutcher.files.safely import write_text
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.stability import stability_of
from scutcher.study.storage.study_file import LogEntry

STYLE = """
body { font-family: Inter, sans-serif; color: #23262B; background: #F3F0E8; margin: 0; font-size: 14px; }
main { max-width: 900px; margin: 0 auto; padding: 28px 36px; background: #FCFBF8; }
h1 { color: #1F2F6B; font-size: 22px; } h2 { font-size: 16px; margin-top: 28px; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
td, th { border-bottom: 1px solid #DED8CB; padding: 3px 14px 3px 0; text-align: left; font-weight: 400; }
th { color: #77736A; } pre { background: #F3F0E8; padding: 10px; } figure { margin: 14px 0; }
figcaption { color: #77736A; font-size: 12px; } svg { max-width: 100%; height: auto; }
"""


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
    if path.suffix.lower() == ".html":
        write_text(path, html(report))
    elif path.suffix.lower() == ".pdf":
        _write_pdf(report, path)
    else:
        raise FileError(
            f"{path.name} ends in {path.suffix or 'nothing'!r}; reports are HTML or PDF.",
            "End its name in .html or .pdf.",
        )


def charts_of(report: Report) -> list[tuple[Chart, str]]:
    """The figures of a report with their captions."""
    state, found = report.state, report.found
    last = len(found.stages) - 1
    return [
        (signals(state, found, 0, False), "The data as brought in."),
        (signals(state, found, last, False), "After the last treatment."),
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


def html(report: Report) -> str:
    """The whole report as one page that needs nothing else."""
    state = report.state
    legend = colouring_of(state).named()[:8]
    parts = [f"<h1>{escape(state.name)}</h1>", _table(facts(report))]
    parts += ["<h2>Recipe</h2>", f"<pre>{escape(recipe_text(report.found.recipe))}</pre>"]
    evidence = [(EVIDENCE[key][0], _told(line)) for key, line in report.checked.lines.items()]
    parts += ["<h2>Evidence on the number of components</h2>", _table(evidence)]
    parts += [
        "<h2>What the model does not see</h2>",
        _table(left_out(report)) or "<p>Nothing is left out.</p>",
    ]
    parts.append("<h2>Figures</h2>")
    parts += [_figure(chart, caption, legend) for chart, caption in charts_of(report)]
    parts += _groups_html(report, legend)
    if report.log:
        rows = [(entry.at, entry.who, entry.what, entry.why) for entry in report.log]
        parts += ["<h2>Decisions</h2>", _table(rows, ("when (UTC)", "who", "what", "why"))]
    parts.append(f"<p>Made by scutcher {__version__}.</p>")
    return (
        f'<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><title>{escape(state.name)}</title>'
        f"<style>{STYLE}</style></head><body><main>{''.join(parts)}</main></body></html>\n"
    )


def _figure(chart: Chart, caption: str, legend: tuple[tuple[int, str], ...]) -> str:
    drawn = svg_text(chart, Figure(DOUBLE, 76.0, legend=legend if chart.marks is not None else ()))
    return f"<figure>{drawn}<figcaption>{escape(caption)}</figcaption></figure>"


def _groups_html(report: Report, legend: tuple[tuple[int, str], ...]) -> list[str]:
    """The classes, where there are two to tell apart."""
    groups = report.groups
    if groups is None:
        return []
    header, rows = groups.table
    parts = [f"<h2>Groups by {escape(groups.column)}</h2>", f"<p>{escape(groups.sentence)}</p>"]
    parts.append(_table([tuple(map(str, row)) for row in rows], tuple(header)))
    parts.append("<p>Above the diagonal: distance of centres; below: mixed up, held out; on it: right.</p>")
    if groups.doubtful:
        listed = "".join(f"<li>{escape(words)}</li>" for words in groups.doubtful)
        parts.append(f"<p>Labels worth a look:</p><ul>{listed}</ul>")
    return parts + [_figure(chart, caption, legend) for chart, caption in groups.figures]


def _table(rows: Sequence[tuple[str, ...]], header: tuple[str, ...] = ()) -> str:
    if not rows:
        return ""
    head = "".join(f"<th>{escape(cell)}</th>" for cell in header)
    body = "".join(f"<tr>{''.join(f'<td>{escape(str(cell))}</td>' for cell in row)}</tr>" for row in rows)
    return f"<table>{f'<tr>{head}</tr>' if header else ''}{body}</table>"


def _write_pdf(report: Report, path: Path) -> None:
    from matplotlib.backends.backend_pdf import PdfPages
    from matplotlib.figure import Figure as Canvas

    legend = colouring_of(report.state).named()[:8]
    lines = [f"{name}:  {value}" for name, value in facts(report)]
    lines += ["", "Recipe", *recipe_text(report.found.recipe).splitlines()]
    out = [f"{name}:  {reason}" for name, reason in left_out(report)]
    lines += ["", "What the model does not see", *(out or ["Nothing is left out."])]
    if report.groups is not None:
        lines += ["", f"Groups by {report.groups.column}", report.groups.sentence, *report.groups.doubtful]
    lines += ["", "Decisions", *(f"{e.at}  {e.who}  {e.what}  {e.why}" for e in report.log)]
    try:
        with PdfPages(path, metadata={"CreationDate": None, "Title": report.state.name}) as pages:
            for start in range(0, len(lines), 62):
                page = Canvas(figsize=(8.27, 11.69))
                page.text(0.08, 0.96, report.state.name, fontsize=15, va="top", color="#1F2F6B")
                text = "\n".join(line[:120] for line in lines[start : start + 62])
                page.text(0.08, 0.92, text.replace("$", r"\$"), fontsize=8, va="top", linespacing=1.4)
                pages.savefig(page)
            of_groups = () if report.groups is None else report.groups.figures
            for chart, _ in (*charts_of(report), *of_groups):
                pages.savefig(
                    draw(chart, Figure(DOUBLE, 110.0, legend=legend if chart.marks is not None else ()))
                )
    except OSError as error:
        raise FileError(
            f"{path.name} cannot be written: {error.strerror}.", "Choose another folder."
        ) from error
