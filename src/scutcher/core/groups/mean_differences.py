"""Where two classes differ: the difference of their means at each variable, with its band."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.numeric.runs import sums_of_runs

DRAWS, COVERAGE = 1000, 0.95
FEWEST = 2  # groups of replicates that a band takes
MANY = 1000  # groups of which a mean is normal enough: its band needs no drawing
NORMAL = 1.959963984540054  # 97.5 % point of the normal distribution


@frozen(eq=False)
class Difference:
    """One class's mean less another's at each variable, (p,), in the unit of the values.

    Attributes
    ----------
    difference, low, high : (p,) float arrays
        `low` and `high` are NaN where a class has fewer than two groups of replicates.
    within : (p,) float array
        Pooled standard deviation within the two classes (n − 2); NaN without freedom.
    """

    difference: Floats
    low: Floats
    high: Floats
    within: Floats

    @property
    def past(self) -> Booleans:
        """Where the band leaves zero."""
        found: Booleans = (self.low > 0.0) | (self.high < 0.0)
        return found

    @property
    def in_deviations(self) -> Floats:
        """The difference in standard deviations within; NaN where nothing varies."""
        found = np.full(len(self.difference), np.nan)
        np.divide(self.difference, self.within, out=found, where=self.within > 0.0)
        return found


def mean_difference(
    values: Floats, one: Integers, two: Integers, groups: Integers, draws: int = DRAWS, seed: int = 1
) -> Difference:
    """The mean of some samples less that of others; the band by resampling their groups of replicates.

    Parameters
    ----------
    values : (n, p) float array
    one, two : int arrays
        Rows of the first and of the second class.
    groups : (n,) int array
        The group of replicates of each row: whole groups are drawn, within each class, with replacement.
        Where both classes have more than 1,000, the band is that of the normal distribution.
    draws : int
        0 for no band.

    References
    ----------
    Efron & Tibshirani, An Introduction to the Bootstrap, Chapman & Hall (1993), ch. 13 (percentiles); the
    draws of a class of g groups are stretched about its mean by √(g/(g − 1)), so that their variance is that
    of a mean of few (Rao & Wu, J. Am. Stat. Assoc. 83 (1988) 231–241).
    """
    p = values.shape[1]
    means = [values[rows].mean(axis=0) for rows in (one, two)]
    counts = [len(np.unique(groups[rows])) for rows in (one, two)]
    low, high = np.full(p, np.nan), np.full(p, np.nan)
    if draws and min(counts) > MANY:
        variances = [_variance_of_mean(values[rows], groups[rows]) for rows in (one, two)]
        error = NORMAL * np.sqrt(variances[0] + variances[1])
        low, high = means[0] - means[1] - error, means[0] - means[1] + error
    elif draws and min(counts) >= FEWEST:
        rng, tail = np.random.default_rng(seed), (1.0 - COVERAGE) / 2.0
        first, second = (_drawn_means(values[rows], groups[rows], draws, rng) for rows in (one, two))
        low, high = np.quantile(first - second, (tail, 1.0 - tail), axis=0)
    squares = [((values[rows] - mean) ** 2).sum(axis=0) for rows, mean in zip((one, two), means, strict=True)]
    freedom = len(one) + len(two) - 2
    within = np.sqrt((squares[0] + squares[1]) / freedom) if freedom > 0 else np.full(p, np.nan)
    return Difference(means[0] - means[1], low, high, within)


def _sums_of_groups(values: Floats, groups: Integers) -> tuple[Floats, Floats]:
    """Sum and size of each group, (g, p) and (g,)."""
    order = np.argsort(groups, kind="stable")
    starts = np.flatnonzero(np.diff(groups[order], prepend=-1))
    return sums_of_runs(values[order], starts), np.diff([*starts, len(groups)]).astype(np.float64)


def _variance_of_mean(values: Floats, groups: Integers) -> Floats:
    """Of the mean of a class, from the spread of its groups, (p,)."""
    sums, sizes = _sums_of_groups(values, groups)
    away, count = sums - sizes[:, np.newaxis] * values.mean(axis=0), len(sizes)
    found: Floats = (away**2).sum(axis=0) / len(values) ** 2 * count / (count - 1.0)
    return found


def _drawn_means(values: Floats, groups: Integers, draws: int, rng: np.random.Generator) -> Floats:
    """Means of a class with its groups drawn anew, (draws, p)."""
    sums, sizes = _sums_of_groups(values, groups)
    count = len(sizes)
    times = rng.multinomial(count, np.full(count, 1.0 / count), size=draws).astype(np.float64)
    means = (times @ sums) / (times @ sizes)[:, np.newaxis]
    middle = values.mean(axis=0)
    found: Floats = middle + (means - middle) * np.sqrt(count / (count - 1.0))
    return found
