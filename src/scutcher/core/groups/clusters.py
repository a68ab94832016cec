"""Groups without labels: k-means and Ward's tree on scores, and how many groups there are."""

from __future__ import annotations

from typing import Literal

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.groups.tree import Tree, tree
from scutcher.core.numeric.group_means import means_by_group
from scutcher.core.progress import Watch, tell

Way = Literal["k-means", "ward"]
STARTS, ROUNDS = 50, 100
FEW_STARTS = 10  # of the many fits that only judge the number
REFERENCES, HALVES = 20, 20
MOST = 8  # groups that are looked at
MOST_JUDGED = 600  # points that the number is judged by; of more, so many drawn


@frozen(eq=False)
class Clusters:
    """Points in groups.

    Attributes
    ----------
    labels : (n,) int array
        From 0; numbered so that the groups' first coordinates rise.
    centres : (g, d) float array
    spread : float
        Sum of squared distances to the centres.
    """

    labels: Integers
    centres: Floats
    spread: float


def k_means(points: Floats, count: int, rng: np.random.Generator, starts: int = STARTS) -> Clusters:
    """The best of many starts.

    Parameters
    ----------
    points : (n, d) float array
    count : int
        Groups, from 1 to n.

    References
    ----------
    Lloyd, IEEE Trans. Inf. Theory 28 (1982) 129–137; starts by Arthur & Vassilvitskii, Proc. SODA (2007)
    1027–1035.
    """
    labels, _, spreads = lloyd(points, _spread_out(points, count, rng, 1 if count == 1 else starts))
    lowest = float(spreads.min())
    return _numbered(points, labels[int((spreads <= lowest + 1e-12 * max(lowest, 1e-300)).argmax())])


def _spread_out(points: Floats, count: int, rng: np.random.Generator, starts: int) -> Floats:
    """Starting centres, (starts, count, d): each next drawn by its squared distance to those there are."""
    n = len(points)
    chosen = rng.integers(n, size=(starts, 1))
    nearest = _squares(points[chosen[:, 0]], points)  # (starts, n)
    while chosen.shape[1] < count:
        reach = np.cumsum(nearest, axis=1)
        drawn = rng.random((starts, 1)) * reach[:, -1:]
        fresh = np.minimum((reach <= drawn).sum(axis=1), n - 1)
        chosen = np.hstack([chosen, fresh[:, np.newaxis]])
        nearest = np.minimum(nearest, _squares(points[fresh], points))
    found: Floats = points[chosen]
    return found


def lloyd(points: Floats, centres: Floats, rounds: int = ROUNDS) -> tuple[Integers, Floats, Floats]:
    """Lloyd's rounds of several starts, each until nothing moves; an emptied group takes the farthest point.

    Parameters
    ----------
    points : (n, d) float array
    centres : (s, g, d) float array
        Not changed.

    Returns
    -------
    (s, n) int array
        The group of each point.
    (s, g, d) float array
        Centres.
    (s,) float array
        Sums of squared distances to them.
    """
    starts, count = centres.shape[:2]
    labels = np.full((starts, len(points)), -1, dtype=np.intp)
    moving, centres = np.arange(starts), centres.copy()
    for _ in range(rounds):
        fresh, away = nearest_centres(points, centres[moving])
        places = np.arange(len(moving))[:, np.newaxis] * count
        sizes = np.bincount((fresh + places).ravel(), minlength=len(moving) * count).reshape(-1, count)
        for start, empty in zip(*np.nonzero(sizes == 0), strict=True):
            far = int((away[start] + np.einsum("nd,nd->n", points, points)).argmax())
            fresh[start, far], away[start, far] = empty, -np.inf
            sizes[start] = np.bincount(fresh[start], minlength=count)
        still = (fresh != labels[moving]).any(axis=1)
        moving, fresh, sizes = moving[still], fresh[still], sizes[still]
        if not len(moving):
            break
        labels[moving], bins = fresh, (fresh + places[: len(moving)]).ravel()
        for a, along in enumerate(points.T):
            sums = np.bincount(bins, np.tile(along, len(moving)), sizes.size).reshape(-1, count)
            centres[moving, :, a] = sums / np.maximum(sizes, 1)
    left = points - centres[np.arange(starts)[:, np.newaxis], labels]
    return labels, centres, np.einsum("snd,snd->s", left, left)


