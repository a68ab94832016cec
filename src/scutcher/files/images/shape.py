"""How an image that does not say it lies in its file: rows, columns, channels, type and order."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen

ORDERS = {"yxc": 2, "ycx": 1, "cyx": 0}
"""Which dimension is that of the channels: pixel by pixel, row by row, or one whole picture after another."""

TYPES = ("float32", "float64", "uint8", "uint16", "uint32", "int8", "int16", "int32")

WORDS = re.compile(
    r"^(?P<rows>\d+)x(?P<columns>\d+)(?:x(?P<channels>\d+))?"
    r"(?::(?P<kind>[a-z]+\d+)(?P<end>-little|-big)?)?(?::(?P<order>[xyc]{3}))?(?:\+(?P<skip>\d+))?$"
)


@frozen
class ImageShape:
    """What is said of an image.

    Attributes
    ----------
    rows, columns : int
        Of one image; 0 where the file says.
    channels : int
        0 where it follows.
    kind : str
        Type of the numbers of a raw file, `float32`.
    big : bool
        Whether the first byte of a number is the largest.
    order : "yxc", "ycx" or "cyx"
    skip : int
        Bytes before the first number.
    """

    rows: int = 0
    columns: int = 0
    channels: int = 0
    kind: str = "float32"
    big: bool = False
    order: str = "yxc"
    skip: int = 0

    @property
    def dtype(self) -> np.dtype[np.generic]:
        """As NumPy has it."""
        return np.dtype(self.kind).newbyteorder(">" if self.big else "<")

    def dimensions(self, path: Path) -> tuple[int, ...]:
        """The sizes in the order of the file.

        Raises
        ------
        FileError
            The channels are not said, or the file has another size.
        """
        if not self.channels:
            raise FileError(
                f"{path.name} is numbers and nothing else: its shape is not known.",
                "Say rows, columns, channels, type and order.",
            )
        wanted = self.rows * self.columns * self.channels * self.dtype.itemsize + self.skip
        have = path.stat().st_size
        if have != wanted:
            raise FileError(
                f"{path.name} has {have:,} bytes; {self.words()} needs {wanted:,}.",
                "The file is cut short, or its shape is another.",
            )
        sizes = {"y": self.rows, "x": self.columns, "c": self.channels}
        return tuple(sizes[letter] for letter in self.order)

    def words(self) -> str:
        """As it is written: `64x96x160:uint16-big:cyx+512`."""
        size = f"{self.rows}x{self.columns}" + (f"x{self.channels}" if self.channels else "")
        end = "-big" if self.big else ""
        return f"{size}:{self.kind}{end}:{self.order}" + (f"+{self.skip}" if self.skip else "")


def shape_of(text: str) -> ImageShape:
    """Understand `ROWSxCOLUMNS`, with `xCHANNELS:TYPE[-big][:ORDER][+BYTES]` for a raw file.

    Raises
    ------
    FileError
        It is not so written.
    """
    found = WORDS.match(text.strip().lower().replace("×", "x"))
    order = found and (found["order"] or "yxc")
    kind = found and (found["kind"] or "float32")
    if found is None or order not in ORDERS or kind not in TYPES:
        raise FileError(
            f"The layout {text!r} is not understood.",
            "Write rows x columns as in 64x96; for a raw file 64x96x160:uint16:yxc "
            f"(types: {', '.join(TYPES)}; orders: {', '.join(ORDERS)}).",
        )
    numbers = {key: int(found[key] or 0) for key in ("rows", "columns", "channels", "skip")}
    if not numbers["rows"] or not numbers["columns"]:
        raise FileError(f"The layout {text!r} has no pixel.", "Write rows x columns as in 64x96.")
    return ImageShape(
        numbers["rows"], numbers["columns"], numbers["channels"], str(kind), found["end"] == "-big",
        str(order), numbers["skip"],
    )  # fmt: skip
