"""A table whose rows are shapes."""

from __future__ import annotations

from pathlib import Path

from scutcher.core.data.axis import Axis
from scutcher.core.errors import FileError
from scutcher.core.models.pca.saved_model import on_axis_of
from scutcher.core.recipes.unmix_settings import Shape
from scutcher.files.formats import read_tables


def read_shapes(path: Path, axis: Axis, resample: bool) -> tuple[Shape, ...]:
    """The rows of a file as shapes over the channels of an axis.

    Raises
    ------
    InputError
        Channels are missing, or values are.
    """
    table, _ = on_axis_of(axis, read_tables([path]), resample)
    if table.has_gaps:
        raise FileError(f"{path.name} has gaps.", "Give every value of a shape.")
    places = tuple(axis.places().tolist())
    return tuple(
        Shape(name=name, places=places, values=tuple(row))
        for name, row in zip(table.ids, table.values.tolist(), strict=True)
    )
