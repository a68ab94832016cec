"""How the samples of a table lie to each other: not at all, as pixels of images, or along a series."""

from __future__ import annotations

import msgspec


class NoLayout(msgspec.Struct, frozen=True, tag_field="kind", tag="none"):
    """Samples stand for themselves."""


class GridLayout(msgspec.Struct, frozen=True, tag_field="kind", tag="grid"):
    """Samples are pixels, row by row, image after image.

    Attributes
    ----------
    rows, columns : int
        Of one image; the table has a multiple of rows × columns samples.
    pixel : float
        Side of a pixel in `unit`; 0 where it is not known.
    unit : str
    """

    rows: int
    columns: int
    pixel: float = 0.0
    unit: str = ""


class SeriesLayout(msgspec.Struct, frozen=True, tag_field="kind", tag="series"):
    """Samples follow each other.

    Attributes
    ----------
    position : str
        The property that says where (time, depth, temperature); "" for the order itself.
    series : str
        The class column that tells several series apart; "" for one.
    """

    position: str = ""
    series: str = ""


Layout = NoLayout | GridLayout | SeriesLayout
