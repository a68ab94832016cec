"""The variables of a table: names, and where they are ordered, their positions, quantity and unit."""

from __future__ import annotations

import hashlib

import numpy as np

from scutcher.core.arrays import Floats, Integers, read_only
from scutcher.core.computed_once import computed_once
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.words import localised


@frozen(eq=False)
class Axis:
    """What the columns of a table are.

    Attributes
    ----------
    labels : tuple of p str
        The header cell of each variable, as found.
    positions : (p,) float array or None
        The place of each channel on an ordered axis, strictly rising or falling, in `unit`;
        None for a table of mixed variables.
    quantity, unit : str
        What the positions are, e.g. "wavelength" and "nm"; empty where nobody has said.
    """

    labels: tuple[str, ...]
    positions: Floats | None = None
    quantity: str = ""
    unit: str = ""

    def __post_init__(self) -> None:
        if self.positions is None:
            return
        positions = np.asarray(self.positions, dtype=np.float64)
        steps = np.diff(positions)
        wrong = np.flatnonzero((steps * np.sign(steps.sum() or 1.0)) <= 0)
        if wrong.size:
            first, second = self.labels[wrong[0]], self.labels[wrong[0] + 1]
            raise TableError(
                f"The axis turns back or repeats itself at {first} → {second} (channel {wrong[0] + 1}).",
                "Put the channels in rising or falling order, each once.",
            )
        object.__setattr__(self, "positions", read_only(positions))

    def __len__(self) -> int:
        return len(self.labels)

    @property
    def ordered(self) -> bool:
        """Whether neighbouring channels are neighbours in nature."""
        return self.positions is not None

    @property
    def title(self) -> str:
        """The axis title with its unit, as `wavelength / nm`."""
        if not self.ordered:
            return "variable"
        quantity = self.quantity or "channel"
        return f"{quantity} / {self.unit}" if self.unit else quantity

    @computed_once
    def fingerprint(self) -> str:
        """A hash of all that it is."""
        made = hashlib.blake2b(digest_size=16)
        for text in (*self.labels, self.quantity, self.unit):
            made.update(f"{len(text)}:{text}".encode())
        made.update(b"" if self.positions is None else self.positions.tobytes())
        return made.hexdigest()

    def places(self) -> Floats:
        """Where each variable is drawn: its position, or 1…p for mixed variables. Shape (p,)."""
        if self.positions is not None:
            return self.positions
        return np.arange(1.0, len(self.labels) + 1.0)

    def name(self, column: int) -> str:
        """A variable as one would say it: `1724 nm`, or its header."""
        if not self.ordered:
            return self.labels[column]
        return f"{localised(self.labels[column])} {self.unit}".rstrip()

    def unit_of(self, column: int) -> str:
        """The unit of a mixed variable, from its header; "" on an ordered axis, whose signal has one unit."""
        return "" if self.ordered else split_unit(self.labels[column])[1]

    @computed_once
    def has_units(self) -> bool:
        """Whether any mixed variable has a unit in its header."""
        return any(self.unit_of(column) for column in range(len(self)))

    def apart(self, order: Integers, part: int, most: int) -> list[int]:
        """The first of an order of columns; on an ordered axis none within 1/part of it of an earlier one."""
        reach = len(self) // part if self.ordered else 0
        kept: list[int] = []
        for column in order.tolist():
            if all(abs(column - other) > reach for other in kept):
                kept.append(column)
            if len(kept) == most:
                break
        return kept

    def polynomials(self, degree: int) -> Floats:
        """Legendre polynomials of degrees 0 to `degree` along the axis brought onto −1…1, (p, degree + 1)."""
        places = self.places()
        middle, reach = (places.max() + places.min()) / 2.0, np.ptp(places) / 2.0 or 1.0
        found: Floats = np.polynomial.legendre.legvander((places - middle) / reach, degree)
        return found

    def take(self, columns: Integers) -> Axis:
        """The axis of some of the variables, in the order given."""
        positions = None if self.positions is None else self.positions[columns]
        labels = tuple(self.labels[column] for column in columns)
        return Axis(labels, positions, self.quantity, self.unit)


CLOSE = 1e-9
"""Share of the channel spacing by which a header may differ from the place that it stands for."""


def headers_of(places: Floats) -> tuple[str, ...]:
    """Headers for channels that were made: ten digits, or as many as make them unique and exact.

    Parameters
    ----------
    places : (p,) float array
        Strictly rising or falling.
    """
    spacing = float(np.abs(np.diff(places)).min(initial=np.inf)) if len(places) > 1 else float("inf")
    for digits in (10, 13, 17):
        labels = tuple(f"{place:.{digits}g}" for place in places.tolist())
        away = np.abs(np.array([float(label) for label in labels]) - places)
        if len(set(labels)) == len(labels) and bool((away <= CLOSE * spacing).all()):
            break
    return labels


def split_unit(header: str) -> tuple[str, str]:
    """Name and unit of a header like `moisture / %`."""
    name, slash, unit = header.partition(" / ")
    return (name.strip(), unit.strip()) if slash else (header, "")
