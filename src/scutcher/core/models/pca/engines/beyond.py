"""What a Gram matrix has beyond the components, for the limit of Q; begun while they are looked for."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Reals
from scutcher.core.models.pca.engines.residuals import cubes_behind, cubes_of, twice_beside
from scutcher.core.numeric.blas import mirror
from scutcher.core.numeric.recycled import recycled
from scutcher.core.numeric.threads import SharedPass, in_parts
from scutcher.core.progress import Watch
from scutcher.core.scaling.gram_matrix import GramMatrix

LARGE = 1_000_000
"""Cells of a Gram matrix from which two threads take components out of it."""

EXACT, SINGLE_EXACT = 1e-8, 1e-6
"""Residual of the first pairs, as a share of the eigenvalue after them, from which they are taken out.

Its square is what that does to the sums. The second is for matrices that are partly in single precision.
"""

LITTLE = 1e3
"""How many times what is beyond the last component the others may count for: three digits are lost then."""


class Beyond:
    """Σ λ² and Σ λ³ beyond the first k eigenvalues of a Gram matrix.

    The first pairs of spectra settle long before the last that are wanted. Another thread takes them out and
    begins with what is left, and in the end the last ones are subtracted.

    Parameters
    ----------
    product : GramMatrix
    k : int
    watch : Watch, optional
    """

    def __init__(self, product: GramMatrix, k: int, watch: Watch | None = None) -> None:
        self._product, self._k, self._watch = product, k, watch
        self._total = float(product.diagonal().sum())
        self._exact = SINGLE_EXACT if product.single else EXACT
        self._first, self._squares = np.empty(0), 0.0
        self._cubes: SharedPass[Floats] | None = None

    def __enter__(self) -> Beyond:
        return self

    def __exit__(self, *error: object) -> None:
        if self._cubes is not None:
            self._cubes.__exit__()

    def begin(self, vectors: Floats, values: Floats, away: Floats) -> bool:
        """Begin where the first pairs are exact and the others count for little; answers whether it did.

        Parameters
        ----------
        vectors, values : (q, m) and (m,) float arrays
            What is known of the leading pairs, more than k of them.
        away : (k,) float array
            The residual of each of the first.
        """
        if len(self._product) ** 2 < LARGE:
            return False
        exact = [m for m in range(1, self._k) if away[:m].max() <= self._exact * values[m]]
        if not exact or not self._count_for_little(values, exact[-1]):
            return False
        m = exact[-1]
        self._first = values[:m].copy()
        left, self._squares = _without(self._product, vectors[:, :m], self._first, self._watch)
        self._cubes = cubes_behind(left, self._watch)
        return True

    def _count_for_little(self, values: Floats, m: int) -> bool:
        """Whether all beyond k, were they equal, would not be lost beside those from m to k."""
        last, q = values[m : self._k], len(self._product)
        rest = max(self._total - float(values[: self._k].sum()), 0.0)
        return bool((last**2).sum() <= LITTLE * rest**2 / q and (last**3).sum() <= LITTLE * rest**3 / q**2)

    def sums(self, vectors: Floats, values: Floats) -> tuple[float, float]:
        """Σ λ² and Σ λ³.

        Parameters
        ----------
        vectors, values : (q, k) and (k,) float arrays
            The leading pairs.

        Raises
        ------
        Stopped
        """
        m = len(self._first)
        if self._cubes is not None and np.allclose(values[:m], self._first, rtol=1e-7, atol=0.0):
            last = values[m:]
            cubes = self._product.unit**6 * float(sum(self._cubes.results()))
            return self._squares - float((last**2).sum()), cubes - float((last**3).sum())
        left, squares = _without(self._product, vectors, values, self._watch)
        return squares, self._product.unit**6 * cubes_of(left, self._watch)


def _without(
    product: GramMatrix, vectors: Floats, values: Floats, watch: Watch | None
) -> tuple[Reals, float]:
    """A matrix without some of its pairs, in precision and unit as its rest; the sum of its squares."""
    left = recycled(product.rest.shape, product.rest.dtype)

    def deflate(part: slice, own: Floats) -> None:
        taken = (vectors[part] * values) @ vectors[part.start :].T
        rows = np.subtract(product.upper(part), taken, out=taken)
        own += twice_beside(rows, rows)
        left[part, part.start :] = rows if product.unit == 1.0 else rows / product.unit**2

    squares = in_parts(deflate, left.shape, lambda: np.zeros(()), watch, much=LARGE)
    mirror(left)
    return left, float(sum(squares))
