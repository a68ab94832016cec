"""Classes on the plane: regions, centres joined by their distances, samples in several regions or in none."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np

from scutcher.charts.density import density_outlines
from scutcher.charts.description import Area, Chart, Curve, Flags, Marks, Rule, nothing
from scutcher.charts.emphasis import ids_of_rows
from scutcher.charts.loadings import component_title
from scutcher.charts.overlays import replicate_stars
from scutcher.charts.whole_numbers import all_scores
from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.groups.score_ellipses import centroids, class_ellipse, hull
from scutcher.core.validation.held_out_assignment import held_out_directions
from scutcher.core.words import counted, shown
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups

MOST_JOINED = 5  # classes of which all centres are joined; of more only neighbours
MOST_FLAGS = 2000  # signs that are drawn; of more only the number is said
NOWHERE = np.full(2, np.nan)
ROOM = 0.18  # of the plane: a shorter line has no room for its figure


@frozen
class GroupsLook:
    """What is shown of the classes on the plane.

    Attributes
    ----------
    regions : "ellipse", "hull", "density" or "none"
    lines, flags, replicates : bool
        Centres joined; samples in several regions or in none marked; replicates joined.
    """

    regions: str = "ellipse"
    lines: bool = True
    flags: bool = True
    replicates: bool = False


def group_plane(
    grouping: Grouping, pair: tuple[int, int], look: GroupsLook, two: tuple[int, int] | None
) -> Chart:
    """The samples in the model on two components, with the regions of their classes.

    Parameters
    ----------
    two : codes of the two classes that are looked at: their centres are joined boldly, with the distance
    """
    found = grouping.found
    titles = (component_title(found, pair[0]), component_title(found, pair[1]))
    return _plane(grouping, found.model.scores[:, list(pair)], titles, look, two)


def directions_plane(
    grouping: Grouping, held: HeldOutGroups | None, look: GroupsLook, two: tuple[int, int] | None
) -> Chart:
    """The samples, held out, on the two directions that separate the classes best."""
    full = grouping.directions
    if full is None:
        return nothing("Scores", "Two directions take two classes with a spread, and two components.")
    if held is None:
        return nothing("Scores", "Left-out samples are being assigned …")
    points = held_out_directions(held.scores, grouping.codes, grouping.found.model.k, full)
    titles = tuple(
        f"direction {place + 1} of {grouping.column.name}, SD within (between over within "
        f"{shown(ratio, '.1f')})"
        for place, ratio in enumerate(full.ratios)
    )
    chart = _plane(grouping, points, (titles[0], titles[1]), look, two)
    return replace(chart, note=f"held out; {chart.note}" if chart.note else "held out")


def _plane(
    grouping: Grouping,
    points: Floats,
    titles: tuple[str, str],
    look: GroupsLook,
    two: tuple[int, int] | None,
) -> Chart:
    """Points of all samples in the model, with what is wanted over them."""
    found, codes = grouping.found, grouping.codes
    table, rows = found.table, found.usable.rows
    curves: list[Curve] = []
    if look.replicates and found.part.replicates is not None:
        curves += replicate_stars(points, found.part.replicates)
    if look.lines:
        curves += _joined_centres(grouping, points, two)
    flags, note = _flags(grouping, points) if look.flags else ((), "")
    return Chart(
        title="Scores",
        note=note,
        x_title=titles[0],
        y_title=titles[1],
        marks=Marks(points[:, 0], points[:, 1], rows, codes, ids_of_rows(table, rows)),
        rules=(Rule(0.0), Rule(0.0, vertical=True)),
        areas=_regions(grouping, points, look.regions),
        flags=flags,
        curves=tuple(curves),
        whole=all_scores(found),
    )


def _regions(grouping: Grouping, points: Floats, kind: str) -> tuple[Area, ...]:
    found = []
    for code in grouping.present.tolist() if kind != "none" else ():
        own = points[grouping.rows(code)]
        own = own[np.isfinite(own).all(axis=1)]
        found += [Area(one[:, 0], one[:, 1], code) for one in _outlines(own, kind, grouping.settings.level)]
    return tuple(found)


def _outlines(points: Floats, kind: str, level: float) -> list[Floats]:
    """The outline of a class, or several where its density has several hills."""
    if kind == "density":
        return density_outlines(points, level)
    outline = hull(points) if kind == "hull" else class_ellipse(points, level)
    return [outline] if len(outline) else []


def _flags(grouping: Grouping, points: Floats) -> tuple[tuple[Flags, ...], str]:
    """Rings round samples in several regions, crosses over those in none; and what they say."""
    regions = grouping.regions
    known = grouping.codes >= 0
    judged = known & ~np.isin(grouping.codes, regions.too_few)
    several, none = judged & (regions.counts > 1), judged & (regions.counts == 0)
    found = []
    if several.any() and several.sum() <= MOST_FLAGS:
        found.append(Flags(points[several, 0], points[several, 1]))
    if none.any() and none.sum() <= MOST_FLAGS:
        found.append(Flags(points[none, 0], points[none, 1], "cross", alarm=True))
    k = grouping.found.model.k
    two, no = counted(int(several.sum())), counted(int(none.sum()))
    words = f"in all {k} components: ○ {two} in several regions, × {no} in none"
    if regions.too_few:
        words += "; too few samples for a region: " + ", ".join(map(grouping.name, regions.too_few))
    return tuple(found), words


def _joined_centres(grouping: Grouping, points: Floats, two: tuple[int, int] | None) -> list[Curve]:
    """Thin lines between the centres; a bold one with the distance between the two that are looked at."""
    present = grouping.present.tolist()
    found = centroids(points, grouping.codes)
    middles = {code: found.get(code, NOWHERE) for code in present}
    every = list(combinations(range(len(present)), 2))
    if len(present) > MOST_JOINED:
        every = _nearest_tree(grouping.distances)
    span = np.nanmax(points, axis=0) - np.nanmin(points, axis=0)
    curves = []
    for a, b in every:
        one, other = present[a], present[b]
        bold = two is not None and {one, other} == set(two)
        ends = np.array([middles[one], middles[other]])
        curves.append(Curve(ends[:, 0], ends[:, 1], "ink" if bold else "quiet", width=2.4 if bold else 0.8))
        middle = ends.mean(axis=0)
        long = float(np.hypot(*((ends[1] - ends[0]) / np.where(span > 0.0, span, 1.0)))) > ROOM
        if bold or long:
            words = distance_words(grouping, float(grouping.distances[a, b]), short=not bold)
            curves.append(Curve(middle[:1], middle[1:], "ink" if bold else "quiet", name=words, behind=False))
    size = 0.014 * span
    for code, (x, y) in middles.items():
        across = x + size[0] * np.array([-1.0, 1.0, np.nan, 0.0, 0.0])
        up = y + size[1] * np.array([0.0, 0.0, np.nan, -1.0, 1.0])
        curves.append(Curve(across, up, "class", code, width=3.0, behind=False))
    return curves


def _nearest_tree(distances: Floats) -> list[tuple[int, int]]:
    """The shortest lines that join all centres (Prim 1957)."""
    away = np.nan_to_num(distances, nan=np.inf)
    count, inside, found = len(away), [0], []
    while len(inside) < count:
        outside = [place for place in range(count) if place not in inside]
        some = away[np.ix_(inside, outside)]
        a, b = np.unravel_index(int(some.argmin()), some.shape)
        found.append((inside[int(a)], outside[int(b)]))
        inside.append(outside[int(b)])
    return found


def distance_words(grouping: Grouping, distance: float, short: bool = False) -> str:
    """A distance between classes with its unit."""
    if not np.isfinite(distance):
        return "–"
    figure = (
        shown(distance, ".1f") if grouping.metric == "within" or distance >= 10.0 else shown(distance, ".2g")
    )
    return f"{figure} SD" if grouping.metric == "within" and not short else figure


def no_classes(title: str) -> Chart:
    """What to do where there is nothing to tell apart."""
    return nothing(
        title, "Classes are told apart here. Tag samples with a class, or find groups without labels."
    )
