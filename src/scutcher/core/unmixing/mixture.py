"""Spectra as mixtures of shapes: given ones, found ones or both, with amounts and what is left over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.distances.limits import Limit
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.order_structure import OrderStructure, leading_structure
from scutcher.core.progress import Watch
from scutcher.core.recipes.unmix_settings import Shape, UnmixSettings
from scutcher.core.series.likeness import Reference
from scutcher.core.unmixing.alternating import Demands, Unmixed, unmix
from scutcher.core.unmixing.left_open import LeftOpen, left_open
from scutcher.core.unmixing.leftover_limit import leftover_limit
from scutcher.core.unmixing.local_rank import absent_by_windows, in_order_of_appearance
from scutcher.core.unmixing.purest import purest_start
from scutcher.core.unmixing.shape_sums import PAST, ShapeSums, shape_sums
from scutcher.core.unmixing.turning import at_largest_one

SURE = 1.959963984540054
"""Standard errors to each side of a 95 % band."""


@frozen(eq=False)
class Mixture:
    """Amounts of q shapes in n spectra.

    Attributes
    ----------
    names : tuple of q str
    shapes : (q, p) float array
        In the unit of the spectra; found ones at largest value one.
    amounts, low, high : (n, q) float arrays
        With 95 % bands of given shapes, or how far the amounts of found ones could turn.
    residuals : (n, p) float array
    misfit : (n,) float array
        Share of each spectrum's length that is left over.
    q : (n,) float array
        Sums of squares left over; divided by 1 + Σ c²/m of shapes that are means of m of these spectra,
        whose noise is in them.
    q_limit : Limit
        What noise leaves over: see `leftover_limit`.
    leftover : OrderStructure or None
        Of what is left over along the order; of shapes that are means of these spectra, of what their best
        versions leave over: their noise would be taken for another shape.
    sums : ShapeSums or None
        Of given shapes.
    found, opened : Unmixed or None, LeftOpen or None
        Of shapes that were found.
    means_of : tuple of int
        How many noisy spectra each shape is the mean of; 0 for a shape without noise.
    """

    names: tuple[str, ...]
    shapes: Floats
    amounts: Floats
    low: Floats
    high: Floats
    residuals: Floats
    misfit: Floats
    q: Floats
    q_limit: Limit
    leftover: OrderStructure | None
    sums: ShapeSums | None = None
    found: Unmixed | None = None
    opened: LeftOpen | None = None
    means_of: tuple[int, ...] = ()

    @property
    def another_is_needed(self) -> bool:
        """Whether what is left over goes along the order more smoothly than chance does in 99 of 100 sets."""
        return self.leftover is not None and self.leftover.z > PAST


def shape_values(shape: Shape, table: Table) -> tuple[Floats, int]:
    """A shape on the channels of a treated table, (p,), and how many noisy spectra it is the mean of.

    Raises
    ------
    ModelError
        It names samples that are not there, or does not cover the channels.
    """
    if shape.samples or shape.less:
        place = {name: row for row, name in enumerate(table.ids)}
        missing = [name for name in (*shape.samples, *shape.less) if name not in place]
        if missing:
            raise ModelError(
                f"The shape {shape.name} is a mean with the sample {missing[0]}, which is not in the model.",
                "Take the sample into the model again, or take another shape.",
            )
        parts = [np.zeros(table.shape[1])] * 2
        for at, names in enumerate((shape.samples, shape.less)):
            if names:
                parts[at] = table.values[[place[name] for name in names]].mean(axis=0)
        count = min((len(names) for names in (shape.samples, shape.less) if names), default=0)
        return parts[0] - parts[1], count
    if len(shape.places) != len(shape.values) or len(shape.values) < 2:
        raise ModelError(
            f"The shape {shape.name} has {len(shape.places)} places and {len(shape.values)} values.",
            "Give as many values as places, two or more.",
        )
    order = np.argsort(shape.places)
    places, values = np.array(shape.places)[order], np.array(shape.values)[order]
    if not table.axis.ordered:
        if len(values) != table.shape[1]:
            raise ModelError(
                f"The shape {shape.name} has {len(values)} values, the data {table.shape[1]} variables.",
                "Give a value for each variable.",
            )
        return values, 0
    if not (np.diff(places) > 0.0).all():
        raise ModelError(f"The shape {shape.name} names a place twice.", "Give each place once.")
    own = table.axis.places()
    if len(places) == len(own) and np.allclose(places, np.sort(own), rtol=1e-9):
        return (values if own[0] < own[-1] else values[::-1]), 0
    return Reference(places, values).at(own), 0


def mixture(
    table: Table, settings: UnmixSettings, order: Integers | None = None, watch: Watch | None = None
) -> Mixture:
    """What the settings ask for.

    Parameters
    ----------
    table : Table
        Treated, without gaps, not centred.
    order : (n,) int array, optional
        Rows in the order of their positions; else as they are. An empty one: there is no order.

    Raises
    ------
    ModelError
        Shapes that are not there or cannot be told apart, data that cannot be unmixed.
    """
    if table.has_gaps:
        raise ModelError(f"{table.name} has gaps.", "Fill them or leave those spectra out.")
    rows = np.arange(table.shape[0]) if order is None or not len(order) else order
    back, ordered = np.argsort(rows), order is None or len(order) > 0
    values = table.values[rows]
    given = [shape_values(shape, table) for shape in settings.shapes]
    names = tuple(shape.name for shape in settings.shapes)
    if settings.number is None:
        if not given:
            raise ModelError("No shape was chosen and no number given.", "Choose shapes or a number.")
        found = _of_given(values, names, given, settings, ordered)
    else:
        try:
            found = _of_found(values, names, given, settings, ordered, watch)
        except np.linalg.LinAlgError as error:
            raise ModelError(
                "Shapes that cannot be told apart came out.", "Ask for fewer shapes, or give other ones."
            ) from error
    return replace(
        found,
        amounts=found.amounts[back],
        low=found.low[back],
        high=found.high[back],
        residuals=found.residuals[back],
        misfit=found.misfit[back],
        q=found.q[back],
    )


def _of_given(
    values: Floats, names: Sequence[str], given: list[tuple[Floats, int]], how: UnmixSettings, ordered: bool
) -> Mixture:
    shapes = np.array([line for line, _ in given])
    own = shape_sums(values, shapes, how.rule, how.background, ordered)
    means_of = tuple(count for _, count in given)
    grown = noise_of_shapes(own.amounts, means_of)
    low, high = bands_of(own, grown)
    rest = own.residuals
    if any(means_of):  # what better versions of these shapes would take up says nothing of another one
        rest = rest - own.amounts @ np.linalg.lstsq(own.amounts, rest, rcond=None)[0]
    return Mixture(
        names=tuple(names),
        shapes=shapes,
        amounts=own.amounts,
        low=low,
        high=high,
        residuals=own.residuals,
        misfit=own.misfit,
        q=np.einsum("ij,ij->i", own.residuals, own.residuals) / grown**2,
        q_limit=leftover_limit(rest, ordered),
        leftover=leading_structure(rest) if ordered else None,
        sums=own,
        means_of=means_of,
    )


def noise_of_shapes(amounts: Floats, means_of: Sequence[int]) -> Floats:
    """How many times as noisy a fit is as with shapes without noise, (n,): √(1 + Σ c²/m)."""
    parts = np.array([1.0 / count if count else 0.0 for count in means_of])
    found: Floats = np.sqrt(1.0 + (amounts**2) @ parts) if len(parts) else np.ones(len(amounts))
    return found


def bands_of(sums: ShapeSums, grown: Floats) -> tuple[Floats, Floats]:
    """The ends of the 95 % bands of amounts, (n, q) each; at a bound from zero up."""
    wide = SURE * grown[:, np.newaxis] * np.nan_to_num(np.where(sums.at_bound, sums.bounds, sums.errors))
    low: Floats = np.where(sums.at_bound, 0.0, sums.amounts - wide)
    high: Floats = sums.amounts + wide
    return low, high


def _of_found(
    values: Floats,
    names: Sequence[str],
    given: list[tuple[Floats, int]],
    how: UnmixSettings,
    ordered: bool,
    watch: Watch | None,
) -> Mixture:
    if how.rule == "free":
        raise ModelError("Shapes cannot be found with free amounts.", "Choose not-negative or sum-to-one.")
    assert how.number is not None
    known = np.array([line for line, _ in given]) if given else None
    demands = Demands(how.rule, how.humps, known)
    start = purest_start(values, how.number) if how.start == "purest" else None
    found = unmix(values, how.number, demands, start, watch)
    if how.windows and ordered and not given and found.state != "collapsed":
        order = in_order_of_appearance(found.amounts)
        demands = Demands(how.rule, how.humps, None, absent_by_windows(values, how.number))
        found = unmix(values, how.number, demands, found.shapes[order], watch)
    if found.state == "collapsed":
        fewer = f"Ask for {how.number - 1}." if how.number > 2 else "Give the shapes."
        raise ModelError(f"{how.number} shapes are too many: {found.said}.", fewer)
    opened = left_open(values, found, demands, watch=watch)
    amounts, shapes = at_largest_one(found)
    residuals = values - amounts @ shapes
    size, left = np.linalg.norm(values, axis=1), np.linalg.norm(residuals, axis=1)
    misfit = np.divide(left, size, out=np.zeros(len(values)), where=size > 0.0)
    called = (*names, *(f"shape {place + 1}" for place in range(len(names), how.number)))
    return Mixture(
        names=called,
        shapes=shapes,
        amounts=amounts,
        low=opened.amounts_low,
        high=opened.amounts_high,
        residuals=residuals,
        misfit=misfit,
        q=left**2,
        q_limit=leftover_limit(residuals, ordered),
        leftover=leading_structure(residuals) if ordered else None,
        found=found,
        opened=opened,
    )
