"""Each spectrum as a sum of chosen shapes over a background: amounts, how sure they are, what is left."""

from __future__ import annotations

from functools import cache
from itertools import combinations
from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.computed_once import computed_once
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.background import background
from scutcher.core.numeric.order_structure import OrderStructure, leading_structure
from scutcher.core.numeric.row_kinds import kinds_of_rows
from scutcher.core.unmixing.noise_correlation import NoiseCorrelation, noise_correlation

MOST, ALIKE, PAST = 10, 1e-10, 2.326
"""Shapes at most; what the smallest eigenvalue of their angles must reach; z above which one is missing."""

NOTHING = 1e-10
"""Share of a shape that must be left of it beside the background."""

AT_ONCE = 1 << 20
"""Amounts that are tried at a time."""

Rule = Literal["free", "not-negative", "sum-to-one"]


@frozen(eq=False)
class ShapeSums:
    """Amounts of q shapes in n spectra.

    Attributes
    ----------
    amounts : (n, q) float array
    at_bound : (n, q) bool array
        Where an amount is zero because it may not be less.
    errors : (n, q) float array
        Standard errors under the correlated noise of these spectra; NaN at the bound.
    bounds : (n, q) float array
        What an amount at its bound is likely not to pass (its standard error as if it were free).
    residuals : (n, p) float array
    misfit : (n,) float array
        `‖e‖/‖x̃‖`, over the background.
    noise : NoiseCorrelation
    ordered : bool
        Whether the order of the spectra means something.
    """

    amounts: Floats
    at_bound: Booleans
    errors: Floats
    bounds: Floats
    residuals: Floats
    misfit: Floats
    noise: NoiseCorrelation
    ordered: bool

    @computed_once
    def leftover(self) -> OrderStructure | None:
        """Structure along the order of what is left over; None where there is no order."""
        return leading_structure(self.residuals) if self.ordered else None

    @property
    def another_is_needed(self) -> bool:
        """Whether what is left over goes along the order more smoothly than chance does in 99 of 100 sets."""
        return self.leftover is not None and self.leftover.z > PAST


def shape_sums(
    spectra: Floats, shapes: Floats, rule: Rule = "not-negative", degree: int = 0, ordered: bool = True
) -> ShapeSums:
    """Fit every spectrum, exactly: each set of shapes that can be in it is tried.

    Parameters
    ----------
    spectra : (n, p) float array
        In order of time or gradient.
    shapes : (q, p) float array
        As given; 1 to 10.
    rule : "free", "not-negative" ★ or "sum-to-one" (which are not negative either)
    degree : int
        Of the background, −1 for none; ★ 0, a constant; its sign is free.
    ordered : bool
        Whether the order of the spectra means something.

    Raises
    ------
    ModelError
        Two shapes (or a shape and the background) cannot be told apart; or too many shapes.

    References
    ----------
    Lawson & Hanson, Solving Least Squares Problems (1974).
    """
    q, p = shapes.shape
    if not 1 <= q <= MOST:
        raise ModelError(f"{q} shapes were given.", f"Give 1 to {MOST}.")
    base = background(p, degree)
    x, s = _without(spectra, base), _without(shapes, base)
    gram = s @ s.T
    lengths = np.sqrt(np.diag(gram))
    gone = lengths <= NOTHING * np.linalg.norm(shapes, axis=1)
    if gone.any() or np.linalg.eigvalsh(gram / np.outer(lengths, lengths))[0] < ALIKE:
        raise ModelError(
            "The shapes cannot be told apart: one is a sum of the others or of the background.",
            "Leave one out, or choose a plainer background.",
        )
    products = x @ s.T
    amounts, support = fitted(gram, products, rule)
    residuals = x - amounts @ s
    noise = noise_correlation(residuals, np.column_stack([shapes.T, base]))
    errors, bounds = _errors(gram, s, support, residuals, noise, rule)
    size = np.linalg.norm(x, axis=1)
    misfit = np.divide(np.linalg.norm(residuals, axis=1), size, out=np.zeros(len(x)), where=size > 0.0)
    return ShapeSums(amounts, ~support, errors, bounds, residuals, misfit, noise, ordered)


def _without(values: Floats, base: Floats) -> Floats:
    found: Floats = values - (values @ base) @ base.T
    return found


