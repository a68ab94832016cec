"""The joint distance: T² and Q on one scale, each with its own effective degrees of freedom."""

from __future__ import annotations

import math

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.distances.limits import Limit, chi_square_quantile
from scutcher.core.frozen import frozen


@frozen
class JointScale:
    """What the training samples say of the two distances.

    Attributes
    ----------
    h0, q0 : float
        Typical leverage (h = T²/(n − 1) + 1/n) and typical Q.
    nh, nq : float
        Their degrees of freedom, not rounded.
    """

    h0: float
    q0: float
    nh: float
    nq: float

    def distance(self, h: Floats, q: Floats) -> Floats:
        """`N_h·h/h0 + N_q·Q/q0` of each sample, dimensionless. Shapes (m,), (m,) → (m,)."""
        return self.nh * h / self.h0 + self.nq * q / self.q0

    def limit(self, level: float) -> Limit:
        """χ² quantile with N_h + N_q degrees of freedom."""
        return Limit(level, "chi-square", chi_square_quantile(self.nh + self.nq, level))

    def outlier_limit(self, gamma: float, n: int) -> Limit:
        """The limit that allows for n samples: coverage `(1 − γ)^(1/n)`."""
        return self.limit((1.0 - gamma) ** (1.0 / n))


def fit_joint_scale(h: Floats, q: Floats, method: str) -> JointScale | None:
    """Learn scale and degrees of freedom from the training samples.

    Parameters
    ----------
    h, q : (n,) float arrays
        Leverages and Q.
    method : "moments" or "robust"
        Mean and variance (divisor n − 1), or median and interquartile range matched to χ².

    Returns
    -------
    JointScale or None
        None where one of the distances does not vary (all components kept, or too few samples).

    References
    ----------
    Pomerantsev, J. Chemometrics 22 (2008) 601–609. For the robust estimate the ratio of interquartile
    range to median is matched to that of χ² numerically, in place of a fitted formula.
    """
    found = [scale_and_freedom(values, method) for values in (h, q)]
    if found[0] is None or found[1] is None:
        return None
    (h0, nh), (q0, nq) = found[0], found[1]
    return JointScale(h0, q0, nh, nq)


def scale_and_freedom(values: Floats, method: str) -> tuple[float, float] | None:
    """Scale and degrees of freedom of a scaled χ², by "moments" or "robust"; None where nothing varies."""
    return (_robust if method == "robust" else _moments)(values)


def _moments(values: Floats) -> tuple[float, float] | None:
    mean = float(values.mean())
    variance = float(values.var(ddof=1)) if len(values) > 1 else 0.0
    if mean <= 0.0 or not 1e-12 * mean < math.sqrt(variance) < 1e3 * mean:
        return None  # nothing varies, or a few are beyond all measure
    return mean, 2.0 * (mean / math.sqrt(variance)) ** 2


def _robust(values: Floats) -> tuple[float, float] | None:
    from scipy.optimize import brentq

    low, median, high = (float(v) for v in np.quantile(values, (0.25, 0.5, 0.75)))
    if median <= 0.0 or high - low <= 1e-12 * median:
        return None
    target = (high - low) / median

    def excess(log_freedom: float) -> float:
        freedom = float(np.exp(log_freedom))
        quartiles = [chi_square_quantile(freedom, level) for level in (0.25, 0.5, 0.75)]
        return (quartiles[2] - quartiles[0]) / quartiles[1] - target

    lowest, highest = np.log(0.2), np.log(1e6)
    if excess(lowest) < 0.0 or excess(highest) > 0.0:
        return None
    freedom = float(np.exp(brentq(excess, lowest, highest)))
    return median * freedom / chi_square_quantile(freedom, 0.5), freedom
