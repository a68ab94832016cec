"""Shapes without references: amounts and shapes in turn, each by exact least squares."""

from __future__ import annotations

from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.row_kinds import kinds_of_rows
from scutcher.core.progress import Watch, tell
from scutcher.core.unmixing.first_shapes import (
    check_not_negative,
    leading_scores,
    projected_start,
    with_known,
)
from scutcher.core.unmixing.one_hump import one_hump
from scutcher.core.unmixing.shape_sums import Rule, fit_not_negative

MOST_SHAPES, ROUNDS, PATIENT, SETTLED = 8, 500, 10, 1e-6
FROM_ROUND, LEAST_REACH, MOST_REACH = 5, 0.5, 100.0
SAME = 1e-10
"""Smallest eigenvalue of the unit-diagonal products below which two shapes are one."""

State = Literal["converged", "limit", "collapsed"]


@frozen(eq=False)
class Demands:
    """What amounts and shapes have to be, beside not negative.

    Attributes
    ----------
    rule : "not-negative" ★ or "sum-to-one"
        Of the amounts.
    humps : bool
        Whether the amounts of each shape rise to one hump and fall along the order.
    known : (m, p) float array or None
        Shapes that are given: the first m are these.
    absent : (n, q) bool array or None
        Where a shape is not there: its amount is zero.
    """

    rule: Rule = "not-negative"
    humps: bool = False
    known: Floats | None = None
    absent: Booleans | None = None

    @property
    def closed(self) -> bool:
        """Whether the amounts of a spectrum sum to one."""
        return self.rule == "sum-to-one"


PLAIN = Demands()


@frozen(eq=False)
class Unmixed:
    """`X ≈ C S`.

    Attributes
    ----------
    amounts : (n, q) float array
        C.
    shapes : (q, p) float array
        S, of length one (not under closure).
    state : "converged", "limit" or "collapsed"
    rounds : int
    misfit : float
        `‖X_q − C S‖² / ‖X_q‖²`, of the rebuild from q components.
    leftover : float
        `‖X − C S‖² / ‖X‖²`.
    said : str
        Which shapes collapsed.
    """

    amounts: Floats
    shapes: Floats
    state: State
    rounds: int
    misfit: float
    leftover: float
    said: str = ""


def unmix(
    spectra: Floats,
    q: int,
    demands: Demands = PLAIN,
    start: Floats | None = None,
    watch: Watch | None = None,
) -> Unmixed:
    """Find q shapes and their amounts, both not negative.

    Parameters
    ----------
    spectra : (n, p) float array
        Not negative but for noise.
    q : int
        2 to 8.
    demands : Demands
    start : (q, p) float array, optional
        Shapes to begin with; else spectra by `projected_start`.

    Raises
    ------
    ModelError
        Too many shapes, or spectra that are negative; known shapes that do not fit.

    References
    ----------
    Tauler, Chemometr. Intell. Lab. Syst. 30 (1995) 133–146 (alternating least squares).
    """
    n, p = spectra.shape
    if not 2 <= q <= min(MOST_SHAPES, n, p):
        raise ModelError(f"{q} shapes were asked for.", f"Ask for 2 to {min(MOST_SHAPES, n, p)}.")
    check_not_negative(spectra)
    scores, directions = leading_scores(spectra, q)
    rebuilt = scores @ directions
    floor = float(np.sum((spectra - rebuilt) ** 2))
    shapes = np.maximum(rebuilt[projected_start(scores)] if start is None else start, 0.0)
    shapes = _scaled(with_known(shapes, demands.known), demands)
    before, errors, reach = shapes, [], 1.0
    amounts = np.zeros((n, q))
    state: State = "limit"
    rounds = 0
    for rounds in range(1, ROUNDS + 1):
        tell(watch, rounds / ROUNDS)
        amounts, fresh, error = _round(rebuilt, shapes, amounts, demands)
        lost = _collapsed(amounts, fresh)
        if lost:
            return _ended(spectra, rebuilt, amounts, fresh, "collapsed", rounds, lost)
        if rounds >= FROM_ROUND:
            tried = _scaled(np.maximum(fresh + reach * (fresh - before), 0.0), demands)
            more = _round(rebuilt, tried, amounts, demands)
            if more[2] < error and not _collapsed(more[0], more[1]):
                amounts, fresh, error = more
                reach = min(1.5 * reach, MOST_REACH)
            else:
                reach = max(reach / 3.0, LEAST_REACH)
        before, shapes = shapes, fresh
        errors.append(error)
        total = float(np.sum(rebuilt**2))
        fell = errors[-1 - PATIENT] - error if len(errors) > PATIENT else np.inf
        if fell < SETTLED * (floor + error) or error <= 1e-15 * total:
            state = "converged"
            break
    return _ended(spectra, rebuilt, amounts, shapes, state, rounds, "")


