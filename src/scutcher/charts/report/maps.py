"""Maps in a report: what is strange, how much of each component is structure, and the pictures."""

from __future__ import annotations

from scutcher.charts.map_finding import finding, strange_objects
from scutcher.charts.maps import PictureMap, chart_of
from scutcher.charts.pixels import Subject, map_of, structures
from scutcher.charts.report.document import Heading, Paragraph, Part, Picture, Rows
from scutcher.charts.words import with_minus
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixel_passes import Behind
from scutcher.study.evaluation.pixels import pixel_grid

PICTURES, OBJECTS = 3, 20
"""Components that are shown, and objects that are listed."""


def maps_section(state: State, found: Evaluation) -> list[Part]:
    """The section; empty where samples are no pixels."""
    grid = pixel_grid(state.table)
    if grid is None:
        return []
    objects = strange_objects(found, grid)
    agreement = []
    for place, seen in enumerate(structures(found, grid)):
        share, noise = (
            ("", "")
            if seen is None
            else (with_minus(shown(seen.agreement, ".2f")), "noise" if seen.is_noise else "")
        )
        agreement.append((f"component {place + 1}", share, noise))
    parts: list[Part] = [
        Heading("Maps"),
        Paragraph("".join(words for words, _ in finding(found, grid, objects))),
        Rows(agreement, ("scores", "neighbours agree (Moran's I)", "")),
    ]
    if objects:
        rows = [
            (
                str(len(one.rows)),
                f"{one.x[0]}–{one.x[1]}",
                f"{one.y[0]}–{one.y[1]}",
                f"component {one.component + 1}, {shown(abs(one.away), '.1f')} SD",
                ", ".join(one.channels),
            )
            for one in objects[:OBJECTS]
        ]
        parts += [
            Paragraph("Objects past the limit of the joint distance, the farthest first:"),
            Rows(rows, ("pixels", "x", "y", "lies on", "channels")),
        ]
    subjects = [Subject("score", (float(a),)) for a in range(min(PICTURES, found.model.k))]
    for subject in (*subjects, Subject("joint", ())):
        one = map_of(state, found, grid, subject, (), Behind())
        if one is not None:
            parts.append(Picture(chart_of(one, "", grid.layout), _caption(one)))
    return parts


def _caption(one: PictureMap) -> str:
    limit = "" if one.limit is None else f" Limit {shown(one.limit, '.4g')}."
    return (
        f"{one.title} of each pixel, colours from {shown(one.low, '.4g')} to {shown(one.high, '.4g')}.{limit}"
    )
