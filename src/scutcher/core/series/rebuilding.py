"""A series from its leading components, with a verdict on each: structure along the order, or noise."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.order_structure import OrderStructure, order_structure

PAST = 2.326
"""z above which structure is more than chance makes in 99 of 100 sets."""

FEWEST, MOST = 10, 30
"""Spectra for which a number can be suggested, and components that are judged at most."""


@frozen(eq=False)
class Verdict:
    """One component of a series.

    Attributes
    ----------
    along_order : OrderStructure or None
        Of its scores, which are centred.
    along_axis : OrderStructure or None
        Of its loading; means nothing where a treatment has smoothed the spectra.
    share : float
        Of the sum of squares about the mean.
    """

    along_order: OrderStructure | None
    along_axis: OrderStructure | None
    share: float

    @property
    def is_structure(self) -> bool:
        """Whether its scores go along the order more smoothly than chance lets them."""
        return self.along_order is not None and self.along_order.z > PAST


@frozen(eq=False)
class SeriesComponents:
    """The components of spectra in an order.

    Attributes
    ----------
    mean : (p,) float array
    scores : (n, r) float array
    loadings : (r, p) float array
    verdicts : tuple of Verdict
        Of the leading components.
    suggested : int
        The last component before the first without structure along the order.
    """

    mean: Floats
    scores: Floats
    loadings: Floats
    verdicts: tuple[Verdict, ...]
    suggested: int

    def rebuilt(self, k: int) -> Floats:
        """The mean and the first k components, (n, p)."""
        found: Floats = self.mean + self.scores[:, :k] @ self.loadings[:k]
        return found


def series_components(spectra: Floats) -> SeriesComponents:
    """Components about the mean, and how many of them go along the order.

    Parameters
    ----------
    spectra : (n, p) float array
        In order of time or gradient, without gaps; any intensity unit.

    Raises
    ------
    ModelError
        Fewer than three spectra.

    References
    ----------
    von Neumann, Ann. Math. Stat. 12 (1941) 367–395.
    """
    n = len(spectra)
    if n < 3:
        raise ModelError(f"There are {n} spectra: a series has three or more.", "Bring in more spectra.")
    mean = spectra.mean(axis=0)
    u, s, v = np.linalg.svd(spectra - mean, full_matrices=False)
    total = float(np.sum(s**2))
    judged = int(np.sum(s[:MOST] > 1e-12 * max(float(s[0]), 1e-300)))
    judged = min(judged, n - 1)
    verdicts = tuple(
        Verdict(
            order_structure(u[:, place], True),
            order_structure(v[place], False),
            float(s[place] ** 2 / total) if total > 0.0 else 0.0,
        )
        for place in range(judged)
    )
    suggested = 0
    while suggested < judged and n >= FEWEST and verdicts[suggested].is_structure:
        suggested += 1
    return SeriesComponents(mean, u * s, v, verdicts, suggested)
