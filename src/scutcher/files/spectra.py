"""Single spectra, each with its own axis, as one table where the axes agree."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats, in_strict_order
from scutcher.core.data.axis import Axis, headers_of, split_unit
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.resampling import common_axis, resampled
from scutcher.core.data.table import Table
from scutcher.core.errors import AxesDiffer, FileError
from scutcher.core.frozen import frozen
from scutcher.files.columns import number_of

SAME_PLACE = 1e-9
"""Axes agree where their places differ by less than this share of the channel spacing."""


@frozen(eq=False)
class Spectrum:
    """One spectrum as found: x and y (p,), what they are, what it is called, what is said
    of reading it, and classes and properties as ("CLASS name", text)."""

    name: str
    x: Floats
    y: Floats
    quantity: str = ""
    unit: str = ""
    signal: str = "signal"
    remarks: tuple[str, ...] = ()
    told: tuple[tuple[str, str], ...] = ()


def table_of(spectra: Sequence[Spectrum], name: str, resample: bool = False) -> Table:
    """Stack spectra as samples.

    Parameters
    ----------
    spectra : at least one
    name : what to call the table
    resample : whether different axes are brought onto their common channels

    Raises
    ------
    FileError
        There is none, or two of them have different axes; the message gives both axes' figures.
    """
    if not spectra:
        raise FileError(f"{name} holds no spectrum.", "Choose another file.")
    if resample:
        onto = common_axis([spectrum.x for spectrum in spectra])
        spectra = [replace(s, x=onto, y=resampled(s.y[np.newaxis], s.x, onto)[0]) for s in spectra]
    first = spectra[0]
    for other in spectra[1:]:
        if not _same_axis(first, other):
            raise AxesDiffer(
                f"The axes differ: {_figures(first)}; {_figures(other)}.",
                "Resample one of them to the other's channels; nothing was imported.",
            )
    order = np.argsort(first.x, kind="stable") if not in_strict_order(first.x) else np.arange(len(first.x))
    x = first.x[order]
    if not in_strict_order(x):
        place = int(np.flatnonzero(np.diff(x) == 0)[0])
        raise FileError(
            f"The spectrum {first.name} has {x[place]:g} twice on its axis.",
            "Keep each channel once; nothing was imported.",
        )
    return Table(
        values=np.array([spectrum.y[order] for spectrum in spectra]),
        axis=Axis(headers_of(x), x, first.quantity, first.unit),
        ids=unique_names([spectrum.name for spectrum in spectra]),
        name=name,
        classes=tuple(_told(spectra, "CLASS ", _class)),
        properties=tuple(_told(spectra, "PROPERTY ", _property)),
        signal=first.signal,
    )


def _told(spectra: Sequence[Spectrum], kind: str, make: Callable[[str, list[str]], Any]) -> list[Any]:
    """The columns that the spectra themselves tell."""
    every = [dict(spectrum.told) for spectrum in spectra]
    labels = dict.fromkeys(label for told in every for label in told if label.startswith(kind))
    return [make(label.removeprefix(kind), [told.get(label, "") for told in every]) for label in labels]


def _class(name: str, values: list[str]) -> ClassColumn:
    return ClassColumn(name, tuple(values))


def _property(name: str, values: list[str]) -> PropertyColumn:
    label, unit = split_unit(name)
    numbers = [number_of(value) for value in values]
    return PropertyColumn(label, np.array([np.nan if n is None else n for n in numbers]), unit)


def unique_names(names: Sequence[str]) -> tuple[str, ...]:
    """Names as they are; the second of the same name gets ` (2)`, and an empty one a number."""
    taken: set[str] = set()
    found = []
    for place, given in enumerate(names):
        name, number = given.strip() or str(place + 1), 1
        free = name
        while free in taken:
            number += 1
            free = f"{name} ({number})"
        taken.add(free)
        found.append(free)
    return tuple(found)


def _same_axis(a: Spectrum, b: Spectrum) -> bool:
    if a.x.shape != b.x.shape or a.unit != b.unit:
        return False
    spacing = np.ptp(a.x) / max(len(a.x) - 1, 1) or 1.0
    return bool(np.abs(a.x - b.x).max(initial=0.0) <= SAME_PLACE * spacing)


def _figures(spectrum: Spectrum) -> str:
    x = spectrum.x
    unit = f" {spectrum.unit}" if spectrum.unit else ""
    return f"{spectrum.name} has {len(x)} channels from {x[0]:g} to {x[-1]:g}{unit}"
