"""Sums over pixels that hold all a component model needs: count, mean and centred products."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from scutcher.core.arrays import Floats


@dataclass(eq=False)
class CentredSums:
    """Count, sum and products of rows about a provisional centre, in float64.

    Attributes
    ----------
    centre : (p,) float array
        Taken off before anything is multiplied: raw products lose the small eigenvalues.
    n : int
    total : (p,) float array
        `Σ(x − c)`.
    products : (p, p) float array
        `Σ(x − c)(x − c)ᵀ`.

    References
    ----------
    Chan, Golub & LeVeque, Am. Stat. 37 (1983) 242–247.
    """

    centre: Floats
    n: int = 0
    total: Floats = field(init=False)
    products: Floats = field(init=False)

    def __post_init__(self) -> None:
        p = len(self.centre)
        self.total = np.zeros(p)
        self.products = np.zeros((p, p))

    def add(self, away: Floats) -> None:
        """Rows less the centre, (m, p) float64 in rows."""
        if len(away):
            self.n += len(away)
            self.total += away.sum(axis=0)
            self.products += away.T @ away  # half the work of a product, and other threads go on meanwhile

    @property
    def mean(self) -> Floats:
        """Of the rows, (p,)."""
        found: Floats = self.centre + self.total / max(self.n, 1)
        return found

    def scatter(self) -> Floats:
        """`Σ(x − mean)(x − mean)ᵀ`, (p, p)."""
        return self.products - np.outer(self.total, self.total) / max(self.n, 1)

    def about(self, point: Floats) -> Floats:
        """`Σ(x − point)(x − point)ᵀ`, (p, p)."""
        away = self.mean - point
        return self.scatter() + self.n * np.outer(away, away)


def together(parts: Sequence[CentredSums]) -> CentredSums:
    """The sums of all parts, which have one centre; in a tree of fixed order, so that the answer repeats."""
    level = list(parts)
    while len(level) > 1:
        level = [_both(*level[place : place + 2]) for place in range(0, len(level), 2)]
    return level[0]


def _both(one: CentredSums, other: CentredSums | None = None) -> CentredSums:
    if other is None:
        return one
    found = CentredSums(one.centre, one.n + other.n)
    found.total = one.total + other.total
    found.products = one.products + other.products
    return found


def without(whole: CentredSums, part: CentredSums) -> CentredSums:
    """The sums of the rows that are not in a part of them."""
    found = CentredSums(whole.centre, whole.n - part.n)
    found.total = whole.total - part.total
    found.products = whole.products - part.products
    return found
