"""What a solution leaves open: the range of shapes and amounts that explain the data as well."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch
from scutcher.core.unmixing.alternating import PLAIN, Demands, Unmixed
from scutcher.core.unmixing.three_shapes import three_range
from scutcher.core.unmixing.turning import STARTS, at_largest_one, turned
from scutcher.core.unmixing.two_shapes import two_range
from scutcher.core.words import shown

WIDE = 0.1
"""Mean width above which a shape is not determined."""


@frozen(eq=False)
class LeftOpen:
    """The smallest and largest of shapes and amounts, in the order of the solution.

    Attributes
    ----------
    low, high : (q, p) float arrays
        Of the shapes, at largest value one.
    amounts_low, amounts_high : (n, q) float arrays
        Of the amounts of shapes so scaled.
    widths : (q,) float array
        Mean over the channels of high less low.
    exact : bool
        Whether it is the whole range; else only what was reached: a lower bound.
    said : str
        How it was found.
    """

    low: Floats
    high: Floats
    amounts_low: Floats
    amounts_high: Floats
    widths: Floats
    exact: bool
    said: str

    @property
    def width(self) -> float:
        """Of the widest shape."""
        return float(self.widths.max())

    @property
    def determined(self) -> bool:
        """Whether every shape is known to within a tenth of its height; never said of a lower bound."""
        return self.exact and self.width <= WIDE


def left_open(
    spectra: Floats,
    found: Unmixed,
    demands: Demands = PLAIN,
    starts: int = STARTS,
    watch: Watch | None = None,
) -> LeftOpen:
    """The exact range of two or three shapes that only must not be negative; else what many starts reach.

    Parameters
    ----------
    spectra : (n, p) float array
    found : Unmixed
        The solution.
    demands : Demands
        Under which it was found.
    """
    amounts, shapes = at_largest_one(found)
    plain = demands.rule == "not-negative" and not demands.humps
    plain = plain and demands.known is None and demands.absent is None
    if plain and len(shapes) == 2:
        two = two_range(spectra)
        middle = 0.5 * (two.low + two.high)
        away = np.linalg.norm(shapes[0] - middle, axis=1)
        order = [1, 0] if away[1] < away[0] else [0, 1]
        bands = two.low[order], two.high[order], two.amounts_low[:, order], two.amounts_high[:, order]
        return _with_solution(bands, shapes, amounts, True, "exact, by Lawton and Sylvestre")
    if plain and len(shapes) == 3:
        three = three_range(spectra, shapes)
        if three is not None:
            own = three.low, three.high, three.amounts_low, three.amounts_high
            said = "exact, by Borgen and Kowalski"
            if three.lenient:
                said += f", shapes down to −{shown(three.lenient)} of the first direction allowed for noise"
            return _with_solution(own, shapes, amounts, True, said)
    many = turned(spectra, found, demands, starts=starts, watch=watch)
    said = f"a lower bound: {many.as_good} of {starts} other starts ended as well"
    if plain and len(shapes) == 3:
        said = "noise forbids the exact range; " + said
    reached = many.low, many.high, many.amounts_low, many.amounts_high
    return _with_solution(reached, shapes, amounts, False, said)


def _with_solution(
    bands: tuple[Floats, Floats, Floats, Floats], shapes: Floats, amounts: Floats, exact: bool, said: str
) -> LeftOpen:
    """Bands that hold the solution itself, whatever rounding did."""
    low, high = np.minimum(bands[0], shapes), np.maximum(bands[1], shapes)
    widths: Floats = (high - low).mean(axis=1)
    less, more = np.minimum(bands[2], amounts), np.maximum(bands[3], amounts)
    return LeftOpen(low, high, less, more, widths, exact, said)
