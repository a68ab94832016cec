"""Which stored vector is the axis of the channels, by its name and by what stands in it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import in_strict_order
from scutcher.core.data.axis import Axis, split_unit
from scutcher.files.arrays.stored import Stored
from scutcher.files.layout.headers import QUANTITIES, unit_named


def channel_dimension(stored: Stored, vectors: Sequence[Stored]) -> int:
    """Which of three dimensions holds the channels: the one with an axis, else the last."""
    shape = stored.values.shape
    if stored.dims:
        named = [place for place, dim in enumerate(stored.dims) if word_sounds(dim)]
        if len(named) == 1:
            return named[0]
    places = [
        place
        for place in range(3)
        if any(v.values.size == shape[place] and v.is_number and sounds_like_axis(v) for v in vectors)
    ]
    return places[-1] if places else 2


AXIS_WORDS = (
    "axis",
    "wave",
    "shift",
    "freq",
    "channel",
    "time",
    "nm",
    "mz",
    "m/z",
    "ppm",
    "lambda",
    "energy",
    "theta",
)


def axis_of_cube(stored: Stored, arrays: Sequence[Stored], channels: int | None) -> tuple[int, Stored | None]:
    """Which dimension holds the channels, where nobody said, and the vector that is their axis, if any."""
    vectors = [v for v in arrays if v.is_vector and v.group in (stored.group, "")]
    place = channel_dimension(stored, vectors) if channels is None else channels
    size = stored.values.shape[place]
    named = stored.dims[place : place + 1]
    fitting = [v for v in vectors if v.values.size == size and (not v.dims or not named or v.dims == named)]
    return place, axis_of(fitting)


def axis_of_vector(axis: Stored | None, p: int) -> Axis:
    """The axis that a vector is, with its quantity and unit; 1…p where there is none."""
    places = np.arange(1.0, p + 1.0) if axis is None else np.ravel(axis.values).astype(np.float64)
    labels = tuple(f"{place:.17g}" if axis else str(int(place)) for place in places)
    quantity, unit = split_unit(axis.header if axis else "")
    if not unit and unit_named(quantity):
        quantity, unit = unit_named(quantity) or ("", "")
    known = unit_named(unit) if unit else None
    named = "" if quantity.lower() in ("axis", "x") else quantity
    return Axis(labels, places, named, known[1] if known and known[1] else unit)


def only_counts(values: np.ndarray, name: str) -> bool:
    """Whether a vector is the mere numbers of the rows."""
    counts = np.arange(len(values))
    return name.lower() in ("sample", "index", "row", "n", "samples", "obs", "no") and bool(
        (values == counts).all() or (values == counts + 1).all()
    )


def axis_of(vectors: Sequence[Stored], dim: str = "") -> Stored | None:
    """Of some vectors the one that is an axis: it rises or falls strictly."""
    found = [
        vector
        for vector in vectors
        if len(vector.values) > 1 and vector.is_number and in_strict_order(vector.values.astype(np.float64))
    ]
    found.sort(key=lambda vector: (not sounds_like_axis(vector), vector.name != dim))
    return found[0] if found else None


def sounds_like_axis(vector: Stored) -> bool:
    """Whether a vector is an axis by its name or its unit."""
    return word_sounds(vector.name.partition(" / ")[0]) or (
        unit_named(vector.unit) is not None
        and vector.unit.lower() in ("nm", "cm-1", "1/cm", "um", "m/z", "ev")
    )


def word_sounds(name: str) -> bool:
    """Whether a name is that of an axis."""
    bare = name.lower()
    return bare in ("x", "wl", "wn", "axis") or any(
        word in bare for word in (*AXIS_WORDS, *(q[0] for q in QUANTITIES if len(q[0]) > 4))
    )
