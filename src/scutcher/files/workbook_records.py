"""How far the cells of binary worksheets (.xlsb and .xls) reach, from their records.

In an .xlsb a record is its type (one or two bytes), the length of what follows (up to four bytes of seven
bits, the lowest first), and that: [MS-XLSB] 2.1.4. A row header (type 0) begins with the row, a cell (types 1
to 11) with its column, four bytes each, the lowest first.

In an .xls it is its type and the length of what follows, two bytes each, the lowest first: [MS-XLS] 2.1.4; a
cell begins with its row and its column, two bytes each, and one of several cells ends with the last column.
"""

from __future__ import annotations

from collections.abc import Iterator

ROW, FIRST_CELL, LAST_CELL = 0, 1, 11

BEGIN, REACH, SEVERAL = (0x009, 0x209, 0x409, 0x809), (0x000, 0x200), (0x0BD, 0x0BE)
CELLS = frozenset((
    0x001, 0x002, 0x003, 0x004, 0x005, 0x006, 0x0D6, 0x0FD, 0x201, 0x203, 0x204, 0x205, 0x206, 0x27E, 0x406,
    *SEVERAL,
))  # fmt: skip
WIDEST, TALLEST = 256, 65_536
"""Columns and rows of a sheet of an .xls at most."""


def extent_of_records(data: bytes) -> tuple[int, int, int]:
    """The last row, the last column and the number of cells; of a damaged sheet as far as it can be read."""
    place, size = 0, len(data)
    rows = columns = there = 0
    while place < size:
        kind = data[place]
        place += 1
        if kind & 0x80 and place < size:
            kind = (kind & 0x7F) | (data[place] & 0x7F) << 7
            place += 1
        length = shift = 0
        for _ in range(4):
            if place >= size:
                return rows, columns, there
            part = data[place]
            place += 1
            length |= (part & 0x7F) << shift
            shift += 7
            if not part & 0x80:
                break
        if kind <= LAST_CELL and length >= 4:
            number = int.from_bytes(data[place : place + 4], "little") + 1
            if kind == ROW:
                rows = max(rows, number)
            else:
                columns, there = max(columns, number), there + 1
        place += length
    return rows, columns, there


def extents_of_old_records(data: bytes) -> Iterator[tuple[int, int, int]]:
    """The last row, the last column and the number of cells of each sheet of an .xls, one after the other.

    What a sheet says of its own reach counts where it is more than a sheet can have: room is taken for it.
    """
    place, size = 0, len(data)
    rows = columns = there = 0
    while place + 4 <= size:
        kind, length = data[place] | data[place + 1] << 8, data[place + 2] | data[place + 3] << 8
        place += 4
        if kind in BEGIN:
            if rows:
                yield rows, columns, there
            rows = columns = there = 0
        elif kind in REACH:
            tall, wide = _said_reach(data[place : place + length])
            if tall > TALLEST or wide > WIDEST:
                rows, columns = max(rows, tall), max(columns, wide)
        elif length >= 4 and kind in CELLS:
            last = place + length - 2 if kind in SEVERAL else place + 2
            rows = max(rows, (data[place] | data[place + 1] << 8) + 1 if place + 1 < size else 0)
            columns = max(columns, (data[last] | data[last + 1] << 8) + 1 if last + 1 < size else 0)
            there += 1
        place += length
    if rows:
        yield rows, columns, there


def _said_reach(said: bytes) -> tuple[int, int]:
    """Rows and columns that a sheet claims: 14 bytes since 1997, 8 or 10 before."""
    first = 4 if len(said) >= 14 else 2
    tall = int.from_bytes(said[first : 2 * first], "little")
    wide = int.from_bytes(said[2 * first + 2 : 2 * first + 4], "little")
    return tall, wide
