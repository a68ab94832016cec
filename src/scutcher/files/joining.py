"""Several tables of one file: under one another, beside one another by id, or the one that is meant."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis, split_unit
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of, first_of
from scutcher.files.stacking import stack

ENOUGH = 0.9
"""Share of the samples that another table has to know, for the two to be put beside one another."""


@frozen
class SheetTable:
    """A table and the sheet or group that it stands in."""

    name: str
    table: Table


def together(
    found: Sequence[SheetTable], how: str, unread: Sequence[str], asked: bool = False, what: str = "sheet"
) -> tuple[Table, list[str]]:
    """One table of several, and the names of those that are in it.

    Parameters
    ----------
    found : at least one, in the order of the file
    how : "stack", "by-id", "one" for the first, "" for what fits
    unread : the names of others that hold no table
    asked : whether somebody has named them: then all of them have to fit
    what : what they stand in, for the class column and for remarks

    Raises
    ------
    FileError
        They cannot be put together as it is said.
    """
    first: SheetTable = found[0] if how else _main(found)
    others = [one for one in found if one is not first]
    remarks = list(first.table.origin.remarks)
    if how in ("", "stack"):
        same = [one for one in others if _same_columns(first.table, one.table)]
        if how == "stack" and len(same) < len(others):
            wrong = next(one for one in others if one not in same)
            raise FileError(
                f"The {what}s {first.name!r} and {wrong.name!r} have different columns.",
                "Put them beside one another by id, or read one of them.",
            )
        same = [one for one in same if how or asked or not set(one.table.ids) & set(first.table.ids)]
        others = [one for one in others if one not in same]
        if same:
            members = [one for one in found if one is first or one in same]
            first = SheetTable(first.name, _stacked(members, what))
            remarks = [remark for one in members for remark in one.table.origin.remarks]
            names = ", ".join(one.name for one in members)
            remarks.append(f"{len(members)} {what}s with the same columns are under one another: {names}")
    table = first.table
    for one in list(others):
        if how == "one" or not _same_samples(table, one.table, how == "by-id"):
            if how == "by-id" or (asked and not how):
                raise FileError(
                    f"The {what} {one.name!r} has neither the columns nor the samples of {first.name!r}.",
                    "Read one of them.",
                )
            continue
        added = _beside(table, one.table)
        if added is not None:
            table = added
            others.remove(one)
            remarks.append(f"The {what} {one.name!r} is beside the others, by id")
    left = [*(one.name for one in others), *unread]
    if left:
        remarks.append(f"{count_of(left, what)} not read: {first_of(left, 8)}")
    used = [one.name for one in found if one not in others]
    return replace(table, origin=replace(table.origin, remarks=tuple(remarks))), used


def _main(found: Sequence[SheetTable]) -> SheetTable:
    """The table that is meant: the first with an axis, if any has one, unless another is far larger."""
    ordered = [one for one in found if one.table.axis.ordered] or list(found)
    first, largest = ordered[0], max(ordered, key=lambda one: one.table.values.size)
    return largest if largest.table.values.size > 10 * first.table.values.size else first


def _same_columns(a: Table, b: Table) -> bool:
    names = [(*(c.name for c in t.classes), *(c.name for c in t.properties)) for t in (a, b)]
    return a.axis.labels == b.axis.labels and names[0] == names[1]


def _stacked(members: Sequence[SheetTable], what: str) -> Table:
    """Samples of several under one another; ids that only count begin anew, and get the name in front."""
    tables = [one.table for one in members]
    every = [name for table in tables for name in table.ids]
    if len(set(every)) < len(every):
        tables = [
            replace(one.table, ids=tuple(f"{one.name} {name}" for name in one.table.ids)) for one in members
        ]
    name = what
    while name in {column.name for column in tables[0].classes}:
        name += "_"
    labelled = [
        replace(table, classes=(*table.classes, ClassColumn(name, (one.name,) * len(table.ids))), left_out={})
        for table, one in zip(tables, members, strict=True)
    ]
    return replace(stack(labelled), origin=tables[0].origin)


def _same_samples(a: Table, b: Table, said: bool) -> bool:
    """Whether the second knows most samples of the first, by ids that are not mere numbers of rows."""
    known = set(b.ids)
    share = sum(name in known for name in a.ids) / max(len(a.ids), 1)
    counted = list(b.ids) == [str(row + 1) for row in range(len(b.ids))]
    return share >= (1e-9 if said else ENOUGH) and (said or not counted)


def _beside(a: Table, b: Table) -> Table | None:
    """The first table with the columns of the second, by id; None where both have an axis."""
    if a.axis.ordered and b.axis.ordered:
        return None
    if b.axis.ordered:
        return _beside(b, a) if set(a.ids) == set(b.ids) else None
    place = {name: row for row, name in enumerate(b.ids)}
    rows = np.array([place.get(name, -1) for name in a.ids])
    known = rows >= 0

    def taken(values: Floats) -> Floats:
        found: Floats = np.asarray(values, dtype=np.float64)[rows]
        found[~known] = np.nan
        return found

    have = a.column_names
    classes = [
        ClassColumn(c.name, tuple(c.values[row] if row >= 0 else "" for row in rows))
        for c in b.classes
        if c.name not in have
    ]
    properties = [PropertyColumn(c.name, taken(c.values), c.unit) for c in b.properties if c.name not in have]
    values = taken(b.values)
    if a.axis.ordered:
        named = [split_unit(label) for label in b.axis.labels]
        properties += [
            PropertyColumn(name, values[:, c], unit)
            for c, (name, unit) in enumerate(named)
            if name not in have
        ]
        return replace(a, classes=(*a.classes, *classes), properties=(*a.properties, *properties))
    fresh = [c for c, label in enumerate(b.axis.labels) if label not in a.axis.labels]
    labels = (*a.axis.labels, *(b.axis.labels[c] for c in fresh))
    wide = replace(
        a,
        values=np.hstack([a.values, values[:, fresh]]),
        axis=Axis(labels),
        classes=(*a.classes, *classes),
        properties=(*a.properties, *properties),
        left_out={},
        looked=None,
    )
    return leave_out_empty(wide)
