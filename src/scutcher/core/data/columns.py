"""What is known of samples beside their values: classes and properties, a column each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field

import numpy as np

from scutcher.core.arrays import Floats, Integers, read_only
from scutcher.core.data.names import Names
from scutcher.core.frozen import frozen


@frozen
class ClassColumn:
    """A column that sorts samples into classes; a value of "" means not known.

    Attributes
    ----------
    name : str
    values : n str
        Kept as `Names`.
    levels : tuple of str
        The classes by their codes, which are the places of their colours; "" where a code is free. A
        value that is not among those given takes the first free code, or the next.
    known : (n,) int array, optional
        The codes, where they are known already: then the levels are taken as they are.
    """

    name: str
    values: Sequence[str]
    levels: tuple[str, ...] = ()
    known: Integers | None = field(default=None, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "values", Names.of(self.values))
        if self.known is None:
            self._learn_levels()

    def _learn_levels(self) -> None:
        levels = list(self.levels)
        for level in dict.fromkeys(value for value in self.values if value):
            if level in levels:
                continue
            if "" in levels:
                levels[levels.index("")] = level
            else:
                levels.append(level)
        while levels and not levels[-1]:
            levels.pop()
        object.__setattr__(self, "levels", tuple(levels))
        place = {level: index for index, level in enumerate(levels) if level}
        codes = np.fromiter((place.get(value, -1) for value in self.values), np.intp, len(self.values))
        object.__setattr__(self, "known", read_only(codes))

    def take(self, rows: Integers) -> ClassColumn:
        """The column of some samples; classes keep their codes, also those that none of them has."""
        return ClassColumn(self.name, Names.of(self.values).take(rows), self.levels, self.codes()[rows])

    @property
    def names(self) -> tuple[str, ...]:
        """The classes, in the order of their codes."""
        return tuple(level for level in self.levels if level)

    def codes(self) -> Integers:
        """The index into `levels` of each sample, −1 where not known. Shape (n,)."""
        assert self.known is not None
        return self.known


@frozen(eq=False)
class PropertyColumn:
    """A measured property of each sample, (n,) float array with NaN where it is not known."""

    name: str
    values: Floats
    unit: str = ""

    @property
    def header(self) -> str:
        """Name and unit as in a column header, `moisture / %`."""
        return f"{self.name} / {self.unit}" if self.unit else self.name
