"""What is kept for as long as what it is made from is the same: a view is redrawn only when it changed."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, Generic, TypeVar

import numpy as np

from scutcher.charts.description import Chart

FEW = 200_000
"""Elements of an array up to which equal ones are looked for; beyond, only the same object is the same."""


Made = TypeVar("Made")


class Memo(Generic[Made]):
    """The last one of each name."""

    def __init__(self) -> None:
        self._kept: dict[Hashable, tuple[tuple[Any, ...], Made]] = {}

    def get(self, name: Hashable, inputs: tuple[Any, ...], make: Callable[[], Made]) -> Made:
        """The one of before where nothing that goes in is other; else a new one.

        Parameters
        ----------
        name : which one
        inputs : everything that `make` reads
            Objects are compared by identity, arrays, texts, numbers and tuples by what they hold.
        """
        kept = self._kept.get(name)
        if kept is not None and len(kept[0]) == len(inputs) and all(map(same, kept[0], inputs)):
            return kept[1]
        made = make()
        self._kept[name] = (inputs, made)
        return made

    def clear(self) -> None:
        """Hold nothing any more."""
        self._kept.clear()


ChartMemo = Memo[Chart]


def same(one: Any, two: Any) -> bool:
    """Whether two inputs are as good as one."""
    if one is two:
        return True
    if isinstance(one, np.ndarray) and isinstance(two, np.ndarray):
        return one.shape == two.shape and one.size <= FEW and np.array_equal(one, two, equal_nan=False)
    if isinstance(one, tuple) and isinstance(two, tuple):
        return len(one) == len(two) and all(map(same, one, two))
    return isinstance(one, (str, bytes, int, float, type(None))) and type(one) is type(two) and one == two
