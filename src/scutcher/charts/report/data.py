"""The sections on the data: the question, what was found in them, what was done to them, what is left out."""

from __future__ import annotations

from scutcher.charts.comparing.recipes import CENTRES
from scutcher.charts.report.document import Heading, Paragraph, Part, Picture, Points, Rows
from scutcher.charts.report.material import Report
from scutcher.charts.signals import signals
from scutcher.core.data.findings import findings
from scutcher.core.treatments.base import fields_of
from scutcher.core.words import count_of, shown
from scutcher.study.document.parts import WATCHED


def question(report: Report) -> list[Part]:
    """Which data the question was asked of."""
    state, table = report.state, report.state.table
    assert table is not None
    n, p = table.shape
    used, kept = report.found.scaled.shape
    classes = [
        f"{c.name} ({count_of([level for level in c.levels if level], 'class')})" for c in table.classes
    ]
    rows = [
        ("study", state.name),
        (
            "data",
            f"{table.name}: {shown(n, ',')} samples × {shown(p, ',')} "
            f"{'channels' if table.axis.ordered else 'variables'}",
        ),
        ("axis", table.axis.title if table.axis.ordered else ""),
        ("signal", f"{table.signal}{f' / {table.signal_unit}' if table.signal_unit else ''}"),
        ("classes", ", ".join(classes)),
        ("properties", ", ".join(column.header for column in table.properties)),
        ("in the model", f"{shown(used, ',')} samples × {shown(kept, ',')} variables"),
    ]
    what = " Mean of each class." if report.means else ""
    return [
        Rows([row for row in rows if row[1]]),
        Picture(
            signals(state, report.found, 0, report.means), f"The data as brought in.{what}", report.legend
        ),
    ]


def found_in_data(report: Report) -> list[Part]:
    """What was seen when the data were looked over, and what was mended in reading."""
    table = report.state.table
    assert table is not None
    sentences = [*table.origin.remarks, *(one.text for one in findings(table))]
    return [Points(tuple(sentences))] if sentences else [Paragraph("Nothing out of the ordinary was seen.")]


def treatments(report: Report) -> list[Part]:
    """Every step with its parameters and where it is published."""
    found = report.found
    rows = []
    for place, step in enumerate(found.recipe.treat):
        declared = step.treatment
        values = [
            f"{field.name} = {_said(getattr(step.parameters, field.name.replace('-', '_'), None))}"
            for field in fields_of(declared.parameters)
        ]
        state = "off" if not step.on else "passed over" if place in found.passed_over else ""
        told = "; ".join([*([state] if state else []), *values]) or "–"
        rows.append((str(place + 1), declared.name, told, declared.source))
    scaled = "not scaled" if found.scaling.method == "none" else f"scaled by {found.scaling.method}"
    rows.append((str(len(rows) + 1), "Centre and scale", f"{CENTRES[found.scaling.centre]}, {scaled}", ""))
    last = len(found.stages) - 1
    parts: list[Part] = [Rows(rows, ("step", "treatment", "parameters", "source"))]
    if last > 0:
        chart = signals(report.state, found, last, report.means)
        what = " Mean of each class." if report.means else ""
        parts.append(Picture(chart, f"After the last treatment.{what}", report.legend))
    return parts


def _said(value: object) -> str:
    if isinstance(value, float):
        return shown(value, ".6g")
    if isinstance(value, tuple):
        return ", ".join("–".join(map(_said, one)) if isinstance(one, tuple) else _said(one) for one in value)
    return "none" if value is None else str(value)


def not_seen(report: Report) -> list[Part]:
    """Samples and variables that the model does not see, with the reasons."""
    table, usable = report.found.table, report.found.usable
    samples = [(table.ids[row], reason) for row, reason in sorted(usable.left_out_rows.items())]
    watched = [row for row in samples if row[1] == WATCHED]
    aside = [row for row in samples if row[1] != WATCHED]
    variables = [(table.axis.name(c), reason) for c, reason in sorted(usable.left_out_columns.items())]
    parts: list[Part] = []
    for title, rows, header in (
        ("Samples set aside", aside, ("sample", "reason")),
        ("Samples watched", watched, ("sample", "reason")),
        ("Variables left out", variables, ("variable", "reason")),
    ):
        if rows:
            parts += [Heading(title), Rows(rows, header)]
    return (
        [Paragraph(f"{count_of(samples)} and {count_of(variables, 'variable')}."), *parts]
        if parts
        else [Paragraph("Nothing is left out.")]
    )
