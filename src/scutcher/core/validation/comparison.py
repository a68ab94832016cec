"""Two models of the same samples: one turned onto the other, partners, errors of differences."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.validation.stability import turned_onto

PARTNERS = 45.0
"""Degrees between two components from which neither is the other's partner."""

MOST_DELETED = 60
"""Parts of the samples that are left away in turn; of more groups, several go together."""

SURE = 2.0
"""Standard errors from which a difference is more than its error."""

DRAWS = 99
"""Times that samples are dealt out anew, to see what agrees by chance."""


@frozen(eq=False)
class Turned:
    """Scores of one model turned onto those of another, of the same m samples.

    Attributes
    ----------
    rotation : (k_b, k_a) float array
        With orthonormal rows or columns, whichever are fewer.
    centres : (k_b,) and (k_a,) float arrays
        Means of the other scores and of those that they are turned onto.
    scale : float
        What the turned scores are multiplied by, so that they have the size of the others.
    scores : (m, k_a) float array
        Turned, scaled and moved to the centre of the others.
    agreement : float
        From 0 to 1: the sum of singular values of the product of both, over the product of their lengths.
    by_chance : float
        What 95 of 100 deals of the samples stay below.
    moved : (m,) float array
        How far each sample lies from its place in the other model, in root mean square distances from the
        centre there.
    """

    rotation: Floats
    centres: tuple[Floats, Floats]
    scale: float
    scores: Floats
    agreement: float
    by_chance: float
    moved: Floats

    def of(self, scores: Floats) -> Floats:
        """Any scores of the other model turned in the same way, (m, k_b) → (m, k_a)."""
        turned: Floats = self.scale * ((scores - self.centres[0]) @ self.rotation) + self.centres[1]
        return turned


def turn(reference: Floats, other: Floats, seed: int = 7) -> Turned:
    """Turn scores onto others, as near as rotation, reflection and one scale for all can.

    Parameters
    ----------
    reference : (m, k_a) float array
    other : (m, k_b) float array
        Of the same samples, in the same order.

    References
    ----------
    Schönemann & Carroll, Psychometrika 35 (1970) 245–255; Jackson, Écoscience 2 (1995) 297–303 (permuted
    samples).
    """
    centres = other.mean(axis=0), reference.mean(axis=0)
    a, b = reference - centres[1], other - centres[0]
    sizes = float(np.linalg.norm(a)), float(np.linalg.norm(b))
    if min(sizes) == 0.0:
        still = np.linalg.norm(a, axis=1)
        rotation = np.eye(b.shape[1], a.shape[1])
        return Turned(rotation, centres, 0.0, reference - a, 0.0, 0.0, still / (sizes[0] or 1.0))
    rotation = turned_onto(b, a)
    common = _common(a, b)
    scale = common / sizes[1] ** 2
    turned = scale * (b @ rotation)
    dealt = np.random.default_rng(seed)
    deals = [_common(a, b[dealt.permutation(len(b))]) for _ in range(DRAWS)]
    away = np.linalg.norm(turned - a, axis=1) / (sizes[0] / np.sqrt(len(a)))
    product = sizes[0] * sizes[1]
    by_chance = float(np.quantile(deals, 0.95)) / product
    return Turned(rotation, centres, scale, turned + centres[1], common / product, by_chance, away)


def _common(a: Floats, b: Floats) -> float:
    """Sum of the singular values of `bᵀa`."""
    return float(np.linalg.svd(b.T @ a, compute_uv=False).sum())


@frozen
class Partners:
    """A component of one model and the one of the other that is most like it.

    Attributes
    ----------
    a, b : int or None
        Places from 0; None where it has no partner.
    angle : float
        Degrees between both: 0 for the same up to sign.
    """

    a: int | None
    b: int | None
    angle: float = 90.0


def partners(a: Floats, b: Floats) -> tuple[Partners, ...]:
    """Columns paired so that the cosines of all pairs sum to the most; those without a partner last.

    Parameters
    ----------
    a, b : (m, k_a) and (m, k_b) float arrays
        Scores of the same samples, or shapes on the same channels, as columns.

    References
    ----------
    Kuhn, Naval Research Logistics Quarterly 2 (1955) 83–97 (the assignment).
    """
    from scipy.optimize import linear_sum_assignment

    with np.errstate(invalid="ignore", divide="ignore"):
        cosines = np.abs((a / np.linalg.norm(a, axis=0)).T @ (b / np.linalg.norm(b, axis=0)))
    cosines = np.nan_to_num(cosines)
    rows, columns = linear_sum_assignment(-cosines)
    angles = np.degrees(np.arccos(np.minimum(cosines[rows, columns], 1.0)))
    chosen = [
        Partners(int(i), int(j), float(angle))
        for i, j, angle in zip(rows, columns, angles, strict=True)
        if angle < PARTNERS
    ]
    alone_a = sorted(set(range(a.shape[1])) - {one.a for one in chosen})
    alone_b = sorted(set(range(b.shape[1])) - {one.b for one in chosen})
    return (*chosen, *(Partners(i, None) for i in alone_a), *(Partners(None, j) for j in alone_b))


def difference_error(difference: Callable[[Booleans], float], groups: Integers) -> float:
    """Standard error of a difference by the jackknife over groups; NaN for fewer than three.

    Parameters
    ----------
    difference : function of a mask (m,)
        The difference on the samples that stay.
    groups : (m,) int array
        Samples of one group (replicates) go together.

    References
    ----------
    Efron & Stein, Ann. Stat. 9 (1981) 586–596.
    """
    known, codes = np.unique(groups, return_inverse=True)
    parts = codes % min(len(known), MOST_DELETED)
    count = int(parts.max(initial=0)) + 1
    if count < 3:
        return float("nan")
    left = np.array([difference(parts != part) for part in range(count)])
    return float(np.sqrt((count - 1) * left.var()))
