"""Correlations between variables."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, constant_columns


def correlations(values: Floats) -> Floats:
    """Pearson's correlation of every two variables.

    Parameters
    ----------
    values : (n, p) float array
        Samples with a gap (NaN) are passed over.

    Returns
    -------
    (p, p) float array
        NaN where a variable is constant, or where fewer than two samples are left.
    """
    whole = values[~np.isnan(values).any(axis=1)]
    p = values.shape[1]
    if len(whole) < 2:
        return np.full((p, p), np.nan)
    centred = whole - whole.mean(axis=0)
    lengths = np.sqrt(np.einsum("ij,ij->j", centred, centred))
    lengths[constant_columns(whole)] = np.nan
    centred /= lengths
    found: Floats = np.clip(centred.T @ centred, -1.0, 1.0)
    return found
