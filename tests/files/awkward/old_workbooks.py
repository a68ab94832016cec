"""Workbooks of kinds that no library at hand writes: XLSB and XLS, by hand, one sheet of numbers and words."""

from __future__ import annotations

import io
import struct
import zipfile

Cells = list[list[str | float]]

RELATIONS = (
    '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/{kind}" '
    'Target="{target}"/></Relationships>'
)
TYPES = (
    '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="bin" ContentType="application/vnd.ms-excel.sheet.binary.macroEnabled.main"/>'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/></Types>'
)


def xlsb(cells: Cells, stray: tuple[int, int] | None = None) -> bytes:
    """A binary workbook ([MS-XLSB] 2.1); with one more cell at a row and column."""
    book = _long(131) + _long(143)
    book += _long(156, struct.pack("<II", 0, 1) + _wide("rId1") + _wide("data")) + _long(144) + _long(132)
    sheet = _long(129) + _long(148, struct.pack("<4I", 0, len(cells) - 1, 0, len(cells[0]) - 1)) + _long(145)
    for row, line in enumerate(cells):
        sheet += _long(0, struct.pack("<II", row, 0) + bytes(9))
        for column, cell in enumerate(line):
            place = struct.pack("<II", column, 0)
            text = isinstance(cell, str)
            sheet += _long(6 if text else 5, place + (_wide(cell) if text else struct.pack("<d", cell)))
    if stray is not None:
        sheet += _long(0, struct.pack("<II", stray[0], 0) + bytes(9))
        sheet += _long(5, struct.pack("<IId", stray[1], 0, 1.0))
    sheet += _long(146) + _long(130)
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        archive.writestr("[Content_Types].xml", TYPES)
        archive.writestr("_rels/.rels", RELATIONS.format(kind="officeDocument", target="xl/workbook.bin"))
        archive.writestr("xl/workbook.bin", book)
        relations = RELATIONS.format(kind="worksheet", target="worksheets/sheet1.bin")
        archive.writestr("xl/_rels/workbook.bin.rels", relations)
        archive.writestr("xl/worksheets/sheet1.bin", sheet)
    return stream.getvalue()


def _long(kind: int, content: bytes = b"") -> bytes:
    """A record: its number and its length in groups of seven bits."""
    head = bytes([kind]) if kind < 128 else bytes([kind & 0x7F | 0x80, kind >> 7])
    size, length = len(content), b""
    while True:
        size, low = size >> 7, size & 0x7F
        length += bytes([low | (0x80 if size else 0)])
        if not size:
            return head + length + content


def _wide(text: str) -> bytes:
    return struct.pack("<I", len(text)) + text.encode("utf-16-le")


def xls(
    cells: Cells,
    stray: tuple[int, int] | None = None,
    claimed: tuple[int, int] | None = None,
    sheets: int = 1,
) -> bytes:
    """A workbook of 1997 ([MS-XLS]): a stream of records in a compound file ([MS-CFB]) of 512-byte sectors.

    With one more cell at a row and column, with a reach that it claims, with more sheets of the same.
    """
    start = _short(0x809, struct.pack("<HHHHII", 0x600, 0x05, 0, 0, 0, 0)) + _short(0x42, b"\xb0\x04")
    names = [f"data{number}".encode() if number else b"data" for number in range(sheets)]
    sheet = _old_sheet(cells, stray, claimed)
    where = len(start) + sum(4 + 8 + len(name) for name in names) + 4
    for number, name in enumerate(names):
        told = struct.pack("<IHBB", where + number * len(sheet), 0, len(name), 0) + name
        start += _short(0x85, told)
    stream = start + _short(0x0A) + sheets * sheet
    return _compound(stream.ljust(max(4096, -(-len(stream) // 512) * 512), b"\0"))


def _old_sheet(cells: Cells, stray: tuple[int, int] | None, claimed: tuple[int, int] | None) -> bytes:
    sheet = _short(0x809, struct.pack("<HHHHII", 0x600, 0x10, 0, 0, 0, 0))
    if claimed is not None:
        sheet += _short(0x200, struct.pack("<IIHHH", 0, claimed[0], 0, claimed[1], 0))
    for row, line in enumerate(cells):
        for column, cell in enumerate(line):
            place = struct.pack("<HHH", row, column, 0)
            if isinstance(cell, str):
                text = struct.pack("<HB", len(cell), 1) + cell.encode("utf-16-le")
                sheet += _short(0x204, place + text)
            else:
                sheet += _short(0x203, place + struct.pack("<d", cell))
    if stray is not None:
        sheet += _short(0x203, struct.pack("<HHHd", *stray, 0, 1.0))
    return sheet + _short(0x0A)


def _short(kind: int, content: bytes = b"") -> bytes:
    return struct.pack("<HH", kind, len(content)) + content


def _compound(stream: bytes) -> bytes:
    """One stream "Workbook": header, table of sectors, directory, content."""
    count, free, end = len(stream) // 512, 0xFFFFFFFF, 0xFFFFFFFE
    chain = [0xFFFFFFFD, end, *(place + 3 for place in range(count - 1)), end]
    table = struct.pack("<128I", *chain, *[free] * (128 - len(chain)))
    head = bytes.fromhex("d0cf11e0a1b11ae1") + bytes(16)
    head += struct.pack("<HHHHH", 0x3E, 3, 0xFFFE, 9, 6) + bytes(6)
    head += struct.pack("<9I", 0, 1, 1, 0, 4096, end, 0, end, 0)
    head += struct.pack("<109I", 0, *[free] * 108)
    directory = _entry("Root Entry", 5, 1, end, 0) + _entry("Workbook", 2, free, 2, len(stream))
    return head + table + directory + 2 * _entry("", 0, free, 0, 0) + stream


def _entry(name: str, kind: int, child: int, start: int, size: int) -> bytes:
    letters = (name + "\0").encode("utf-16-le") if name else b""
    entry = letters.ljust(64, b"\0") + struct.pack("<HBB", len(letters), kind, 1)
    return (
        entry
        + struct.pack("<III", 0xFFFFFFFF, 0xFFFFFFFF, child)
        + bytes(36)
        + struct.pack("<IQ", start, size)
    )
