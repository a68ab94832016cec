"""Limits of T², Q and the joint distance at a coverage, each with its source, or the reason it has none."""

from __future__ import annotations

import math

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen


@frozen
class Limit:
    """A limit as it is shown: never a number where there is none.

    Attributes
    ----------
    level : float
        Coverage, e.g. 0.95.
    method : str
        How it was found.
    value : float or None
        In the unit of the distance; None where it is undefined.
    reason : str
        Why it is undefined, or why another method was used; else empty.
    """

    level: float
    method: str
    value: float | None
    reason: str = ""


def t2_limit_training(n: int, k: int, level: float) -> Limit:
    """T² limit for the n samples a model of k components was made from.

    `((n−1)²/n) · Beta_level(k/2, (n−k−1)/2)`; undefined for k ≥ n − 1.

    References
    ----------
    Tracy, Young & Mason, J. Qual. Technol. 24 (1992) 88–95.
    """
    if k >= n - 1:
        return Limit(level, "beta", None, f"undefined: {k} components need more than {k + 1} samples")
    from scipy.special import betaincinv

    quantile = float(betaincinv(k / 2, (n - k - 1) / 2, level))
    return Limit(level, "beta", (n - 1) ** 2 / n * quantile)


def t2_limit_new(n: int, k: int, level: float) -> Limit:
    """T² limit for samples that a model of k components has not seen; n samples made the model.

    `k(n²−1)/(n(n−k)) · F_level(k, n−k)`; undefined for k ≥ n.

    References
    ----------
    Tracy, Young & Mason, J. Qual. Technol. 24 (1992) 88–95.
    """
    if k >= n:
        return Limit(level, "f", None, f"undefined: {k} components need more than {k} samples")
    from scipy.special import fdtri

    quantile = float(fdtri(k, n - k, level))
    return Limit(level, "f", k * (n**2 - 1) / (n * (n - k)) * quantile)


NOTHING = 1e-12
"""Share of the total variance below which what is left over is rounding."""

HIGHEST = 0.999
"""Level up to which Jackson–Mudholkar must exist: else Box's limit is used at all of them."""


def q_limit(
    thetas: tuple[float, float, float], q: Floats, level: float, method: str, total: float = 0.0
) -> Limit:
    """Q limit from what the components leave over.

    Parameters
    ----------
    thetas : three floats
        Sums of the first three powers of the eigenvalues that are not in the model.
    q : (n,) float array
        Q of the training samples, for Box's limit.
    level : float
        Coverage.
    method : "jackson-mudholkar" or "box"
    total : float
        Total variance: where no more than a trillionth of it is left over, there is no limit.

    Returns
    -------
    Limit
        Box's, with the reason, where the other is impossible; without a value where k = r.

    References
    ----------
    Jackson & Mudholkar, Technometrics 21 (1979) 341–349; Nomikos & MacGregor, Technometrics 37 (1995)
    41–59 (Box's approximation).
    """
    theta1, theta2, theta3 = thetas
    if theta1 <= NOTHING * total:
        return Limit(level, method, None, "undefined: all components are kept, nothing is left over")
    if method == "box":
        return box_limit(q, level)
    two, three = theta2 / theta1 / theta1, theta3 / theta1 / theta1 / theta1  # fourth powers would be lost
    h0 = 1.0 - 2.0 * three / (3.0 * two**2) if two > 0.0 else 0.0
    if h0 == 0.0:
        return box_limit(q, level, "Jackson–Mudholkar has h0 = 0")
    from scipy.special import ndtri

    side = np.sqrt(2.0 * two * h0**2) * (1.0 if h0 > 0 else -1.0)
    middle = 1.0 + two * h0 * (h0 - 1.0)
    if min(middle + side * float(ndtri(at)) for at in (level, max(level, HIGHEST))) <= 0.0:
        return box_limit(q, level, "Jackson–Mudholkar has no positive base")
    base = middle + side * float(ndtri(level))
    return Limit(level, "jackson-mudholkar", float(theta1 * base ** (1.0 / h0)))


def box_limit(q: Floats, level: float, reason: str = "") -> Limit:
    """A scaled χ² with the mean and variance (n − 1) of distances (n,)."""
    mean = float(q.mean())
    variance = float(q.var(ddof=1)) if len(q) > 1 else 0.0
    if mean <= 0.0 or variance <= 0.0:
        return Limit(level, "box", None, "undefined: Q does not vary over the samples")
    scale = variance / (2.0 * mean)
    freedom = 2.0 * (mean / math.sqrt(variance)) ** 2
    return Limit(level, "box", scale * chi_square_quantile(freedom, level), reason)


def chi_square_quantile(freedom: float, level: float) -> float:
    """The `level` quantile of χ² with `freedom` degrees of freedom, not rounded."""
    from scipy.special import chdtri

    return float(chdtri(freedom, 1.0 - level))
