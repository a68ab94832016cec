"""The Groups page: classes on the plane, where two differ, and whether it holds for left-out samples."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from scutcher.charts import colours
from scutcher.charts.density import density_outlines
from scutcher.charts.description import Area, Chart, Curve, Flags, Lines, Marks, Ribbon, Rule, Shade, nothing
from scutcher.charts.emphasis import ids_of_rows
from scutcher.charts.loadings import component_title
from scutcher.charts.overlays import replicate_stars
from scutcher.charts.runs import Run, RunLine
from scutcher.charts.whole_numbers import all_scores
from scutcher.core.arrays import Floats, Integers
from scutcher.core.groups.assigning import every_candidate
from scutcher.core.groups.dip import dip_test
from scutcher.core.groups.mean_differences import Difference
from scutcher.core.groups.score_ellipses import class_ellipse, hull
from scutcher.core.validation.held_out_assignment import held_out_directions, held_out_places
from scutcher.core.words import count_of
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups

MOST_JOINED = 5  # classes of which all centres are joined; of more only neighbours
MOST_FLAGS = 2000  # signs that are drawn; of more only the number is said
ROOM = 0.18  # of the plane: a shorter line has no room for its figure
FEWEST, SURE, GRADIENT = 8, 0.05, 0.7
"""Samples that a dip takes, the p value below which there are two humps, and a correlation that is one."""

AROUND = (0.05, 0.95)  # of the groups of a class, what its strip shows


@dataclass(frozen=True)
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
        f"direction {place + 1} of {grouping.column.name}, SD within (between over within {ratio:.1f})"
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
    words = f"in all {k} components: ○ {int(several.sum())} in several regions, × {int(none.sum())} in none"
    if regions.too_few:
        words += "; too few samples for a region: " + ", ".join(map(grouping.name, regions.too_few))
    return tuple(found), words


def _joined_centres(grouping: Grouping, points: Floats, two: tuple[int, int] | None) -> list[Curve]:
    """Thin lines between the centres; a bold one with the distance between the two that are looked at."""
    present = grouping.present.tolist()
    middles = {code: np.nanmean(points[grouping.rows(code)], axis=0) for code in present}
    every = list(combinations(range(len(present)), 2))
    if len(present) > MOST_JOINED:
        every = _nearest_tree(grouping.distances)
    curves = []
    for a, b in every:
        one, other = present[a], present[b]
        bold = two is not None and {one, other} == set(two)
        ends = np.array([middles[one], middles[other]])
        curves.append(Curve(ends[:, 0], ends[:, 1], "ink" if bold else "quiet", width=2.4 if bold else 0.8))
        middle, span = ends.mean(axis=0), np.nanmax(points, axis=0) - np.nanmin(points, axis=0)
        long = float(np.hypot(*((ends[1] - ends[0]) / np.where(span > 0.0, span, 1.0)))) > ROOM
        if bold or long:
            words = distance_words(grouping, float(grouping.distances[a, b]), short=not bold)
            curves.append(Curve(middle[:1], middle[1:], "ink" if bold else "quiet", name=words, behind=False))
    size = 0.014 * (np.nanmax(points, axis=0) - np.nanmin(points, axis=0))
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
    figure = f"{distance:.1f}" if grouping.metric == "within" or distance >= 10.0 else f"{distance:.2g}"
    return f"{figure} SD" if grouping.metric == "within" and not short else figure


def class_strips(grouping: Grouping, two: tuple[int, int], less_mean: bool, picked: tuple[int, ...]) -> Chart:
    """The means of two classes, where nine tenths of their groups lie, and the mean of the pick."""
    treated = grouping.found.treated
    values = treated.values
    base = values.mean(axis=0) if less_mean else np.zeros(values.shape[1])
    x, lines, spreads = treated.axis.places(), [], []
    for code in two:
        rows = grouping.rows(code)
        lines.append(values[rows].mean(axis=0) - base)
        means = _group_means(values[rows], grouping.groups[rows])
        low, high = np.quantile(means, AROUND, axis=0) - base
        spreads.append(Ribbon(x, low, high))
    places = grouping.found.places()
    of_pick = [places[row] for row in picked if row in places]
    curves: tuple[Curve, ...] = ()
    if of_pick:
        curves = (Curve(x, values[of_pick].mean(axis=0) - base, "ink", width=1.6, dashes=True, behind=False),)
    base_words = "less the mean of all" if less_mean else "means"
    return Chart(
        title="Where these two differ",
        note=f"{base_words}; bands: 90 % of the lots" + (" · dashed: the pick" if of_pick else ""),
        x_title=treated.axis.title,
        y_title=treated.signal or "value",
        lines=Lines(
            x,
            np.array(lines),
            np.array([-1 - code for code in two]),
            np.array(two, dtype=np.intp),
            tuple(grouping.name(code) for code in two),
            role="class",
        ),
        spreads=tuple(spreads),
        curves=curves,
        rules=(Rule(0.0),) if less_mean else (),
        tick_names=() if treated.axis.ordered else treated.axis.labels,
        bars=not treated.axis.ordered,
    )


def _group_means(values: Floats, groups: Integers) -> Floats:
    _, codes = np.unique(groups, return_inverse=True)
    sums = np.zeros((int(codes.max()) + 1, values.shape[1]))
    np.add.at(sums, codes, values)
    found: Floats = sums / np.bincount(codes)[:, np.newaxis]
    return found


def difference_strip(grouping: Grouping, two: tuple[int, int], found: Difference, kind: str) -> Chart:
    """One class's mean less the other's with its 95 % band, in the unit of the data or in SD within.

    Parameters
    ----------
    kind : "difference", "deviations", or "ratio" for between over within of all classes
    """
    treated = grouping.found.treated
    axis, x = treated.axis, treated.axis.places()
    names = f"{grouping.name(two[0])} less {grouping.name(two[1])}"
    spreads: tuple[Ribbon, ...] = ()
    shade = None
    if kind == "ratio":
        values = grouping.ratios
        title, note, unit = "Between over within classes", "all classes; F at each variable", "F"
        name = "between over within"
    else:
        scale = np.ones(len(x))
        if kind == "deviations":
            scale = np.divide(1.0, found.within, out=np.full(len(x), np.nan), where=found.within > 0.0)
        values, name = found.difference * scale, names
        title, unit = names, "SD within" if kind == "deviations" else treated.signal or "difference"
        banded = np.isfinite(found.low)
        note = (
            f"band: 95 %; shaded where it leaves zero: {int(found.past.sum())} of {len(x)}"
            if banded.any()
            else "no band: it is being drawn, or a class has one group of replicates only"
        )
        if banded.any():
            spreads = (Ribbon(x, found.low * scale, found.high * scale),)
            shade = Shade(x, np.where(found.past, 0.5, 0.0), np.full(len(x), -1, dtype=np.intp))
    return Chart(
        title=title,
        note=note,
        x_title=axis.title,
        y_title=unit,
        lines=Lines(x, values[np.newaxis, :], np.array([0]), np.array([0]), (name,), role="component"),
        spreads=spreads,
        shade=shade,
        rules=(Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


def strongest(grouping: Grouping, found: Difference) -> list[tuple[str, float, float, float, float, float]]:
    """Variables by how many SD within they differ, strongest first: name, difference, band, SD, F of all."""
    axis = grouping.found.treated.axis
    size = np.nan_to_num(np.abs(found.in_deviations), nan=-1.0)
    return [
        (
            axis.name(int(at)),
            float(found.difference[at]),
            float(found.low[at]),
            float(found.high[at]),
            float(found.in_deviations[at]),
            float(grouping.ratios[at]),
        )
        for at in np.argsort(-size, kind="stable")[:60]
    ]


def along_chart(grouping: Grouping, held: HeldOutGroups, two: tuple[int, int], name: str) -> Chart:
    """The samples of two classes along the line of their centres, held out, against a property.

    Parameters
    ----------
    name : of the property; "" for the run order
    """
    codes, rows, table = grouping.codes, grouping.found.usable.rows, grouping.found.table
    place = held_out_places(held.scores, codes, held.assignment.k, *two)
    chosen = np.flatnonzero(np.isin(codes, two) & np.isfinite(place))
    measured = next((c for c in grouping.found.treated.properties if c.name == name), None)
    order = np.asarray(rows + 1.0, dtype=np.float64)
    y = order if measured is None else measured.values
    first, second = grouping.name(two[0]), grouping.name(two[1])
    return Chart(
        title="Along the line",
        note=along_words(place[chosen], y[chosen], "" if measured is None else measured.name),
        x_title=f"0: centre of {first} · 1: centre of {second}",
        y_title="run order" if measured is None else measured.header,
        marks=Marks(place[chosen], y[chosen], rows[chosen], codes[chosen], ids_of_rows(table, rows[chosen])),
        rules=(Rule(0.0, vertical=True), Rule(1.0, vertical=True)),
        empty="" if len(chosen) else "No sample of these two classes was left out.",
    )


def along_words(place: Floats, y: Floats, name: str) -> str:
    """Two groups, one, or a gradient cut in two: what the humps and the correlation say."""
    if len(place) < FEWEST:
        return "too few samples to say"
    dip = dip_test(place)
    humps = "two humps" if dip.p_value < SURE else "one hump"
    words = f"{humps} (dip {dip.dip:.3f}, p {dip.p_value:.2g})"
    known = np.isfinite(y)
    if name and known.sum() >= FEWEST and np.ptp(y[known]) > 0.0 and np.ptp(place[known]) > 0.0:
        r = float(np.corrcoef(place[known], y[known])[0, 1])
        words += f"; r {r:.2f} with {name}".replace("-", "−")
        if humps == "one hump" and abs(r) > GRADIENT:
            words += ": rather a gradient cut in two"
    return words


def held_out_run(grouping: Grouping, held: HeldOutGroups | None) -> Run | None:
    """Share of left-out samples that find their class against the number of components."""
    if held is None:
        return None
    assignment = held.assignment
    lines = [RunLine("share right", assignment.share_right, colours.INK, assignment.error, bold=True)]
    right, judged = assignment.right(), assignment.codes[assignment.judged]
    for code in grouping.present.tolist():
        own = judged == code
        if own.any():
            name = grouping.name(code)
            lines.append(RunLine(name, right[:, own].mean(axis=1), colours.class_colour(code)))
    level = (assignment.guessing, f"guessing {assignment.guessing:.2f}")
    return Run(assignment.k, 1, tuple(lines), (level,), best=assignment.best())


def held_out_words(held: HeldOutGroups) -> str:
    """`0.88 ± 0.04 with 5 components; best 0.88 with 5; p 0.005`."""
    assignment = held.assignment
    k, best = assignment.k, assignment.best()
    share, error = assignment.share_right[k - 1], assignment.error[k - 1]
    words = f"{share:.2f} ± {error:.2f} with {k}"
    left = held.scores.segments[0]
    every = every_candidate(len(left.kept), len(left.rows))
    if assignment.method == "nearest-neighbours" and every > 1:
        words += f", neighbours among every {every}th sample"
    if best != k:
        words += f", best {assignment.share_right[best - 1]:.2f} with {best}"
    return words


def finding(grouping: Grouping, held: HeldOutGroups | None) -> list[tuple[str, tuple[int, ...]]]:
    """The sentence at the top of the page in pieces: words, and the rows of the table they stand for."""
    rows = grouping.found.usable.rows
    if held is None:
        n = count_of(int((grouping.codes >= 0).sum()), "sample")
        return [(f"{n} in {count_of(grouping.present, 'class')}; left-out samples are being assigned …", ())]
    assignment = held.assignment
    k, judged = assignment.k, np.flatnonzero(assignment.judged)
    right = assignment.right()[k - 1]
    found = f"{right.sum():.0f} of {len(judged)} held-out samples find their class"
    guess = f", guessing {assignment.guessing * len(judged):.0f}"
    p = "" if held.p_value is None else f" (p {held.p_value:.2g})"
    shares = {
        int(code): (right[assignment.codes[judged] == code].mean(), judged[assignment.codes[judged] == code])
        for code in np.unique(assignment.codes[judged])
    }
    least = min(shares, key=lambda code: shares[code][0])
    own = shares[least][1]
    hits = right[assignment.codes[judged] == least].sum()
    return [
        (found, tuple(rows[judged[right >= 0.5]].tolist())),
        (f"{guess}{p}; least sure: ", ()),
        (f"{grouping.name(least)}, {hits:.0f} of {len(own)}", tuple(rows[own].tolist())),
    ]


def doubtful_words(grouping: Grouping, held: HeldOutGroups) -> list[tuple[str, tuple[int, ...]]]:
    """Labels worth a look, most first: which samples, called what, and where they are placed."""
    rows, ids = grouping.found.usable.rows, grouping.found.treated.ids
    replicates = grouping.found.part.replicates
    bundles: dict[tuple[int, int, int], list[int]] = {}
    for row, to in held.assignment.doubtful(held.assignment.k):
        bundles.setdefault((int(grouping.groups[row]), int(grouping.codes[row]), to), []).append(row)
    found = []
    for (group, code, to), members in bundles.items():
        every = int((grouping.groups == group).sum())
        whole = replicates is not None and len(members) == every > 1
        name = replicates[members[0]] if whole and replicates else ", ".join(ids[row] for row in members)
        words = f"{name}, called {grouping.name(code)}, lies with {grouping.name(to)}"
        nearer = float(np.mean(held.assignment.margins[members]))
        words += f" ({nearer:.1f} SD nearer)" if nearer > 0.0 else ""
        found.append((words, tuple(rows[members].tolist())))
    return found


def no_classes(title: str) -> Chart:
    """What to do where there is nothing to tell apart."""
    return nothing(
        title, "Classes are told apart here. Tag samples with a class, or find groups without labels."
    )
