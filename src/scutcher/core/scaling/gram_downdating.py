"""The Gram matrix of nearly the same samples, from the one before: those that went are taken off it."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.scaling.gram_matrix import GramMatrix
from scutcher.core.scaling.scaler import Scaler

LEAST = 0.1
"""Share of its variance that each variable must keep: what is taken off leaves its rounding behind."""

MOST_STEPS = 20
"""Steps from one that was computed from all samples, after which it is computed anew."""


@frozen(eq=False)
class KnownGram:
    """`ZᵀZ` of a scaled matrix.

    Attributes
    ----------
    product : GramMatrix
    scaler : Scaler
        What Z was centred and scaled with.
    steps : int
        How often samples were taken off or added since it was computed from all of them.
    least : (p,) float array
        What the diagonal must not fall below.
    """

    product: GramMatrix
    scaler: Scaler
    steps: int
    least: Floats


def known_gram(product: GramMatrix, scaler: Scaler) -> KnownGram:
    """One that was computed from all samples."""
    return KnownGram(product, scaler, 0, LEAST * product.diagonal())


def downdated(
    before: KnownGram, gone: Floats, come: Floats, scaler: Scaler, n: int, by_mean: bool
) -> KnownGram | None:
    """The Gram matrix after some samples went and others came, under another centre and other weights.

    With `y = (x − c) w` under the centre and weights before, and `δ = (c − c′) w`, the sum over the n samples
    of now is `R (Σ y yᵀ − n δ δᵀ) R`, where R holds the weights of now over those before.

    Parameters
    ----------
    before : KnownGram
        Not changed.
    gone, come : (m, p), (l, p) float arrays
        The treated values of these samples, not centred.
    scaler : Scaler
        Of the samples of now.
    n : int
        How many these are.
    by_mean : bool
        Whether the centres are means; else nothing was taken off.

    Returns
    -------
    KnownGram or None
        None where too much was taken off for the digits that are left, after many steps, and where a variable
        counts now that did not.
    """
    old, new = before.scaler, scaler
    used = old.weight != 0.0
    if before.steps >= MOST_STEPS or bool((new.weight[~used] != 0.0).any()):
        return None
    moved = np.sqrt(n) * (old.centre - new.centre) if by_mean else np.zeros(len(used))
    first = old.weight
    if before.product.weight is not None:
        first = np.divide(first, before.product.weight, out=np.zeros(len(used)), where=used)
    product = before.product.with_rows(np.vstack([gone - old.centre, moved]) * first, -1.0)
    if len(come):
        product = product.with_rows((come - old.centre) * first, 1.0)
    least = before.least
    if not np.array_equal(new.weight, old.weight):
        ratio = np.divide(new.weight, old.weight, out=np.zeros(len(used)), where=used)
        product, least = product.weighted(ratio), least * ratio**2
    if not bool((product.diagonal() >= least).all()):
        return None
    return KnownGram(product, new, before.steps + 1, least)
