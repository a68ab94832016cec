"""A table that a sample was not measured in, from the tables that it was."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.blocks.component import KINDS, kind_of
from scutcher.core.blocks.consensus import BlockModel
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.held_out import Refit, without_each
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch

CONSISTENT = 1.4826
"""Median absolute value of normal numbers to their standard deviation."""


def expected_z(model: BlockModel, b: int, z: Mapping[int, Floats]) -> Floats | None:
    """Z of a block, (m, p_b), of rows of which other blocks are known; None where nothing shared is known.

    The scores of the block are those that belong to the consensus of the other blocks; what the block has
    alone is left at its mean.

    Parameters
    ----------
    z : dict of block → (m, p) float array
        Of the blocks that were measured.
    """
    found: Floats | None = None
    for chosen in model.sets:
        there = [c for c in chosen if c in z and c != b]
        if b not in chosen or not there:
            continue
        own = model.of(chosen)
        scores = {c: np.column_stack([z[c] @ one.weights[c] for one in own]) for c in there}
        consensus = model.consensus_of(chosen, scores)
        training = np.column_stack([one.consensus for one in own])
        block_scores = np.column_stack([one.scores[b] for one in own])
        loadings = np.vstack([one.loadings[b] for one in own])
        part = consensus @ (training.T @ block_scores) @ loadings
        found = part if found is None else found + part
    return found


@frozen(eq=False)
class Expected:
    """One block as the others predict it.

    Attributes
    ----------
    block : int
    samples : tuple of m str
    values : (m, p) float array
        In units of the treated table.
    """

    block: int
    samples: tuple[str, ...]
    values: Floats


@frozen(eq=False)
class Foretold:
    """How well a block is predicted from the others, on samples that were left out.

    By medians: one sample far outside the others would be extrapolated, and say nothing of all the rest.

    Attributes
    ----------
    share : float
        1 − Σ error² / Σ spread² over all variables, scaled as in the model; may be negative.
    of_variable : (p,) float array
        1 − error² / spread² of each variable, spread about the training mean; NaN where it does not vary.
    error : (p,) float array
        1.4826 × the median absolute error, in units of the treated table.
    explained : (3,) float array
        Shares of the block's left-out squares that its own scores explain: by components common to all, then
        what those of some add, then what its own ones add; may be negative.
    """

    share: float
    of_variable: Floats
    error: Floats
    explained: Floats


def foretold(
    fitted: FittedBlocks, segments: Sequence[Integers], refit: Refit, watch: Watch | None = None
) -> tuple[Foretold, ...]:
    """Each block of left-out samples predicted from all the others; everything is learned without them."""
    model = fitted.model
    wrong: list[list[Floats]] = [[] for _ in model.blocks]
    whole: list[list[Floats]] = [[] for _ in model.blocks]
    gained = np.zeros((len(model.blocks), len(KINDS)))
    for part in without_each(model, segments, refit, watch):
        for b, z in enumerate(part.left):
            others = {c: other for c, other in enumerate(part.left) if c != b}
            guess = expected_z(part.model, b, others)
            wrong[b].append(z if guess is None else z - guess)
            whole[b].append(z)
            gained[b] += _gained(part.model, b, z)
    return tuple(_foretold(fitted, b, wrong[b], whole[b], gained[b]) for b in range(len(wrong)) if wrong[b])


def _gained(model: BlockModel, b: int, z: Floats) -> Floats:
    """Squares of rows of a block that each kind of component takes, one kind after the other, (3,)."""
    rest, found = z, []
    for kind in KINDS:
        own = [one for one in model.of_block(b) if kind_of(one, len(model.blocks)) == kind]
        fitted = sum((np.outer(z @ one.weights[b], one.loadings[b]) for one in own), start=np.zeros_like(z))
        after = rest - fitted
        found.append(float(np.sum(rest**2) - np.sum(after**2)))
        rest = after
    return np.array(found)


def _foretold(
    fitted: FittedBlocks, b: int, wrong: Sequence[Floats], whole: Sequence[Floats], gained: Floats
) -> Foretold:
    error, spread = (CONSISTENT * np.median(np.abs(np.vstack(parts)), axis=0) for parts in (wrong, whole))
    weight = fitted.treated[b].scaler.weight
    with np.errstate(divide="ignore", invalid="ignore"):
        of_variable = np.where(spread > 0.0, 1.0 - (error / spread) ** 2, np.nan)
        in_unit = np.where(weight > 0.0, error / weight, np.nan)
    total = float((spread**2).sum())
    share = 1.0 - float((error**2).sum()) / total if total > 0.0 else float("nan")
    squares = float(sum(np.sum(z**2) for z in whole))
    explained = gained / squares if squares > 0.0 else np.full(len(KINDS), np.nan)
    return Foretold(share, of_variable, in_unit, explained)


def in_units(fitted: FittedBlocks, b: int, z: Floats) -> Floats:
    """Rows of Z of a block in units of its treated table; variables that do not vary at their mean."""
    scaler = fitted.treated[b].scaler
    found: Floats = np.divide(z, scaler.weight, out=np.zeros_like(z), where=scaler.weight > 0.0)
    return found + scaler.centre
