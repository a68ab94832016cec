"""Influence: by how many degrees the model turns without a sample, or without a group of replicates."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.numeric.matrix_rank import rank_threshold
from scutcher.core.progress import Watch, tell

MOST = 15
"""Components whose plane is looked at."""

MOST_SAMPLES = 4000
"""Samples up to which what the components computed leave out is taken along."""

MOST_GROUPS = 1500
"""Groups that are left out in turn: of more, those that the model leans on most, by leverage and residual."""


@frozen(eq=False)
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
    scores, most = found.scores, min(MOST, found.computed)
    codes = np.empty(len(z), dtype=np.intp)
    degrees = np.full((len(groups), most), np.nan)
    for place, rows in enumerate(groups):
        codes[rows] = place
    looked_at = _leaned_on(found, codes, len(groups))
    turning = _Turning(scores, _products_beyond(z, found), centred)
    blocks = np.full((len(looked_at), most, most), np.nan)
    for turn, place in enumerate(looked_at.tolist()):
        tell(watch, turn / len(looked_at))
        blocks[turn] = turning.without(groups[place])[:most, :most]
    left = len(z) - np.array([len(groups[place]) for place in looked_at.tolist()]) - centred
    for k in range(1, most + 1):
        there = left >= k
        cosines = np.linalg.svd(blocks[there, :k, :k], compute_uv=False)[:, -1]
        degrees[looked_at[there], k - 1] = np.degrees(np.arccos(np.minimum(cosines, 1.0)))
    return Influence(codes, degrees)


def _products_beyond(z: Floats, found: Decomposition) -> Floats | None:
    """Products of samples with each other in what the components computed leave out, (n, n); None of many."""
    if len(z) > MOST_SAMPLES:
        return None
    away = z - found.scores @ found.loadings.T
    product: Floats = away @ away.T
    return product


def _leaned_on(found: Decomposition, codes: Integers, count: int) -> Integers:
    """The groups that are left out: all, or of very many those with the largest leverage and residual."""
    if count <= MOST_GROUPS:
        return np.arange(count)
    leverage = (found.scores**2 / np.maximum(found.eigenvalues, np.finfo(float).tiny)).sum(axis=1)
    left = found.q_beyond(found.computed)
    weight = leverage / leverage.sum() + left / (float(left.sum()) or 1.0)
    of_groups = np.bincount(codes, weight, count)
    return np.sort(np.argsort(-of_groups, kind="stable")[:MOST_GROUPS])


class _Turning:
    """Components without some samples, from sums over all of them less those of the samples."""

    def __init__(self, scores: Floats, product: Floats | None, centred: bool) -> None:
        self._scores, self._product, self._centred = scores, product, centred
        self._squares, self._sums = scores.T @ scores, scores.sum(axis=0)
        self._across = scores.T @ product if product is not None else None
        self._nothing = rank_threshold(len(scores), len(scores), float(np.abs(scores).max())) ** 2

    def without(self, rows: Integers) -> Floats:
        """Directions of the components without some rows, in those of all and then what the rows have beyond
        them; (m + beyond, m + beyond), leading first."""
        gone, squares, sums = self._scores[rows], self._squares, self._sums
        if self._product is not None and self._across is not None:
            own = self._product[rows]
            values, turned = np.linalg.eigh(own[:, rows])
            there = values > self._nothing
            turned, sizes = turned[:, there], np.sqrt(values[there])
            turned = turned / sizes  # from the rows to the samples along what they have beyond
            across = self._across[:, rows] @ turned
            squares = np.block([[squares, across], [across.T, turned.T @ (own @ own.T) @ turned]])
            sums = np.append(sums, own.sum(axis=1) @ turned)
            gone = np.hstack([gone, turned * sizes**2])
        squares = squares - gone.T @ gone
        left = len(self._scores) - len(rows)
        if self._centred and left:
            kept = sums - gone.sum(axis=0)
            squares = squares - np.outer(kept, kept) / left
        found: Floats = np.linalg.eigh(squares)[1][:, ::-1]
        return found