def nearest_centres(points: Floats, centres: Floats) -> tuple[Integers, Floats]:
    """The nearest centre of each point, the first of equals, and how far it is.

    Centre by centre: to look for the least of a few numbers point by point takes three times as long.

    Parameters
    ----------
    points : (n, d) float array
    centres : (s, g, d) float array
        Of several starts.

    Returns
    -------
    (s, n) int array
    (s, n) float array
        Squared distance less the squared length of the point, which is the same for all.
    """
    lengths = np.einsum("sgd,sgd->sg", centres, centres)
    nearest = np.zeros((len(centres), len(points)), dtype=np.int16)
    least, across = np.full(nearest.shape, np.inf), np.ascontiguousarray(points.T)
    for centre in range(centres.shape[1]):
        away = (-2.0 * centres[:, centre]) @ across
        away += lengths[:, centre, np.newaxis]
        nearer = np.multiply(away < least, centre, dtype=np.int16)
        np.maximum(nearest, nearer, out=nearest)  # no former one has so high a number
        np.minimum(least, away, out=least)
    return nearest.astype(np.intp), least


def _squares(points: Floats, centres: Floats) -> Floats:
    away: Floats = ((points[:, np.newaxis, :] - centres) ** 2).sum(axis=2)
    return away


def ward_tree(points: Floats) -> Tree:
    """Ward's tree of points, (n, k)."""
    return tree(np.sqrt(_squares(points, points)), "ward")


def cut_into(points: Floats, whole: Tree, count: int) -> Clusters:
    """A tree of points cut into so many groups."""
    return _numbered(points, whole.cut(count))


def ward(points: Floats, count: int) -> Clusters:
    """Ward's tree cut into so many groups."""
    return cut_into(points, ward_tree(points), count)


def _numbered(points: Floats, labels: Integers) -> Clusters:
    """The groups in the order of their first coordinates."""
    _, codes = np.unique(labels, return_inverse=True)
    centres = means_by_group(points, codes)
    order = np.lexsort(centres.T[::-1])
    ranks = np.argsort(order)
    spread = float(((points - centres[codes]) ** 2).sum())
    return Clusters(ranks[codes], centres[order], spread)


def found_for_each(
    points: Floats, most: int, way: Way, rng: np.random.Generator, starts: int = STARTS
) -> list[Clusters]:
    """1…most groups; one tree serves all of them."""
    if way == "ward":
        whole = ward_tree(points)
        return [cut_into(points, whole, count) for count in range(1, most + 1)]
    return [k_means(points, count, rng, starts) for count in range(1, most + 1)]


def adjusted_rand(one: Integers, two: Integers) -> float:
    """Agreement of two groupings: 1 for the same, 0 as by chance; 1 where both are one group.

    References
    ----------
    Hubert & Arabie, J. Classification 2 (1985) 193–218.
    """
    _, a = np.unique(one, return_inverse=True)
    _, b = np.unique(two, return_inverse=True)
    table = np.zeros((a.max() + 1, b.max() + 1))
    np.add.at(table, (a, b), 1.0)
    pairs = (table * (table - 1.0)).sum() / 2.0
    rows, columns = table.sum(axis=1), table.sum(axis=0)
    of_rows, of_columns = (rows * (rows - 1.0)).sum() / 2.0, (columns * (columns - 1.0)).sum() / 2.0
    n = len(one)
    chance = of_rows * of_columns / (n * (n - 1.0) / 2.0) if n > 1 else 0.0
    most = (of_rows + of_columns) / 2.0
    return 1.0 if most == chance else float((pairs - chance) / (most - chance))


def silhouette(points: Floats, labels: Integers) -> Floats:
    """How much nearer each point is to its own group than to the next, (n,); 0 for a group of one.

    `(b − a) / max(a, b)` with mean distances a within the own and b to the nearest other group.

    References
    ----------
    Rousseeuw, J. Comput. Appl. Math. 20 (1987) 53–65.
    """
    away = np.sqrt(_squares(points, points))
    count = int(labels.max()) + 1
    belongs = np.zeros((len(points), count))
    belongs[np.arange(len(points)), labels] = 1.0
    sums, sizes = away @ belongs, belongs.sum(axis=0)
    own = sizes[labels]
    within = sums[np.arange(len(points)), labels] / np.maximum(own - 1.0, 1.0)
    means = sums / sizes
    means[np.arange(len(points)), labels] = np.inf
    other = means.min(axis=1)
    found: Floats = np.where(own > 1.0, (other - within) / np.maximum(np.maximum(within, other), 1e-300), 0.0)
    return found


