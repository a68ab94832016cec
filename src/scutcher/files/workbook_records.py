"""How far the cells of a binary worksheet (.xlsb) reach, from its records.

A record is its type (one or two bytes), the length of what follows (up to four bytes of seven bits, the
lowest first), and that: [MS-XLSB] 2.1.4. A row header (type 0) begins with the row, a cell (types 1 to 11)
with its column, four bytes each, the lowest first.
"""

from __future__ import annotations

ROW, FIRST_CELL, LAST_CELL = 0, 1, 11


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
