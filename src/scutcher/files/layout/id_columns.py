"""Which column holds the ids of the samples, and which only counts the rows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from scutcher.core.frozen import frozen
from scutcher.files.columns import Roles
from scutcher.files.layout.cells import as_number, kind_of
from scutcher.files.layout.laid import Laid, only_counts, text_of
from scutcher.files.layout.rows import ID_WORDS

INDEX_WORDS = (
    "", "index", "no", "no.", "nr", "nr.", "#", "row", "rownames", "row names", "obs", "obs.", "n", "id",
    "sample no", "unnamed: 0", "x1", "...1", "row number", "number", "lfd. nr.",
)  # fmt: skip
ID_NAMES = (
    *ID_WORDS, "sample id", "sample_id", "sampleid", "sample no", "sample no.", "sample number", "sample_no",
    "sample name", "sample_name", "samplename", "lab no", "lab id", "lab_id", "lims", "barcode",
)  # fmt: skip

FEW_LEVELS = 0.34
"""Levels of a class as a share of the samples at most, where a column of text is no id."""


@frozen
class Columns:
    """The columns of a table under their new names: those with values, the channels, the row numbers."""

    found: Laid
    names: Sequence[str]
    places: Sequence[int]
    channels: frozenset[int]
    index: int | None

    def free(self, roles: Roles) -> list[int]:
        """Those that are no channels and have no role."""
        given = set(roles.named())
        return [c for c in self.places if c not in self.channels and self.names[c] not in given]


def index_column(found: Laid, header: Sequence[str], places: Sequence[int], roles: Roles) -> int | None:
    """The first column where it only counts the rows, or has no name and is all different."""
    if not places or not found.parts.header or header[places[0]] in roles.named():
        return None
    first = places[0]
    cells = found.column(first)
    if header[first].strip().lower() not in INDEX_WORDS:
        return None
    numbers = [as_number(cell, found.marks) for cell in cells]
    if all(number is not None for number in numbers):
        named = not header[first] and _whole_numbers(found, first)  # numbers in place of names
        return first if named or only_counts(found, first) else None
    return first if not header[first] and len({text_of(cell) for cell in cells}) == len(cells) else None


def with_id(columns: Columns, roles: Roles) -> tuple[Roles, bool]:
    """The column of ids where it is not the first of text: another whose cells differ, or row numbers.

    Answers also whether the row numbers are left out.
    """
    found, names, index = columns.found, columns.names, columns.index
    if roles.id is not None or not found.parts.header:
        return roles, False
    free = columns.free(roles)
    texts = [c for c in free if c != index and mostly(found, c, "t")]
    unlike = [c for c in texts if _all_differ(found, c)]
    counting = [
        c
        for c in free
        if c not in texts and c != index and names[c].strip().lower() in ID_NAMES and _whole_numbers(found, c)
    ]
    if unlike and unlike[0] == texts[0]:
        chosen: int | None = None  # the first text column, as ever
    elif unlike:
        chosen = unlike[0]
    elif counting:
        chosen = counting[0]
    elif index is not None:
        chosen = index  # the columns of text hold classes or repeats
    else:
        chosen = None
    if chosen is not None:
        roles = replace(roles, id=names[chosen])
    if index is not None and chosen != index and names[index] not in roles.named():
        return replace(roles, ignored=(*roles.ignored, names[index])), True
    return roles, False


def without_id(columns: Columns, roles: Roles) -> tuple[Roles, bool]:
    """Where the only columns of text hold a few classes, each many times, none of them is the id."""
    found, names = columns.found, columns.names
    if (
        roles.id is not None
        or columns.index is not None
        or found.turned
        or set(roles.mends) & {"number-ids", "ids-as-replicates"}
    ):
        return roles, False
    free = columns.free(roles)
    texts = [c for c in free if mostly(found, c, "t")]
    counting = [c for c in free if names[c].strip().lower() in ID_NAMES]
    if not texts or counting:
        return roles, False
    count = len(found.data)
    levels = [len({text_of(cell) for cell in found.column(c)}) for c in texts]
    if count < 6 or any(size > FEW_LEVELS * count for size in levels):
        return roles, False
    return replace(roles, classes=(*roles.classes, *(names[c] for c in texts))), True


def mostly(found: Laid, column: int, kind: str) -> bool:
    """Whether at least half of the known cells of a column are of a kind: t text, n numbers, d dates."""
    kinds = [kind_of(cell, found.marks) for cell in found.column(column)]
    known = [k for k in kinds if k != "-"]
    return len(known) > 0 and sum(k == kind for k in known) >= 0.5 * len(known)


def _all_differ(found: Laid, column: int) -> bool:
    texts = [text_of(cell) for cell in found.column(column)]
    return len(set(texts)) == len(texts) and "" not in texts


def _whole_numbers(found: Laid, column: int) -> bool:
    numbers = [as_number(cell, found.marks) for cell in found.column(column)]
    return all(n is not None and n == int(n) for n in numbers if n != float("inf")) and _all_differ(
        found, column
    )
