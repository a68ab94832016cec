"""The columns of a table as somebody who brings it in sees them: a name, some cells, a role."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.files.columns import Roles
from scutcher.files.layout.reading import Reading

ROLES = ("id", "class", "property", "replicate", "run order", "variable", "ignore")


@frozen
class ColumnView:
    """One column, or all channels of an ordered axis together."""

    name: str
    cells: str
    role: str


def roles_of_pairs(
    pairs: Iterable[tuple[str, str]],
    sheet: str = "",
    reading: Reading | None = None,
    mends: tuple[str, ...] = (),
) -> Roles:
    """The roles that a reader takes from (column, role) pairs; "variable" is what is left."""
    given = list(pairs)

    def with_role(role: str) -> tuple[str, ...]:
        return tuple(name for name, known in given if known == role)

    def only(role: str) -> str | None:
        names = with_role(role)
        return names[-1] if names else None

    return Roles(
        id=only("id"),
        classes=with_role("class"),
        properties=with_role("property"),
        replicate=only("replicate"),
        sheet=sheet or None,
        order=only("run order"),
        ignored=with_role("ignore"),
        reading=reading or Reading(),
        mends=mends,
    )


def column_views(table: Table, header: Sequence[str], pairs: Sequence[tuple[str, str]]) -> list[ColumnView]:
    """Every column of a file with its role in a table, as guessed or given; channels stand together."""
    given = dict(pairs)
    found = []
    classes = {column.name: column for column in table.classes}
    properties = {name: column for column in table.properties for name in (column.name, column.header)}
    channels = set(table.axis.labels) if table.axis.ordered else set()
    for name in header:
        if name in channels:
            continue
        if name in given:
            role = given[name]
        elif name in classes:
            role = "class"
        elif name in properties:
            role = "property"
        else:
            role = "variable" if name in table.axis.labels else "id"
        found.append(ColumnView(name, _cells(table, name, role), role))
    if channels:
        labels = table.axis.labels
        found.append(
            ColumnView(
                f"{len(labels)} channels", f"{labels[0]} … {labels[-1]} {table.axis.unit}".strip(), "variable"
            )
        )
    return found


def _cells(table: Table, name: str, role: str) -> str:
    for column in table.classes:
        if column.name == name:
            return _some(column.values)
    for measured in table.properties:
        if name in (measured.name, measured.header):
            return _some([f"{value:.4g}" for value in measured.values[:6]])
    if role == "id":
        return _some(table.ids)
    if role == "replicate":
        return _some(table.replicates or ())
    if name in table.axis.labels:
        place = table.axis.labels.index(name)
        return _some([f"{value:.4g}" for value in table.values[:6, place]])
    return ""


def _some(values: Sequence[str]) -> str:
    return ", ".join(dict.fromkeys(value for value in values[:40] if value))[:60]
