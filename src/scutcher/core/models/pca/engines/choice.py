"""Which engine finds the components, and the one way to ask for them."""

from __future__ import annotations

from typing import Any

from scutcher.core.arrays import Floats
from scutcher.core.errors import ModelError
from scutcher.core.models.pca.decomposition import Decomposition, too_many
from scutcher.core.models.pca.engines.exact import exact
from scutcher.core.models.pca.engines.gram import gram, gram_loadings
from scutcher.core.models.pca.engines.nipals import ROUNDS, TOLERANCE, nipals
from scutcher.core.models.pca.engines.randomised import randomised
from scutcher.core.numeric.matrix_rank import structural_rank
from scutcher.core.progress import Watch
from scutcher.core.scaling.scaled_matrix import Scaled, as_scaled

TINY = 32  # rows or columns up to which the full decomposition is as fast
MANY = 0.5  # share of all components from which the full decomposition is as fast
HUGE = 6000  # rows and columns from which the Gram matrix itself costs too much


def chosen_engine(n: int, p: int, k: int) -> str:
    """What `auto` takes for n samples, p variables and k components; measured in `bench/engines.py`."""
    smaller = min(n, p)
    if smaller <= TINY or k >= MANY * smaller:
        return "exact"
    return "randomised" if smaller > HUGE else "gram"


def decompose(
    matrix: Floats | Scaled,
    centred: bool,
    k: int | None = None,
    engine: str = "exact",
    seed: int = 1,
    tolerance: float = TOLERANCE,
    rounds: int = ROUNDS,
    *,
    watch: Watch | None = None,
) -> Decomposition:
    """Find at least the first k components of a treated, centred and scaled matrix.

    Parameters
    ----------
    matrix : (n, p) float array or Scaled
        Finite; not changed. Only `nipals` takes gaps.
    centred : bool
        Whether each column was centred, by mean or by median.
    k : int or None
        None: all there are.
    engine : "auto", "exact", "gram", "nipals" or "randomised"
        Without k, always exact.
    seed, tolerance, rounds
        Of the engines that use them.
    watch : Watch, optional
        Asked now and then whether to go on, but by `exact`.

    Raises
    ------
    ModelError
        Nothing varies; there are fewer than k components.
    Stopped
    """
    z = as_scaled(matrix)
    n, p = z.shape
    most = structural_rank(n, p, centred)
    if k is not None and k > most:
        raise too_many(k, exact(z.whole, centred).computed if engine != "nipals" else most)
    taken = chosen_engine(n, p, k or most) if engine == "auto" else engine
    if k is None or taken == "exact":
        found = exact(z.whole, centred)
        if k is not None and found.computed < k:
            raise too_many(k, found.computed)
        return found
    if taken == "nipals":
        return nipals(z.whole, centred, k, tolerance, rounds, watch)
    if taken == "randomised":
        return randomised(z.whole, centred, k, seed, watch)
    return gram(z, centred, k, watch)


def decompose_up_to(
    matrix: Floats | Scaled,
    centred: bool,
    k: int,
    engine: str,
    *settings: Any,
    watch: Watch | None = None,
) -> Decomposition:
    """As `decompose`; all there are where there are fewer than k."""
    try:
        return decompose(matrix, centred, k, engine, *settings, watch=watch)
    except ModelError:
        return exact(as_scaled(matrix).whole, centred)


def leading_loadings(matrix: Floats | Scaled, centred: bool, k: int, watch: Watch | None = None) -> Floats:
    """The first k loadings, or as many as there are, and nothing else. (n, p) → (p, up to k)."""
    z = as_scaled(matrix)
    n, p = z.shape
    k = min(k, structural_rank(n, p, centred))
    if chosen_engine(n, p, k) != "exact":
        found = gram_loadings(z, k, watch)
        if found.shape[1] == k:
            return found
    return exact(z.whole, centred).loadings[:, :k]
