"""The classes of an evaluation: how far they lie apart, and whether that holds for left-out samples."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers, distinct
from scutcher.core.computed_once import computed_once
from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import InputError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_regions import Regions, class_regions
from scutcher.core.groups.class_scores import ClassScores, centre_distances, class_scores, clearest_pair
from scutcher.core.groups.class_separation import between_within
from scutcher.core.groups.directions import Directions, directions
from scutcher.core.groups.mean_differences import DRAWS, Difference, mean_difference
from scutcher.core.groups.tree import Linkage, Tree, tree
from scutcher.core.numeric.threads import one_thread
from scutcher.core.progress import Stopped, Watch, part
from scutcher.core.recipes.recipe import GroupSettings
from scutcher.core.validation.held_out_assignment import HeldOutAssignment, assign_held_out
from scutcher.core.validation.held_out_scores import HeldOutScores, held_out_scores
from scutcher.core.validation.permuted_labels import p_value, permuted_share
from scutcher.core.validation.segments import group_codes
from scutcher.study.evaluation.evaluation import Evaluation

METRICS = {"nearest-centre": "within", "discriminant": "within", "nearest-neighbours": "scores"}
"""Each method's own distance: the table of classes and the held-out share never speak of two."""


@frozen(eq=False)
class Grouping:
    """The classes of the samples in a model.

    Attributes
    ----------
    found : Evaluation
    column : ClassColumn
        Of the samples in the model.
    settings : GroupSettings
    """

    found: Evaluation
    column: ClassColumn
    settings: GroupSettings

    @property
    def codes(self) -> Integers:
        """Class of each sample in the model, (n,)."""
        return self.column.codes()

    @computed_once
    def present(self) -> Integers:
        """The codes of classes that have samples, (c,)."""
        return distinct(self.codes[self.codes >= 0])

    def name(self, code: int) -> str:
        """What a class is called."""
        return self.column.levels[code]

    def rows(self, code: int) -> Integers:
        """Rows of the model that are of a class."""
        return np.flatnonzero(self.codes == code)

    @computed_once
    def groups(self) -> Integers:
        """The group of replicates of each sample, (n,)."""
        return group_codes(self.found.part)

    @computed_once
    def scores(self) -> ClassScores:
        """Centres and spread in the components that are kept."""
        return class_scores(self.found.model.scores, self.codes)

    @property
    def metric(self) -> str:
        """ "within" or "scores"."""
        return METRICS[self.settings.method]

    @computed_once
    def distances(self) -> Floats:
        """Between the centres of the classes present, (c, c); NaN where no spread within is known."""
        return centre_distances(self.scores, self.found.model.k, self.metric)

    def tree(self, linkage: Linkage = "average") -> Tree:
        """The classes present, joined by these distances."""
        return tree(np.nan_to_num(self.distances), linkage)

    @computed_once
    def pair(self) -> tuple[int, int]:
        """The two components kept in which the classes lie farthest apart."""
        return clearest_pair(self.found.model.scores, self.codes)

    @computed_once
    def directions(self) -> Directions | None:
        """The two directions in the components kept that separate the classes best."""
        return directions(self.found.model.scores, self.codes)

    @computed_once
    def regions(self) -> Regions:
        """Membership in the region of each class, in all components kept."""
        count = len(self.column.levels)
        return class_regions(self.found.model.scores, self.codes, count, self.settings.level)

    @computed_once
    def ratios(self) -> Floats:
        """Variance between over within the classes at each variable treated, (p,)."""
        return between_within(self.found.treated.values, self.codes)

    def warm(self) -> Grouping:
        """Itself, with all that takes a pass over the samples computed."""
        _ = self.groups, self.distances, self.pair, self.regions
        return self

    def difference(self, one: int, two: int, draws: int = DRAWS) -> Difference:
        """Where two classes differ, on the treated values."""
        values = self.found.treated.values
        return mean_difference(values, self.rows(one), self.rows(two), self.groups, draws)


def grouping_of(found: Evaluation, column: str, settings: GroupSettings) -> Grouping:
    """The classes of a column, in the model.

    Parameters
    ----------
    column : str
        Empty for the one of the settings, or the first.

    Raises
    ------
    TableError
        There is no class column, or none of that name.
    """
    classes = found.treated.classes
    name = column or settings.column
    if not classes:
        raise TableError(f"{found.table.name} has no class column.", "Name one, or tag samples with a class.")
    chosen = found.treated.class_column(name) if name else classes[0]
    return Grouping(found, chosen, settings)


@frozen(eq=False)
class HeldOutGroups:
    """Whether the classes hold for samples that were left out.

    Attributes
    ----------
    scores : HeldOutScores
    assignment : HeldOutAssignment
    p_value : float or None
    why_not : str
        Why there is no p value.
    """

    scores: HeldOutScores
    assignment: HeldOutAssignment
    p_value: float | None = None
    why_not: str = ""


def held_out_groups(
    grouping: Grouping, known: HeldOutScores | None = None, watch: Watch | None = None
) -> HeldOutGroups:
    """Assign left-out samples.

    Parameters
    ----------
    known : HeldOutScores, optional
        The segments' scores, where they were computed for other classes already.

    Raises
    ------
    InputError
        There are not two classes that can be judged; segments cannot be made; Stopped.
    """
    found, settings = grouping.found, grouping.settings
    k = found.model.k
    with one_thread():
        scores = known or held_out_scores(found.part, found.run_recipe, k, watch)
        codes = grouping.codes
        assignment = assign_held_out(scores, codes, k, settings.method, settings.neighbours)
        _ = assignment.doubtful  # of very many samples not the window's work
    return HeldOutGroups(scores, assignment)


def with_p_value(grouping: Grouping, held: HeldOutGroups, watch: Watch | None = None) -> HeldOutGroups:
    """The same with the share that permuted class labels reach.

    Raises
    ------
    Stopped
    """
    settings, k = grouping.settings, held.assignment.k
    try:
        with one_thread():
            permuted = permuted_share(
                held.scores,
                grouping.codes,
                k,
                settings.method,
                settings.neighbours,
                settings.permutations,
                grouping.found.recipe.validate.seed,
                watch and part(watch, 0.0, 1.0),
            )
    except Stopped:
        raise
    except InputError as error:
        return HeldOutGroups(held.scores, held.assignment, None, str(error))
    p = p_value(float(held.assignment.share_right[k - 1]), permuted)
    return HeldOutGroups(held.scores, held.assignment, p)
