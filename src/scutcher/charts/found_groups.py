"""Groups without labels on screen: outlines on the plane, what speaks for their number, the cross table."""

from __future__ import annotations

import numpy as np

from scutcher.charts import colours
from scutcher.charts.description import Area, Chart, Curve, Lines, Marks, Rule
from scutcher.charts.emphasis import Colouring, ids_of_rows
from scutcher.charts.loadings import component_title
from scutcher.charts.runs import Run, RunLine
from scutcher.core.data.columns import ClassColumn
from scutcher.core.groups.clusters import Clusters, HowMany
from scutcher.core.groups.score_ellipses import hull
from scutcher.core.words import count_of, shown
from scutcher.study.evaluation.found_groups import Ungrouped


def group_name(place: int) -> str:
    """A, B, C …"""
    return chr(ord("A") + place) if place < 26 else f"group {place + 1}"


def found_plane(made: Ungrouped, clusters: Clusters, pair: tuple[int, int], colouring: Colouring) -> Chart:
    """The samples in their class colours, the groups as grey outlines with a letter."""
    found = made.found
    points, rows = found.model.scores[:, list(pair)], found.usable.rows
    labels = made.of_samples(clusters)
    areas, letters = [], []
    for group in range(len(clusters.centres)):
        own = points[labels == group]
        outline = hull(own)
        if len(outline):
            areas.append(Area(outline[:, 0], outline[:, 1], -1))
        top = own[own[:, 1].argmax()]
        letters.append(Curve(top[:1], top[1:], "ink", name=group_name(group), behind=False))
    return Chart(
        title="Scores",
        note=f"{pair[0] + 1} × {pair[1] + 1} · outlines: groups found in all {found.model.k} components",
        x_title=component_title(found, pair[0]),
        y_title=component_title(found, pair[1]),
        marks=Marks(points[:, 0], points[:, 1], rows, colouring.codes[rows], ids_of_rows(found.table, rows)),
        rules=(Rule(0.0), Rule(0.0, vertical=True)),
        areas=tuple(areas),
        curves=tuple(letters),
    )


def group_means(made: Ungrouped, clusters: Clusters, column: ClassColumn | None) -> Chart:
    """The mean of each group less the mean of all, in the colour of the class that most of it is of."""
    treated, labels = made.found.treated, made.of_samples(clusters)
    values, x = treated.values, treated.axis.places()
    count = len(clusters.centres)
    shares = (labels == np.arange(count)[:, np.newaxis]).astype(np.float64)
    shares = shares / shares.sum(axis=1, keepdims=True) - 1.0 / len(labels)
    codes = np.full(count, -1, dtype=np.intp)
    if column is not None:
        table = made.cross_table(clusters, column)
        codes = np.where(table.sum(axis=1) > 0.0, table.argmax(axis=1), -1)
    names = tuple(group_name(group) for group in range(count))
    return Chart(
        title="Where they differ",
        note="mean of each group less the mean of all, in the colour of most of it",
        x_title=treated.axis.title,
        y_title=treated.signal or "value",
        lines=Lines(
            x,
            shares @ values,
            -1 - np.arange(count),
            codes,
            names,
            role="class",
        ),
        rules=(Rule(0.0),),
        tick_names=() if treated.axis.ordered else treated.axis.labels,
        bars=not treated.axis.ordered,
    )


def number_run(made: Ungrouped, judged: HowMany, count: int, column: ClassColumn | None, kind: str) -> Run:
    """What speaks for each number of groups.

    Parameters
    ----------
    kind : "stability" (with the agreement with the labels), "silhouette" or "gap"
    """
    most = len(judged.gap)
    if kind == "gap":
        low, high = float((judged.gap - judged.gap_error).min()), float((judged.gap + judged.gap_error).max())
        air = 0.08 * (high - low) or 1.0
        lines = [RunLine("gap", judged.gap, colours.INK, judged.gap_error, bold=True)]
        return Run(count, 1, tuple(lines), span=(low - air, high + air))
    if kind == "silhouette":
        return Run(count, 1, (RunLine("mean silhouette", judged.silhouettes, colours.INK, bold=True),))
    lines = [RunLine("found again", judged.stability, colours.INK, judged.stability_spread, bold=True)]
    if column is not None:
        agree = [made.agreement(made.clusters(number), column) for number in range(1, most + 1)]
        lines.append(RunLine(f"with {column.name}", np.array(agree), colours.ACCENT))
    return Run(count, 1, tuple(lines), span=(-0.05, 1.05))


def cross_rows(
    made: Ungrouped, clusters: Clusters, column: ClassColumn
) -> tuple[list[str], list[list[object]]]:
    """Header and rows of the cross table: groups found against classes as labelled."""
    table = made.cross_table(clusters, column)
    used = [place for place, level in enumerate(column.levels) if level]
    header = ["group", "samples", *(column.levels[place] for place in used)]
    labels = made.of_samples(clusters)
    rows: list[list[object]] = []
    for group in range(len(clusters.centres)):
        counts = [int(table[group, place]) for place in used]
        rows.append([group_name(group), int((labels == group).sum()), *counts])
    return header, rows


def strangers(made: Ungrouped, clusters: Clusters, column: ClassColumn) -> list[int]:
    """Points that are alone of their class in a group of others: at most one in ten of the group."""
    table, classes = made.cross_table(clusters, column), made.classes_of_points(column)
    found = []
    for point, (group, code) in enumerate(zip(clusters.labels.tolist(), classes.tolist(), strict=True)):
        if code >= 0 and table[group, code] <= 0.1 * table[group].sum():
            found.append(point)
    return found


def number_words(judged: HowMany) -> str:
    """`gap statistic 4, silhouette 2, found again 4`."""
    return (
        f"gap statistic {judged.by_gap}, silhouette {judged.by_silhouette}, found again {judged.by_stability}"
    )


def found_finding(
    made: Ungrouped, clusters: Clusters, judged: HowMany | None, column: ClassColumn | None
) -> list[tuple[str, tuple[int, ...]]]:
    """The sentence at the top of the page."""
    count, kind = len(clusters.centres), "lot" if made.found.part.replicates is not None else "sample"
    words = f"{count_of(count, 'group')} of {count_of(len(made.points), kind)}"
    if judged is None:
        return [(words + "; how many there are is being judged …", ())]
    pieces = [f"{words}; suggested by {number_words(judged)}"]
    if {judged.by_gap, judged.by_stability} == {1}:
        pieces = [f"{words}: nothing speaks for more than one group ({number_words(judged)})"]
    if column is not None and count > 1:
        pieces.append(
            f"agreement with {column.name} {shown(made.agreement(clusters, column), '.2f')}, where "
            "1 is the same"
        )
    return [("; ".join(pieces) + ".", ())]
