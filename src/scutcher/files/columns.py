"""What each column of a text table is: as the caller says, or guessed from its header and its cells."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.files.layout.reading import Reading

AS_FOUND = Reading()


@frozen
class Roles:
    """The columns that a caller names, the sheet (or matrix) of a file, how its cells are laid out, and what
    is mended in place of being refused; all else is guessed.

    The sheet may name a range of cells as well, `Sheet1!B3:K40`.
    """

    id: str | None = None
    classes: tuple[str, ...] = ()
    properties: tuple[str, ...] = ()
    replicate: str | None = None
    sheet: str | None = None
    order: str | None = None
    ignored: tuple[str, ...] = ()
    mends: tuple[str, ...] = ()
    reading: Reading = AS_FOUND

    def named(self) -> tuple[str, ...]:
        """All columns with a role."""
        single = tuple(name for name in (self.id, self.replicate, self.order) if name is not None)
        return tuple(dict.fromkeys((*single, *self.classes, *self.properties, *self.ignored)))

    def among(self, names: Collection[str]) -> Roles:
        """Those whose columns are among some names."""

        def one(name: str | None) -> str | None:
            return name if name in names else None

        def some(given: tuple[str, ...]) -> tuple[str, ...]:
            return tuple(name for name in given if name in names)

        return replace(
            self, id=one(self.id), classes=some(self.classes), properties=some(self.properties),
            replicate=one(self.replicate), order=one(self.order), ignored=some(self.ignored),
        )  # fmt: skip

    def as_text(self) -> tuple[str, ...]:
        """The columns that stay text even where they look like numbers."""
        numbers = (*self.properties, self.order)
        return tuple(name for name in self.named() if name not in numbers)


@frozen
class Columns:
    """The header of a file, sorted by role."""

    id: str | None
    classes: tuple[str, ...]
    properties: tuple[str, ...]
    replicate: str | None
    variables: tuple[str, ...]
    ordered: bool


def number_of(text: str) -> float | None:
    """The number that a header cell is, or None."""
    try:
        value = float(text)
    except ValueError:
        return None
    return value if np.isfinite(value) else None


def sort_columns(
    header: Sequence[str],
    is_text: Callable[[str], bool],
    roles: Roles,
    file_name: str,
    dates: Sequence[str] = (),
) -> Columns:
    """Give every column a role.

    Parameters
    ----------
    header : the header cells
    is_text : whether the cells of a column are text
    roles : what the caller named
    file_name : for messages
    dates : columns of dates: properties, never variables

    Raises
    ------
    FileError
        A named column does not exist, or no column is left for variables.
    """
    for name in roles.named():
        if name not in header:
            raise FileError(
                f"{file_name} has no column {name!r}.", f"Its columns begin {', '.join(header[:6])}."
            )
    free = [name for name in header if name not in roles.named()]
    numbered = [name for name in free if number_of(name) is not None]
    worded = [name for name in free if number_of(name) is None]
    texts = [name for name in worded if is_text(name)]
    plain = [name for name in worded if name not in texts]
    sample_id = roles.id if roles.id is not None else (texts.pop(0) if texts else None)
    variables = numbered or [name for name in plain if name not in dates]
    taken = set(variables)
    if not taken:
        raise FileError(
            f"{file_name} has no column of numbers.", "Check the delimiter, or whether rows are samples."
        )
    return Columns(
        id=sample_id,
        classes=(*roles.classes, *texts),
        properties=(*roles.properties, *(name for name in plain if name not in taken)),
        replicate=roles.replicate,
        variables=tuple(variables),
        ordered=bool(numbered),
    )


def without_infinities(values: Floats, roles: Roles) -> Floats:
    """The values, infinite ones made gaps where the roles say so."""
    if "infinite-as-gaps" not in roles.mends or values.dtype.kind != "f":
        return values
    return np.where(np.isinf(values), np.nan, values)
