"""The sections on the model: its figures, the evidence, what was held out, scores, loadings, distances."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.loadings import loadings
from scutcher.charts.page_findings.inspect import finding as far_finding
from scutcher.charts.page_findings.rank import finding as rank_finding
from scutcher.charts.rank import EVIDENCE, by_variable
from scutcher.charts.report.document import Heading, Paragraph, Part, Picture, Rows
from scutcher.charts.report.material import Report
from scutcher.charts.scores import scores
from scutcher.charts.words import with_minus
from scutcher.core.arrays import Floats
from scutcher.core.distances.contributions import q_shares, t2_shares
from scutcher.core.distances.limits import Limit
from scutcher.core.models.pca.component_model import explained
from scutcher.core.validation.evidence import Line
from scutcher.core.words import count_of, counted, shown
from scutcher.study.evaluation.saving import SeenAsNew, held_out_of, seen_as_new
from scutcher.study.evaluation.stability import stability_of

MOST_FAR = 60
"""Samples past their limits that are listed."""

TOP = 3
"""Channels that are named for each."""


def model(report: Report) -> list[Part]:
    """What the model is, and how many components the evidence asks for."""
    found, checked = report.found, report.checked
    shares = explained(found.decomposition)
    rows = [
        ("components", str(found.model.k)),
        ("engine", found.decomposition.engine),
        ("R²", shown(float(shares[: found.model.k].sum()), ".4f")),
        ("gaps", found.recipe.model.gaps if found.table.has_gaps else "none"),
    ]
    table = [
        (
            str(a + 1),
            shown(found.decomposition.eigenvalues[a], ".6g"),
            shown(shares[a], ".4f"),
            shown(shares[: a + 1].sum(), ".4f"),
        )
        for a in range(found.model.k)
    ]
    evidence = [(EVIDENCE[key][0], _told(line)) for key, line in checked.lines.items()]
    return [
        Paragraph("".join(words for words, _ in rank_finding(found, checked))),
        Rows(rows),
        Rows(table, ("component", "eigenvalue", "share", "together")),
        Heading("Evidence on the number of components"),
        Rows(evidence, ("line", "suggests")),
        Picture(by_variable(found, "variance"), DEFINITIONS["variance"]),
    ]


def _told(line: Line) -> str:
    if line.suggested is None:
        return line.reason
    return f"{line.suggested} ({line.note})" if line.note else str(line.suggested)


def held_out(report: Report) -> list[Part]:
    """Q² with each number of components, and the limits for new samples."""
    found, validation = report.found, report.checked.validation
    if validation is None:
        return [Paragraph(f"Nothing was held out: {report.checked.why_not}.")]
    settings = validation.settings
    how = (
        f"{count_of(validation.segments, 'segment')} ({settings.scheme}), "
        f"{count_of(settings.repeats, 'repeat')}, "
        f"{count_of(validation.block, 'variable')} predicted together; replicates stay together; "
        "everything that is learned from the set is learned again without the samples left out."
    )
    rows = [
        (
            str(a + 1),
            shown(validation.q2[a], ".4f"),
            shown(validation.q2_error[a], ".4f"),
            shown(validation.press[a], ".6g"),
        )
        for a in range(min(len(validation.q2), max(found.model.k + 3, 6)))
    ]
    table = [tuple(with_minus(cell) for cell in row) for row in rows]
    parts: list[Part] = [Paragraph(how), Rows(table, ("components", "Q²", "standard error", "PRESS"))]
    limits = held_out_of(found, report.checked)
    if limits is not None:
        known = (("T²", limits.t2_limit), ("Q", limits.q_limit), ("joint", limits.joint_limit))
        parts += [
            Heading("Limits for new samples"),
            Rows([_limit(name, limit) for name, limit in known if limit is not None], LIMITS),
            *([Paragraph(f"They are {limits.caution}.")] if limits.caution else []),
        ]
    return parts


LIMITS = ("distance", "limit", "coverage", "method")


def _limit(name: str, limit: Limit) -> tuple[str, str, str, str]:
    value = limit.reason if limit.value is None else shown(limit.value, ".5g")
    return name, value, f"{shown(100 * limit.level)} %", limit.method


def scores_section(report: Report) -> list[Part]:
    """Where the samples lie."""
    state, found = report.state, report.found
    codes = colouring_of(state).codes[found.usable.rows]
    said = far_finding(found, np.where(codes < 1000, codes, -1), report.pair)
    parts: list[Part] = [
        Paragraph("".join(words for words, _ in said)),
        Picture(scores(state, found, report.pair), DEFINITIONS["scores"], report.legend),
    ]
    if found.model.k > 2:
        further = (2, min(3, found.model.k - 1))
        parts.append(Picture(scores(state, found, further), "The next components.", report.legend))
    return parts


def loadings_section(report: Report) -> list[Part]:
    """What the components are made of."""
    chart = loadings(report.found, report.pair, stability_of(report.found, report.checked))
    return [Picture(chart, f"{_keys(chart.lines.names if chart.lines else ())}{DEFINITIONS['loadings']}")]


def _keys(names: Sequence[str]) -> str:
    """Which line is which, in the colours that lines have."""
    return "".join(
        f"{name[:1].upper()}{name[1:]} in {colour}. "
        for name, colour in zip(names, ("blue", "ochre"), strict=False)
    )


def distances_section(report: Report) -> list[Part]:
    """How far samples are, who is past the limits, and because of which channels."""
    state, found = report.state, report.found
    model = found.model
    limits = [("T²", model.t2_limit), ("Q", model.q_limit), ("joint", model.joint_limit)]
    far = _far(report)
    caption = f"{DEFINITIONS['t2']} {DEFINITIONS['q']}"
    parts: list[Part] = [
        Rows([_limit(name, limit) for name, limit in limits if limit is not None], LIMITS),
        Picture(distances(state, found, False, _seen(report)), caption, report.legend),
        Picture(run_order(state, found, "q", _seen(report)), DEFINITIONS["q"], report.legend),
        Heading("Samples past a limit"),
    ]
    if not far:
        return [*parts, Paragraph("None.")]
    parts.append(Rows(far[:MOST_FAR], ("sample", "T² / limit", "Q / limit", "most at")))
    if len(far) > MOST_FAR:
        parts.append(Paragraph(f"The first {MOST_FAR} of {counted(far)} are listed."))
    return parts


def _seen(report: Report) -> SeenAsNew | None:
    held = report.found.recipe.limits.distances == "held-out"
    return seen_as_new(report.found, report.checked) if held else None


def _far(report: Report) -> list[tuple[str, str, str, str]]:
    """The farthest first, each with the channels that make it far."""
    found, model = report.found, report.found.model
    ratios = [_ratio(model.t2, model.t2_limit), _ratio(model.q, model.q_limit)]
    worst = np.fmax(*ratios)
    rows = [int(row) for row in np.argsort(-np.nan_to_num(worst)) if worst[row] > 1.0]
    listed = rows[:MOST_FAR]
    if not listed:
        return []

    def name_of(row: int) -> str:
        return found.table.ids[int(found.usable.rows[row])]

    z = found.scaled.rows(np.array(listed, dtype=np.intp))
    shares = {"q": q_shares(z, model), "t2": t2_shares(z, model)}
    axis = found.treated.axis
    told = []
    for place, row in enumerate(listed):
        kind = "q" if not ratios[0][row] > ratios[1][row] else "t2"
        order = np.argsort(-np.abs(shares[kind][place]))
        channels = ", ".join(axis.name(column) for column in axis.apart(order, 50, TOP))
        words = [shown(ratio[row], ".2f") if np.isfinite(ratio[row]) else "" for ratio in ratios]
        told.append((name_of(row), words[0], words[1], f"{'Q' if kind == 'q' else 'T²'}: {channels}"))
    return told + [(name_of(row), "", "", "") for row in rows[MOST_FAR:]]


def _ratio(values: Floats, limit: Limit) -> Floats:
    nothing = limit.value is None or limit.value <= 0.0
    return np.full(len(values), np.nan) if nothing else values / float(limit.value or 1.0)
