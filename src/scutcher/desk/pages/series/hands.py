"""Where the hands are on a series: a, b, the reference, and how pairs are compared."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.charts.series.difference import Stretch
from scutcher.core.errors import InputError, ModelError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.unmix_settings import Shape
from scutcher.core.series.likeness import Reference, drawn_peak
from scutcher.core.unmixing.mixture import shape_values
from scutcher.study.evaluation.series import Series

WIDE = 3
"""Spectra of a stretch at first."""

FEW = 12
"""Spectra below which a stretch is a single one at first."""


@frozen
class Wanted:
    """What a difference should look like.

    Attributes
    ----------
    kind : "loading", "shape", "samples", "peak" or "file"
    name : str
    component : int
        Of a loading, from 0.
    shape : Shape or None
        Of all others but a peak.
    peak : (centre, sd)
        In axis units.
    """

    kind: str = "loading"
    name: str = "loading 1"
    component: int = 0
    shape: Shape | None = None
    peak: tuple[float, float] = (0.0, 1.0)


FIRST, LOADING = Stretch(0, 0), Wanted()


@frozen(eq=False)
class Hands:
    """Changed only by `replace`.

    Attributes
    ----------
    a, b : Stretch
    wanted : Wanted
    degree, shift, signed, stretch : int, float, bool, int
        Of the comparison of pairs: see `search_of`.
    all_components : bool
        Whether pairs are compared as they are, not rebuilt from the components that go along the order.
    kept : tuple of float
        Channels that are compared; empty for all.
    code : int
        Which series.
    """

    a: Stretch = FIRST
    b: Stretch = FIRST
    wanted: Wanted = LOADING
    degree: int = 1
    shift: float = 0.0
    signed: bool = False
    stretch: int = 1
    all_components: bool = False
    kept: tuple[float, ...] = ()
    code: int = 0

    def at(self, which: int) -> Stretch:
        """The stretch of a (0) or b (1)."""
        return (self.a, self.b)[which]

    def put(self, which: int, stretch: Stretch) -> Hands:
        """a (0) or b (1) elsewhere."""
        return replace(self, a=stretch) if which == 0 else replace(self, b=stretch)


def first_hands(series: Series, code: int) -> Hands:
    """The first spectra and the last."""
    n = len(series.rows)
    width = 1 if n < FEW else WIDE
    degree = 1 if series.found.treated.axis.ordered else -1
    return Hands(Stretch(0, width - 1), Stretch(n - width, n - 1), degree=degree, code=code)


def within(hands: Hands, series: Series) -> Hands:
    """The hands on a series that may have fewer spectra or channels now."""
    n = len(series.rows)
    kept = tuple(place for place in hands.kept if place in series.places)
    return replace(hands, a=hands.a.within(n), b=hands.b.within(n), kept=kept)


def reference_of(series: Series, wanted: Wanted) -> Reference:
    """The values of a reference on the channels of a series, rising.

    Raises
    ------
    InputError
        It cannot be had of these data.
    """
    places = series.places
    rising = places[0] <= places[-1]
    axis = places if rising else places[::-1]
    if wanted.kind == "peak":
        return drawn_peak(axis, *wanted.peak)
    if wanted.kind == "loading":
        loadings = series.components.loadings
        if wanted.component >= len(series.components.verdicts):
            raise ModelError(f"There is no component {wanted.component + 1}.", "Choose another reference.")
        values = loadings[wanted.component]
    else:
        if wanted.shape is None:
            raise InputError("The reference is empty.", "Choose another.")
        if wanted.shape.places and series.found.treated.axis.ordered:
            order = np.argsort(wanted.shape.places)
            own = np.array(wanted.shape.places)[order], np.array(wanted.shape.values)[order]
            return Reference(*own)
        values, _ = shape_values(wanted.shape, series.found.treated)
    return Reference(axis, values if rising else values[::-1])
