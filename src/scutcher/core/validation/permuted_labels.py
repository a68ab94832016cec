"""How well classes are found whose labels were permuted: what chance alone does with left-out samples."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.errors import ModelError
from scutcher.core.groups.assigning import NOWHERE, Method, assigned, every_candidate, majority, nearest
from scutcher.core.progress import Watch, tell
from scutcher.core.validation.held_out_assignment import judged_codes
from scutcher.core.validation.held_out_scores import HeldOutScores, SegmentScores

CELLS = 2_000_000  # of arrays that are held at once
REGULAR = 1e-8  # of a component's variance: with less spread within classes each labelling is taken by itself


def permuted_share(
    scores: HeldOutScores,
    codes: Integers,
    k: int,
    method: Method,
    neighbours: int,
    permutations: int = 199,
    seed: int = 1,
    watch: Watch | None = None,
) -> Floats:
    """Shares right with class labels permuted among the groups of replicates, (permutations,).

    Of every segment many labellings at once.

    Raises
    ------
    ModelError
        A treatment learns from the classes; Stopped.

    References
    ----------
    Golland & Fischl, Inf. Process. Med. Imaging (2003) 330–341.
    """
    if scores.learns_classes:
        raise ModelError(
            "A treatment learns from the classes, so permuted classes would need all treatments anew.",
            "Take the reference of that treatment from all samples.",
        )
    judged, _ = judged_codes(codes, scores.groups)
    rng, right = np.random.default_rng(seed), np.zeros(permutations)
    at_once = max(1, CELLS // (len(judged) * max(int(judged.max()) + 1, neighbours)))
    for start in range(0, permutations, at_once):
        mixed = _labellings(judged, scores.groups, min(at_once, permutations - start), rng)
        for turn, segment in enumerate(scores.segments):
            tell(watch, (start + len(mixed) * turn / len(scores.segments)) / permutations)
            taught, asked = mixed[:, segment.kept], mixed[:, segment.rows]
            if method == "nearest-neighbours":
                given = _by_neighbours(segment, taught, k, neighbours)
            else:
                given = _by_centres(segment, taught, k, method)
            right[start : start + at_once] += ((given == asked) & (asked >= 0)).sum(axis=1)
    found: Floats = right / max(int((judged >= 0).sum()), 1) / scores.repeats
    return found


def p_value(share: float, permuted: Floats) -> float:
    """How often labels by chance do as well: `(1 + #{permuted ≥ share}) / (1 + permutations)`."""
    return (1.0 + float((permuted >= share - 1e-12).sum())) / (1.0 + len(permuted))


def _labellings(judged: Integers, groups: Integers, permutations: int, rng: np.random.Generator) -> Integers:
    """The labels of all samples, permuted among groups of replicates, (permutations, n)."""
    _, first, of_sample = np.unique(groups, return_index=True, return_inverse=True)
    labels = judged[first]
    known = np.flatnonzero(labels >= 0)
    mixed = np.tile(labels, (permutations, 1))
    for one in mixed:
        one[known] = labels[rng.permutation(known)]
    found: Integers = mixed[:, of_sample]
    return found


def _by_neighbours(segment: SegmentScores, taught: Integers, k: int, neighbours: int) -> Integers:
    """As `assigned`, of many labellings: who is near does not depend on them. (turns, m)"""
    known = taught[0] >= 0
    every = every_candidate(int(known.sum()), len(segment.left))
    x, codes = segment.training[known, :k][::every], taught[:, known][:, ::every]
    new = segment.left[:, :k]
    away = np.zeros((len(new), len(x)))
    for place in range(k):
        away += (new[:, place : place + 1] - x[:, place]) ** 2
    votes = codes[:, nearest(away, min(neighbours, len(x)))]  # (turns, m, wanted)
    shape = votes.shape
    return majority(votes.reshape(-1, shape[2])).reshape(shape[:2])


def _by_centres(segment: SegmentScores, taught: Integers, k: int, method: Method) -> Integers:
    """As `assigned`, of many labellings: centres and spreads from sums of the scores. (turns, m)"""
    known = taught[0] >= 0
    middle = segment.training[known, :k].mean(axis=0)
    x, new = segment.training[known, :k] - middle, segment.left[:, :k] - middle
    labels = taught[:, known]
    levels = np.unique(labels)
    members = labels[:, np.newaxis, :] == levels[:, np.newaxis]  # (turns, classes, n)
    sizes = members.sum(axis=2)
    centres = (members.astype(np.float64) @ x) / np.maximum(sizes, 1)[:, :, np.newaxis]
    weighted = centres * sizes[:, :, np.newaxis]
    within = x.T @ x - np.swapaxes(weighted, 1, 2) @ centres  # (turns, k, k)
    regular = _factors(within, len(x) - (sizes > 0).sum(axis=1), x)
    given = np.full((len(labels), len(new)), NOWHERE, dtype=np.intp)
    turns = np.array([turn for turn, factor in enumerate(regular) if factor is not None], dtype=np.intp)
    if len(turns):
        white = np.linalg.inv(np.array([regular[turn] for turn in turns]))
        places = np.swapaxes(white @ np.swapaxes(centres[turns], 1, 2), 1, 2)  # (turns, classes, k)
        far = (places**2).sum(axis=2)[:, np.newaxis, :]
        far = far - 2.0 * (new @ np.swapaxes(white, 1, 2)) @ np.swapaxes(places, 1, 2)
        far = np.where(sizes[turns][:, np.newaxis, :] > 0, far, np.inf)
        if method == "discriminant":
            with np.errstate(divide="ignore"):
                far = far - 2.0 * np.log(sizes[turns] / len(x))[:, np.newaxis, :]
        given[turns] = levels[far.argmin(axis=2)]
    for turn in np.setdiff1d(np.arange(len(labels)), turns):
        given[turn] = assigned(segment.training[:, :k], taught[turn], segment.left[:, :k], method)[-1]
    return given


def _factors(within: Floats, freedom: Integers, x: Floats) -> list[Floats | None]:
    """The Cholesky factor of each covariance; None where it has too little freedom or is nearly singular."""
    spreads = np.einsum("ij,ij->j", x, x)
    found: list[Floats | None] = []
    for squares, free in zip(within, freedom.tolist(), strict=True):
        factor = None
        if free >= len(squares) and (np.diag(squares) > REGULAR * spreads).all():
            try:
                factor = np.linalg.cholesky(squares / free)
            except np.linalg.LinAlgError:
                factor = None
        if factor is not None and (np.diag(factor) ** 2 * free <= REGULAR * np.diag(squares)).any():
            factor = None
        found.append(factor)
    return found
