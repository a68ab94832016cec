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
        `Σ d dᵀ` of pairs in a row, and of pairs in a column.
    pairs : (int, int)
        How many of each.
    """

    p: int
    across: Floats = field(init=False)
    down: Floats = field(init=False)
    pairs: tuple[int, int] = (0, 0)

    def __post_init__(self) -> None:
        self.across, self.down = np.zeros((self.p, self.p)), np.zeros((self.p, self.p))

    def add(self, block: Floats, valid: Booleans, known_above: bool) -> None:
        """Whole rows of the picture, (r, c, p) and (r, c).

        The first row has been counted before where `known_above`; then it only is the upper neighbour.
        """
        own, fine = (block[1:], valid[1:]) if known_above else (block, valid)
        both = fine[:, 1:] & fine[:, :-1]
        self._add(self.across, (own[:, 1:] - own[:, :-1])[both])
        under = valid[1:] & valid[:-1]
        self._add(self.down, (block[1:] - block[:-1])[under])
        self.pairs = (self.pairs[0] + int(both.sum()), self.pairs[1] + int(under.sum()))

    def with_(self, other: NeighbourSums) -> NeighbourSums:
        """The sums of both."""
        found = NeighbourSums(self.p)
        found.across = self.across + other.across
        found.down = self.down + other.down
        found.pairs = (self.pairs[0] + other.pairs[0], self.pairs[1] + other.pairs[1])
        return found

    @staticmethod
    def _add(products: Floats, differences: Floats) -> None:
        products += differences.T @ differences
