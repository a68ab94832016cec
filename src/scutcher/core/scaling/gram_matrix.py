"""The Gram matrix of a data matrix, in double precision or, of large data, much of it in single precision.

BLAS multiplies twice as fast in single precision, and a matrix of half the size is read in half the time.
What that loses is a share of what is in single precision, which is small where the strong directions are
taken out before and kept in double.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats, Reals
from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen
from scutcher.core.numeric.blas import add_gram, mirror, symmetric_times
from scutcher.core.numeric.recycled import recycled

STRONG = 12
"""Directions that are kept in double precision where the rest is not."""

SAMPLE, FIRST = 512, 4
"""Rows that the strong directions are learned from: first every fourth, then all of them."""

USUAL = 1e-6, 1e6
"""Sizes that are far from the limits of single precision as they are."""

TILE = 64
"""Rows whose strong directions are taken out at a time: they stay in the processor's cache."""


@frozen(eq=False)
class GramMatrix:
    """`ZᵀZ = w (P S Pᵀ + P F + Fᵀ Pᵀ + u² R) w`, each variable of Z being w times what was summed.

    Attributes
    ----------
    rest : (p, p) array
        `R = EᵀE / u²`, where `E = Z − Z P Pᵀ`: in single precision, above the diagonal; or in double, all of
        it, and then there is no P.
    squares : (p,) float array
        `Σ z²` of each variable, without w: the diagonal, where R is in single precision.
    space : (p, d) float array
        P, orthonormal columns: the strong directions.
    inner : (d, d) float array
        `S = Pᵀ ZᵀZ P`.
    cross : (d, p) float array
        `F = Pᵀ ZᵀE`.
    unit : float
        u, near the size of the values of Z.
    weight : (p,) float array or None
        w; None: ones.
    """

    rest: Reals
    squares: Floats
    space: Floats
    inner: Floats
    cross: Floats
    unit: float = 1.0
    weight: Floats | None = None

    def __len__(self) -> int:
        """p."""
        return len(self.rest)

    @property
    def single(self) -> bool:
        """Whether a part of it is in single precision."""
        return self.rest.dtype == np.float32

    @property
    def nbytes(self) -> int:
        """Memory that it takes."""
        return int(self.rest.nbytes)

    def diagonal(self) -> Floats:
        """`Σ z²` of each variable, (p,), in double precision."""
        found = self.squares if self.single else self.rest.diagonal()
        return found if self.weight is None else found * self.weight**2

    @computed_once
    def strong(self) -> tuple[Floats, Floats, Floats]:
        """Two factors of what the strong directions add, (p, 2 d), (2 d, p); the diagonal beside it, (p,)."""
        left = np.hstack([self.space, self.cross.T])
        right = np.vstack([self.inner @ self.space.T + self.cross, self.space.T])
        return left, right, self.squares - np.einsum("ij,ji->i", left, right)

    def times(self, vector: Floats) -> Floats:
        """The product with a vector, (p,) → (p,)."""
        wide = vector if self.weight is None else vector * self.weight
        found: Floats = symmetric_times(self.rest, wide)
        if self.single:
            left, right, diagonal = self.strong
            found = self.unit**2 * found.astype(float) + left @ (right @ wide) + diagonal * wide
        return found if self.weight is None else found * self.weight

    def upper(self, which: slice) -> Floats:
        """Some of its rows, from the diagonal on: (m, p − start); not to be changed."""
        found: Floats = self.rest[which, which.start :]
        if self.single:
            left, right, _ = self.strong
            strong = left[which] @ right[:, which.start :]
            found = strong + (found if self.unit == 1.0 else self.unit**2 * found.astype(float))
            np.fill_diagonal(found, self.squares[which])
            mirror(found[:, : len(found)])
        if self.weight is not None:
            found = found * np.outer(self.weight[which], self.weight[which.start :])
        return found

    def whole(self) -> Floats:
        """All of it, (p, p), symmetric to the last bit; not to be changed."""
        if not self.single and self.weight is None:
            return self.rest
        return self.upper(slice(0, len(self)))

    def with_rows(self, rows: Floats, factor: float) -> GramMatrix:
        """The same with `factor · rowsᵀ rows` more; (m, p), each variable as it was without w."""
        sums = GramSums(self.space, self.unit)
        sums.rest[:] = self.rest
        sums.add(rows, factor)
        return replace(
            self,
            rest=sums.all_of_it(),
            squares=self.squares + sums.squares,
            inner=self.inner + sums.inner,
            cross=self.cross + sums.cross,
        )

    def weighted(self, weight: Floats) -> GramMatrix:
        """The same where each variable of Z counts so many times as much as now."""
        return replace(self, weight=weight if self.weight is None else self.weight * weight)


