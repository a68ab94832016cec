"""How far classes lie apart: between/within variance, and neighbours of samples that were held out."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers

MOST_SAMPLES = 3000  # beyond, distances of all pairs are not affordable


def between_within(values: Floats, codes: Integers) -> Floats:
    """Between-class over within-class variance of each variable.

    Parameters
    ----------
    values : (n, p) float array
        Gaps make a gap of the ratio.
    codes : (n,) int array
        Class of each sample; negative where not known: passed over.

    Returns
    -------
    (p,) float array
        `F = [Σ n_c (m_c − m)² / (c − 1)] / [Σ Σ (x − m_c)² / (n − c)]`; NaN for fewer than two classes, for
        no freedom within them, and where nothing varies within.

    References
    ----------
    Fisher, Statistical Methods for Research Workers, Oliver & Boyd (1925), ch. 7.
    """
    known = codes >= 0
    classes, inverse = np.unique(codes[known], return_inverse=True)
    n, count, x = int(known.sum()), len(classes), values[known]
    ratio = np.full(values.shape[1], np.nan)
    if count < 2 or n <= count:
        return ratio
    sizes = np.bincount(inverse).astype(float)
    belongs = np.zeros((count, n))
    belongs[inverse, np.arange(n)] = 1.0
    centred = x - x.mean(axis=0)
    means = belongs @ centred / sizes[:, np.newaxis]
    total = np.einsum("ij,ij->j", centred, centred)
    between = np.einsum("i,ij->j", sizes, means**2)
    within = np.maximum(total - between, 0.0)
    varies = within > 1e-14 * total
    np.divide(between / (count - 1), within / (n - count), out=ratio, where=varies)
    return ratio


def neighbour_accuracy(values: Floats, codes: Integers, groups: Integers, neighbours: int = 1) -> float:
    """Share of samples whose nearest other samples are of their class; replicates never vouch for each other.

    Parameters
    ----------
    values : (n, k) float array
        Scores, or treated data.
    codes : (n,) int array
        Class; negative ones are passed over.
    groups : (n,) int array
        Samples of one group (replicates) are held out together.
    neighbours : int
        The majority among so many decides, or among all candidates where there are fewer; ties go to the
        nearest.

    Returns
    -------
    float
        From 0 to 1; NaN where there are fewer than two classes or groups.

    References
    ----------
    Fix & Hodges, USAF School of Aviation Medicine report 4 (1951).
    """
    hits = neighbour_hits(values, codes, groups, neighbours)
    return float("nan") if hits is None else float(np.nanmean(hits))


def neighbour_hits(values: Floats, codes: Integers, groups: Integers, neighbours: int = 1) -> Floats | None:
    """Of each sample 1 where its nearest others are of its class, 0 where not, (n,); NaN without a class.

    None where there are fewer than two classes or groups, or too many samples. Arguments as above.
    """
    known = codes >= 0
    x, c, g = values[known], codes[known], groups[known]
    if len(np.unique(c)) < 2 or len(np.unique(g)) < 2 or len(x) > MOST_SAMPLES:
        return None
    found = np.full(len(values), np.nan)
    found[known] = _hits(x, c, g, neighbours)
    return found


def _hits(x: Floats, c: Integers, g: Integers, neighbours: int) -> Floats:
    x = x - x.mean(axis=0)
    squares = np.einsum("ij,ij->i", x, x)
    away = squares[:, np.newaxis] + squares - 2.0 * (x @ x.T)
    away[g[:, np.newaxis] == g] = np.inf
    if neighbours == 1:
        return np.asarray(c[away.argmin(axis=1)] == c, dtype=np.float64)
    nearest = np.argsort(away, axis=1, kind="stable")[:, :neighbours]
    votes = c[nearest]
    right = np.zeros(len(x))
    for row, candidates in enumerate(votes):
        seen = candidates[np.isfinite(away[row, nearest[row]])]  # all there are, where more are asked for
        found, counts = np.unique(seen, return_counts=True)
        best = set(found[counts == counts.max()].tolist())
        winner = next(int(code) for code in seen if int(code) in best)
        right[row] = winner == c[row]
    return right


def no_information_rate(codes: Integers) -> float:
    """The share of the largest class: what guessing reaches."""
    known = codes[codes >= 0]
    return float(np.bincount(known).max() / len(known)) if len(known) else float("nan")


def replicate_share(values: Floats, groups: Integers) -> float:
    """Spread within replicates over the spread of all, as standard deviations; NaN without replicates."""
    sizes = np.bincount(groups)
    freedom = len(values) - int((sizes > 0).sum())
    if freedom < 1 or len(values) < 3:
        return float("nan")
    belongs = np.zeros((len(sizes), len(values)))
    belongs[groups, np.arange(len(values))] = 1.0
    centred = values - values.mean(axis=0)
    means = belongs @ centred / np.maximum(sizes, 1)[:, np.newaxis]
    total = float(np.einsum("ij,ij->", centred, centred))
    within = total - float(np.einsum("i,ij->", sizes.astype(float), means**2))
    if total <= 0.0:
        return float("nan")
    return float(np.sqrt(max(within, 0.0) / freedom / (total / (len(values) - 1))))


def noise_share(values: Floats) -> float:
    """Share of the variance over the samples that is white along the axis.

    From second differences along the axis, whose variance for white noise is six times its own; smooth
    structure contributes little to them. An estimate: sharp lines count as noise.
    """
    if values.shape[1] < 5:
        return float("nan")
    centred = values - values.mean(axis=0)
    total = float(np.einsum("ij,ij->", centred, centred)) / centred.size
    second = centred[:, :-2] - 2.0 * centred[:, 1:-1] + centred[:, 2:]
    noise = float(np.einsum("ij,ij->", second, second)) / second.size / 6.0
    return min(noise / total, 1.0) if total > 0.0 else float("nan")
