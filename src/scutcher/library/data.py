"""Data: samples by variables, with classes, properties and replicates; read from files, or from a frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from os import PathLike
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.findings import findings
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of

if TYPE_CHECKING:
    import pandas

File = str | PathLike[str]


@frozen(eq=False)
class Data:
    """Samples by variables.

    Attributes
    ----------
    table : Table
        What it holds, as the rest of Scutcher sees it.
    files : tuple of Path
        Where it came from.
    """

    table: Table
    files: tuple[Path, ...] = ()

    @property
    def values(self) -> Floats:
        """(n, p) float array; NaN where a value is missing."""
        return self.table.values

    @property
    def ids(self) -> tuple[str, ...]:
        """The name of each sample."""
        return tuple(self.table.ids)

    @property
    def axis(self) -> Floats:
        """(p,) float array: the position of each channel; 1…p for variables without an order."""
        return self.table.axis.places()

    @property
    def variables(self) -> tuple[str, ...]:
        """The name of each variable."""
        return self.table.axis.labels

    @property
    def findings(self) -> list[str]:
        """What is seen when the data are looked over: gaps, dead channels, copies, replicates."""
        return [*self.table.origin.remarks, *(one.text for one in findings(self.table))]

    def frame(self) -> pandas.DataFrame:
        """Classes and properties first, then the variables; a row for each sample."""
        import pandas

        about: dict[str, object] = {column.name: list(column.values) for column in self.table.classes}
        about |= {column.name: column.values for column in self.table.properties}
        if self.table.replicates is not None:
            about.setdefault("replicate", list(self.table.replicates))
        index = pandas.Index(self.ids, name="sample")
        values = pandas.DataFrame(self.values, index=index, columns=list(self.variables))
        return pandas.concat([pandas.DataFrame(about, index=index), values], axis=1)

    def set_aside(self, samples: Sequence[str], reason: str) -> Data:
        """The same with samples that no model is made of, for a reason.

        Raises
        ------
        TableError
            There is no such sample.
        """
        place = {name: row for row, name in enumerate(self.ids)}
        missing = [name for name in samples if name not in place]
        if missing:
            raise TableError(f"There is no sample {missing[0]}.", "Check the name; nothing was set aside.")
        aside = {**self.table.set_aside, **{place[name]: reason for name in samples}}
        return replace(self, table=replace(self.table, set_aside=aside))

    def __len__(self) -> int:
        return self.table.shape[0]

    def __repr__(self) -> str:
        n, p = self.table.shape
        what = "channel" if self.table.axis.ordered else "variable"
        return f"<Data {self.table.name}: {count_of(n)} × {count_of(p, what)}>"


def read(
    *files: File,
    id: str | None = None,
    classes: Sequence[str] = (),
    properties: Sequence[str] = (),
    replicate: str | None = None,
    sheet: str | None = None,
    resample: bool = False,
) -> Data:
    """Read files of any form that Scutcher reads, and stack them where their axes agree.

    Parameters
    ----------
    files : paths
        A folder stands for the spectra in it.
    id, classes, properties, replicate : names of columns
        What is not named is guessed.
    sheet : str, optional
        Of a workbook, or the matrix of a file.
    resample : bool
        Whether different axes are brought onto their common channels.

    Raises
    ------
    InputError
        A file is not there, or cannot be understood; its message says what to do.
    """
    from scutcher.files.columns import Roles
    from scutcher.files.formats import read_tables

    roles = Roles(id, tuple(classes), tuple(properties), replicate, sheet)
    paths = tuple(Path(file) for file in files)
    if not paths:
        raise TableError("No file was named.", "Name one or more.")
    return Data(read_tables(paths, roles, resample=resample), paths)


def from_frame(
    frame: pandas.DataFrame,
    classes: Sequence[str] = (),
    properties: Sequence[str] = (),
    replicate: str | None = None,
    quantity: str = "",
    unit: str = "",
) -> Data:
    """Data of a pandas frame: its index names the samples, every other column is a variable.

    Parameters
    ----------
    quantity, unit : str
        Of the axis, where the names of the variables are numbers: they are then positions on it.

    Raises
    ------
    TableError
        A column is not there, or a variable does not hold numbers.
    """
    named = [*classes, *properties, *([replicate] if replicate else [])]
    missing = [name for name in named if name not in frame.columns]
    if missing:
        raise TableError(f"The frame has no column {missing[0]!r}.", "Check the name.")
    values = frame.drop(columns=named)
    try:
        numbers = values.to_numpy(dtype=np.float64)
    except (TypeError, ValueError) as error:
        raise TableError(
            "A variable of the frame does not hold numbers.", "Name it among classes."
        ) from error
    return Data(
        Table(
            numbers,
            _axis_of([str(name) for name in values.columns], quantity, unit),
            tuple(str(name) for name in frame.index),
            classes=tuple(ClassColumn(name, tuple(frame[name].astype(str))) for name in classes),
            properties=tuple(
                PropertyColumn(name, frame[name].to_numpy(dtype=np.float64)) for name in properties
            ),
            replicates=None if replicate is None else tuple(frame[replicate].astype(str)),
        )
    )


def _axis_of(labels: list[str], quantity: str, unit: str) -> Axis:
    """An ordered axis where all names are numbers that rise or fall."""
    try:
        places = np.array([float(label) for label in labels])
    except ValueError:
        return Axis(tuple(labels))
    steps = np.diff(places)
    if len(places) > 2 and ((steps > 0).all() or (steps < 0).all()):
        return Axis(tuple(labels), places, quantity or "axis", unit)
    return Axis(tuple(labels))


def example(name: str = "intake-nir") -> Data:
    """A made-up set of the flax mill's intake laboratory.

    Raises
    ------
    InputError
        There is no such set; the message names the nearest.
    """
    from scutcher.demo.sets import demo_set

    return Data(demo_set(name)[0])
