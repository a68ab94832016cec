"""Tables put under one another where their axes agree, or on the channels they have in common."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis, headers_of
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.grid import IMAGE, grid_of
from scutcher.core.data.resampling import common_axis, resampled
from scutcher.core.data.table import Table
from scutcher.core.errors import AxesDiffer, TableError


def stack(tables: Sequence[Table]) -> Table:
    """Put the samples of several tables under one another.

    Raises
    ------
    TableError
        Two samples have one id.
    FileError
        The axes differ; the message gives both axes' figures.
    """
    tables = _images_apart(tables)
    first = tables[0]
    for other in tables[1:]:
        if other.axis.labels != first.axis.labels and not _same_places(first, other):
            raise AxesDiffer(
                f"The axes differ: {_figures(first)}; {_figures(other)}.",
                "Resample one of them to the other's channels; nothing was imported.",
            )
    names = tuple(dict.fromkeys(column.name for table in tables for column in table.classes))
    tables = [_dates_from(table, first) for table in tables]
    measured = dict.fromkeys((c.name, c.unit) for table in tables for c in table.properties)
    return leave_out_empty(
        Table(
            values=np.vstack([table.values for table in tables]),
            axis=first.axis,
            ids=tuple(name for table in tables for name in table.ids),
            name=first.name,
            classes=tuple(
                ClassColumn(name, tuple(v for table in tables for v in _class_values(table, name)))
                for name in names
            ),
            properties=tuple(
                PropertyColumn(name, np.concatenate([_property_values(t, name, unit) for t in tables]), unit)
                for name, unit in measured
            ),
            replicates=_replicates(tables),
            signal=first.signal,
            signal_unit=first.signal_unit,
            origin=replace(first.origin, remarks=tuple(dict.fromkeys(_remarks(tables)))),
        )
    )


def _images_apart(tables: Sequence[Table]) -> Sequence[Table]:
    """Pixels of several images have an id each, and a class that says of which image they are."""
    ids = [name for table in tables for name in table.ids]
    if len(set(ids)) == len(ids) or any(grid_of(table) is None for table in tables):
        return tables
    found = []
    for place, table in enumerate(tables):
        twice = sum(other.name == table.name for other in tables[:place])
        name = f"{table.name} {twice + 1}" if twice else table.name
        classes = table.classes
        if IMAGE not in {column.name for column in classes}:
            classes = (*classes, ClassColumn(IMAGE, (name,) * len(table.ids)))
        found.append(replace(table, ids=tuple(f"{name} {one}" for one in table.ids), classes=classes))
    return found


SINCE = "d since "


def _dates_from(table: Table, first: Table) -> Table:
    """The table with its dates counted from the day from which another counts its own."""
    start = {c.name: c.unit for c in first.properties if c.unit.startswith(SINCE)}
    found = []
    for column in table.properties:
        wanted = start.get(column.name, column.unit)
        if wanted != column.unit and column.unit.startswith(SINCE):
            later, own = (date.fromisoformat(unit.removeprefix(SINCE)) for unit in (wanted, column.unit))
            column = PropertyColumn(column.name, column.values + (own - later).days, wanted)
        found.append(column)
    return replace(table, properties=tuple(found))


def _remarks(tables: Sequence[Table]) -> list[str]:
    """What each file did not give, with the file's name where there are several."""
    if len({table.name for table in tables}) == 1:
        return [remark for table in tables for remark in table.origin.remarks]
    return [f"{table.name}: {remark}" for table in tables for remark in table.origin.remarks]


def on_common_axis(tables: Sequence[Table]) -> list[Table]:
    """The same tables on the channels of the coarsest axis that lie within all of them.

    Raises
    ------
    TableError
        Mixed variables, or axes that do not overlap.
    """
    axes = [table.axis.positions for table in tables]
    if any(axis is None for axis in axes):
        raise TableError("Mixed variables cannot be resampled.", "Give the files the same columns.")
    onto = common_axis([axis for axis in axes if axis is not None])
    labels = headers_of(onto)
    first = tables[0].axis
    axis = Axis(labels, onto, first.quantity, first.unit)
    return [
        replace(table, values=resampled(table.values, places, onto), axis=axis, left_out={})
        for table, places in zip(tables, axes, strict=True)
        if places is not None
    ]


def _same_places(first: Table, other: Table) -> bool:
    a, b = first.axis.positions, other.axis.positions
    return a is not None and b is not None and a.shape == b.shape and bool((a == b).all())


def _figures(table: Table) -> str:
    labels = table.axis.labels
    return f"{table.name} has {len(labels)} from {labels[0]} to {labels[-1]}"


def _class_values(table: Table, name: str) -> Sequence[str]:
    for column in table.classes:
        if column.name == name:
            return column.values
    return ("",) * len(table.ids)


def _property_values(table: Table, name: str, unit: str) -> Floats:
    for column in table.properties:
        if (column.name, column.unit) == (name, unit):
            return column.values
    return np.full(len(table.ids), np.nan)


def _replicates(tables: Sequence[Table]) -> tuple[str, ...] | None:
    """Replicate ids of all; a table without any has every sample on its own."""
    if all(table.replicates is None for table in tables):
        return None
    return tuple(name for table in tables for name in (table.replicates or table.ids))
