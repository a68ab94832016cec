"""Why a sample is far: what each variable contributes to its Q and its T², and what is normal there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.numeric.group_means import means_by_group
from scutcher.core.numeric.threads import in_parts
from scutcher.core.progress import Watch

MANY_VALUES = 300_000
"""Values from which a band is found by two threads."""

DRAWS = 400
"""Groups that a band rests on."""


class Plane(Protocol):
    """A model plane: loadings P (p, k), orthonormal, and the eigenvalues of its components (k,)."""

    @property
    def loadings(self) -> Floats: ...
    @property
    def eigenvalues(self) -> Floats: ...


@frozen(eq=False)
class Band:
    """The normal range of a share at each variable, (p,) arrays."""

    low: Floats
    high: Floats


class Shares(Protocol):
    """A kind of share: of rows Z, (m, p) → (m, p); `scores`, (m, k), of the rows where they are known."""

    def __call__(self, z: Floats, model: Plane, scores: Floats | None = None) -> Floats: ...


def residuals(z: Floats, model: Plane, scores: Floats | None = None) -> Floats:
    """E = Z − Z P Pᵀ of some rows, (m, p) → (m, p), in the unit of Z."""
    return z - (z @ model.loadings if scores is None else scores) @ model.loadings.T


def q_shares(z: Floats, model: Plane, scores: Floats | None = None) -> Floats:
    """`sign(e_ij)·e_ij²`: the absolute values of a row sum to its Q. Shape (m, p) → (m, p)."""
    left_over = residuals(z, model, scores)
    return np.sign(left_over) * left_over**2


def t2_shares(z: Floats, model: Plane, scores: Floats | None = None) -> Floats:
    """`z_ij · Σ_a t_ia p_ja / λ_a`: a row sums to its T²; single shares may be negative.

    References
    ----------
    Westerhuis, Gurden & Smilde, Chemometr. Intell. Lab. Syst. 51 (2000) 95–114.
    """
    weighted = model.loadings / model.eigenvalues
    return z * ((z @ model.loadings if scores is None else scores) @ weighted.T)


MANY_GROUPS = 200
"""Groups of a pick above which nothing is drawn."""


def means_of_groups(z: Floats, size: int, codes: Integers, groups: int, draws: int = DRAWS) -> Floats:
    """Means of so many samples, drawn from reference samples: what is normal for the mean of a pick.

    Parameters
    ----------
    z : (n, p) float array
        The reference.
    size : int
        Samples of the pick; 1 for the reference samples themselves.
    codes : (n,) int array
        The group of replicates of each reference sample.
    groups : int
        Of so many groups of replicates the pick is: so many are drawn, and the samples from these. With
        replacement where it is more than half of all: else the draws would be nearly the same.

    Returns
    -------
    (draws, p) float array, or (n, p) for size 1
    """
    return means_by(size, codes, groups, draws)(z)


def means_by(size: int, codes: Integers, groups: int, draws: int = DRAWS) -> Callable[[Floats], Floats]:
    """What draws such means, the same samples of any variables; see `means_of_groups`."""
    if size <= 1:
        return lambda z: z
    if groups > MANY_GROUPS:
        return lambda z: _many_groups(z, codes, groups, draws)
    weights = _weights_of_groups(size, codes, groups, draws)
    return lambda z: weights @ z


def _weights_of_groups(size: int, codes: Integers, groups: int, draws: int) -> Floats:
    """How much each sample counts in each draw, (draws, n)."""
    rng = np.random.default_rng(1)
    _, of, count = np.unique(codes, return_inverse=True, return_counts=True)
    if 2 * groups > len(count):
        drawn = rng.integers(len(count), size=(draws, groups))
    else:
        drawn = rng.random((draws, len(count))).argsort(axis=1)[:, :groups]
    # within its group each sample has a place of its own in each draw
    order = (of + rng.random((draws, len(codes)))).argsort(axis=1)
    begins, sizes = (np.cumsum(count) - count)[drawn], count[drawn]
    wanted = np.diff(size * np.arange(groups + 1) // groups)
    offset = rng.integers(sizes)
    weights = np.zeros((draws, len(codes)))
    row = np.arange(draws)[:, np.newaxis]
    for turn in range(int(wanted.max())):
        again = np.where(wanted > sizes, rng.integers(sizes), (offset + turn) % sizes)
        some = order[row, begins + again]
        np.add.at(weights, (row, some), (wanted > turn) / size)
    return weights


def _many_groups(z: Floats, codes: Integers, groups: int, draws: int) -> Floats:
    """The same of very many groups, (draws, p): the mean of so many is normal, and its spread is known."""
    from scipy.special import ndtri

    means = means_by_group(z, np.unique(codes, return_inverse=True)[1])
    count = len(means)
    left = 1.0 if 2 * groups > count else 1.0 - (groups - 1.0) / max(count - 1.0, 1.0)
    places = ndtri((np.arange(draws) + 0.5) / draws)
    found: Floats = means.mean(axis=0) + np.outer(places, means.std(axis=0) * np.sqrt(left / groups))
    return found


def normal_band(shares: Floats, coverage: float = 0.95) -> Band:
    """The central range of each variable's share over reference samples, (n, p) → two (p,) arrays.

    The figures of `numpy.quantile`, but for the last digit, from one sort of all variables: it is drawn anew
    with every frame of a handle.
    """
    tail = (1.0 - coverage) / 2.0
    rising = np.array(shares.T, order="C")
    rising.sort(axis=1)  # samples that are not known come last
    last = rising.shape[1] - 1

    def at(share: float) -> Floats:
        place = share * last
        below = int(place)
        low, high = rising[:, below], rising[:, min(below + 1, last)]
        return np.where(np.isnan(rising[:, last]), np.nan, low + (place - below) * (high - low))

    return Band(at(tail), at(1.0 - tail))


@frozen(eq=False)
class _Part:
    """A model plane at some of the variables."""

    loadings: Floats
    eigenvalues: Floats


def normal_range(
    z: Floats, model: Plane, shares: Shares, means: Callable[[Floats], Floats], watch: Watch | None = None
) -> Band:
    """The band of a kind of share, some variables at a time, by two threads where they are many.

    Parameters
    ----------
    z : (n, p) float array
        The reference samples, as the model sees them.
    shares : which kind
    means : function
        Of shares, (n, m) → (draws, m): see `means_by`.
    watch : Watch, optional
        Asked now and then.

    Raises
    ------
    Stopped
    """
    scores, (low, high) = z @ model.loadings, np.empty((2, z.shape[1]))

    def part_of(columns: slice, own: None) -> None:
        part = _Part(model.loadings[columns], model.eigenvalues)
        band = normal_band(means(shares(z[:, columns], part, scores)))
        low[columns], high[columns] = band.low, band.high

    in_parts(part_of, (z.shape[1], len(z)), lambda: None, watch, much=MANY_VALUES)
    return Band(low, high)
