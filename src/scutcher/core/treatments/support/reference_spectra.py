"""Reference spectra that treatments learn from a set: its mean, median, a class's, or one sample."""

from __future__ import annotations

from typing import Annotated, Literal, Protocol

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError

ReferenceKind = Literal["mean", "median", "class", "sample"]
"""Which spectrum a treatment holds the others against."""

ReferenceColumn = Annotated[
    str, Meta(description="class column, for a class; empty: the first", extra={"of": "class column"})
]
ReferenceLevel = Annotated[
    str, Meta(description="class, for a class; empty: the first", extra={"of": "class"})
]
ReferenceSample = Annotated[
    str, Meta(description="id, for a sample; empty: the first", extra={"of": "sample"})
]


class RefersTo(Protocol):
    """The parameters of a treatment with a reference."""

    @property
    def reference(self) -> ReferenceKind:
        """Of what kind it is."""

    @property
    def column(self) -> str:
        """Class column, for a class; empty: the first."""

    @property
    def level(self) -> str:
        """Class, for a class; empty: the first."""

    @property
    def sample(self) -> str:
        """Id, for a sample; empty: the first."""


def class_column_of(table: Table, name: str) -> ClassColumn:
    """The class column of that name, or the first where none is named.

    Raises
    ------
    TableError
        There is none.
    """
    if name:
        return table.class_column(name)
    if not table.classes:
        raise TableError(f"{table.name} has no class column.", "Name one, or choose another reference.")
    return table.classes[0]


def rows_of_class(table: Table, column: str, level: str) -> Integers:
    """The samples of a class; without a level, of the first class of the column that has samples.

    Raises
    ------
    TableError
        No sample is of that class.
    """
    classes = class_column_of(table, column)
    present = [name for name in classes.names if name in classes.values]
    wanted = level or (present[0] if present else "")
    rows = np.array([row for row, value in enumerate(classes.values) if value and value == wanted], np.intp)
    if not rows.size:
        raise TableError(
            f"No sample in the set is of class {wanted!r} of {classes.name}.",
            f"Choose one of: {', '.join(present) or 'none is known'}.",
        )
    return rows


def row_of_sample(table: Table, sample: str) -> int:
    """The place of a sample by its id; the first where none is named.

    Raises
    ------
    TableError
        It is not in the set.
    """
    if not sample:
        return 0
    if sample not in table.ids:
        raise TableError(
            f"The sample {sample!r} is not in the training set.",
            "Choose another reference, or bring it back.",
        )
    return table.ids.index(sample)


def reference_spectrum(table: Table, wanted: RefersTo) -> Floats:
    """The (p,) spectrum that a set is held against, in the unit of the signal.

    Raises
    ------
    TableError
        The class or the sample is not in the set.
    """
    if wanted.reference == "class":
        mean: Floats = table.values[rows_of_class(table, wanted.column, wanted.level)].mean(axis=0)
        return mean
    if wanted.reference == "sample":
        one: Floats = table.values[row_of_sample(table, wanted.sample)].copy()
        return one
    middle: Floats = (
        np.median(table.values, axis=0) if wanted.reference == "median" else table.values.mean(axis=0)
    )
    return middle


def learn_reference(table: Table, wanted: RefersTo) -> dict[str, Floats]:
    """The `fit` of a treatment that needs nothing but its reference."""
    return {"reference": reference_spectrum(table, wanted)}


def class_rows(table: Table, column: str, level: str) -> Integers:
    """All samples where neither column nor level is named, else those of the class."""
    if not column and not level:
        return np.arange(len(table.ids), dtype=np.intp)
    return rows_of_class(table, column, level)
