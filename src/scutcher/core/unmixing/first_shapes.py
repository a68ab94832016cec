"""What the search for shapes begins with: spectra as unlike each other as can be, and known shapes."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.errors import ModelError

FAINT = 1e-3
"""Share of the largest first score below which a spectrum takes no part in the start."""


def check_not_negative(spectra: Floats) -> None:
    """Refuse derivatives, SNV and centred data: shapes that are not negative cannot make them.

    Raises
    ------
    ModelError
    """
    low = float(-np.minimum(spectra, 0.0).sum())
    if low > 0.1 * float(np.abs(spectra).sum()):
        raise ModelError(
            "A tenth or more of these spectra is negative: shapes that are not negative cannot make them.",
            "Leave out derivatives, SNV and centring.",
        )


def leading_scores(spectra: Floats, q: int) -> tuple[Floats, Floats]:
    """Scores (n, q) and directions (q, p) of uncentred data; the first score positive in sum."""
    u, s, v = np.linalg.svd(spectra, full_matrices=False)
    scores, directions = u[:, :q] * s[:q], v[:q]
    if scores[:, 0].sum() < 0.0:
        scores[:, 0] *= -1.0
        directions[0] *= -1.0
    return scores, directions


def projected_start(scores: Floats) -> Integers:
    """The rows that begin: the farthest from the mean, then always the farthest from the span of those taken.

    Parameters
    ----------
    scores : (n, q) float array
        Of uncentred data.

    References
    ----------
    Nascimento & Bioucas Dias, IEEE Trans. Geosci. Remote Sens. 43 (2005) 898–910; here
    without random directions.
    """
    q = scores.shape[1]
    rows = np.flatnonzero(scores[:, 0] > FAINT * scores[:, 0].max())
    if len(rows) < q:
        raise ModelError(f"{len(rows)} spectra are strong enough for {q} shapes.", "Ask for fewer shapes.")
    y = scores[rows] / scores[rows, :1]
    taken = [int(np.argmax(np.linalg.norm(y - y.mean(axis=0), axis=1)))]
    while len(taken) < q:
        base = np.linalg.qr(y[taken].T)[0]
        away = y - (y @ base) @ base.T
        taken.append(int(np.argmax(np.linalg.norm(away, axis=1))))
    chosen: Integers = rows[np.array(taken)]
    return chosen


def with_known(shapes: Floats, known: Floats | None) -> Floats:
    """The known shapes in the places of those of the start that are most like them, and first.

    Parameters
    ----------
    shapes : (q, p) float array
    known : (m, p) float array or None
        m ≤ q.

    Raises
    ------
    ModelError
        They do not fit.
    """
    if known is None or not len(known):
        return shapes
    if len(known) > len(shapes) or known.shape[1] != shapes.shape[1] or (known < 0.0).any():
        raise ModelError(
            f"{len(known)} known shapes do not fit {len(shapes)} shapes that are not negative.",
            "Give fewer, on the channels of the spectra and not negative.",
        )
    rest = list(range(len(shapes)))
    for shape in known:
        alike = [float(shape @ shapes[row]) / max(float(np.linalg.norm(shapes[row])), 1e-300) for row in rest]
        rest.pop(int(np.argmax(alike)))
    return np.vstack([known, shapes[rest]])
