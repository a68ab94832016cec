"""Classes in the k scores: centres, pooled spread within them, and the distances between them."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.numeric.runs import sums_of_runs

SINGULAR = 1e-12  # of a component's variance: a spread within classes below it is none


@frozen(eq=False)
class ClassScores:
    """What a training set says of its classes in K scores; with k of them the first k columns are meant.

    Attributes
    ----------
    classes : (c,) int array
        The codes that occur, rising.
    sizes : (c,) int array
    centres : (c, K) float array
        Means of the classes, in the unit of the scores.
    whitening : (K, K) float array
        Lower triangular W: the first k elements of `W x` have the length of x in k scores, in standard
        deviations within classes, for every k. NaN from the first component on that has no freedom left.
    """

    classes: Integers
    sizes: Integers
    centres: Floats
    whitening: Floats

    @property
    def usable(self) -> int:
        """The most scores in which a spread within the classes is known."""
        finite = np.isfinite(np.diag(self.whitening))
        return int(len(finite) if finite.all() else finite.argmin())

    def white_centres(self) -> Floats:
        """The centres in standard deviations within classes, (c, K)."""
        found: Floats = self.centres @ self.whitening.T
        return found


def class_scores(scores: Floats, codes: Integers) -> ClassScores:
    """Centres and pooled within-class covariance (divisor n − c) of a training set.

    Parameters
    ----------
    scores : (n, K) float array
    codes : (n,) int array
        Class of each sample; negative where not known: passed over.
    """
    known = codes >= 0
    classes, inverse = np.unique(codes[known], return_inverse=True)
    x, count = scores[known], len(classes)
    sizes = np.bincount(inverse, minlength=count)
    centres = np.zeros((count, scores.shape[1]))
    if count:
        starts = np.cumsum(sizes) - sizes
        centres = sums_of_runs(x[np.argsort(inverse, kind="stable")], starts) / sizes[:, np.newaxis]
    freedom = len(x) - count
    away = x - centres[inverse]
    return ClassScores(classes, sizes, centres, _whitening(away, freedom))


def _whitening(away: Floats, freedom: int) -> Floats:
    """The inverse of the lower Cholesky factor of the covariance, as far as there is one."""
    width = away.shape[1]
    whitening = np.full((width, width), np.nan)
    if freedom < 1:
        return whitening
    covariance = away.T @ away / freedom
    k = min(width, freedom)
    while k > 0:
        try:
            factor = np.linalg.cholesky(covariance[:k, :k])
        except np.linalg.LinAlgError:
            k -= 1
            continue
        if (np.diag(factor) ** 2 > SINGULAR * np.diag(covariance)[:k]).all():
            break
        k -= 1
    if k:
        from scipy.linalg.lapack import dtrtri  # a hundredth of solve_triangular's time for few scores

        whitening[:k] = 0.0
        whitening[:k, :k] = dtrtri(factor, lower=1)[0]
    return whitening


def to_centres(of: ClassScores, scores: Floats) -> Floats:
    """Squared distance of samples to every centre in standard deviations within classes, for 1…K scores.

    Returns
    -------
    (K, m, c) float array
        Mahalanobis distances with the pooled covariance; NaN beyond `usable`.
    """
    white, centres = scores @ of.whitening.T, of.white_centres()
    found = np.empty((white.shape[1], len(white), len(centres)))
    before = np.zeros(found.shape[1:])
    for k, total in enumerate(found):  # `cumsum` would keep the interpreter's lock
        np.subtract(white[:, k, np.newaxis], centres[:, k], out=total)
        total *= total
        total += before
        before = total
    return found


def centre_distances(of: ClassScores, k: int, metric: str) -> Floats:
    """Distances between the centres of the classes in k scores, (c, c).

    Parameters
    ----------
    metric : "within" for standard deviations within classes (Mahalanobis, pooled), "scores" for the unit of
        the scores (Euclidean)
    """
    points = of.centres[:, :k] if metric == "scores" else of.white_centres()[:, :k]
    away = points[:, np.newaxis, :] - points[np.newaxis, :, :]
    found: Floats = np.sqrt((away**2).sum(axis=2))
    return found


def clearest_pair(scores: Floats, codes: Integers) -> tuple[int, int]:
    """The two components in which the classes lie farthest apart: the largest `tr(S_w⁻¹ S_b)`.

    The trace of Lawley (1938) and Hotelling (1951) of every pair; the first of equal ones.
    """
    k = scores.shape[1]
    known = codes >= 0
    classes, inverse = np.unique(codes[known], return_inverse=True)
    if k < 2 or len(classes) < 2 or known.sum() <= len(classes):
        return 0, min(1, k - 1)
    x = scores[known]
    means = np.array([x[inverse == place].mean(axis=0) for place in range(len(classes))])
    away, between = x - means[inverse], means[inverse] - x.mean(axis=0)
    within_squares, between_squares = away.T @ away, between.T @ between
    best, found = -1.0, (0, 1)
    for first in range(k):
        for second in range(first + 1, k):
            pair = np.ix_((first, second), (first, second))
            within = within_squares[pair]
            if np.linalg.det(within) <= SINGULAR * within[0, 0] * within[1, 1]:
                continue
            trace = float(np.trace(np.linalg.solve(within, between_squares[pair])))
            if trace > best * (1.0 + 1e-9):
                best, found = trace, (first, second)
    return found
