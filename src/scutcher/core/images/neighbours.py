"""Differences of neighbouring pixels, in the same pass as the sums or in one of their own."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from scutcher.core.arrays import Booleans, Floats


@dataclass(eq=False)
class NeighbourSums:
    """Products of the differences between pixels that share a side.

    Attributes
    ----------
    p : int
    across, down : (p, p) float arrays
        `Σ d dᵀ` of pairs in a row, and of pairs in a column; the upper triangle alone while they grow.
    pairs : (int, int)
        How many of each.
    """

    p: int
    across: Floats = field(init=False)
    down: Floats = field(init=False)
    pairs: tuple[int, int] = (0, 0)

    def __post_init__(self) -> None:
        self.across = np.zeros((self.p, self.p), order="F")
        self.down = np.zeros((self.p, self.p), order="F")

    def add(self, block: Floats, valid: Booleans, known_above: bool) -> None:
        """Whole rows of the picture, (r, c, p) and (r, c).

        The first row has been counted before where `known_above`; then it only is the upper neighbour.
        """
        own, fine = (block[1:], valid[1:]) if known_above else (block, valid)
        both = fine[:, 1:] & fine[:, :-1]
        self.across = _added(self.across, (own[:, 1:] - own[:, :-1])[both])
        under = valid[1:] & valid[:-1]
        self.down = _added(self.down, (block[1:] - block[:-1])[under])
        self.pairs = (self.pairs[0] + int(both.sum()), self.pairs[1] + int(under.sum()))

    def with_(self, other: NeighbourSums) -> NeighbourSums:
        """The sums of both."""
        found = NeighbourSums(self.p)
        found.across = np.asfortranarray(self.across + other.across)
        found.down = np.asfortranarray(self.down + other.down)
        found.pairs = (self.pairs[0] + other.pairs[0], self.pairs[1] + other.pairs[1])
        return found

    def whole(self) -> tuple[Floats, Floats]:
        """`Σ d dᵀ` across and down, both triangles."""
        one, other = (np.triu(products) + np.triu(products, 1).T for products in (self.across, self.down))
        return one, other


def _added(products: Floats, differences: Floats) -> Floats:
    from scipy.linalg.blas import dsyrk

    if not len(differences):
        return products
    found: Floats = dsyrk(1.0, np.ascontiguousarray(differences).T, 1.0, products, overwrite_c=1)
    return found
