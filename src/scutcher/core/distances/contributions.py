"""Why a sample is far: what each variable contributes to its Q and its T², and what is normal there."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen

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


def residuals(z: Floats, model: Plane) -> Floats:
    """E = Z − Z P Pᵀ of some rows, (m, p) → (m, p), in the unit of Z."""
    return z - (z @ model.loadings) @ model.loadings.T


def q_shares(z: Floats, model: Plane) -> Floats:
    """`sign(e_ij)·e_ij²`: the absolute values of a row sum to its Q. Shape (m, p) → (m, p)."""
    left_over = residuals(z, model)
    return np.sign(left_over) * left_over**2


def t2_shares(z: Floats, model: Plane) -> Floats:
    """`z_ij · Σ_a t_ia p_ja / λ_a`: a row sums to its T²; single shares may be negative.

    References
    ----------
    Westerhuis, Gurden & Smilde, Chemometr. Intell. Lab. Syst. 51 (2000) 95–114.
    """
    weighted = model.loadings / model.eigenvalues
    return z * ((z @ model.loadings) @ weighted.T)


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
    if size <= 1:
        return z
    if groups > MANY_GROUPS:
        return _many_groups(z, codes, groups, draws)
    rng = np.random.default_rng(1)
    _, of, count = np.unique(codes, return_inverse=True, return_counts=True)
    if 2 * groups > len(count):
        drawn = rng.integers(len(count), size=(draws, groups))
    else:
        drawn = rng.random((draws, len(count))).argsort(axis=1)[:, :groups]
    # within its group each sample has a place of its own in each draw
    order = (of + rng.random((draws, len(z)))).argsort(axis=1)
    begins, sizes = (np.cumsum(count) - count)[drawn], count[drawn]
    wanted = np.diff(size * np.arange(groups + 1) // groups)
    offset = rng.integers(sizes)
    weights = np.zeros((draws, len(z)))
    row = np.arange(draws)[:, np.newaxis]
    for turn in range(int(wanted.max())):
        again = np.where(wanted > sizes, rng.integers(sizes), (offset + turn) % sizes)
        some = order[row, begins + again]
        np.add.at(weights, (row, some), (wanted > turn) / size)
    means: Floats = weights @ z
    return means


def _many_groups(z: Floats, codes: Integers, groups: int, draws: int) -> Floats:
    """The same of very many groups, (draws, p): the mean of so many is normal, and its spread is known."""
    from scipy.special import ndtri

    _, own, sizes = np.unique(codes, return_inverse=True, return_counts=True)
    count = len(sizes)
    sums = np.zeros((count, z.shape[1]))
    np.add.at(sums, own, z)
    means = sums / sizes[:, np.newaxis]
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
    rising = np.sort(shares, axis=0)  # samples that are not known come last
    last = len(rising) - 1

    def at(share: float) -> Floats:
        place = share * last
        below = int(place)
        low, high = rising[below], rising[min(below + 1, last)]
        return np.where(np.isnan(rising[last]), np.nan, low + (place - below) * (high - low))

    return Band(at(tail), at(1.0 - tail))
