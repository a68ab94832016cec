"""A bare array in NumPy's .npy: rows are samples, the axis is 1…p without unit."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files.arrays.choosing import table_of_arrays
from scutcher.files.arrays.stored import Stored
from scutcher.files.columns import Roles, without_infinities
from scutcher.files.safely import reading


def read_npy(path: Path, roles: Roles | None = None) -> Table:
    """Read a two-dimensional array of numbers; nothing pickled is ever loaded.

    Raises
    ------
    FileError
        Not such an array.
    """
    with reading(path):
        try:
            values = np.load(path, allow_pickle=False, mmap_mode="r")
        except OSError:
            raise
        except Exception as error:  # a damaged header raises whatever Python's own parser does
            raise FileError(
                f"{path.name} is not a plain array of numbers.", "Save a two-dimensional float array."
            ) from error
    if isinstance(values, np.ndarray) and values.ndim == 3 and values.dtype.kind in "fiu":
        return leave_out_empty(table_of_arrays([Stored("image", values)], path, roles or Roles()))
    if not isinstance(values, np.ndarray) or values.ndim != 2 or values.dtype.kind not in "fiu":
        raise FileError(
            f"{path.name} holds something else than a table of numbers (shape "
            f"{getattr(values, 'shape', None)}, type {getattr(values, 'dtype', None)}).",
            "Save a two-dimensional array of numbers, samples in rows.",
        )
    if roles is not None and roles.named():
        raise FileError(f"{path.name} has no named columns.", "Leave the column options out.")
    n, p = values.shape
    places = np.arange(1.0, p + 1.0)
    return leave_out_empty(
        Table(
            values=without_infinities(np.array(values, dtype=np.float64), roles or Roles()),
            axis=Axis(tuple(str(place + 1) for place in range(p)), places),
            ids=tuple(str(row + 1) for row in range(n)),
            name=path.stem,
        )
    )
