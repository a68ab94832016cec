"""Class models against each other: who is accepted by which, and which variables tell them apart.

References
----------
Wold, Pattern Recognition 8 (1976) 127–139 (disjoint component models).
"""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.frozen import frozen

UNKNOWN = -1


@frozen(eq=False)
class Acceptance:
    """Which of c class models accept each of n samples.

    Attributes
    ----------
    ratios : (n, c) float array
        Joint distance over the model's limit; own samples held out. NaN where there is none.
    codes : (n,) int array
        The model of each sample's own class, −1 where it has none.
    """

    ratios: Floats
    codes: Integers

    @property
    def inside(self) -> Booleans:
        """Within the limit, (n, c)."""
        with np.errstate(invalid="ignore"):
            return np.asarray(self.ratios <= 1.0, dtype=bool)

    @property
    def counts(self) -> Integers:
        """How many models accept each sample, (n,)."""
        found: Integers = self.inside.sum(axis=1)
        return found

    @property
    def known(self) -> Booleans:
        """Which samples have a distance to any model, (n,)."""
        return np.asarray(np.isfinite(self.ratios).any(axis=1), dtype=bool)

    @property
    def nearest(self) -> Integers:
        """The model that each sample is nearest to by its limit, (n,); −1 where it has no distances."""
        found: Integers = np.where(np.isnan(self.ratios), np.inf, self.ratios).argmin(axis=1)
        found[~self.known] = UNKNOWN
        return found

    def table(self) -> Floats:
        """Share of the samples of each class (rows) that each model (columns) accepts, (c, c).

        On the diagonal the sensitivity; elsewhere one less the specificity of the column against the row.
        """
        c = self.ratios.shape[1]
        shares = np.full((c, c), np.nan)
        for code in range(c):
            own = (self.codes == code) & self.known
            if own.any():
                shares[code] = self.inside[own].mean(axis=0)
        return shares

    def numbers(self) -> tuple[Integers, Integers]:
        """How many samples of each class are accepted by each model, (c, c), and of how many, (c,)."""
        c = self.ratios.shape[1]
        counts, sizes = np.zeros((c, c), dtype=np.intp), np.zeros(c, dtype=np.intp)
        for code in range(c):
            own = (self.codes == code) & self.known
            counts[code], sizes[code] = self.inside[own].sum(axis=0), own.sum()
        return counts, sizes

    def verdicts(self) -> tuple[int, int, int, int]:
        """How many samples belong to one class, to several, to none; and of those to one, to another's."""
        counts, known = self.counts, self.known
        one = known & (counts == 1)
        other = one & (self.codes >= 0) & (self.inside.argmax(axis=1) != self.codes)
        several, none = known & (counts > 1), known & (counts == 0)
        return int(one.sum()), int(several.sum()), int(none.sum()), int(other.sum())


def modelling_power(residuals: Floats, z: Floats) -> Floats:
    """`1 − s_ej / s_zj` of each variable, (p,): 1 where the model rebuilds it, 0 where it says nothing.

    Parameters
    ----------
    residuals, z : (n, p) float arrays
        Of the class's own samples on its model, and what the model sees of them; root mean squares of both.
        NaN where nothing varies.
    """
    left, whole = (np.sqrt((values**2).mean(axis=0)) for values in (residuals, z))
    power = np.full(len(whole), np.nan)
    np.divide(left, whole, out=power, where=whole > 0.0)
    return 1.0 - power


def discriminating_power(
    one_on_one: Floats, two_on_two: Floats, one_on_two: Floats, two_on_one: Floats
) -> Floats:
    """How much better each variable fits the own class than the other, (p,); 1 where it says nothing.

    `√((s²(A on B) + s²(B on A)) / (s²(A on A) + s²(B on B)))` with mean squared residuals, all in one unit.

    Parameters
    ----------
    one_on_one … : (m, p) float arrays
        Residuals of samples of one class on the model of another.
    """
    squares = [(values**2).mean(axis=0) for values in (one_on_one, two_on_two, one_on_two, two_on_one)]
    own, other = squares[0] + squares[1], squares[2] + squares[3]
    power = np.full(len(own), np.nan)
    np.divide(other, own, out=power, where=own > 0.0)
    found: Floats = np.sqrt(power)
    return found
