"""A block reduced to its leading scores, and how many of them there are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.blocks.chance import reliabilities
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.tracy_widom import quantile
from scutcher.core.validation.press import predicted_squares

MOST, PARTS, SEGMENTS = 20, 20, 7
"""Components of a block at most, variables left out together, and segments of samples left out."""

EDGE = 0.99
"""Level at which the next component is more than white noise."""

CENTRED = 1e-8
"""Share of the largest value that a column mean may be."""


@frozen(eq=False)
class Reduced:
    """A block of n samples in r components.

    Attributes
    ----------
    name : str
    z : (n, p) float array
        Treated, centred, scaled.
    scores : (n, r) float array
        Orthonormal.
    singular : (r,) float array
    directions : (p, r) float array
    squares : (m,) float array
        All eigenvalues of ZZᵀ.
    reliability : (r,) float array
        See `reliabilities`.
    """

    name: str
    z: Floats
    scores: Floats
    singular: Floats
    directions: Floats
    squares: Floats
    reliability: Floats

    @property
    def r(self) -> int:
        """Its components."""
        return len(self.singular)

    @property
    def total(self) -> float:
        """Sum of all its squares."""
        return float(self.squares.sum())


def decomposed(z: Floats) -> tuple[Floats, Floats, Floats]:
    """Scores (n, m), singular values (m,) and directions (p, m), by the smaller Gram matrix."""
    n, p = z.shape
    if p > 2 * n:
        values, vectors = np.linalg.eigh(z @ z.T)
        order = np.argsort(values)[::-1]
        singular = np.sqrt(np.maximum(values[order], 0.0))
        kept = singular > 1e-7 * max(float(singular[0]), 1e-300)
        scores = vectors[:, order][:, kept]
        directions = (z.T @ scores) / singular[kept]
        return scores, singular[kept], directions
    u, s, v = np.linalg.svd(z, full_matrices=False)
    return u, s, v.T


def reduced(name: str, z: Floats, r: int, or_fewer: bool = False) -> Reduced:
    """A block in r components, or in as many as it has.

    Raises
    ------
    ModelError
        It is not centred, has gaps, does not vary or has fewer components.
    """
    check_block(name, z)
    n, p = z.shape
    scores, singular, directions = decomposed(z)
    rank = int(np.sum(singular > 1e-10 * singular[0]))
    r = min(r, rank) if or_fewer else r
    if not 1 <= r <= rank:
        raise ModelError(f"{r} components of {name} were asked for; it has {rank}.", f"Ask for 1 to {rank}.")
    squares = singular**2
    return Reduced(
        name, z, scores[:, :r], singular[:r], directions[:, :r], squares, reliabilities(squares, r, n - 1, p)
    )


def check_block(name: str, z: Floats) -> None:
    """Refuse what cannot be a block.

    Raises
    ------
    ModelError
    """
    if len(z) < 8:
        raise ModelError(
            f"{name} has {len(z)} samples in common with the others.", "Eight or more are needed."
        )
    if np.isnan(z).any():
        row, column = (int(at) for at in np.argwhere(np.isnan(z))[0])
        raise ModelError(
            f"{name} has a gap at variable {column + 1} of its sample {row + 1}.",
            "Fill it, or leave the sample or the variable out.",
        )
    size = float(np.abs(z).max())
    if not size > 0.0 or not float(np.abs(z - z.mean(axis=0)).max()) > 1e-12 * size:
        raise ModelError(f"Nothing varies in {name}.", "Leave this block out.")
    if float(np.abs(z.mean(axis=0)).max()) > CENTRED * size:
        raise ModelError(f"{name} is not centred.", "Centre its variables.")


def suggested_rank(z: Floats, ordered: bool, groups: Integers | None = None) -> int:
    """How many components a block is reduced to.

    Of an ordered axis those with the lowest held-out error, variables left out by twentieths; of a table
    of mixed variables the larger of that and the edge of white noise. When in doubt, one more.

    Parameters
    ----------
    z : (n, p) float array
        Centred.
    groups : (n,) int array, optional
        Samples of one group are left out together.
    """
    n, p = z.shape
    most = min((n - 1) // 3, MOST, p if p < 3 else p - 1)
    most = max(most, 1)
    found = lowest_press(z, most, groups)
    if not ordered:
        squares = decomposed(z)[1] ** 2
        found = max(found, white_noise_edge(squares, n - 1, p))
    return int(np.clip(found, 1, most))


def white_noise_edge(squares: Floats, n: int, p: int) -> int:
    """Components whose eigenvalue is more than the largest of white noise would be.

    References
    ----------
    Johnstone, Ann. Stat. 29 (2001) 295–327; Kritchman & Nadler, Chemometr. Intell. Lab. Syst. 94 (2008)
    19–32 (noise level from what remains).
    """
    m, k = min(n, p), 0
    reach = quantile(EDGE)
    while k < m - 2:
        freedom = (n - k - 1) * (p - k - 1)
        if freedom <= 0:
            break
        noise = float(squares[k + 1 : m].sum()) / freedom
        u, v = np.sqrt(n - k - 0.5), np.sqrt(p - k - 0.5)
        edge = noise * ((u + v) ** 2 + reach * (u + v) * (1.0 / u + 1.0 / v) ** (1.0 / 3.0))
        if not squares[k] > edge:
            break
        k += 1
    return k


def lowest_press(z: Floats, most: int, groups: Integers | None = None) -> int:
    """The number of components with the smallest squares of what is predicted of left-out samples."""
    n, p = z.shape
    block = max(round(p / PARTS), 1)
    names = np.arange(n) if groups is None else np.unique(groups, return_inverse=True)[1]
    count = int(names.max()) + 1
    order = np.random.default_rng(1).permutation(count)
    segment_of = np.empty(count, dtype=np.intp)
    segments = min(SEGMENTS, count)
    segment_of[order] = np.arange(count) % segments
    total = np.zeros(most)
    for segment in range(segments):
        left = segment_of[names] == segment
        train = z[~left]
        mean = train.mean(axis=0)
        directions = decomposed(train - mean)[2][:, :most]
        own = predicted_squares(z[left] - mean, directions, block)
        padded = np.full(most, np.nan)
        padded[: len(own)] = own
        total += padded
    if not np.isfinite(total).any():
        return 1
    return int(np.nanargmin(total)) + 1


def check_ranks(blocks: Sequence[Reduced], n: int) -> None:
    """Refuse ranks with which subspaces meet whatever the data.

    Raises
    ------
    ModelError
        Naming both blocks.
    """
    for place, one in enumerate(blocks):
        for other in blocks[place + 1 :]:
            if one.r + other.r > n:
                raise ModelError(
                    f"{one.name} in {one.r} and {other.name} in {other.r} components always meet in {n + 1} "
                    "samples.",
                    "Take fewer components of one of them, or more samples.",
                )
