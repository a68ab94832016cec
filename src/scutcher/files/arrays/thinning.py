"""An image that is too large to be held: every so-manieth pixel is read, the others stay in the file."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.files.arrays.stored import LARGE, Stored

HELD = 8_000_000
"""Values that are read of such an image, about."""


def is_large(stored: Stored) -> bool:
    """Whether an image would take more than is held."""
    return stored.is_cube and 8 * int(np.prod(stored.values.shape, dtype=np.int64)) > LARGE


def thinned(stored: Stored, channels: int) -> Stored:
    """The image with every so-manieth row and column, where it is large; its values in memory."""
    if not is_large(stored):
        whole = isinstance(stored.values, np.ndarray)
        return stored if whole else replace(stored, values=np.asarray(stored.values[(slice(None),) * 3]))
    size = int(np.prod(stored.values.shape, dtype=np.int64))
    step = int(np.ceil(np.sqrt(size / HELD)))
    cut = tuple(slice(None) if place == channels else slice(None, None, step) for place in range(3))
    return replace(stored, values=np.asarray(stored.values[cut]), step=step)


def thinning_words(stored: Stored) -> tuple[str, ...]:
    """What is said of it."""
    if stored.step == 1:
        return ()
    return (
        f"The image is large: of every {stored.step} × {stored.step} pixels one was read; "
        "Maps can go over all of them",
    )
