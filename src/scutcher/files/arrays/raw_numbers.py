"""Numbers and nothing else: an image whose shape a person says."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files.arrays.choosing import table_of_arrays
from scutcher.files.arrays.in_file import InFile
from scutcher.files.arrays.stored import Stored
from scutcher.files.columns import Roles
from scutcher.files.images.shape import shape_of
from scutcher.files.layout.reading import Reading
from scutcher.files.safely import reading

SUFFIXES = (".raw", ".bin", ".img")

DIMENSIONS = {"y": "row", "x": "column", "c": "channel"}


def read_raw(path: Path, roles: Roles | None = None) -> Table:
    """A sample for each pixel, with its row and column.

    Raises
    ------
    FileError
        Nobody said the shape, or the file has another size.
    """
    said = (roles or Roles()).reading.image
    if not said:
        raise FileError(
            f"{path.name} is numbers and nothing else: its shape is not known.",
            "Say rows, columns, channels, type and order, as 64x96x160:uint16:yxc.",
        )
    shape = shape_of(said)
    with reading(path):
        array = InFile(path, shape.dtype, shape.dimensions(path), shape.skip)
    dims = tuple(DIMENSIONS[letter] for letter in shape.order)
    found = table_of_arrays([Stored(path.stem, array, "", dims)], path, roles or Roles())
    origin = replace(found.origin, words=said, reading=Reading(image=said).pairs())
    return leave_out_empty(replace(found, origin=origin))


def sizes_in_words(path: Path) -> str:
    """What can be known of such a file: how many numbers of which width it holds."""
    with reading(path):
        size = path.stat().st_size
    widths = {1: "1 byte", 2: "2 bytes", 4: "4 bytes", 8: "8 bytes"}
    counts = [f"{size // width:,} numbers of {words}" for width, words in widths.items() if size % width == 0]
    return "\n".join([f"{size:,} bytes, which are", *counts, "Say their shape above."])
