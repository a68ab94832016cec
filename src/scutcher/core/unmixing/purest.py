"""The purest channels: those that belong to one shape only, as a start for unmixing."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.errors import ModelError

FAINT = 0.05
"""Share of the largest mean that is added, so that channels of noise are not called pure."""


def purest_channels(spectra: Floats, q: int, faint: float = FAINT) -> Integers:
    """The q channels that vary most for their size and are least like each other, (q,).

    Parameters
    ----------
    spectra : (n, p) float array
        Not negative but for noise; not centred.
    q : int
    faint : float
        Share of the largest mean.

    Raises
    ------
    ModelError
        Fewer than q channels have anything in them.

    References
    ----------
    Windig & Guilment, Anal. Chem. 63 (1991) 1425–1432.
    """
    mean, spread = spectra.mean(axis=0), spectra.std(axis=0)
    added = faint * float(mean.max())
    if not added > 0.0:
        raise ModelError("The mean spectrum is not positive.", "Leave out centring and derivatives.")
    length = np.sqrt(mean**2 + (spread + added) ** 2)
    scaled = spectra / length
    products = scaled.T @ scaled / len(spectra)
    purity = spread / np.maximum(mean + added, 0.1 * added)
    taken: list[int] = []
    for _ in range(q):
        weights = _determinants(products, taken)
        weights[taken] = 0.0
        best = int(np.argmax(weights * purity))
        if not weights[best] * purity[best] > 0.0:
            raise ModelError(
                f"Only {len(taken)} channels are pure.", f"Ask for {len(taken)} shapes or fewer."
            )
        taken.append(best)
    found: Integers = np.array(taken, dtype=np.intp)
    return found


def _determinants(products: Floats, taken: list[int]) -> Floats:
    """Of the products of the taken channels with one more, for each channel; (p,)."""
    own = np.diag(products).copy()
    if not taken:
        return own
    block = products[np.ix_(taken, taken)]
    beside = products[taken]  # (t, p)
    left = own - np.einsum("ij,ij->j", beside, np.linalg.solve(block, beside))
    found: Floats = np.maximum(left, 0.0) * float(np.linalg.det(block))
    return found


def purest_start(spectra: Floats, q: int) -> Floats:
    """Shapes (q, p) by least squares on the purest channels as amounts; not negative."""
    amounts = spectra[:, purest_channels(spectra, q)]
    shapes = np.linalg.lstsq(amounts, spectra, rcond=None)[0]
    found: Floats = np.maximum(shapes, 0.0)
    return found
