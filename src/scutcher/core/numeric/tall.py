"""Matrices of many rows and few columns, decomposed block by block, without holding other threads up.

For a result of up to 500 numbers NumPy keeps the interpreter's lock, however many rows it is made from: a
window stood still for half a second. Of a stack of blocks it lets others run, and those stay in the memory of
the processor itself, which takes half the time.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from scutcher.core.arrays import Floats

LOCKED = 500
"""Numbers of a result up to which NumPy keeps the lock."""

ROWS = 8
"""Rows of a block for each column."""


def reduced(matrix: Floats) -> Floats:
    """A matrix of few rows with the same R of `A = QR` but for signs, and the same singular values.

    Parameters
    ----------
    matrix : (m, q) float array
        Not changed.

    Returns
    -------
    (up to 16 q, q) float array

    References
    ----------
    Demmel, Grigori, Hoemmen & Langou, SIAM J. Sci. Comput. 34 (2012) A206–A239 (TSQR).
    """
    q = matrix.shape[1]
    rows = ROWS * q
    while len(matrix) >= 2 * rows:
        blocks = len(matrix) // rows
        whole = matrix[: blocks * rows].reshape(blocks, rows, q)
        matrix = np.vstack([_r_of(whole).reshape(-1, q), matrix[blocks * rows :]])
    return matrix


def _r_of(blocks: Floats) -> Floats:
    found: Any = np.linalg.qr(blocks, mode="r")
    return np.asarray(found)


def triangle(matrix: Floats) -> Floats:
    """R of `A = QR`, its rows up to their signs; (m, q), m ≥ q → (q, q)."""
    left = reduced(matrix)
    if left.shape[1] > LOCKED:
        return _r_of(left)
    stack = np.stack([left] * (LOCKED // left.shape[1] + 1))
    return np.asarray(_r_of(stack)[0])


def singular_values(matrix: Floats) -> Floats:
    """All of them, the largest first; (m, q) → (min(m, q),)."""
    left = reduced(matrix if len(matrix) >= matrix.shape[1] else matrix.T)
    found: Any
    if left.shape[1] > LOCKED:
        found = np.linalg.svd(left, compute_uv=False)
    else:
        found = np.linalg.svd(left, full_matrices=False)[1]
    return np.asarray(found)
