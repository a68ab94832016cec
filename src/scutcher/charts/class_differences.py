"""Where two classes differ: their means, the difference with its band, the strongest variables."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Ribbon, Rule, Shade
from scutcher.core.arrays import Floats, Integers
from scutcher.core.groups.mean_differences import Difference
from scutcher.core.numeric.group_means import means_by_group
from scutcher.study.evaluation.grouping import Grouping

AROUND = (0.05, 0.95)  # of the groups of a class, what its strip shows


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
    return means_by_group(values, np.unique(groups, return_inverse=True)[1])


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
