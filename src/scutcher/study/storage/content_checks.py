"""What a state refers to is of the kind that it should be: checked before anything is built of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from scutcher.core.data.names import Names

Get = Callable[[str], Any]
"""Gives the array or list of a hash."""

LONGEST = 10_000
"""Letters of the name of a study, a data set, a model or a column."""


def named(value: Any) -> str:
    """A name.

    Raises
    ------
    ValueError
        It is none, or too long for one.
    """
    if not isinstance(value, str):
        raise ValueError("a name is no text")
    if len(value) > LONGEST:
        raise ValueError(f"a name has {len(value):,} letters")
    return value


def texts(get: Get, name: Any) -> Sequence[str]:
    """A list of texts.

    Raises
    ------
    ValueError
        Something else has that hash.
    """
    value = get(named(name))
    if isinstance(value, Names):
        return value
    if not isinstance(value, (tuple, list)) or not all(isinstance(text, str) for text in value):
        raise ValueError("a list of texts is something else")
    return tuple(value)


def numbers(get: Get, name: Any, dimensions: int, finite: bool = False) -> np.ndarray:
    """An array of numbers with so many dimensions.

    Raises
    ------
    ValueError
        Something else has that hash, or where only finite ones make sense there are others.
    """
    value = get(named(name))
    if not isinstance(value, np.ndarray) or value.dtype.kind not in "fiu" or value.ndim != dimensions:
        raise ValueError(f"an array of numbers in {dimensions} dimensions is something else")
    if finite and not np.isfinite(value).all():
        raise ValueError("an array holds what is no number")
    return value
