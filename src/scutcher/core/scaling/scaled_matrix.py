"""The matrix that the model sees, its rows centred and scaled when somebody asks for them."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen
from scutcher.core.numeric.blas import add_gram, mirror
from scutcher.core.numeric.threads import SMALL, in_parts
from scutcher.core.progress import Watch
from scutcher.core.scaling.scaler import Scaler

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
    known : (p, p) float array or None
        ZᵀZ where somebody knows it already.
    """

    values: Floats
    scaler: Scaler | None = None
    known: Floats | None = None

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

    @computed_once
    def whole(self) -> Floats:
        """All of it, (n, p); made once."""
        return self.values if self.scaler is None else self.scaler.apply(self.values)

    def gram(self, watch: Watch | None = None) -> Floats:
        """The smaller of ZᵀZ and ZZᵀ, symmetric to the last bit; not to be changed where it is known already.

        Raises
        ------
        Stopped
        """
        if self.known is not None:
            return self.known
        product = self.upper_gram(watch)
        mirror(product)
        return product

    def upper_gram(self, watch: Watch | None = None) -> Floats:
        """As `gram`, but only the upper half counts."""
        n, p = self.shape
        if self.work < SMALL:
            z = self.whole
            return z.T @ z if p <= n else z @ z.T
        small, large = min(n, p), max(n, p)
        columns = self.whole.T if n < p else None

        def add(part: slice, own: Floats) -> None:
            add_gram(self.rows(part) if columns is None else columns[part], own)

        most = min(max(large // (4 * small), 2), MOST_SUMS)  # of tall data they take little memory
        sums = in_parts(add, (large, small), lambda: np.zeros((small, small)), watch, 0, most)
        product = sums[0]
        for more in sums[1:]:
            product += more
        return product

    def onto(self, vectors: Floats, watch: Watch | None = None) -> tuple[Floats, Floats]:
        """`Z V`, and the square of each row, in one pass.

        Parameters
        ----------
        vectors : (p, k) float array

        Returns
        -------
        (n, k) and (n,) float arrays

        Raises
        ------
        Stopped
        """
        n, p = self.shape
        side, squares = np.empty((n, vectors.shape[1])), np.empty(n)

        def part_of(part: slice, own: None) -> None:
            z = self.rows(part)
            np.matmul(z, vectors, out=side[part])
            np.einsum("ij,ij->i", z, z, out=squares[part])

        in_parts(part_of, (n, p), lambda: None, watch)
        return side, squares


def as_scaled(z: Floats | Scaled) -> Scaled:
    """A matrix that is scaled already, in the same form."""
    return z if isinstance(z, Scaled) else Scaled(z)
