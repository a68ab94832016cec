"""Stability: how loadings and scores move when parts of the samples are left out.

The models of the validation's segments are turned onto the full one; what then still differs is what other
samples would have changed.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.frozen import frozen

SAME = 0.9  # cosine from which a component, or a plane, of a segment is the same thing
SEGMENTS_TURNING = 0.25  # share of the segments that may turn a component
TIMES_ERROR = 2.0  # a loading nearer to zero than so many standard errors is not told from it
MOST_KEPT = 4_000_000
"""Loadings of all segments together that are kept: so many are turned within a frame."""


@frozen(eq=False)
class SegmentModels:
    """What the segments of a validation found.

    Attributes
    ----------
    loadings : (s, p, K) float array
        Of each segment's model, over all repeats; NaN beyond what a segment has.
    repeats : int
        The segments come repeat by repeat.
    rows : (m,) int array
        Which sample each left-out score is of.
    segments : (m,) int array
        Which segment left it out.
    scores : (m, K) float array
        Of the left-out samples on the loadings of their segment, in its centring and scaling.
    """

    loadings: Floats
    repeats: int
    rows: Integers
    segments: Integers
    scores: Floats


@frozen(eq=False)
class Stability:
    """How a model of k components would move with other samples.

    Attributes
    ----------
    errors : (p, k) float array
        Standard error of each loading, by the jackknife over segments, mean square over repeats.
    places : (n, k) float array
        The score of each sample by models that have not seen it, turned onto the full one, mean over repeats;
        NaN for a sample that was never left out.
    together : tuple of (first, last)
        Components, from 1, that are only one plane together.
    unsure : tuple of int
        Components, from 1, that come out otherwise in many segments and form no plane with those kept.
    """

    errors: Floats
    places: Floats
    together: tuple[tuple[int, int], ...]
    unsure: tuple[int, ...]

    def faint(self, loadings: Floats) -> Booleans:
        """Which loadings, (p, k), cannot be told from zero: `|p| < 2 s`."""
        faint: Booleans = np.abs(loadings) < TIMES_ERROR * self.errors
        return faint

    @property
    def words(self) -> str:
        """What is to be said of the components; nothing where each is told apart."""
        said = [f"{run_of(*ends)} are not told apart" for ends in self.together]
        if self.unsure:
            which = " and ".join(map(str, self.unsure))
            said.append(f"{which} {'does' if len(self.unsure) == 1 else 'do'} not hold with other samples")
        return "; ".join(said)


def run_of(first: int, last: int) -> str:
    """`2 and 3`, `2 to 4`."""
    return f"{first} {'and' if last == first + 1 else 'to'} {last}"


def segment_models(
    loadings: Sequence[Floats], scores: Sequence[Floats], left: Sequence[Integers], repeats: int
) -> SegmentModels | None:
    """Gather what the segments found, K components wide; None where they have other variables.

    Parameters
    ----------
    loadings : (p, at most K) float array of each segment
    scores : (m, K) float array of each segment
    left : the rows that each segment leaves out
    """
    if len({len(one) for one in loadings}) > 1:
        return None
    wide = np.full((len(loadings), len(loadings[0]), scores[0].shape[1]), np.nan)
    for place, one in enumerate(loadings):
        wide[place, :, : one.shape[1]] = one
    segments = np.repeat(np.arange(len(left)), [len(rows) for rows in left])
    return SegmentModels(wide, repeats, np.concatenate(list(left)), segments, np.concatenate(list(scores)))


def turned_onto(loadings: Floats, full: Floats) -> Floats:
    """The rotation R, (k, l), for which `loadings R` is nearest to `full`: (p, k) and (p, l).

    Where k and l differ, its rows or columns are orthonormal, whichever are fewer.

    References
    ----------
    Schönemann, Psychometrika 31 (1966) 1–10 (orthogonal Procrustes).
    """
    left, _, right = np.linalg.svd(loadings.T @ full, full_matrices=False)
    rotation: Floats = left @ right
    return rotation


def stability(models: SegmentModels, full: Floats, n: int) -> Stability | None:
    """How k components would move, from the segments; None where a segment has not so many.

    Parameters
    ----------
    models : SegmentModels
    full : (p, k) float array
        Loadings of the model of all samples.
    n : int
        Samples.

    References
    ----------
    Martens & Martens, Food Quality and Preference 11 (2000) 5–16 (jackknife over segments, turned first);
    Efron & Stein, Ann. Stat. 9 (1981) 586–596.
    """
    p, k = full.shape
    if models.loadings.shape[1] != p or k > models.loadings.shape[2]:
        return None
    parts = models.loadings[:, :, :k]
    if np.isnan(parts[:, 0]).any():
        return None
    rotations = np.array([turned_onto(part, full) for part in parts])
    turned = np.einsum("spa,sab->spb", parts, rotations, optimize=True)
    by_repeat = turned.reshape(models.repeats, -1, p, k)
    m = by_repeat.shape[1]
    variances = (m - 1) * by_repeat.var(axis=1)  # (m − 1)/m · Σ
    places = np.einsum("ma,mab->mb", models.scores[:, :k], rotations[models.segments])
    together, unsure = planes(np.einsum("pa,spb->sab", full, parts, optimize=True))
    return Stability(
        np.sqrt(variances.mean(axis=0)), _mean_of_samples(models.rows, places, n), together, unsure
    )


def _mean_of_samples(rows: Integers, places: Floats, n: int) -> Floats:
    """The mean over repeats of each of n samples, (n, k)."""
    counts = np.bincount(rows, minlength=n).astype(np.float64)
    counts[counts == 0.0] = np.nan
    return np.column_stack([np.bincount(rows, column, n) / counts for column in places.T])


def planes(cosines: Floats) -> tuple[tuple[tuple[int, int], ...], tuple[int, ...]]:
    """Which neighbouring components come out only as one plane, and which do not hold at all; from 1.

    Parameters
    ----------
    cosines : (s, k, k) float array
        Inner products of the full model's components with those of each segment, before it is turned.
    """
    k = cosines.shape[1]
    turning = [_turns(cosines, a, a) for a in range(k)]
    together: list[tuple[int, int]] = []
    unsure: list[int] = []
    first = 0
    while first < k:
        if not turning[first]:
            first += 1
            continue
        run = next((b for b in range(first, k) if not turning[b]), k)
        last = next((b for b in range(first + 1, run) if not _turns(cosines, first, b)), None)
        if last is None:
            unsure.append(first + 1)
            first += 1
        else:
            together.append((first + 1, last + 1))
            first = last + 1
    return tuple(together), tuple(unsure)


def _turns(cosines: Floats, first: int, last: int) -> bool:
    """Whether more than a quarter of the segments have another plane of these components."""
    block = cosines[:, first : last + 1, first : last + 1]
    smallest = np.linalg.svd(block, compute_uv=False)[:, -1]
    return bool((smallest < SAME).mean() > SEGMENTS_TURNING)
