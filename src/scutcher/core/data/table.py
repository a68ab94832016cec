"""A table of samples by variables with all that is known about both; never changed, only replaced."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from types import MappingProxyType

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers, read_only
from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.names import Names
from scutcher.core.data.origin import UNKNOWN, Looked, Origin
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.gathering import rows_of
from scutcher.core.numeric.threads import sums
from scutcher.core.words import shown

SMALLEST, LARGEST = 1e-140, 1e150
"""What the largest value of a table lies between: outside, squares and their sums are lost."""

MAYBE_SMALL, MAYBE_LARGE = 1e-110, 1e100
"""Outside these a sum of values tells that they have to be looked at one by one."""


@frozen(eq=False, repr=False)
class Table:
    """Samples (rows) by variables (columns).

    Attributes
    ----------
    values : (n, p) float array
        In the unit of `signal`, or mixed units; NaN marks a gap; infinities are refused.
    axis : Axis
        The p variables.
    ids : n str
        Kept as `Names`: one name for each sample, no two alike.
    classes, properties : tuple of ClassColumn, PropertyColumn
        What else is known of each sample.
    replicates : n str or None
        Samples with the same replicate id are repeats of one thing.
    set_aside : mapping of row → reason
        Samples that the models do not see.
    left_out : mapping of column → reason
        Variables that the models do not see.
    signal, signal_unit : str
        What the values are, e.g. "absorbance".
    name : str
        What to call the table on screen.
    origin : Origin
        How it was read.
    looked : Looked or None
        What was found when the values were looked through: a table made with the same values is not
        looked through again.

    Raises
    ------
    TableError
        Shapes that do not agree, two samples with one id, infinities.
    """

    values: Floats
    axis: Axis
    ids: Sequence[str]
    name: str = "data"
    classes: tuple[ClassColumn, ...] = ()
    properties: tuple[PropertyColumn, ...] = ()
    replicates: Sequence[str] | None = None
    set_aside: Mapping[int, str] = field(default_factory=dict)
    left_out: Mapping[int, str] = field(default_factory=dict)
    signal: str = "signal"
    signal_unit: str = ""
    looked: Looked | None = None
    origin: Origin = UNKNOWN

    def __post_init__(self) -> None:
        given = self.values
        values = read_only(np.asarray(given, dtype=np.float64))
        object.__setattr__(self, "values", values)
        object.__setattr__(self, "ids", Names.of(self.ids))
        if self.replicates is not None:
            object.__setattr__(self, "replicates", Names.of(self.replicates))
        object.__setattr__(self, "set_aside", MappingProxyType(dict(self.set_aside)))
        object.__setattr__(self, "left_out", MappingProxyType(dict(self.left_out)))
        self._check_shapes()
        self._check_ids()
        known = self.looked is not None and self.looked.values is given
        complete = self.looked.complete if known and self.looked else self._check_finite()
        object.__setattr__(self, "looked", Looked(values, complete, self.ids))

    def _check_shapes(self) -> None:
        n, p = self.values.shape
        columns: list[tuple[str, int]] = [("ids", len(self.ids))]
        columns += [(column.name, len(column.values)) for column in self.classes]
        columns += [(column.name, len(column.values)) for column in self.properties]
        if self.replicates is not None:
            columns.append(("replicates", len(self.replicates)))
        for name, length in columns:
            if length != n:
                raise TableError(
                    f"The column {name} has {length} entries, the table {n} samples.",
                    "Give one entry per sample.",
                )
        if len(self.axis) != p:
            raise TableError(
                f"The axis has {len(self.axis)} variables, the table {p} columns.",
                "Give one header per column.",
            )

    def _check_ids(self) -> None:
        if self.looked is not None and self.looked.ids is self.ids:
            return
        if len(set(self.ids)) < len(self.ids):
            twice = [name for name, count in Counter(self.ids).items() if count > 1]
            rows = [row + 1 for row, name in enumerate(self.ids) if name == twice[0]]
            raise TableError(
                f"The id {twice[0]!r} stands at samples {rows[0]} and {rows[1]}"
                + (f"; {len(twice) - 1} other id{'s' * (len(twice) > 2)} too." if len(twice) > 1 else "."),
                "Give each sample an id of its own; for repeats of one sample name that column as the "
                "replicate column and another one as the id.",
                ("ids-as-replicates", "number-ids"),
            )

    def _check_finite(self) -> bool:
        """Refuse infinities and what cannot be squared; whether there are no gaps either."""
        with np.errstate(over="ignore", invalid="ignore"):
            total = abs(float(sums(self.values)))  # one quick pass: nearly everything shows in the sum
        if total == 0.0 or MAYBE_SMALL < total < MAYBE_LARGE:
            return True
        if np.isinf(self.values).any():
            places = np.argwhere(np.isinf(self.values))
            (row, column), others = places[0], len(places) - 1
            raise TableError(
                f"The value of {self.axis.name(int(column))} of sample {self.ids[row]} is infinite"
                + (f"; {others} other value{'s' * (others > 1)} too." if others else "."),
                "Correct it or leave the cell empty.",
                ("infinite-as-gaps",),
            )
        self._check_sizes()
        return not bool(np.isnan(self.values).any())  # a sum may overflow where nothing is missing

    def _check_sizes(self) -> None:
        low, high = (float(end.reduce(self.values, axis=None, initial=0.0)) for end in (np.fmin, np.fmax))
        largest = max(-low, high)
        if largest > LARGEST:
            place = np.nanargmax(np.abs(self.values))
            row, column = (int(at) for at in np.unravel_index(place, self.values.shape))
            raise TableError(
                f"The value of {self.axis.name(column)} of sample {self.ids[row]} is "
                f"{shown(self.values[row, column])}, too large to be computed with.",
                "Give it in another unit, or leave the cell empty where it stands for a missing value.",
            )
        if 0.0 < largest < SMALLEST:
            raise TableError(
                f"No value is larger than {shown(largest)}: they are too small to be computed with.",
                "Give them in another unit.",
            )

    def __repr__(self) -> str:
        n, p = self.shape
        return f"<Table {self.name}: {n} × {p}>"

    @property
    def shape(self) -> tuple[int, int]:
        """Samples, variables."""
        return self.values.shape[0], self.values.shape[1]

    def used_rows(self) -> Integers:
        """The samples that are not set aside, in table order."""
        return _others(len(self.ids), self.set_aside)

    def used_columns(self) -> Integers:
        """The variables that are not left out, in table order."""
        return _others(len(self.axis), self.left_out)

    def gaps(self) -> Booleans:
        """Where a value is missing. Shape (n, p)."""
        return np.isnan(self.values)

    @property
    def has_gaps(self) -> bool:
        """Whether any value is missing."""
        return self.looked is not None and not self.looked.complete

    def class_column(self, name: str) -> ClassColumn:
        """The class column of that name."""
        for column in self.classes:
            if column.name == name:
                return column
        known = ", ".join(column.name for column in self.classes) or "none"
        raise TableError(f"There is no class column {name!r} (there is: {known}).", "Name one of these.")

    @property
    def column_names(self) -> frozenset[str]:
        """What else is known of each sample: the names of class and property columns."""
        return frozenset(c.name for c in self.classes) | frozenset(c.name for c in self.properties)

    def take(self, rows: Integers, columns: Integers | None = None) -> Table:
        """The part of the table with these samples and variables; nothing in it is set aside."""
        everything = len(rows) == self.shape[0] and bool((np.diff(rows) == 1).all())
        if columns is not None and len(columns) == self.shape[1] and bool((np.diff(columns) == 1).all()):
            columns = None
        if columns is None:
            values = self.values if everything else rows_of(self.values, rows)
        else:
            values = self.values[np.ix_(rows, columns)]
        ids = self.ids if everything else Names.of(self.ids).take(rows)
        return Table(
            values=values,
            looked=None if self.has_gaps else Looked(values, True, ids),
            axis=self.axis if columns is None else self.axis.take(columns),
            ids=ids,
            name=self.name,
            classes=self.classes if everything else tuple(column.take(rows) for column in self.classes),
            properties=self.properties
            if everything
            else tuple(PropertyColumn(c.name, c.values[rows], c.unit) for c in self.properties),
            replicates=self.replicates
            if everything or self.replicates is None
            else Names.of(self.replicates).take(rows),
            signal=self.signal,
            signal_unit=self.signal_unit,
            origin=self.origin,
        )

    def remarked(self, *remarks: str) -> Table:
        """The same table, with more to say of how it was read."""
        return replace(self, origin=replace(self.origin, remarks=(*self.origin.remarks, *remarks)))

    def with_values(self, values: Floats, signal: str | None = None, unit: str | None = None) -> Table:
        """The same samples and variables with other values, and perhaps another kind of signal."""
        return replace(
            self,
            values=values,
            signal=self.signal if signal is None else signal,
            signal_unit=self.signal_unit if unit is None else unit,
        )


def _others(count: int, without: Mapping[int, str]) -> Integers:
    """The places from 0 that are not among these."""
    kept = np.ones(count, dtype=bool)
    kept[[place for place in without if place < count]] = False
    return np.flatnonzero(kept)
