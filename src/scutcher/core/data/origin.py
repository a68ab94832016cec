"""Where a table comes from, and what was remarked when it was read."""

from __future__ import annotations

from collections.abc import Sequence

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen


@frozen(eq=False)
class Looked:
    """Values that hold no infinity, whether they hold no gap either, and ids of which no two are alike."""

    values: Floats
    complete: bool
    ids: Sequence[str] = ()


@frozen
class Origin:
    """How a table was read from its file.

    Attributes
    ----------
    words : str
        One quiet line, as "semicolons, decimal comma, header in row 3".
    reading : tuple of (key, text)
        By which the same file is read again in the same way.
    remarks : tuple of str
        What was not read, and what was understood without being asked.
    columns : tuple of str
        The columns that are no channels of an axis, by which they are given roles.
    """

    words: str = ""
    reading: tuple[tuple[str, str], ...] = ()
    remarks: tuple[str, ...] = ()
    columns: tuple[str, ...] = ()


UNKNOWN = Origin()
