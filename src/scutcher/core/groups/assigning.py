"""Assigns samples to classes by their scores: nearest centre, nearest neighbours, linear discriminant."""

from __future__ import annotations

from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.groups.class_scores import class_scores, to_centres

Method = Literal["nearest-centre", "nearest-neighbours", "discriminant"]

MOST_CANDIDATES, MOST_DISTANCES, CELLS = 4000, 10_000_000, 4_000_000
"""Neighbours that are looked at, distances of all new samples, and distances that are held at once."""

NOWHERE = -1
"""The code of a sample that could not be assigned: no spread within classes is known in so many scores."""


def assigned(
    training: Floats, codes: Integers, new: Floats, method: Method = "nearest-centre", neighbours: int = 5
) -> Integers:
    """The class of new samples with 1…K scores.

    Parameters
    ----------
    training : (n, K) float array
        Scores of the training samples, and
    codes : (n,) int array
        their classes; negative where not known: passed over.
    new : (m, K) float array
    method : "nearest-centre" in standard deviations within classes, equal priors; "discriminant" the same
        with priors by the sizes of the classes (Fisher 1936, Rao 1948); "nearest-neighbours" by majority in
        the unit of the scores, ties to the nearest (Fix & Hodges 1951)
    neighbours : int
        With fewer candidates, all of them; of very many every so many-th is one (`every_candidate`).

    Returns
    -------
    (K, m) int array
        Codes of classes; −1 where it is not defined.
    """
    if method == "nearest-neighbours":
        return _by_neighbours(training, codes, new, neighbours)
    of = class_scores(training, codes)
    away = to_centres(of, new)
    if method == "discriminant":
        away = away - 2.0 * np.log(of.sizes / of.sizes.sum())
    undefined = np.isnan(away).any(axis=2)
    found: Integers = of.classes[np.where(np.isnan(away), np.inf, away).argmin(axis=2)]
    found[undefined] = NOWHERE
    return found


def every_candidate(candidates: int, new: int) -> int:
    """Of so many candidates for so many new samples, every so many-th is looked at."""
    most = min(MOST_CANDIDATES, max(MOST_DISTANCES // max(new, 1), 100))
    return max(1, -(-candidates // most))


def _by_neighbours(training: Floats, codes: Integers, new: Floats, neighbours: int) -> Integers:
    known = codes >= 0
    every = every_candidate(int(known.sum()), len(new))
    x, c = training[known][::every], codes[known][::every]
    wanted = min(neighbours, len(x))
    found = np.empty((new.shape[1], len(new)), dtype=np.intp)
    at_once = max(1, CELLS // max(len(x), 1))
    for start in range(0, len(new), at_once):
        some = slice(start, start + at_once)
        away = np.zeros((len(new[some]), len(x)))
        for k in range(new.shape[1]):
            away += (new[some, k : k + 1] - x[:, k]) ** 2
            found[k, some] = winners(c, away, wanted)
    return found


def winners(codes: Integers, away: Floats, wanted: int) -> Integers:
    """The class of most of the nearest candidates, ties to the nearest; (m,).

    Parameters
    ----------
    codes : (n,) int array
        Classes of the candidates.
    away : (m, n) float array
        Distances; infinite for what is no candidate.
    wanted : int
        How many decide.
    """
    near = nearest(away, wanted)
    return majority(codes[near], np.isfinite(np.take_along_axis(away, near, axis=1)))


def nearest(away: Floats, wanted: int) -> Integers:
    """The places of the nearest candidates, nearest first; (m, n) distances → (m, wanted)."""
    if wanted < away.shape[1]:
        few = np.argpartition(away, wanted - 1, axis=1)[:, :wanted]
    else:
        few = np.broadcast_to(np.arange(away.shape[1]), away.shape)
    order = np.argsort(np.take_along_axis(away, few, axis=1), axis=1, kind="stable")
    found: Integers = np.take_along_axis(few, order, axis=1)
    return found


def majority(votes: Integers, valid: Booleans | None = None) -> Integers:
    """What most of each row vote for, ties to the first of them; (m, wanted) codes → (m,)."""
    counts = np.full(votes.shape, -1, dtype=np.intp)  # how often each vote occurs in its row
    for level in np.unique(votes):
        same = votes == level if valid is None else (votes == level) & valid
        counts = np.where(same, same.sum(axis=1, keepdims=True), counts)
    first = counts.argmax(axis=1)[:, np.newaxis]
    found: Integers = np.take_along_axis(votes, first, axis=1)[:, 0]
    return found
