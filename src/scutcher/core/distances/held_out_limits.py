"""Distances of samples to models that have not seen them, and the limits that follow.

The samples that made a model lie nearer to it than new ones. Each sample that a segment of the validation
leaves out is measured against the segment's model; scale and degrees of freedom of its distances are those of
new samples.
"""

from __future__ import annotations

import math

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.distances.joint_distance import JointScale, fit_joint_scale
from scutcher.core.distances.limits import NOTHING, Limit, chi_square_quantile, t2_limit_new
from scutcher.core.distances.long_tails import ANCHOR, skewness_of, tail_ratio
from scutcher.core.frozen import frozen

TOGETHER = 2.0
"""Left-out samples for each that tells something of its own on Q: those of a segment share a model."""

FEW = 20
"""Groups below which it is said that the limits rest on few."""


@frozen(eq=False)
class HeldOutDistances:
    """Distances of left-out samples with 1…K components; m of them over all segments and repeats.

    Attributes
    ----------
    rows : (m,) int array
        Which sample each is of.
    t2, h, q : (m, K) float arrays
        T², leverage `T²/(n_s − 1) + 1/n_s`, and Q against the model of the segment; NaN where it has not so
        many components.
    total : float
        Sum of squares of the left-out samples, mean of each: what Q is a share of.
    groups : int
        Groups of replicates, or samples, that were left out.
    """

    rows: Integers
    t2: Floats
    h: Floats
    q: Floats
    total: float
    groups: int

    def of_samples(self, k: int, n: int) -> tuple[Floats, Floats, Floats]:
        """T², h and Q of each of n samples with k components, mean over repeats; NaN for none. Each (n,)."""
        counts = np.bincount(self.rows, minlength=n).astype(np.float64)
        counts[counts == 0.0] = np.nan
        found = [np.bincount(self.rows, values[:, k - 1], n) / counts for values in (self.t2, self.h, self.q)]
        return found[0], found[1], found[2]


@frozen
class HeldOutLimits:
    """Limits for new samples, learned from samples that were left out.

    Attributes
    ----------
    level : float
        Coverage.
    method : "moments" or "robust"
    scale : JointScale or None
        Of the joint distance; None where one of the distances does not vary.
    q_limit, joint_limit : Limit
        The scaled χ²; above 95 % further out, as `long_tails` has it. No joint one where there is no scale.
    t2_limit : Limit
        The F limit with as many samples as there are groups of replicates, or the scaled χ² of the left-out
        T² where that is higher: replicates are no samples of their own, and heavy tails show in the left-out.
    groups : int
        On how many groups of replicates they rest.
    """

    level: float
    method: str
    scale: JointScale | None
    q_limit: Limit
    joint_limit: Limit | None
    t2_limit: Limit
    groups: int

    @property
    def caution(self) -> str:
        """What is said beside them where they rest on few groups."""
        return f"learned from {self.groups} groups only" if self.groups < FEW else ""


def left_out_distances(
    z: Floats, scores: Floats, eigenvalues: Floats, n: int
) -> tuple[Floats, Floats, Floats]:
    """T², h and Q of left-out samples with 1…K components.

    Parameters
    ----------
    z : (m, p) float array
        Left-out samples, treated, centred and scaled as the segment's training samples were.
    scores : (m, K) float array
        On the segment's loadings.
    eigenvalues : (K,) float array
        Of the segment's model.
    n : int
        Its samples.

    Returns
    -------
    three (m, K) float arrays
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        t2 = np.cumsum(scores**2 / eigenvalues, axis=1)
    t2[:, np.cumsum(~(eigenvalues > NOTHING * eigenvalues.max(initial=0.0))) > 0] = np.nan
    squares = np.einsum("ij,ij->i", z, z)[:, np.newaxis]
    q = np.maximum(squares - np.cumsum(scores**2, axis=1), 0.0)
    q[q < NOTHING * squares] = 0.0
    return t2, t2 / max(n - 1, 1) + 1.0 / n, q


def held_out_limits(found: HeldOutDistances, k: int, level: float, method: str) -> HeldOutLimits | None:
    """The limits with k components; None where the segments have not so many.

    Parameters
    ----------
    found : the distances of the left-out samples
    k : components
    level : coverage
    method : "moments" for mean and variance (divisor m − 1), "robust" for median and interquartile range

    References
    ----------
    Pomerantsev, J. Chemometrics 22 (2008) 601–609 (moments of the distances); Nomikos & MacGregor,
    Technometrics 37 (1995) 41–59 (scaled χ² for Q).
    """
    if k > found.q.shape[1]:
        return None
    h, q, t2 = found.h[:, k - 1], found.q[:, k - 1], found.t2[:, k - 1]
    known = np.isfinite(h) & np.isfinite(q)
    if known.sum() < 3:
        return None
    return limits_of(t2[known], h[known], q[known], k, level, method, found.total, found.groups)


def limits_of(
    t2: Floats, h: Floats, q: Floats, k: int, level: float, method: str, total: float, groups: int
) -> HeldOutLimits:
    """The limits from left-out distances with k components, (m,) each and known; the rest as above."""
    t2_limit = _t2_limit(t2, k, level, groups)
    scale = None if q.mean() <= NOTHING * total else fit_joint_scale(h, q, method)
    if scale is None:
        reason = "undefined: nothing is left over of left-out samples"
        nothing = Limit(level, "held-out", None, reason)
        return HeldOutLimits(level, method, None, nothing, None, t2_limit, groups)
    joint = _beyond(scale.distance(h, q), scale.nh + scale.nq, level, method)
    q_value = scale.q0 / scale.nq * _beyond(q, scale.nq, level, method)
    limits = (Limit(level, "held-out", q_value), Limit(level, "held-out", joint))
    return HeldOutLimits(level, method, scale, *limits, t2_limit, groups)


def _beyond(distances: Floats, freedom: float, level: float, method: str) -> float:
    """χ² quantile, above 95 % with the longer tail of the left-out distances."""
    if level <= ANCHOR:
        return chi_square_quantile(freedom, level)
    own, skewness = freedom, 0.0
    if method == "moments":
        own = 2.0 * float(distances.mean()) ** 2 / float(distances.var(ddof=1))
        skewness = skewness_of(distances)
    return chi_square_quantile(freedom, ANCHOR) * tail_ratio(level, len(distances) / TOGETHER, own, skewness)


LEAST_FREEDOM = 1e-6
"""Of a scaled χ² that can be reckoned with."""


def _t2_limit(t2: Floats, k: int, level: float, groups: int) -> Limit:
    """F with the groups as samples, or the scaled χ² of the left-out T² where it is higher at 95 %.

    Above 95 % the tail of the left-out T² counts; F is never passed where it governs.
    """
    by_groups = t2_limit_new(groups, k, level).value or 0.0
    mean, variance = float(t2.mean()), float(t2.var(ddof=1))
    if mean <= 0.0 or variance <= 0.0:
        return Limit(level, "held-out", by_groups)
    freedom, anchor = 2.0 * (mean / math.sqrt(variance)) ** 2, min(level, ANCHOR)
    if not freedom > LEAST_FREEDOM:  # a few distances are beyond all measure: they say nothing of the rest
        return Limit(level, "held-out", by_groups)
    f = t2_limit_new(groups, k, anchor).value or 0.0
    chi = mean / freedom * chi_square_quantile(freedom, anchor)
    value = max(f, chi)
    if level > ANCHOR:
        value *= tail_ratio(level, len(t2), freedom, skewness_of(t2))
    return Limit(level, "held-out", min(value, by_groups) if f >= chi else value)
