"""Several tables in a report: what they share, how sure that is, who does not fit."""

from __future__ import annotations

import numpy as np

from scutcher.charts.blocks.check import check_chart
from scutcher.charts.blocks.consensus import consensus, pairs_of
from scutcher.charts.blocks.finding import finding
from scutcher.charts.blocks.later import HEADER, later_rows
from scutcher.charts.blocks.tables import apart_rows, loading_strip, outside_rows
from scutcher.charts.report.document import Heading, Paragraph, Part, Picture, Rows
from scutcher.charts.words import with_minus
from scutcher.core.blocks.later import incomplete_samples
from scutcher.core.blocks.stability import SHARE
from scutcher.core.errors import InputError
from scutcher.core.words import shown
from scutcher.study.document.state import State, has_several_tables
from scutcher.study.evaluation.blocks import checked_blocks, fitted_blocks, rows_of, steady_of

AGREEMENT = (
    "component",
    "agreement",
    "on samples left out",
    "found in segments",
    "p",
    f"back in draws of {100 * SHARE:.0f} % of the samples",
)


def blocks_section(state: State) -> list[Part]:
    """The section; empty for a study of one table."""
    if not has_several_tables(state):
        return []
    try:
        fitted = fitted_blocks(state)
        checked, steady = checked_blocks(state, fitted), steady_of(state, fitted)
        incomplete = incomplete_samples(fitted)
    except InputError as error:
        return [Heading("Several tables"), Paragraph(f"{error.problem} {error.remedy}")]
    rows = rows_of(state, fitted)
    order = pairs_of(fitted)
    pair = order[0], order[1] if len(order) > 1 else order[0]
    n = fitted.model.n
    none = np.full(n, -1, dtype=np.intp)
    agreement = []
    for one in fitted.model.components:
        if len(one.blocks) > 1:
            out, p = checked.held_of(one), checked.p_of(one)
            known = out is not None and np.isfinite(out.agreement)
            left_out = shown(out.agreement, ".2f") if out is not None and known else "not found"
            found_in = f"{out.segments} of {out.of}" if out is not None else ""
            chance = shown(p, ".3f") if np.isfinite(p) else ""
            fitted_agreement = shown(min(one.agreement, 1.0), ".2f")
            again = steady.of(one)
            back = "" if again is None else f"{again.found} of {again.draws}"
            held = with_minus(left_out)
            agreement.append((fitted.label(one), fitted_agreement, held, found_in, chance, back))
    said = " ".join([f"{fitted.matched.said()}.", *fitted.warnings()])
    header, outside = outside_rows(fitted, checked)
    parts: list[Part] = [
        Heading("Several tables"),
        Paragraph("".join(words for words, _ in finding(fitted, checked, [own.tolist() for own in rows]))),
        Paragraph(said),
        Rows(agreement, AGREEMENT),
        Picture(
            consensus(fitted, checked, pair, none, none, "longest"),
            "Where the tables agree that each sample lies; spokes to where they put those they disagree on.",
        ),
        Picture(check_chart(fitted), "Correlations of all block scores."),
    ]
    for b in range(len(fitted.names)):
        chart = loading_strip(fitted, b, pair)
        if not chart.is_blank:
            parts.append(Picture(chart, f"What the two components are made of in {fitted.names[b]}."))
    apart = [tuple(map(str, row)) for row in apart_rows(fitted, checked)]
    if apart:
        parts += [
            Paragraph("Samples on which the tables disagree, the farthest first:"),
            Rows(apart, ("sample", "t", "component", "table", "because of")),
        ]
    if incomplete is not None:
        told = [tuple(map(str, row)) for row in later_rows(fitted, incomplete, steady)]
        parts += [Paragraph("Samples that some tables lack:"), Rows(told, tuple(HEADER))]
    if outside:
        parts.append(Rows([tuple(map(str, row)) for row in outside], ("column", *header[1:])))
    return parts