def as_gram(product: Floats | GramMatrix) -> GramMatrix:
    """A symmetric matrix in that form; it is not copied."""
    if isinstance(product, GramMatrix):
        return product
    p = len(product)
    return GramMatrix(product, product.diagonal(), np.empty((p, 0)), np.empty((0, 0)), np.empty((0, p)))


class GramSums:
    """The sums of a Gram matrix over rows that come part by part.

    Parameters
    ----------
    space : (p, d) float array
        The strong directions, orthonormal columns, the rest being in single precision; d is 0 where all is in
        double.
    unit : float
        What the rest is divided by.
    """

    def __init__(self, space: Floats, unit: float = 1.0) -> None:
        p, d = space.shape
        self.space, self.unit, self.single = space, unit, d > 0
        self.inner, self.cross, self.squares = np.zeros((d, d)), np.zeros((d, p)), np.zeros(p)
        self.rest = recycled((p, p), np.float32 if self.single else np.float64)
        self.rest.fill(0.0)

    def add(self, rows: Floats, factor: float = 1.0) -> None:
        """Add some rows, (m, p), `factor` times; of the rest only the upper half."""
        if not self.single:
            add_gram(rows, self.rest, factor)
            return
        away = np.empty(rows.shape, self.rest.dtype)
        with np.errstate(over="ignore"):  # too large for single precision: `total` tells
            for start in range(0, len(rows), TILE):
                tile = slice(start, start + TILE)
                away[tile] = self._taken_out(rows[tile], factor)
        add_gram(away, self.rest, factor)

    def _taken_out(self, rows: Floats, factor: float) -> Floats:
        """Add what the strong directions have of some rows; answers what is beside them."""
        self.squares += factor * np.einsum("ij,ij->j", rows, rows)
        onto = rows @ self.space
        away = rows - onto @ self.space.T
        self.inner += factor * (onto.T @ onto)
        self.cross += factor * (onto.T @ away)
        if self.unit != 1.0:
            away /= self.unit
        return away

    def all_of_it(self) -> Reals:
        """The rest, its lower half too, or without the diagonal where that is known better."""
        if self.single:
            np.fill_diagonal(self.rest, 0.0)
        else:
            mirror(self.rest)
        return self.rest

    def total(self, others: Iterable[GramSums]) -> GramMatrix | None:
        """The Gram matrix of these rows and of others; None where single precision cannot hold the rest."""
        for more in others:
            self.inner += more.inner
            self.cross += more.cross
            self.squares += more.squares
            self.rest += more.rest
        if self.single and not np.isfinite(self.rest.diagonal()).all():
            return None
        return GramMatrix(self.all_of_it(), self.squares, self.space, self.inner, self.cross, self.unit)


def strong_directions(rows: Floats) -> tuple[Floats, float]:
    """The directions in which some of the rows vary most, and the size of their values.

    Parameters
    ----------
    rows : (m, p) float array
        More than STRONG; a sample of all.

    Returns
    -------
    (p, d) float array and float
        Orthonormal columns, and a power of two.
    """
    few = rows[::FIRST]
    turned = np.linalg.eigh(few @ few.T)[1][:, ::-1][:, :STRONG]
    space = np.linalg.qr(few.T @ turned)[0]
    space = np.linalg.qr(rows.T @ (rows @ space))[0]
    size = float(np.sqrt(np.einsum("ij,ij->", rows, rows) / rows.size))
    return space, 1.0 if size == 0.0 or USUAL[0] < size < USUAL[1] else float(2.0 ** np.round(np.log2(size)))
