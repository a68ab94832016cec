"""What a Gram matrix has beyond the components, for the limit of Q; begun while they are looked for."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.models.pca.engines.residuals import cubes_behind, cubes_of
from scutcher.core.numeric.threads import SharedPass, in_parts
from scutcher.core.progress import Watch

LARGE = 1_000_000
"""Cells of a Gram matrix from which two threads take components out of it."""

EXACT = 1e-8
"""Residual of the first pairs, as a share of the eigenvalue after them, from which they are taken out."""

LITTLE = 1e3
"""How many times what is beyond the last component the others may count for: three digits are lost then."""


class Beyond:
    """Σ λ² and Σ λ³ beyond the first k eigenvalues of a Gram matrix.

    The first pairs of spectra settle long before the last that are wanted. Another thread takes them out and
    begins with what is left, and in the end the last ones are subtracted.

    Parameters
    ----------
    product : (q, q) float array
    k : int
    own : bool
        Whether the matrix may be changed in the end.
    watch : Watch, optional
    """

    def __init__(self, product: Floats, k: int, own: bool, watch: Watch | None = None) -> None:
        self._product, self._k, self._own, self._watch = product, k, own, watch
        self._total = float(np.trace(product))
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
        if self._product.size < LARGE:
            return False
        exact = [m for m in range(1, self._k) if away[:m].max() <= EXACT * values[m]]
        if not exact or not self._count_for_little(values, exact[-1]):
            return False
        m, left = exact[-1], np.empty_like(self._product)
        self._first = values[:m].copy()
        self._squares = _without(self._product, vectors[:, :m], self._first, left, self._watch)
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
            cubes = float(sum(self._cubes.results()))
            return self._squares - float((last**2).sum()), cubes - float((last**3).sum())
        left = self._product if self._own else np.empty_like(self._product)
        squares = _without(self._product, vectors, values, left, self._watch)
        return squares, cubes_of(left, self._watch)


def _without(product: Floats, vectors: Floats, values: Floats, left: Floats, watch: Watch | None) -> float:
    """Put a matrix without some of its pairs into another, or into itself; answers the sum of its squares."""

    def deflate(part: slice, own: Floats) -> None:
        rows = np.subtract(product[part], (vectors[part] * values) @ vectors.T, out=left[part])
        own += np.einsum("ij,ij->", rows, rows)

    return float(sum(in_parts(deflate, product.shape, lambda: np.zeros(()), watch, much=LARGE)))
