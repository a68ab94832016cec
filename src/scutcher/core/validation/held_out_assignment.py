"""Do classes hold? Samples that were left out, assigned by what the others taught."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.groups.assigning import NOWHERE, Method, assigned
from scutcher.core.groups.class_scores import class_scores, to_centres
from scutcher.core.groups.dip import along_line
from scutcher.core.groups.directions import Directions, directions, turned_places
from scutcher.core.validation.doubtful_labels import DoubtfulLabels, doubtful_labels
from scutcher.core.validation.held_out_scores import HeldOutScores, SegmentScores
from scutcher.core.words import count_of


@frozen(eq=False)
class HeldOutAssignment:
    """Which class each left-out sample was given, with 1…K components.

    Attributes
    ----------
    codes : (n,) int array
        The class of each sample as labelled; −1 where there is none, or where its class has but one group
        of replicates: nothing is left of it when that is left out.
    alone : tuple of int
        Those classes.
    assigned : (repeats, K, n) int array
        −1 where not judged.
    method : str
    error : (K,) float array
        Standard error of the share right, from the spread of the segments; of repeats the root mean square.
    margins : (n,) float array
        How much nearer, in standard deviations within classes with K' components, the nearest other centre is
        than that of its own class, mean over repeats; NaN where not judged. K' is `k`.
    k : int
        The components of the model.
    groups : (n,) int array
        The group of replicates of each sample.
    """

    codes: Integers
    alone: tuple[int, ...]
    assigned: Integers
    method: str
    error: Floats
    margins: Floats
    k: int
    groups: Integers

    @property
    def judged(self) -> np.ndarray:
        """Which samples were judged, (n,) bool."""
        found: np.ndarray = self.codes >= 0
        return found

    @property
    def share_right(self) -> Floats:
        """Share of the judged samples that find their class, with 1…K components; mean over repeats."""
        found: Floats = self.right().mean(axis=1)
        return found

    def right(self) -> Floats:
        """Of each judged sample the share of repeats in which it finds its class, (K, judged)."""
        found: Floats = (self.assigned == self.codes).mean(axis=0)[:, self.judged]
        return found

    @property
    def guessing(self) -> float:
        """The share of the largest class."""
        counts = np.bincount(self.codes[self.judged])
        return float(counts.max() / counts.sum())

    def best(self) -> int:
        """The fewest components with the highest share."""
        return int(self.share_right.argmax()) + 1

    def mixups(self, k: int, classes: int) -> Floats:
        """How many samples of each class (rows) were given to each (columns), mean over repeats."""
        counts = np.zeros((classes, classes))
        for repeat in self.assigned[:, k - 1]:
            there = self.judged & (repeat >= 0)
            np.add.at(counts, (self.codes[there], repeat[there]), 1.0)
        return counts / len(self.assigned)

    @computed_once
    def doubtful(self) -> DoubtfulLabels:
        """Labels worth a look, with the components of the model."""
        return doubtful_labels(self.codes, self.groups, self.assigned[:, self.k - 1], self.margins)


def assign_held_out(
    scores: HeldOutScores,
    codes: Integers,
    k: int,
    method: Method = "nearest-centre",
    neighbours: int = 5,
) -> HeldOutAssignment:
    """Assign the left-out samples of every segment.

    Parameters
    ----------
    codes : (n,) int array
        Class of each sample; negative where not known.
    k : int
        Components of the model: with so many, distances to centres are told.
    """
    judged, alone = judged_codes(codes, scores.groups)
    n, most = len(codes), scores.most
    found = np.full((scores.repeats, most, n), NOWHERE, dtype=np.intp)
    margins = np.zeros(n)
    wrong = np.empty((len(scores.segments), most))
    per_repeat = len(scores.segments) // scores.repeats
    for place, segment in enumerate(scores.segments):
        taught = judged[segment.kept]
        given = assigned(segment.training, taught, segment.left, method, neighbours)
        found[place // per_repeat, :, segment.rows] = given.T
        wrong[place] = ((given != judged[segment.rows]) & (judged[segment.rows] >= 0)).sum(axis=1)
        margins[segment.rows] += _margins(segment, taught, judged[segment.rows], min(k, most))
    found[:, :, judged < 0] = NOWHERE
    spreads = wrong.reshape(scores.repeats, per_repeat, most).std(axis=1, ddof=1) * np.sqrt(per_repeat)
    error = np.sqrt((spreads**2).mean(axis=0)) / max(int((judged >= 0).sum()), 1)
    margins = np.where(judged >= 0, margins / scores.repeats, np.nan)
    kept = min(k, most)
    return HeldOutAssignment(judged, alone, found, method, error, margins, kept, scores.groups)


def held_out_places(scores: HeldOutScores, codes: Integers, k: int, one: int, two: int) -> Floats:
    """Where left-out samples lie along the line of two centres that have not seen them, (n,).

    0 at the first centre, 1 at the second, mean over repeats; NaN where a segment has none of a class left.
    """
    places, counts = np.zeros(len(codes)), np.zeros(len(codes))
    for segment in scores.segments:
        taught = codes[segment.kept]
        if not (taught == one).any() or not (taught == two).any():
            continue
        both = np.vstack([segment.training[:, :k], segment.left[:, :k]])
        marked = np.concatenate([taught, np.full(len(segment.rows), -1)])
        places[segment.rows] += along_line(both, marked, one, two)[len(taught) :]
        counts[segment.rows] += 1.0
    with np.errstate(invalid="ignore"):
        return np.where(counts > 0.0, places / np.maximum(counts, 1.0), np.nan)


def held_out_directions(scores: HeldOutScores, codes: Integers, k: int, full: Directions) -> Floats:
    """Where left-out samples lie on the directions that separate classes best, learned without them, (n, 2).

    Each segment's directions are turned onto those of all; mean over repeats, NaN where there are none.
    """
    places, counts = np.zeros((len(codes), 2)), np.zeros(len(codes))
    for segment in scores.segments:
        found = directions(segment.training[:, :k], codes[segment.kept])
        if found is not None:
            places[segment.rows] += turned_places(found, full, segment.left[:, :k])
            counts[segment.rows] += 1.0
    places[counts == 0.0] = np.nan
    return places / np.maximum(counts, 1.0)[:, np.newaxis]


def judged_codes(codes: Integers, groups: Integers) -> tuple[Integers, tuple[int, ...]]:
    """The classes without those that have but one group of replicates, and which these are.

    Raises
    ------
    ModelError
        Fewer than two classes are left.
    """
    counts = {int(code): len(np.unique(groups[codes == code])) for code in np.unique(codes[codes >= 0])}
    alone = tuple(code for code, count in counts.items() if count < 2)
    enough = len(counts) - len(alone)
    if enough < 2:
        raise ModelError(
            f"{count_of(enough, 'class')} {'has' if enough == 1 else 'have'} two samples or groups of "
            "replicates; to tell classes apart takes two such classes.",
            "Choose another class column, or give more samples a class.",
        )
    judged = np.where(np.isin(codes, alone), -1, codes)
    return judged, alone


def _margins(segment: SegmentScores, taught: Integers, codes: Integers, k: int) -> Floats:
    """How much nearer another centre is than that of the sample's own class, (m,)."""
    of = class_scores(segment.training[:, :k], taught)
    if of.usable < 1 or len(of.classes) < 2:
        return np.zeros(len(codes))
    away = np.sqrt(to_centres(of, segment.left[:, :k])[min(k, of.usable) - 1])  # (m, c)
    own = codes[:, np.newaxis] == of.classes
    there = own.any(axis=1)
    mine = np.where(own, away, 0.0).sum(axis=1)
    other = np.where(own, np.inf, away).min(axis=1)
    found: Floats = np.where(there, mine - other, 0.0)
    return found
