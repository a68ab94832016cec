"""Where shapes are absent, by the windows in which changes appear and vanish: first in, first out."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import ModelError
from scutcher.core.series.evolving_rank import evolving_rank

MARGIN = 1
"""Spectra around a window in which a shape is still allowed: changes are found a little late."""


def absent_by_windows(spectra: Floats, q: int) -> Booleans:
    """Whether each of q shapes is absent, (n, q); the first shape is the one that appears first.

    The i-th to appear is joined with the (q + 1 − i)-th to vanish, which is an assumption: what comes first
    goes first.

    Parameters
    ----------
    spectra : (n, p) float array
        In order, not centred.
    q : int

    Raises
    ------
    ModelError
        Fewer than q changes rise out of the noise.

    References
    ----------
    Maeder, Anal. Chem. 59 (1987) 527–530.
    """
    n = len(spectra)
    found = evolving_rank(spectra, q)
    appears, vanishes = found.appears()[:q], found.disappears()[:q]
    if any(row is None for row in (*appears, *vanishes)):
        known = sum(row is not None for row in appears)
        raise ModelError(
            f"The windows show {known} changes above noise, not {q}.",
            "Ask for fewer shapes, or do not use the windows.",
        )
    first = [max(int(row or 0) - MARGIN, 0) for row in appears]
    last = [min(int(row or 0) + MARGIN, n - 1) for row in reversed(vanishes)]
    places = np.arange(n)[:, np.newaxis]
    absent: Booleans = (places < np.array(first)) | (places > np.array(last))
    if (~absent).sum(axis=0).min() < 1:
        raise ModelError("A shape would be absent everywhere.", "Do not use the windows.")
    return absent


def in_order_of_appearance(amounts: Floats) -> list[int]:
    """The columns of (n, q) amounts by where their middle lies along the order."""
    places = np.arange(len(amounts))[:, np.newaxis]
    weight = amounts.sum(axis=0)
    middle = np.divide(
        (amounts * places).sum(axis=0), weight, out=np.full(amounts.shape[1], np.inf), where=weight > 0.0
    )
    return [int(place) for place in np.argsort(middle, kind="stable")]
