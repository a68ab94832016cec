"""Routines for symmetric matrices that NumPy has no function for, called without holding threads up.

SciPy's own wrappers keep the interpreter's lock while they run: a window would stand still meanwhile.
"""

from __future__ import annotations

from ctypes import (
    CFUNCTYPE,
    POINTER,
    PYFUNCTYPE,
    byref,
    c_char,
    c_char_p,
    c_double,
    c_float,
    c_int,
    c_void_p,
    py_object,
    pythonapi,
)
from functools import cache
from typing import Any

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Reals

_CHAR, _INT, _DOUBLE = POINTER(c_char), POINTER(c_int), POINTER(c_double)
_ARGUMENTS: dict[str, tuple[Any, ...]] = {
    "syrk": (_CHAR, _CHAR, _INT, _INT, c_void_p, c_void_p, _INT, c_void_p, c_void_p, _INT),
    "symv": (_CHAR, _INT, c_void_p, c_void_p, _INT, c_void_p, _INT, c_void_p, c_void_p, _INT),
    "dsytrf": (_CHAR, _INT, c_void_p, _INT, c_void_p, c_void_p, _INT, _INT),
    "dsyevr": (
        *(_CHAR, _CHAR, _CHAR, _INT, c_void_p, _INT, _DOUBLE, _DOUBLE, _INT, _INT, _DOUBLE, _INT),
        *(c_void_p, c_void_p, _INT, c_void_p, c_void_p, _INT, c_void_p, _INT, _INT),
    ),
}
REALS: dict[int, tuple[str, Any]] = {8: ("d", c_double), 4: ("s", c_float)}
"""By the bytes of a number: the letter that routines for it begin with, and its kind in C."""

TILE = 256  # rows and columns that are mirrored at a time
WIDE = 64  # columns that a factor is made of at a time


@cache
def routine(name: str) -> Any:
    """A routine by its address, which SciPy offers to compiled code; a call lets other threads run."""
    from scipy.linalg import cython_blas, cython_lapack

    offered = {**vars(cython_lapack)["__pyx_capi__"], **vars(cython_blas)["__pyx_capi__"]}
    capsule = offered[name]
    words = PYFUNCTYPE(c_char_p, py_object)(("PyCapsule_GetName", pythonapi))(capsule)
    address = PYFUNCTYPE(c_void_p, py_object, c_char_p)(("PyCapsule_GetPointer", pythonapi))(capsule, words)
    arguments = _ARGUMENTS[name if name in _ARGUMENTS else name[1:]]
    return CFUNCTYPE(None, *arguments)(address)


def add_gram(rows: Reals, product: Reals, factor: float = 1.0) -> None:
    """Add `factor · rowsᵀ rows` to the upper half of a matrix, in place.

    Parameters
    ----------
    rows : (m, p) float array, of double or of single precision
        Each row, or each column, in one piece of memory; not changed.
    product : (p, p) float array of the same precision
        In one piece, row by row.
    """
    (m, p), item = rows.shape, rows.itemsize
    along = 1 if rows.strides[1] == item else 0
    assert rows.strides[along] == item and product.flags.c_contiguous and product.shape == (p, p)
    assert rows.dtype == product.dtype
    letter, real = REALS[item]
    routine(f"{letter}syrk")(
        byref(c_char(b"L")),  # the upper half, as BLAS counts memory column by column
        byref(c_char(b"N" if along else b"T")),
        byref(c_int(p)),
        byref(c_int(m)),
        byref(real(factor)),
        rows.ctypes.data,
        byref(c_int(max(rows.shape[along], rows.strides[1 - along] // item))),
        byref(real(1.0)),
        product.ctypes.data,
        byref(c_int(p)),
    )


@cache
def _below() -> Booleans:
    """The places under the diagonal of a tile."""
    return np.tri(TILE, k=-1, dtype=bool)


def mirror(product: Reals) -> None:
    """Copy the upper half of a square matrix to the lower, in place."""
    for top in range(0, len(product), TILE):
        own = product[top : top + TILE, top : top + TILE]
        np.copyto(own, own.T.copy(), where=_below()[: len(own), : len(own)])
        for left in range(0, top, TILE):
            product[top : top + TILE, left : left + TILE] = product[left : left + TILE, top : top + TILE].T


def symmetric_times(matrix: Reals, vector: Reals) -> Reals:
    """`A x` of a symmetric matrix: reads only its upper half.

    Parameters
    ----------
    matrix : (q, q) float array, of double or of single precision
        In one piece, row by row.
    vector : (q,) float array

    Returns
    -------
    (q,) float array
        Of the precision of the matrix.
    """
    q = len(matrix)
    assert matrix.flags.c_contiguous and vector.shape == (q,)
    vector = np.ascontiguousarray(vector, dtype=matrix.dtype)
    found, step = np.zeros(q, dtype=matrix.dtype), byref(c_int(1))
    size = byref(c_int(q))
    letter, real = REALS[matrix.itemsize]
    routine(f"{letter}symv")(
        byref(c_char(b"L")),
        size,
        byref(real(1.0)),
        matrix.ctypes.data,
        size,
        vector.ctypes.data,
        step,
        byref(real(0.0)),
        found.ctypes.data,
        step,
    )
    return found


def positive_eigenvalues(matrix: Floats) -> int:
    """How many eigenvalues of a symmetric matrix are above zero, from the signs in `L D Lᵀ`.

    Parameters
    ----------
    matrix : (q, q) float array
        In one piece, row by row; only its upper half is read; overwritten.
    """
    q = len(matrix)
    assert matrix.flags.c_contiguous and matrix.shape == (q, q)
    pivots, work, told = np.zeros(q, dtype=np.int32), np.empty(WIDE * q), c_int(0)
    routine("dsytrf")(
        byref(c_char(b"L")),
        byref(c_int(q)),
        matrix.ctypes.data,
        byref(c_int(q)),
        pivots.ctypes.data,
        work.ctypes.data,
        byref(c_int(len(work))),
        byref(told),
    )
    assert told.value >= 0, told.value
    alone = pivots > 0  # a block of two has one eigenvalue on each side of zero
    return int(np.count_nonzero(matrix.diagonal()[alone] > 0.0)) + int(np.count_nonzero(~alone)) // 2
