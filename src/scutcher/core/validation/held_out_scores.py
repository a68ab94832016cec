"""The scores of every sample by a model that has not seen it, of each segment."""

from __future__ import annotations

from dataclasses import replace

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError, ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.engines.choice import leading_loadings
from scutcher.core.progress import Watch, pulse, tell
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.validation.left_out import Leaving
from scutcher.core.validation.segments import group_codes

MOST = 15
"""Components with which samples are assigned, where there are so many."""


@frozen(eq=False)
class SegmentScores:
    """Scores of one segment: those left out and those that taught, both on what the latter taught.

    Attributes
    ----------
    rows, kept : (m,), (n_s,) int arrays
        Rows of the table.
    left, training : (m, K), (n_s, K) float arrays
    """

    rows: Integers
    kept: Integers
    left: Floats
    training: Floats


@frozen(eq=False)
class HeldOutScores:
    """Held-out scores of all segments, repeat by repeat; they know nothing of classes.

    Attributes
    ----------
    segments : tuple of SegmentScores
    repeats : int
    groups : (n,) int array
        The group of replicates of each sample.
    learns_classes : bool
        A treatment learned from class labels: permuted labels would need everything anew.
    """

    segments: tuple[SegmentScores, ...]
    repeats: int
    groups: Integers
    learns_classes: bool

    @property
    def most(self) -> int:
        """K."""
        return int(self.segments[0].left.shape[1])


def held_out_scores(part: Table, recipe: Recipe, k: int, watch: Watch | None = None) -> HeldOutScores:
    """Leave the segments of a recipe's validation out in turn, and everything learned again.

    Parameters
    ----------
    part : Table
        The samples and variables in the model, before treatment.
    k : int
        At least so many components where every segment has them, and at least 15.

    Raises
    ------
    InputError
        Segments cannot be made; a treatment fails without the samples left out; Stopped.
    """
    leaving = Leaving(part, recipe)
    most, left = min(max(k, MOST), leaving.most), leaving.left
    if most < 1:
        raise ModelError("A segment leaves too few samples to fit a component.", "Choose more segments.")
    found: list[SegmentScores] = []
    for rows in left:
        tell(watch, len(found) / len(left))
        out = leaving.leave(rows, pulse(watch))
        loadings = leading_loadings(out.seen, out.scaler.centred, most, pulse(watch))
        training, new = out.seen.onto(loadings, pulse(watch))[0], out.z @ loadings
        found.append(SegmentScores(rows, out.kept, new, training))
    there = min(one.left.shape[1] for one in found)
    cut = tuple(
        SegmentScores(one.rows, one.kept, one.left[:, :there], one.training[:, :there]) for one in found
    )
    return HeldOutScores(cut, len(leaving.segments.parts), group_codes(part), _learns_classes(part, recipe))


def _learns_classes(part: Table, recipe: Recipe) -> bool:
    """Whether the treatments cannot do without class labels."""
    steps = [step for step in recipe.treat if step.on]
    if not any(step.treatment.learns for step in steps):
        return False
    bare = replace(part, classes=())
    try:
        for step in steps:
            bare = run_step(bare, step).table
    except InputError:
        return True
    return False
