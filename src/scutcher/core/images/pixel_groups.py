"""Groups of pixels without labels, in the scores of a model; for millions of them."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.groups.clusters import k_means, lloyd, nearest_centres
from scutcher.core.progress import Watch, tell

STARTED_ON, STARTS, ROUNDS = 10_000, 10, 20

JUDGED_ON, HALVINGS, FOUND_AGAIN = 2_000, 5, 0.8
"""Pixels that the number of groups is judged by, how often they are halved, what counts as found again."""

COUNTS = (2, 3, 4, 5, 6, 7, 8)


@frozen(eq=False)
class PixelGroups:
    """Pixels in groups, numbered by falling size.

    Attributes
    ----------
    labels : (n,) int array
        From 0; −1 for pixels that do not count.
    centres : (g, k) float array
    spread : float
        Sum of squared distances to the centres.
    """

    labels: Integers
    centres: Floats
    spread: float


def split_start(points: Floats, count: int) -> Floats:
    """Centres by splitting: each time the widest group, at its mean along its first axis. (count, k).

    References
    ----------
    Su & Dy, Intell. Data Anal. 11 (2007) 319–338.
    """
    groups = [np.arange(len(points))]
    while len(groups) < count:
        squares = [float(((points[g] - points[g].mean(axis=0)) ** 2).sum()) for g in groups]
        widest = int(np.argmax(squares))
        rows = groups.pop(widest)
        away = points[rows] - points[rows].mean(axis=0)
        axis = np.linalg.eigh(away.T @ away)[1][:, -1]
        beyond = away @ axis > 0.0
        if beyond.all() or not beyond.any():
            beyond = np.arange(len(rows)) % 2 == 0
        groups[widest:widest] = [rows[~beyond], rows[beyond]]
    return np.array([points[rows].mean(axis=0) for rows in groups])


def settled(points: Floats, centres: Floats, rounds: int = ROUNDS) -> tuple[Integers, Floats, float]:
    """Lloyd's rounds of one start until nothing moves: labels, centres, spread."""
    (labels,), (found,), (spread,) = lloyd(points, centres[np.newaxis], rounds)
    return labels, found, float(spread)


def pixel_groups(scores: Floats, count: int, seed: int = 1, watch: Watch | None = None) -> PixelGroups:
    """Group pixels: the better of ten drawn starts and the split start, then all pixels.

    Parameters
    ----------
    scores : (n, k) float array
        Unscaled; NaN rows do not count.
    count : int
        Groups, 2 or more.

    References
    ----------
    Lloyd, IEEE Trans. Inf. Theory 28 (1982) 129–137; Arthur & Vassilvitskii, Proc. SODA (2007) 1027–1035;
    Su & Dy (2007).
    """
    known = np.flatnonzero(np.isfinite(scores[:, 0]))
    some = known[np.linspace(0, len(known) - 1, min(len(known), STARTED_ON)).round().astype(np.intp)]
    few = np.asarray(scores[some], dtype=np.float64)
    tell(watch, 0.05)
    drawn = k_means(few, count, np.random.default_rng(seed), STARTS)
    tell(watch, 0.3)
    split = settled(few, split_start(few, count))
    start = split[1] if split[2] < drawn.spread else drawn.centres
    labels, centres, spread = settled(np.asarray(scores[known], dtype=np.float64), start)
    tell(watch, 0.95)
    order = np.argsort(-np.bincount(labels, minlength=count), kind="stable")
    number = np.empty(count, np.intp)
    number[order] = np.arange(count)
    every = np.full(len(scores), -1, np.intp)
    every[known] = number[labels]
    return PixelGroups(every, centres[order], spread)


@frozen(eq=False)
class HowManyGroups:
    """Two lines on the number of groups; neither is to be trusted alone.

    Attributes
    ----------
    counts : tuple of int
    silhouette : (m,) float array
        Simplified silhouette: how much nearer pixels are to their own centre than to the next, 0 to 1.
    strength : (m,) float array
        Prediction strength: the share of pairs of one half's worst group that the other half's centres keep
        together, mean over halvings.
    error : (m,) float array
        Its standard error.
    """

    counts: tuple[int, ...]
    silhouette: Floats
    strength: Floats
    error: Floats

    @property
    def clearest(self) -> int:
        """The number with the largest silhouette."""
        return self.counts[int(self.silhouette.argmax())]

    @property
    def most_found_again(self) -> int:
        """The largest number whose strength with its error reaches 0.8; 1 where none does."""
        good = np.flatnonzero(self.strength + self.error >= FOUND_AGAIN)
        return self.counts[int(good[-1])] if len(good) else 1


def how_many_groups(scores: Floats, seed: int = 1, watch: Watch | None = None) -> HowManyGroups:
    """Judge 2 to 8 groups on up to 2,000 evenly spaced pixels.

    Parameters
    ----------
    scores : (n, k) float array
        NaN rows do not count.

    References
    ----------
    Tibshirani & Walther, J. Comput. Graph. Stat. 14 (2005) 511–528 (prediction strength).
    """
    known = np.flatnonzero(np.isfinite(scores[:, 0]))
    some = known[np.linspace(0, len(known) - 1, min(len(known), JUDGED_ON)).round().astype(np.intp)]
    points = np.asarray(scores[some], dtype=np.float64)
    counts = tuple(count for count in COUNTS if 4 * count <= len(points))
    silhouettes, strengths, errors = [], [], []
    for place, count in enumerate(counts):
        tell(watch, place / len(counts))
        silhouettes.append(_silhouette(points, _best(points, count, np.random.default_rng(seed))))
        rng = np.random.default_rng(seed)
        found = [_strength(points, count, rng) for _ in range(HALVINGS)]
        strengths.append(float(np.mean(found)))
        errors.append(float(np.std(found, ddof=1) / np.sqrt(HALVINGS)))
    return HowManyGroups(counts, np.array(silhouettes), np.array(strengths), np.array(errors))


def _best(points: Floats, count: int, rng: np.random.Generator) -> Floats:
    """Centres of the better of drawn starts and the split start."""
    drawn, split = k_means(points, count, rng, STARTS), settled(points, split_start(points, count))
    return split[1] if split[2] < drawn.spread else drawn.centres


def _silhouette(points: Floats, centres: Floats) -> float:
    away = np.sqrt(np.maximum(((points[:, np.newaxis] - centres) ** 2).sum(axis=2), 0.0))
    nearest = np.sort(away, axis=1)[:, :2]
    return float(np.mean((nearest[:, 1] - nearest[:, 0]) / np.maximum(nearest[:, 1], 1e-300)))


def _strength(points: Floats, count: int, rng: np.random.Generator) -> float:
    """Of the worst group of one half, the share of pairs that the centres of the other put together."""
    order = rng.permutation(len(points))
    one, other = points[order[: len(points) // 2]], points[order[len(points) // 2 :]]
    both = np.array([_best(other, count, rng), _best(one, count, rng)])
    (own, told), _ = nearest_centres(other, both)
    worst = 1.0
    for group in range(count):
        sizes = np.bincount(told[own == group], minlength=count).astype(np.float64)
        n = sizes.sum()
        if n > 1:
            worst = min(worst, float((sizes * (sizes - 1.0)).sum() / (n * (n - 1.0))))
    return worst
