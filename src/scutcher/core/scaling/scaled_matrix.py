"""The matrix that the model sees, its rows centred and scaled when somebody asks for them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen
from scutcher.core.numeric.blas import mirror
from scutcher.core.numeric.threads import SMALL, in_parts
from scutcher.core.progress import Watch
from scutcher.core.scaling.gram_matrix import SAMPLE, GramMatrix, GramSums, as_gram, strong_directions
from scutcher.core.scaling.scaler import Scaler

LARGE, WIDE = 4e9, 1000
"""Multiplications and size of a Gram matrix from which single precision is faster (measured, 2 cores)."""

MOST_SUMS = 8
"""Sums of a Gram matrix that are made at most: the more, the less one thread waits for the other."""


@frozen(eq=False)
class Scaled:
    """`z = (x − centre) · weight`, (n, p).

    A fit of very many samples passes over it three times; centring on the way costs less than writing a
    second copy of the data to memory.

    Attributes
    ----------
    values : (n, p) float array
        Treated, finite.
    scaler : Scaler or None
        None: the values are what the model sees.
    known : GramMatrix or None
        ZᵀZ where somebody knows it already.
    """

    values: Floats
    scaler: Scaler | None = None
    known: GramMatrix | None = None

    @property
    def shape(self) -> tuple[int, int]:
        """Samples and variables."""
        n, p = self.values.shape
        return n, p

    @property
    def work(self) -> float:
        """Multiplications of the smaller product of Z with itself."""
        return float(self.values.size) * min(self.shape)

    def rows(self, which: slice | Integers) -> Floats:
        """Some of the rows, (m, p)."""
        if "whole" in self.__dict__ or self.scaler is None:
            part: Floats = self.whole[which]
            return part
        return self.scaler.apply(self.values[which])

    def block(self, rows: Integers, columns: Integers) -> Floats:
        """Some rows of some variables, (m, l), with nothing computed for the others."""
        part: Floats = self.values[np.ix_(rows, columns)]
        if self.scaler is None:
            return part
        return (part - self.scaler.centre[columns]) * self.scaler.weight[columns]

    @computed_once
    def whole(self) -> Floats:
        """All of it, (n, p); made once."""
        return self.values if self.scaler is None else self.scaler.apply(self.values)

    def gram(self, watch: Watch | None = None, *, double: bool = False) -> GramMatrix:
        """The smaller of ZᵀZ and ZZᵀ; of large data much of it in single precision.

        Parameters
        ----------
        double : bool
            All of it in double precision, whatever that costs.

        Raises
        ------
        Stopped
        """
        if self.known is not None and not (double and self.known.single):
            return self.known
        if self.work < SMALL:
            z = self.whole
            product = z.T @ z if z.shape[1] <= len(z) else z @ z.T
            mirror(product)
            return as_gram(product)
        small = min(self.shape)
        if small >= WIDE and self.work >= LARGE and not double:
            space, unit = strong_directions(self._some())
            found = self._summed(lambda: GramSums(space, unit), watch)
            if found is not None:
                return found
        found = self._summed(lambda: GramSums(np.empty((small, 0))), watch)
        assert found is not None  # double precision holds it
        return found

    def _some(self) -> Floats:
        """Some rows out of all, or columns where there are more of these."""
        some = np.linspace(0, max(self.shape) - 1, SAMPLE).astype(int)
        return self.rows(some) if self.shape[0] >= self.shape[1] else self.whole.T[some]

    def _summed(self, own: Callable[[], GramSums], watch: Watch | None) -> GramMatrix | None:
        """The sum over the rows, or over the columns where there are more of these; see `GramSums.total`."""
        n, p = self.shape
        small, large = min(n, p), max(n, p)
        columns = self.whole.T if n < p else None

        def add(part: slice, sums: GramSums) -> None:
            sums.add(self.rows(part) if columns is None else columns[part])

        most = min(max(large // (4 * small), 2), MOST_SUMS)  # of tall data they take little memory
        sums = in_parts(add, (large, small), own, watch, 0, most)
        return sums[0].total(sums[1:])

    def onto(
        self, vectors: Floats, watch: Watch | None = None, *, back: bool = False
    ) -> tuple[Floats, Floats, Floats]:
        """`Z V`, the square of each row, and `ZᵀZ V` if that is wanted, in one pass.

        Parameters
        ----------
        vectors : (p, k) float array
        back : bool
            Whether the last is wanted; else it is zeros.

        Returns
        -------
        (n, k), (n,) and (p, k) float arrays

        Raises
        ------
        Stopped
        """
        n, p = self.shape
        side, squares = np.empty((n, vectors.shape[1])), np.empty(n)

        def part_of(part: slice, own: Floats) -> None:
            z = self.rows(part)
            np.matmul(z, vectors, out=side[part])
            np.einsum("ij,ij->i", z, z, out=squares[part])
            if back:
                own += side[part].T @ z

        sums = in_parts(part_of, (n, p), lambda: np.zeros(vectors.T.shape), watch, most=MOST_SUMS)
        return side, squares, sum(sums[1:], sums[0]).T


def as_scaled(z: Floats | Scaled) -> Scaled:
    """A matrix that is scaled already, in the same form."""
    return z if isinstance(z, Scaled) else Scaled(z)
