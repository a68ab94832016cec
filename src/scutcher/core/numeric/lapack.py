"""The largest eigenvalues of symmetric matrices, found without holding threads up (see `blas`)."""

from __future__ import annotations

from ctypes import byref, c_char, c_double, c_int

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.numeric.blas import routine

WORK = 66  # columns of working memory of a reduction, as large as LAPACK's blocks can make use of


def largest_eigenpairs(matrix: Floats, count: int, vectors: bool = True) -> tuple[Floats, Floats]:
    """The largest eigenvalues of a symmetric matrix and their vectors, the largest first.

    Parameters
    ----------
    matrix : (q, q) float array
        Finite; only one half is read; not changed.
    count : int
        From 1 to q.
    vectors : bool
        Without, the second array is empty.

    Returns
    -------
    (count,) float array, (q, count) float array

    Raises
    ------
    numpy.linalg.LinAlgError
        It does not converge.

    References
    ----------
    Dhillon & Parlett, Linear Algebra Appl. 387 (2004) 1–28 (LAPACK's dsyevr).
    """
    q = len(matrix)
    assert matrix.shape == (q, q) and 1 <= count <= q
    own = np.array(matrix, dtype=np.float64, order="F")
    values, found = np.empty(q), np.empty((q, count if vectors else 1), order="F")
    work, whole = np.empty(WORK * q), np.empty(10 * q, dtype=np.int32)
    support = np.empty(2 * q, dtype=np.int32)
    size, told, there = byref(c_int(q)), c_int(0), c_int(0)
    nothing = byref(c_double(0.0))
    routine("dsyevr")(
        byref(c_char(b"V" if vectors else b"N")),
        byref(c_char(b"I")),
        byref(c_char(b"L")),
        size,
        own.ctypes.data,
        size,
        nothing,
        nothing,
        byref(c_int(q - count + 1)),
        size,
        nothing,
        byref(there),
        values.ctypes.data,
        found.ctypes.data,
        size,
        support.ctypes.data,
        work.ctypes.data,
        byref(c_int(len(work))),
        whole.ctypes.data,
        byref(c_int(len(whole))),
        byref(told),
    )
    if told.value or there.value != count:
        raise np.linalg.LinAlgError(f"eigenvalues did not converge ({told.value})")
    return values[:count][::-1], found[:, : count if vectors else 0][:, ::-1]