def fitted(gram: Floats, products: Floats, rule: Rule) -> tuple[Floats, Booleans]:
    """Amounts, and which shapes are in each spectrum; of all feasible sets the one that fits best."""
    n, q = products.shape
    free = np.asarray(np.linalg.solve(gram, products.T).T, dtype=np.float64)
    if rule == "free":
        return free, np.ones((n, q), dtype=bool)
    if rule == "not-negative":
        good: Booleans = np.all(free >= 0.0, axis=1)
        amounts = np.where(good[:, np.newaxis], free, 0.0)
        support = np.repeat(good[:, np.newaxis], q, axis=1)
    else:
        good, amounts = np.zeros(n, dtype=bool), np.zeros((n, q))
        support = np.zeros((n, q), dtype=bool)
    rest = np.flatnonzero(~good)
    if len(rest):
        amounts[rest], support[rest] = _tried(gram, products[rest], free[rest], rule)
    return amounts, support


def _tried(gram: Floats, products: Floats, free: Floats, rule: Rule) -> tuple[Floats, Booleans]:
    """The best of all sets of shapes, for spectra that cannot be fitted by the free solution."""
    q = len(gram)
    inside = _sets(q)[1:] if rule == "sum-to-one" else _sets(q)[:-1]
    both = inside[:, :, np.newaxis] & inside[:, np.newaxis]
    solved = np.where(both, np.linalg.inv(np.where(both, gram, np.eye(q))), 0.0)  # of each set for itself
    shift = np.zeros(inside.shape)
    if rule == "sum-to-one":
        ones = solved.sum(axis=2)
        shift = ones / ones.sum(axis=1, keepdims=True)
        solved = solved - ones[:, :, np.newaxis] * shift[:, np.newaxis]
    amounts, support = np.empty_like(free), np.empty(free.shape, dtype=bool)
    step = max(AT_ONCE // inside.size, 1)
    for first in range(0, len(free), step):
        part = slice(first, first + step)
        trial = products[part] @ solved + shift[:, np.newaxis]  # (sets, rows, q)
        away = trial - free[part]
        cost = np.sum((away @ gram) * away, axis=2)
        cost[(trial < 0.0).any(axis=2)] = np.inf
        chosen = np.argmax(cost <= cost.min(axis=0) * (1.0 + 1e-12), axis=0)  # the smaller of equals
        amounts[part], support[part] = trial[chosen, np.arange(trial.shape[1])], inside[chosen]
    return amounts, support


@cache
def _sets(q: int) -> Booleans:
    """Every set of q shapes, the smaller first, (2^q, q)."""
    sets = [chosen for size in range(q + 1) for chosen in combinations(range(q), size)]
    found = np.zeros((len(sets), q), dtype=bool)
    for place, chosen in enumerate(sets):
        found[place, list(chosen)] = True
    found.flags.writeable = False
    return found


def fit_not_negative(gram: Floats, products: Floats, rule: Rule) -> Floats:
    """Amounts by least squares: `gram` (q, q) of the shapes, `products` (n, q) of spectra with them."""
    if not float(np.trace(gram)) > 0.0:  # none of the shapes has anything in it
        return np.zeros(products.shape)
    jitter = 1e-14 * float(np.trace(gram)) / len(gram)
    return fitted(gram + jitter * np.eye(len(gram)), products, rule)[0]


def _errors(
    gram: Floats, s: Floats, support: Booleans, residuals: Floats, noise: NoiseCorrelation, rule: Rule
) -> tuple[Floats, Floats]:
    """Standard errors of the amounts, and those that amounts at their bound would have."""
    variance = np.einsum("ij,ij->i", residuals, residuals) / noise.freedom
    spread = s @ noise.matrix @ s.T
    errors, bounds = np.full(support.shape, np.nan), np.full(support.shape, np.nan)
    first, kind = kinds_of_rows(support)
    for place, row in enumerate(first.tolist()):
        rows, inside = kind == place, np.flatnonzero(support[row])
        errors[np.ix_(rows, inside)] = np.sqrt(
            np.outer(variance[rows], np.diag(_covariance(gram, spread, inside, rule)))
        )
        for outside in np.flatnonzero(~support[row]).tolist():
            both = np.append(inside, outside)
            own = _covariance(gram, spread, both, rule)[-1, -1]
            bounds[rows, outside] = np.sqrt(variance[rows] * own)
    return errors, bounds


def _covariance(gram: Floats, spread: Floats, inside: np.ndarray, rule: Rule) -> Floats:
    """Of the amounts of some shapes, per unit of noise variance."""
    part = np.linalg.inv(gram[np.ix_(inside, inside)])
    if rule == "sum-to-one":
        ones = part.sum(axis=1)
        part = part - np.outer(ones, ones) / ones.sum()
    found: Floats = part @ spread[np.ix_(inside, inside)] @ part
    return found
