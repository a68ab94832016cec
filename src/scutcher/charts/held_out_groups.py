"""Whether classes hold for left-out samples: shares right, the line of two centres, doubtful labels."""

from __future__ import annotations

import numpy as np

from scutcher.charts import colours
from scutcher.charts.description import Chart, Marks, Rule
from scutcher.charts.emphasis import ids_of_rows
from scutcher.charts.runs import Run, RunLine
from scutcher.core.arrays import Floats, Integers
from scutcher.core.groups.assigning import every_candidate
from scutcher.core.groups.dip import Dip, dip_test
from scutcher.core.progress import Watch
from scutcher.core.validation.held_out_assignment import held_out_places
from scutcher.core.words import count_of, counted, shown
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups

FEWEST, SURE, GRADIENT = 8, 0.05, 0.7
"""Samples that a dip takes, the p value below which there are two humps, and a correlation that is one."""


def dip_along(
    grouping: Grouping, held: HeldOutGroups, two: tuple[int, int], watch: Watch | None = None
) -> Dip | None:
    """Whether the samples of two classes are one hump along the line of their centres; None of too few."""
    place, chosen = _along(grouping, held, two)
    return dip_test(place[chosen], watch=watch) if len(chosen) >= FEWEST else None


def _along(grouping: Grouping, held: HeldOutGroups, two: tuple[int, int]) -> tuple[Floats, Integers]:
    """Where each left-out sample lies along the line, and which of them are of the two classes."""
    place = held_out_places(held.scores, grouping.codes, held.assignment.k, *two)
    return place, np.flatnonzero(np.isin(grouping.codes, two) & np.isfinite(place))


def along_chart(
    grouping: Grouping, held: HeldOutGroups, two: tuple[int, int], name: str, dip: Dip | None
) -> Chart:
    """The samples of two classes along the line of their centres, held out, against a property.

    Parameters
    ----------
    name : of the property; "" for the run order
    dip : where it is known already
    """
    codes, rows, table = grouping.codes, grouping.found.usable.rows, grouping.found.table
    place, chosen = _along(grouping, held, two)
    measured = next((c for c in grouping.found.treated.properties if c.name == name), None)
    order = np.asarray(rows + 1.0, dtype=np.float64)
    y = order if measured is None else measured.values
    first, second = grouping.name(two[0]), grouping.name(two[1])
    return Chart(
        title="Along the line",
        note=along_words(place[chosen], y[chosen], "" if measured is None else measured.name, dip),
        x_title=f"0: centre of {first} · 1: centre of {second}",
        y_title="run order" if measured is None else measured.header,
        marks=Marks(place[chosen], y[chosen], rows[chosen], codes[chosen], ids_of_rows(table, rows[chosen])),
        rules=(Rule(0.0, vertical=True), Rule(1.0, vertical=True)),
        empty="" if len(chosen) else "No sample of these two classes was left out.",
    )


def along_words(place: Floats, y: Floats, name: str, dip: Dip | None) -> str:
    """Two groups, one, or a gradient cut in two: what the humps and the correlation say."""
    if len(place) < FEWEST:
        return "too few samples to say"
    if dip is None:
        return "one hump or two? …"
    humps = "two humps" if dip.p_value < SURE else "one hump"
    words = f"{humps} (dip {shown(dip.dip, '.3f')}, p {shown(dip.p_value, '.2g')})"
    known = np.isfinite(y)
    if name and known.sum() >= FEWEST and np.ptp(y[known]) > 0.0 and np.ptp(place[known]) > 0.0:
        r = float(np.corrcoef(place[known], y[known])[0, 1])
        words += f"; r {shown(r, '.2f')} with {name}".replace("-", "−")
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
    level = (assignment.guessing, f"guessing {shown(assignment.guessing, '.2f')}")
    return Run(assignment.k, 1, tuple(lines), (level,), best=assignment.best())


def held_out_words(held: HeldOutGroups) -> str:
    """`0.88 ± 0.04 with 5 components; best 0.88 with 5; p 0.005`."""
    assignment = held.assignment
    k, best = assignment.k, assignment.best()
    share, error = assignment.share_right[k - 1], assignment.error[k - 1]
    words = f"{shown(share, '.2f')} ± {shown(error, '.2f')} with {k}"
    left = held.scores.segments[0]
    every = every_candidate(len(left.kept), len(left.rows))
    if assignment.method == "nearest-neighbours" and every > 1:
        words += f", neighbours among every {every}th sample"
    if best != k:
        words += f", best {shown(assignment.share_right[best - 1], '.2f')} with {best}"
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
    found = f"{counted(int(right.sum()))} of {counted(judged)} held-out samples find their class"
    guess = f", guessing {counted(round(assignment.guessing * len(judged)))}"
    p = "" if held.p_value is None else f" (p {shown(held.p_value, '.2g')})"
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


def doubtful_words(grouping: Grouping, held: HeldOutGroups, named: int | None = None) -> list[str]:
    """Labels worth a look, most first: which samples, called what, and where they are placed.

    Parameters
    ----------
    named : how many are put into words, if not all
    """
    sizes, bundles = np.bincount(grouping.groups), range(len(held.assignment.doubtful))
    return [_in_words(grouping, held, sizes, bundle) for bundle in bundles[:named]]


def _in_words(grouping: Grouping, held: HeldOutGroups, sizes: Integers, bundle: int) -> str:
    """What a bundle of samples is called, and where it is placed; `sizes` are those of all groups."""
    doubtful, ids = held.assignment.doubtful, grouping.found.treated.ids
    members, replicates = doubtful.members(bundle), grouping.found.part.replicates
    first = int(members[0])
    whole = replicates is not None and len(members) == sizes[grouping.groups[first]] > 1
    name = replicates[first] if whole and replicates else ", ".join(ids[row] for row in members)
    called, lies_with = grouping.codes[first], doubtful.classes[bundle]
    words = f"{name}, called {grouping.name(int(called))}, lies with {grouping.name(int(lies_with))}"
    nearer = float(held.assignment.margins[members].mean())
    return words + (f" ({shown(nearer, '.1f')} SD nearer)" if nearer > 0.0 else "")
