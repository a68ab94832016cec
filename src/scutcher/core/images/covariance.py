"""Components from sums: centre and scale are algebra on the products, no pass over the pixels."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.computed_once import computed_once
from scutcher.core.data.axis import Axis
from scutcher.core.errors import RecipeError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.images.sums import CentredSums
from scutcher.core.models.pca.decomposition import column_signs, nothing_varies
from scutcher.core.recipes.recipe import ScaleSettings

EXACT = 1e-8
"""Share of the first eigenvalue below which products do not give a component exactly: none is made of it."""

SCALES = ("none", "sd", "pareto", "level", "sqrt-mean")
"""What follows from sums; the others need the values themselves."""


@frozen(eq=False)
class Components:
    """All components that sums give.

    Attributes
    ----------
    centre, weight : (p,) float arrays
        `z = (x − centre)·weight`; weight 0 for channels that do not vary.
    loadings : (p, r) float array
    eigenvalues : (p,) float array
        Falling, all of them, also the ones that are rounding.
    rank : int
        r, those above 1e-8 of the first.
    total_variance : float
    freedom : int
    """

    centre: Floats
    weight: Floats
    loadings: Floats
    eigenvalues: Floats
    rank: int
    total_variance: float
    freedom: int

    @computed_once
    def weighted(self) -> bool:
        """Whether it does more than centre."""
        return not bool((self.weight == 1.0).all())


def components_of(sums: CentredSums, settings: ScaleSettings, axis: Axis) -> Components:
    """Centre, scale and decompose.

    Raises
    ------
    RecipeError
        The scaling needs all values at once.
    ModelError
        Nothing varies.
    """
    if settings.centre == "median" or settings.method not in SCALES:
        what = "the median" if settings.centre == "median" else f"scaling {settings.method}"
        raise RecipeError(
            f"An image that is read in parts cannot be brought in order by {what}.",
            f"Centre by the mean or not, and scale by one of: {', '.join(SCALES)}.",
        )
    centred = settings.centre == "mean"
    centre = sums.mean if centred else np.zeros(len(sums.centre))
    scatter = sums.scatter()
    variance = np.diag(scatter) / max(sums.n - 1, 1)
    constant = np.sqrt(np.maximum(variance, 0.0)) <= 1e-12 * np.abs(sums.mean)
    weight = _weight(settings.method, variance, sums.mean, constant, axis)
    products = (scatter if centred else sums.about(centre)) * np.outer(weight, weight)
    freedom = sums.n - 1 if centred else sums.n
    total = float(np.trace(products))
    if sums.n < 2 or not total > 0.0:
        raise nothing_varies(sums.n, len(sums.centre))
    values, vectors = np.linalg.eigh(products)
    values, vectors = np.maximum(values[::-1], 0.0), vectors[:, ::-1]
    rank = min(int((values > EXACT * values[0]).sum()), freedom)
    loadings = vectors[:, :rank] * column_signs(vectors[:, :rank])
    return Components(centre, weight, loadings, values / freedom, rank, total / freedom, freedom)


def _weight(method: str, variance: Floats, mean: Floats, constant: np.ndarray, axis: Axis) -> Floats:
    if method in ("level", "sqrt-mean"):
        bad = np.flatnonzero(~constant & (mean <= 0.0))
        if bad.size:
            raise TableError(
                f"Scaling {method} divides by the mean, which is not positive at {axis.name(int(bad[0]))}.",
                "Choose another scaling, or leave the channel out.",
            )
    divisor = {
        "none": np.ones(len(mean)),
        "sd": np.sqrt(variance),
        "pareto": variance**0.25,
        "level": mean,
        "sqrt-mean": np.sqrt(np.maximum(mean, 0.0)),
    }[method]
    weight = np.zeros(len(mean))
    np.divide(1.0, divisor, out=weight, where=~constant)
    return weight
