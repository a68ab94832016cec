"""The square table of classes: distances above the diagonal, mix-ups below it, shares right on it."""

from __future__ import annotations

import numpy as np

from scutcher.charts.groups import distance_words
from scutcher.core.arrays import Floats, Integers, distinct
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_regions import hull_gap, overlap
from scutcher.core.groups.score_ellipses import hull
from scutcher.core.groups.tree import Linkage, Tree
from scutcher.core.words import counted, shown
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups

UPPER = {
    "distance": "between centres",
    "overlap": "of regions",
    "gap": "between hulls",
}


@frozen
class SquareLook:
    """What the table shows.

    Attributes
    ----------
    upper : "distance", "overlap" (1 less the share of samples that two regions have in common), or "gap"
        (between hulls on the plane that is shown; negative by the depth of overlap)
    shares : bool
        Mix-ups as shares of the samples of both classes, not as counts.
    linkage : of the tree
    """

    upper: str = "distance"
    shares: bool = False
    linkage: Linkage = "average"


@frozen(eq=False)
class Cell:
    """One cell: a figure, the small words under it, how strong its shade is (0 to 1), and of which kind."""

    figure: str
    words: str
    shade: float
    kind: str


@frozen(eq=False)
class ClassSquare:
    """What the table shows, rows and columns in the order of the tree.

    Attributes
    ----------
    codes : (c,) int array
    names : tuple of str
    sizes : tuple of str
        `33 samples, 11 lots`.
    cells : c rows of c Cell
    tree : Tree or None
        Of the classes as they stand here: thing 0 is the first row.
    unit : str
        Of the tree's heights, or what the bars say.
    bars : tuple of (own only, another only, several, none) for each row, in place of a tree
    """

    codes: Integers
    names: tuple[str, ...]
    sizes: tuple[str, ...]
    cells: tuple[tuple[Cell, ...], ...]
    tree: Tree | None
    unit: str
    bars: tuple[tuple[int, int, int, int], ...] = ()

    def rows(self) -> tuple[list[str], list[list[object]]]:
        """The table behind it."""
        table: list[list[object]] = [
            [name, *(cell.figure for cell in row)] for name, row in zip(self.names, self.cells, strict=True)
        ]
        return ["class", *self.names], table


def class_square(
    grouping: Grouping,
    held: HeldOutGroups | None,
    look: SquareLook | None = None,
    pair: tuple[int, int] = (0, 1),
) -> ClassSquare:
    """The table of a grouping; `pair` is the plane that hulls are compared on."""
    look = look or SquareLook()
    upper, shares = look.upper, look.shares
    grown = grouping.tree(look.linkage)
    order = grown.order
    codes = grouping.present[order]
    above = _upper(grouping, upper, pair)[np.ix_(order, order)]
    mixed = None
    if held is not None:
        levels = len(grouping.column.levels)
        mixed = held.assignment.mixups(held.assignment.k, levels)[np.ix_(codes, codes)]
    cells = tuple(
        tuple(
            _cell(grouping, codes, above, mixed, upper, shares, row, column) for column in range(len(codes))
        )
        for row in range(len(codes))
    )
    sizes = tuple(_size(grouping, int(code)) for code in codes)
    places = np.argsort(order)
    c = len(order)
    pairs = np.where(grown.pairs < c, places[np.minimum(grown.pairs, c - 1)], grown.pairs)
    tree = Tree(pairs, grown.heights, np.arange(c))
    unit = "SD apart" if grouping.metric == "within" else "apart, in scores"
    names = tuple(map(grouping.name, codes.tolist()))
    return ClassSquare(codes, names, sizes, cells, tree, unit)


def _upper(grouping: Grouping, kind: str, pair: tuple[int, int]) -> Floats:
    """The figures above the diagonal, by the places of the classes present."""
    if kind == "overlap":
        return overlap(grouping.regions.inside[:, grouping.present])
    if kind == "gap":
        points = grouping.found.model.scores[:, list(pair)]
        hulls = [_corners(points[grouping.rows(code)]) for code in grouping.present.tolist()]
        return np.array([[hull_gap(one, two) for two in hulls] for one in hulls])
    return grouping.distances


def _corners(points: Floats) -> Floats:
    outline = hull(points)
    return outline[:-1] if len(outline) else points


def _size(grouping: Grouping, code: int) -> str:
    rows = grouping.rows(code)
    groups = len(distinct(grouping.groups[rows]))
    return counted(rows) if groups == len(rows) else f"{counted(rows)} in {counted(groups)}"


def _cell(
    grouping: Grouping,
    codes: Integers,
    above: Floats,
    mixed: Floats | None,
    upper: str,
    shares: bool,
    row: int,
    column: int,
) -> Cell:
    if column > row:
        return _upper_cell(grouping, above, upper, row, column)
    if mixed is None:
        return Cell("…", "", 0.0, "none")
    if column < row:
        count = float(mixed[row, column] + mixed[column, row])
        of = float(mixed[[row, column]].sum())
        figure = f"{100.0 * count / of:.0f} %" if shares and of else _count(count)
        return Cell(figure, "mixed up", min(4.0 * count / of, 1.0) if of else 0.0, "mixed")
    total = float(mixed[row].sum())
    if not total:
        return Cell("–", "not judged", 0.0, "none")
    right = float(mixed[row, row])
    figure = f"{100.0 * right / total:.0f} %" if shares else f"{_count(right)} of {_count(total)}"
    return Cell(figure, "right", right / total, "right")


def _upper_cell(grouping: Grouping, above: Floats, upper: str, row: int, column: int) -> Cell:
    value = float(above[row, column])
    if not np.isfinite(value):
        return Cell("–", UPPER[upper], 0.0, "apart")
    most = float(np.nanmax(np.where(np.isfinite(above), np.abs(above), np.nan))) or 1.0
    if upper == "distance":
        words = "SD apart" if grouping.metric == "within" else "apart"
        return Cell(distance_words(grouping, value, short=True), words, value / most, "apart")
    if upper == "overlap":
        return Cell(f"{100.0 * (1.0 - value):.0f} %", "shared", value, "apart")
    figure = shown(value, ".2g").replace("-", "−")
    return Cell(figure, "gap" if value > 0.0 else "overlap", max(value, 0.0) / most, "apart")


def _count(value: float) -> str:
    """A count; the mean of several repeats with a decimal."""
    return f"{value:.0f}" if abs(value - round(value)) < 0.05 else shown(value, ".1f")
