"""Influence: by how many degrees the model turns without a sample, or without a group of replicates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.numeric.matrix_rank import rank_threshold
from scutcher.core.progress import Watch, tell

MOST = 15
"""Components whose plane is looked at."""

MOST_SAMPLES = 4000
"""Samples up to which what the components computed leave out is taken along."""

MOST_GROUPS = 1500
"""Groups that are left out in turn: of more, those that the model leans on most, by leverage and residual."""


@dataclass(frozen=True, eq=False)
class Influence:
    """How far the model turns without a group.

    Attributes
    ----------
    codes : (n,) int array
        The group of each sample.
    degrees : (g, K) float array
        Largest principal angle between the planes of 1…K components with and without each group; NaN where
        too few samples are left, and for groups that were not looked at (`MOST_GROUPS`).
    """

    codes: Integers
    degrees: Floats

    def of_samples(self, k: int) -> Floats:
        """Degrees for the group of each sample with k components, (n,); NaN beyond what is known."""
        if not 1 <= k <= self.degrees.shape[1]:
            return np.full(len(self.codes), np.nan)
        found: Floats = self.degrees[self.codes, k - 1]
        return found


def influence(
    z: Floats,
    found: Decomposition,
    groups: Sequence[Integers],
    centred: bool,
    watch: Watch | None = None,
) -> Influence:
    """Leave each group out in turn; the centre is learned again, treatments and scale stay.

    The model without a group is sought among the components computed and what the group itself has beyond
    them (Rayleigh–Ritz), which is exact where all components are computed and else right to the second order
    of what is left over.

    Parameters
    ----------
    z : (n, p) float array
        What the model sees; not changed.
    found : Decomposition
        Of it, as many components as there are at hand.
    groups : rows of each group
    centred : whether the model is centred

    References
    ----------
    Krzanowski, J. Am. Stat. Assoc. 74 (1979) 703–707 (angles between planes of components).
    """
    n = len(z)
    scores, loadings = found.scores, found.loadings
    away = z - scores @ loadings.T if n <= MOST_SAMPLES else np.zeros((n, 0))
    product = away @ away.T if n <= MOST_SAMPLES else np.zeros((n, n if n <= MOST_SAMPLES else 0))
    most = min(MOST, found.computed)
    codes = np.empty(n, dtype=np.intp)
    degrees = np.full((len(groups), most), np.nan)
    for place, rows in enumerate(groups):
        codes[rows] = place
    looked_at = _leaned_on(found, codes, len(groups))
    total = scores.T @ scores
    for turn, place in enumerate(looked_at.tolist()):
        tell(watch, turn / len(looked_at))
        degrees[place] = _without(scores, total, product, groups[place], centred, most)
    return Influence(codes, degrees)


def _leaned_on(found: Decomposition, codes: Integers, count: int) -> Integers:
    """The groups that are left out: all, or of very many those with the largest leverage and residual."""
    if count <= MOST_GROUPS:
        return np.arange(count)
    leverage = (found.scores**2 / np.maximum(found.eigenvalues, np.finfo(float).tiny)).sum(axis=1)
    left = found.q_beyond(found.computed)
    weight = leverage / leverage.sum() + left / (float(left.sum()) or 1.0)
    of_groups = np.bincount(codes, weight, count)
    return np.sort(np.argsort(-of_groups, kind="stable")[:MOST_GROUPS])


def _without(
    scores: Floats, total: Floats, product: Floats, rows: Integers, centred: bool, most: int
) -> Floats:
    """Degrees between the planes with and without some rows, (most,)."""
    n, m = scores.shape
    degrees = np.full(most, np.nan)
    left = n - len(rows)
    beyond = _beyond(product, rows, scores)
    if beyond.shape[1]:
        inside = np.delete(np.hstack([scores, beyond]), rows, axis=0)
        if centred:
            inside = inside - inside.mean(axis=0)
        squares = inside.T @ inside
    else:  # nothing but the scores: their squares without those of the group
        gone, sums = scores[rows], scores.sum(axis=0) - scores[rows].sum(axis=0)
        squares = total - gone.T @ gone
        if centred and left:
            squares = squares - np.outer(sums, sums) / left
    vectors = np.linalg.eigh(squares)[1][:, ::-1]
    for k in range(1, min(most, left - centred, m) + 1):
        cosines = np.linalg.svd(vectors[:k, :k], compute_uv=False)
        degrees[k - 1] = np.degrees(np.arccos(min(float(cosines[-1]), 1.0)))
    return degrees


def _beyond(product: Floats, rows: Integers, scores: Floats) -> Floats:
    """All samples on the directions that some rows have beyond the components computed, (n, at most rows)."""
    if product.shape[1] == 0:
        return np.empty((len(scores), 0))
    squares, turned = np.linalg.eigh(product[np.ix_(rows, rows)])
    there = squares > rank_threshold(len(scores), len(product), float(np.abs(scores).max())) ** 2
    found: Floats = product[:, rows] @ turned[:, there] / np.sqrt(squares[there])
    return found
