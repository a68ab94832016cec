"""What the columns of a table are called once units, numbered headers and row numbers are understood."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of
from scutcher.files.columns import Roles
from scutcher.files.layout.cells import PERCENT, as_number, days_of, hours_of
from scutcher.files.layout.headers import families, is_axis, unit_named
from scutcher.files.layout.id_columns import Columns, index_column, mostly, with_id, without_id
from scutcher.files.layout.laid import Laid, axis_columns, text_of
from scutcher.files.layout.reading import Reading

MOST_EMPTY = 20
"""Empty columns that are passed over and named; more are channels that somebody should look at."""


@frozen
class Named:
    """Columns with the names they get.

    Attributes
    ----------
    places : the columns of the file that are kept
    header : their names, the channels of an axis as numbers
    roles : what is known of them, by these names
    quantity, unit : of the axis
    dates : names of the columns of dates
    remarks : what is not read, and what was understood
    columns : the names that are no channels
    """

    places: tuple[int, ...]
    header: tuple[str, ...]
    roles: Roles
    quantity: str
    unit: str
    dates: tuple[str, ...]
    remarks: tuple[str, ...]
    columns: tuple[str, ...]


def named(found: Laid, roles: Roles, said: Reading, file_name: str) -> Named:
    """Name the columns of a table with samples in rows.

    Raises
    ------
    FileError
        A column without a header, two with the same, a named one that is not there.
    """
    header = list(found.header)
    places = [c for c in range(len(header)) if _is_filled(found, c)]
    empty = [header[c] for c in range(len(header)) if header[c] and c not in places and not found.turned]
    index = index_column(found, header, places, roles)
    nameless = index is not None and not header[index]
    if index is not None and nameless:
        header[index] = _free("sample", set(header))
    _check(header, places, file_name, bool(found.parts.header))
    channels, positions, quantity, unit = axis_columns(found)
    labels = {c: f"{place:.12g}" for c, place in zip(channels, positions, strict=True)}
    renamed = {c: labels[c] if as_number(header[c]) is None else header[c] for c in channels}
    renamed |= _with_units(found, header, places, channels)
    roles = _by_new_names(roles, header, places, renamed, file_name)
    names = [renamed.get(c, header[c]) for c in range(len(header))]
    given = set(roles.named())
    channels = tuple(c for c in channels if c != index and names[c] not in given)
    by_units = _axis_unit(found, channels)
    if by_units and not unit:
        quantity, unit = by_units
    remarks: list[str] = []
    if empty and len(empty) <= MOST_EMPTY and not set(empty) & set(roles.named()):
        remarks.append(f"{count_of(empty, 'column')} without a value, {', '.join(empty)}: not read")
    elif empty:
        places = [c for c in range(len(header)) if header[c] or c in places]
    if found.turned and roles.id is None and 0 in places and 0 not in channels:
        roles = replace(roles, id=names[0])  # the header of the file
    columns = Columns(found, names, places, frozenset(channels), index)
    roles, numbered = without_id(columns, roles)
    if numbered:
        remarks.append("No column has a name for each sample: they are numbered")
    roles, counts = with_id(columns, roles)
    if counts:
        shown = "without a name" if nameless else repr(names[index or 0])
        remarks.append(f"The column {shown} only counts the rows and is not read")
    dates, undated = _dates(columns, roles, said)
    left, others = _without_other_families(columns)
    told = (*remarks, *undated, *others)
    kept = tuple(names[c] for c in left)
    no_channels = tuple(names[c] for c in places if c not in columns.channels)
    return Named(tuple(left), kept, roles, quantity, unit, dates, told, no_channels)


def _is_filled(found: Laid, column: int) -> bool:
    return any(text_of(cell) for cell in found.column(column))


def _free(name: str, known: set[str]) -> str:
    while name in known:
        name += "_"
    return name


def _check(header: Sequence[str], places: Sequence[int], file_name: str, has_header: bool) -> None:
    seen: dict[str, int] = {}
    for place in places if has_header else ():
        name = header[place]
        if not name:
            raise FileError(f"Column {place + 1} of {file_name} has no header.", "Give it a name.")
        if name in seen:
            raise FileError(
                f"The header {name!r} of {file_name} stands in columns {seen[name] + 1} and {place + 1}.",
                "Rename or remove one of them.",
            )
        seen[name] = place


def _with_units(
    found: Laid, header: Sequence[str], places: Sequence[int], channels: Sequence[int]
) -> dict[int, str]:
    """Names with the unit that stands below them or behind each of their numbers, `moisture / %`."""
    units = () if found.parts.units is None else found.rows[found.parts.units].cells
    renamed, axis = {}, set(channels)
    for c in places:
        if c in axis or " / " in header[c]:
            continue
        unit = text_of(units[c]).strip("[]() ") if c < len(units) else ""
        if not unit and _all_percent(found, c):
            unit = PERCENT
        if unit and unit != "-" and mostly(found, c, "n"):
            renamed[c] = f"{header[c]} / {unit}"
    return renamed


def _all_percent(found: Laid, column: int) -> bool:
    cells = [text_of(cell) for cell in found.column(column)]
    known = [cell for cell in cells if cell]
    return bool(known) and all(cell.endswith(PERCENT) and cell != PERCENT for cell in known)


def _axis_unit(found: Laid, channels: Sequence[int]) -> tuple[str, str] | None:
    """Quantity and unit of the axis where the row of units has one for all channels."""
    if found.parts.units is None or not channels:
        return None
    cells = found.rows[found.parts.units].cells
    units = {text_of(cells[c]) for c in channels if c < len(cells)}
    return unit_named(units.pop()) if len(units) == 1 else None


def _by_new_names(
    roles: Roles, header: Sequence[str], places: Sequence[int], renamed: dict[int, str], file_name: str
) -> Roles:
    """Roles by the new names; they may be given by the old ones or the new.

    Raises
    ------
    FileError
        A named column is not there.
    """
    new = {header[c]: renamed.get(c, header[c]) for c in places}
    new |= {name: name for name in renamed.values()}
    for name in roles.named():
        if name not in new:
            shown = ", ".join(header[c] for c in places[:6])
            raise FileError(f"{file_name} has no column {name!r}.", f"Its columns begin {shown}.")

    def one(name: str | None) -> str | None:
        return None if name is None else new[name]

    def some(names: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(new[name] for name in names)

    return replace(
        roles, id=one(roles.id), classes=some(roles.classes), properties=some(roles.properties),
        replicate=one(roles.replicate), order=one(roles.order), ignored=some(roles.ignored),
    )  # fmt: skip


def _dates(columns: Columns, roles: Roles, said: Reading) -> tuple[tuple[str, ...], list[str]]:
    """The columns of dates that can be told, and what is said of those that cannot: they stay text."""
    kept_as_text = {roles.id, roles.replicate, *roles.classes, *roles.ignored}
    dates, remarks = [], []
    for c in columns.places:
        name = columns.names[c]
        if c in columns.channels or name in kept_as_text or not mostly(columns.found, c, "d"):
            continue
        cells = columns.found.column(c)
        made = days_of(cells, said.dates)
        if isinstance(made, str) and hours_of(cells) is None:
            remarks.append(f"The column {name!r} is kept as text: {made}")
        else:
            dates.append(name)
    return tuple(dates), remarks


def _without_other_families(columns: Columns) -> tuple[list[int], list[str]]:
    """Leave out a second set of numbered columns: they are signals too, and cannot all be properties."""
    found, names, kept = columns.found, columns.names, list(columns.places)
    if not columns.channels:
        return kept, []
    rest = ["" if c in columns.channels or c not in columns.places else names[c] for c in range(len(names))]
    remarks = []
    for family in families(rest):
        if is_axis(family, found.numbers(family.columns)) and len(family.columns) >= 10:
            out = set(family.columns)
            kept = [c for c in kept if c not in out]
            first, last = names[family.columns[0]], names[family.columns[-1]]
            remarks.append(
                f"{count_of(out, 'column')} {first} … {last} are a second set of signals and are not read"
            )
    return kept, remarks