def _round(
    rebuilt: Floats, shapes: Floats, amounts: Floats, demands: Demands
) -> tuple[Floats, Floats, float]:
    """Amounts for the shapes, then shapes for the amounts; and the squares that are left."""
    if demands.humps and amounts.any():
        amounts = _humps(rebuilt, shapes, amounts)
        if demands.absent is not None:
            amounts[demands.absent] = 0.0
    else:
        amounts = _amounts(rebuilt, shapes, demands)
    fresh = _fresh_shapes(rebuilt, shapes, amounts, demands)
    if not demands.closed:
        sizes = np.linalg.norm(fresh, axis=1)
        fresh = np.divide(
            fresh, sizes[:, np.newaxis], out=np.zeros_like(fresh), where=sizes[:, np.newaxis] > 0
        )
        amounts = amounts * sizes
    return amounts, fresh, float(np.sum((rebuilt - amounts @ fresh) ** 2))


def _amounts(rebuilt: Floats, shapes: Floats, demands: Demands) -> Floats:
    """The best amounts of the shapes, of those that are there."""
    if demands.absent is None:
        return fit_not_negative(shapes @ shapes.T, rebuilt @ shapes.T, demands.rule)
    found = np.zeros((len(rebuilt), len(shapes)))
    first, kind = kinds_of_rows(demands.absent)
    for place, row in enumerate(first.tolist()):
        rows, there = kind == place, np.flatnonzero(~demands.absent[row])
        if len(there):
            own = shapes[there]
            part = fit_not_negative(own @ own.T, rebuilt[rows] @ own.T, demands.rule)
            found[np.ix_(rows, there)] = part
    return found


def _fresh_shapes(rebuilt: Floats, shapes: Floats, amounts: Floats, demands: Demands) -> Floats:
    """The best shapes for the amounts; those that are known stay."""
    known = 0 if demands.known is None else len(demands.known)
    free = amounts[:, known:]
    if not free.shape[1]:
        return shapes
    rest = rebuilt - amounts[:, :known] @ shapes[:known] if known else rebuilt
    fresh = fit_not_negative(free.T @ free, rest.T @ free, "not-negative").T
    return np.vstack([shapes[:known], fresh]) if known else fresh


def _humps(rebuilt: Floats, shapes: Floats, amounts: Floats) -> Floats:
    """For each shape in turn the best amounts of one hump, the others as they are."""
    amounts = amounts.copy()
    for k in range(len(shapes)):
        rest = rebuilt - amounts @ shapes + np.outer(amounts[:, k], shapes[k])
        size = float(shapes[k] @ shapes[k])
        if size > 0.0:
            amounts[:, k] = one_hump(rest @ shapes[k] / size)
    return amounts


def _scaled(shapes: Floats, demands: Demands) -> Floats:
    """Of length one, but where amounts sum to one."""
    if demands.closed:
        return shapes
    sizes = np.linalg.norm(shapes, axis=1, keepdims=True)
    found: Floats = np.divide(shapes, sizes, out=np.zeros_like(shapes), where=sizes > 0.0)
    return found


def _collapsed(amounts: Floats, shapes: Floats) -> str:
    """Which shapes are empty or the same; "" for none."""
    sizes = np.linalg.norm(shapes, axis=1)
    empty = np.flatnonzero((sizes == 0.0) | (amounts.max(axis=0) <= 0.0))
    if len(empty):
        return f"shape {int(empty[0]) + 1} is empty"
    unit = shapes / sizes[:, np.newaxis]
    alike = unit @ unit.T
    if np.linalg.eigvalsh(alike)[0] < SAME:
        one, other = np.unravel_index(int(np.argmax(alike - 2.0 * np.eye(len(alike)))), alike.shape)
        return f"shapes {int(min(one, other)) + 1} and {int(max(one, other)) + 1} are the same"
    return ""


def _ended(
    spectra: Floats, rebuilt: Floats, amounts: Floats, shapes: Floats, state: State, rounds: int, said: str
) -> Unmixed:
    made = amounts @ shapes
    misfit = float(np.sum((rebuilt - made) ** 2) / np.sum(rebuilt**2))
    leftover = float(np.sum((spectra - made) ** 2) / np.sum(spectra**2))
    return Unmixed(amounts, shapes, state, rounds, misfit, leftover, said)
