"""Components in the order of their smoothness over the picture: maximum autocorrelation."""

from __future__ import annotations

from collections.abc import Callable
from functools import reduce
from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.images.neighbours import NeighbourSums
from scutcher.core.images.passes import over_tiles, provisional_centre, treated_tile
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.sums import CentredSums, together
from scutcher.core.models.pca.decomposition import column_signs
from scutcher.core.progress import Watch
from scutcher.core.words import shown

RANK = 1e-10
"""Eigenvalues below this share of the first take no part: there is nothing to tell smooth from rough."""

FEW_PIXELS = 20
"""Pixels for each channel below which a warning is due."""

Pairs = Literal["all", "across", "down"]


@frozen(eq=False)
class SmoothOrder:
    """Components from the smoothest on, at most r of them.

    Attributes
    ----------
    weights : (p, r) float array
        `(x − mean)·weights` has variance one; the largest element of each pattern is positive.
    patterns : (p, r) float array
        `Σ·weights`: what a pixel looks like that has one.
    kappa : (r,) float array
        Share of the differences of neighbours, rising: 0 smooth, 2 noise.
    along : (r, 2) float array
        The same of pairs across and down apart.
    mean : (p,) float array
    pixels : int
    pairs : (int, int)
        Across and down.
    limit : float
        Autocorrelation that the smoothest of pure noise stays under in 19 of 20 images.
    warnings : tuple of str
    """

    weights: Floats
    patterns: Floats
    kappa: Floats
    along: Floats
    mean: Floats
    pixels: int
    pairs: tuple[int, int]
    limit: float
    warnings: tuple[str, ...]

    @property
    def autocorrelation(self) -> Floats:
        """`1 − κ/2` of each, (r,)."""
        return 1.0 - self.kappa / 2.0

    @property
    def noise(self) -> Floats:
        """`κ/2`, the noise fraction, (r,)."""
        return self.kappa / 2.0

    def scores(self, values: Floats) -> Floats:
        """Of treated pixels, (m, p) → (m, r)."""
        found: Floats = (values - self.mean) @ self.weights
        return found


def smooth_order(treatment: PixelTreatment, pairs: Pairs = "all", watch: Watch | None = None) -> SmoothOrder:
    """Order by smoothness in one pass.

    Parameters
    ----------
    treatment : PixelTreatment
        Of the image.
    pairs : "all", "across" or "down"
        Which neighbours count: for line scanners with stripes those across them only.
    watch : Watch, optional

    Raises
    ------
    ModelError
        There are no such neighbours, or nothing varies.

    References
    ----------
    Switzer & Green, Stanford Univ. Tech. Rep. 6 (1984); Green et al., IEEE Trans. Geosci. Remote Sens. 26
    (1988) 65–74 (noise fraction).
    """
    centre = provisional_centre(treatment)
    columns, p = treatment.image.layout.columns, len(treatment.axis)

    def add(
        mine: tuple[CentredSums, list[NeighbourSums]], tile: slice, values: Floats, kept: Booleans
    ) -> None:
        values = values - centre
        mine[0].add(values)
        above = not treatment.image.starts_image(tile)
        block, valid = np.zeros((len(kept), p)), kept
        block[kept] = values
        if above:
            over, good = treated_tile(treatment, slice(tile.start - columns, tile.start))
            row = np.zeros((columns, p))
            row[good] = over - centre
            block, valid = np.concatenate([row, block]), np.concatenate([good, kept])
        mine[1][0].add(block.reshape(-1, columns, p), valid.reshape(-1, columns), above)

    runs = over_tiles(treatment, lambda: (CentredSums(centre), [NeighbourSums(p)]), add, watch)
    sums = together([run[0] for run in runs])
    return of_sums(sums, reduce(NeighbourSums.with_, [run[1][0] for run in runs]), pairs, treatment.image)


def of_sums(sums: CentredSums, near: NeighbourSums, pairs: Pairs, image: Image | None = None) -> SmoothOrder:
    """The components that sums and products of differences give."""
    across, down = near.across, near.down
    chosen: dict[str, Callable[[], tuple[Floats, int]]] = {
        "all": lambda: (across + down, sum(near.pairs)),
        "across": lambda: (across, near.pairs[0]),
        "down": lambda: (down, near.pairs[1]),
    }
    differences, count = chosen[pairs]()
    covariance = sums.scatter() / max(sums.n - 1, 1)
    values, vectors = np.linalg.eigh(covariance)
    kept = values > RANK * max(float(values[-1]), 0.0)
    if count == 0 or not kept.any() or values[-1] <= 0.0:
        raise ModelError("No two neighbouring pixels differ.", "Use more of the picture.")
    whitened = vectors[:, kept] / np.sqrt(values[kept])
    kappa, turned = np.linalg.eigh(whitened.T @ (differences / count) @ whitened)
    weights = whitened @ turned
    patterns = covariance @ weights
    signs = column_signs(patterns)
    weights, patterns = weights * signs, patterns * signs
    along = np.column_stack(
        [
            np.einsum("ja,jk,ka->a", weights, products, weights) / max(n, 1)
            for products, n in zip((across, down), near.pairs, strict=True)
        ]
    )
    p = int(kept.sum())
    said = []
    if sums.n < FEW_PIXELS * p:
        said.append(
            f"{shown(sums.n, ',')} pixels for {p} channels: a smooth-looking first component proves nothing"
        )
    return SmoothOrder(
        weights, patterns, kappa, along, sums.mean, sums.n, near.pairs, noise_limit(count, p), tuple(said)
    )


def noise_limit(pairs: int, p: int) -> float:
    """Autocorrelation of the smoothest component of p channels of noise, at 95 %.

    `2s√p + s·p^(−1/6)·τ` with `s = √(1/(2·pairs))`, τ the Tracy–Widom quantile.
    """
    from scutcher.core.numeric.tracy_widom import quantile

    s = float(np.sqrt(1.0 / (2.0 * pairs)))
    return s * (2.0 * float(np.sqrt(p)) + float(np.power(p, -1.0 / 6.0)) * quantile(0.95))


def smooth_scores(
    treatment: PixelTreatment, order: SmoothOrder, k: int, watch: Watch | None = None
) -> np.ndarray:
    """The first k scores of every pixel in one pass, (n, k) float32; NaN for pixels that do not count."""
    scores = np.full((treatment.image.pixels, k), np.nan, np.float32)

    def add(mine: None, tile: slice, values: Floats, kept: Booleans) -> None:
        places = np.arange(tile.start, tile.stop)[kept]
        scores[places] = (values - order.mean) @ order.weights[:, :k]

    over_tiles(treatment, lambda: None, add, watch)
    return scores
