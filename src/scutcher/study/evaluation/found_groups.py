"""Groups in the scores of a model, without labels: of samples, or of groups of replicates by their means."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.groups.clusters import (
    Clusters,
    HowMany,
    Way,
    adjusted_rand,
    cut_into,
    how_many,
    k_means,
    ward_tree,
)
from scutcher.core.groups.tree import Tree
from scutcher.core.numeric.group_means import means_by_group
from scutcher.core.numeric.threads import one_thread
from scutcher.core.progress import Watch
from scutcher.core.validation.segments import group_codes
from scutcher.study.evaluation.evaluation import Evaluation

FEWEST, MOST_POINTS = 4, 2000
"""Points that groups take, and the most that a tree of all is made of."""


@frozen(eq=False)
class Ungrouped:
    """What groups are looked for in.

    Attributes
    ----------
    found : Evaluation
    way : "k-means" or "ward"
    scaled : bool
        Whether each score is brought to unit variance first.
    """

    found: Evaluation
    way: Way = "ward"
    scaled: bool = False

    @computed_once
    def codes(self) -> Integers:
        """The point of each sample in the model, (n,): its group of replicates, or itself."""
        return group_codes(self.found.part)

    @computed_once
    def points(self) -> Floats:
        """Mean scores of each group of replicates, (g, k)."""
        scores = self.found.model.scores
        if self.scaled:
            scores = scores / np.sqrt(self.found.model.eigenvalues)
        return means_by_group(scores, self.codes)

    @computed_once
    def names(self) -> tuple[str, ...]:
        """What each point is called: the replicate id, or the sample."""
        part = self.found.part
        first = np.unique(self.codes, return_index=True)[1]
        return tuple((part.replicates[row] if part.replicates else "") or part.ids[row] for row in first)

    @computed_once
    def tree(self) -> Tree:
        """Ward's tree of the points."""
        return ward_tree(self.points)

    def clusters(self, count: int) -> Clusters:
        """The points in so many groups."""
        if self.way == "ward":
            return cut_into(self.points, self.tree, count)
        return k_means(self.points, count, np.random.default_rng(self.found.recipe.validate.seed))

    def of_samples(self, clusters: Clusters) -> Integers:
        """The group of each sample in the model, (n,)."""
        found: Integers = clusters.labels[self.codes]
        return found

    def agreement(self, clusters: Clusters, column: ClassColumn) -> float:
        """Adjusted Rand of the groups and a class column, over the points whose class is known."""
        classes = self.classes_of_points(column)
        known = classes >= 0
        if known.sum() < FEWEST:
            return float("nan")
        return adjusted_rand(clusters.labels[known], classes[known])

    def classes_of_points(self, column: ClassColumn) -> Integers:
        """The class of each point, by the most of its samples; −1 where it is not known."""
        codes = column.codes()
        levels = max(len(column.levels), 1)
        votes = np.zeros((len(self.points), levels))
        known = codes >= 0
        np.add.at(votes, (self.codes[known], codes[known]), 1.0)
        return np.where(votes.sum(axis=1) > 0.0, votes.argmax(axis=1), -1)

    def cross_table(self, clusters: Clusters, column: ClassColumn) -> Floats:
        """How many points of each class (columns) each group (rows) has."""
        classes = self.classes_of_points(column)
        known = classes >= 0
        table = np.zeros((len(clusters.centres), len(column.levels)))
        np.add.at(table, (clusters.labels[known], classes[known]), 1.0)
        return table


def ungrouped(found: Evaluation, way: Way, scaled: bool) -> Ungrouped:
    """What groups are looked for in.

    Raises
    ------
    ModelError
        There are too few points, or too many.
    """
    made = Ungrouped(found, way, scaled)
    count = int(made.codes.max()) + 1
    if count < FEWEST:
        raise ModelError(f"{count} samples make no groups.", f"Groups take at least {FEWEST}.")
    if count > MOST_POINTS:
        raise ModelError(
            f"{count} samples are more than the {MOST_POINTS} that groups are looked for in.",
            "Average replicates, or set aside what is alike.",
        )
    return made


def judge_number(made: Ungrouped, watch: Watch | None = None) -> HowMany:
    """What speaks for each number of groups.

    Raises
    ------
    Stopped
    """
    with one_thread():
        return how_many(made.points, made.way, seed=made.found.recipe.validate.seed, watch=watch)