@frozen(eq=False)
class HowMany:
    """What speaks for 1…G groups.

    Attributes
    ----------
    gap, gap_error : (G,) float arrays
        Gap statistic and its standard error `s √(1 + 1/B)`.
    silhouettes : (G,) float array
        Mean silhouette; NaN for one group.
    stability, stability_spread : (G,) float arrays
        Adjusted Rand of what halves of the points find, mean and standard deviation; 1 for one group.
    """

    gap: Floats
    gap_error: Floats
    silhouettes: Floats
    stability: Floats
    stability_spread: Floats

    @property
    def by_gap(self) -> int:
        """The fewest with `gap(g) ≥ gap(g + 1) − s(g + 1)` (Tibshirani, Walther & Hastie 2001)."""
        enough = self.gap[:-1] >= self.gap[1:] - self.gap_error[1:]
        return int(enough.argmax()) + 1 if enough.any() else len(self.gap)

    @property
    def by_silhouette(self) -> int:
        """The largest mean silhouette, of two or more."""
        return int(np.nanargmax(self.silhouettes)) + 1 if np.isfinite(self.silhouettes).any() else 1

    @property
    def by_stability(self) -> int:
        """The most groups that halves find again nearly as well as any: within one standard deviation."""
        if len(self.stability) < 2:
            return 1
        best = float(self.stability[1:].max())
        good = self.stability[1:] >= max(best - float(self.stability_spread[1:].min()), FOUND_AGAIN)
        return int(np.flatnonzero(good).max()) + 2 if good.any() else 1


FOUND_AGAIN = 0.7
"""Adjusted Rand below which groups are not found again."""


def how_many(
    points: Floats, way: Way, most: int = MOST, seed: int = 1, watch: Watch | None = None
) -> HowMany:
    """Gap, silhouette and stability for 1…most groups.

    Parameters
    ----------
    points : (n, d) float array

    References
    ----------
    Tibshirani, Walther & Hastie, J. R. Stat. Soc. B 63 (2001) 411–423, reference uniform over the box along
    the principal axes.
    """
    rng = np.random.default_rng(seed)
    n = len(points)
    most = max(1, min(most, n // 2))
    if n > MOST_JUDGED:
        points = points[np.sort(rng.choice(n, MOST_JUDGED, replace=False))]
        n = MOST_JUDGED
    every = found_for_each(points, most, way, rng, FEW_STARTS)
    logs = np.log([max(one.spread, 1e-300) for one in every])
    chance = np.empty((REFERENCES, most))
    for turn in range(REFERENCES):
        tell(watch, 0.6 * turn / REFERENCES)
        drawn = _box(points, rng)
        spreads = [one.spread for one in found_for_each(drawn, most, way, rng, 3)]
        chance[turn] = np.log(np.maximum(spreads, 1e-300))
    agree = np.ones((HALVES, most))
    for turn in range(HALVES):
        tell(watch, 0.6 + 0.4 * turn / HALVES)
        order = rng.permutation(n)
        halves = [points[order[: n // 2]], points[order[n // 2 :]]]
        one, two = (_by_half(points, half, most, way, rng) for half in halves)
        agree[turn, 1:] = [adjusted_rand(*labels) for labels in zip(one[1:], two[1:], strict=True)]
    means = [
        np.nan if g == 0 else float(silhouette(points, one.labels).mean()) for g, one in enumerate(every)
    ]
    return HowMany(
        chance.mean(axis=0) - logs,
        chance.std(axis=0) * np.sqrt(1.0 + 1.0 / REFERENCES),
        np.array(means),
        agree.mean(axis=0),
        agree.std(axis=0),
    )


def _by_half(points: Floats, half: Floats, most: int, way: Way, rng: np.random.Generator) -> list[Integers]:
    """All points by the nearest centre of what one half finds, for 1…most groups."""
    every = found_for_each(half, min(most, len(half)), way, rng, FEW_STARTS)
    return [_squares(points, one.centres).argmin(axis=1) for one in every]


def _box(points: Floats, rng: np.random.Generator) -> Floats:
    """As many points, uniform over the box of the data along their principal axes."""
    middle = points.mean(axis=0)
    axes = np.linalg.svd(points - middle, full_matrices=False)[2]
    turned = (points - middle) @ axes.T
    drawn = rng.uniform(turned.min(axis=0), turned.max(axis=0), size=turned.shape)
    found: Floats = drawn @ axes + middle
    return found
