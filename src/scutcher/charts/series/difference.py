"""Two stretches of a series against each other, with a reference laid over their difference."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Rule, Shade, as_keys, nothing
from scutcher.charts.series.picture import WAITS
from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.numeric.background import background_at
from scutcher.core.series.likeness import Reference
from scutcher.core.words import shown
from scutcher.study.evaluation.series import Series


@frozen
class Stretch:
    """Neighbouring spectra of a series, from the first to the last, by place."""

    first: int
    last: int

    @property
    def middle(self) -> float:
        """Its place."""
        return 0.5 * (self.first + self.last)

    @property
    def count(self) -> int:
        """How many spectra it has."""
        return self.last - self.first + 1

    def within(self, count: int) -> Stretch:
        """The stretch moved into a series of so many spectra."""
        width = min(self.count, count)
        first = min(max(self.first, 0), count - width)
        return Stretch(first, first + width - 1)

    def mean(self, series: Series) -> Floats:
        """Of its spectra, (p,)."""
        found: Floats = series.values[self.first : self.last + 1].mean(axis=0)
        return found

    def position(self, series: Series) -> float:
        """The mean of its positions."""
        return float(series.positions[self.first : self.last + 1].mean())

    def said(self, series: Series) -> str:
        """`4 min`, or `0–8 min`."""
        ends = [shown(series.positions[at], ".6g") for at in (self.first, self.last)]
        words = ends[0] if self.first == self.last else "–".join(ends)
        return f"{words} {series.order.unit}".strip()

    def ids(self, series: Series) -> tuple[str, ...]:
        """Of its samples."""
        return tuple(series.ids[self.first : self.last + 1])


@frozen(eq=False)
class Compared:
    """A difference and a reference, both without background, on the channels that are compared.

    Attributes
    ----------
    likeness : float
        Their cosine, −1 to 1; NaN where there is nothing to compare.
    laid_over : (p,) float array or None
        The reference times what fits best, with the difference's background; NaN where it does not reach.
    """

    likeness: float
    laid_over: Floats | None


def compared(
    series: Series, a: Stretch, b: Stretch, reference: Reference | None, degree: int, kept: tuple[float, ...]
) -> Compared:
    """How like the difference of two stretches is to a reference, as it stands."""
    if reference is None:
        return Compared(float("nan"), None)
    places, difference = series.places, a.mean(series) - b.mean(series)
    inside = (places >= reference.axis[0] - 1e-9) & (places <= reference.axis[-1] + 1e-9)
    used = inside & np.isin(places, kept) if len(kept) else inside
    if used.sum() < degree + 3:
        return Compared(float("nan"), None)
    shape = np.full(len(places), np.nan)
    shape[inside] = reference.at(places[inside])
    base = background_at(places[used], degree)
    own = difference[used] - base @ (base.T @ difference[used])
    wanted = shape[used] - base @ (base.T @ shape[used])
    lengths = float(np.linalg.norm(own)), float(np.linalg.norm(wanted))
    if not (lengths[0] > 0.0 and lengths[1] > 1e-12 * float(np.abs(shape[used]).max() or 1.0)):
        return Compared(float("nan"), None)
    product = float(own @ wanted)
    scale = product / lengths[1] ** 2
    rest = difference[used] - scale * shape[used]
    over = np.full(len(places), np.nan)
    over[used] = scale * shape[used] + base @ (base.T @ rest)
    return Compared(product / (lengths[0] * lengths[1]), over)


def difference(
    series: Series | None,
    a: Stretch,
    b: Stretch,
    reference: tuple[str, Reference] | None,
    degree: int,
    kept: tuple[float, ...],
    overlay: bool = False,
    signed: bool = False,
) -> Chart:
    """a less b with the reference laid over; or the two spectra."""
    if series is None:
        return nothing("a − b", WAITS)
    axis = series.found.treated.axis
    means = np.array([a.mean(series), b.mean(series)])
    words = f"{a.said(series)} less {b.said(series)}"
    own = compared(series, a, b, None if reference is None else reference[1], degree, kept)
    curves: tuple[Curve, ...] = ()
    if not overlay and own.laid_over is not None and reference is not None:
        curves = (Curve(series.places, own.laid_over, "other", width=1.8, dashes=True, behind=False),)
        words += f"; dashed: {reference[0]}, scaled"
    if np.isfinite(own.likeness):
        words = f"likeness {shown(own.likeness if signed else abs(own.likeness), '.3f')}: {words}".replace(
            "-", "−"
        )
    shade = None
    if len(kept):
        left_out = (~np.isin(series.places, kept)).astype(np.float64)
        shade = Shade(series.places, 0.5 * left_out, np.full(len(series.places), -1, dtype=np.intp))
    count = 2 if overlay else 1
    lines = Lines(
        series.places,
        means if overlay else means[:1] - means[1:],
        as_keys(range(count)),
        as_keys(range(count)),
        ("a", "b") if overlay else ("a − b",),
        role="component",
    )
    return Chart(
        title="a and b" if overlay else "a − b",
        note=words,
        x_title=axis.title,
        y_title=series.value_title,
        lines=lines,
        curves=curves,
        rules=() if overlay else (Rule(0.0),),
        shade=shade,
        bars=not axis.ordered,
        tick_names=() if axis.ordered else axis.labels,
    )
