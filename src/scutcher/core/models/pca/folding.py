"""A saved model as few plain operations: runs of linear treatments folded into one matrix each."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError, ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.core.recipes.chain import apply_step
from scutcher.core.recipes.recipe import Step
from scutcher.core.words import shown

EXACT = 1e-9
"""Share of the largest value by which a linear step may differ from its matrix."""

PROBES = 3

WIDEST = 6000
"""Channels of the widest linear step that is made a matrix."""


@frozen(eq=False)
class Linear:
    """`x A + b`, (p₀, p₁) and (p₁,)."""

    matrix: Floats
    offset: Floats


@frozen(eq=False)
class Fill:
    """Gaps get these values, (p₀,)."""

    values: Floats


@frozen(eq=False)
class Scale:
    """`(x − centre)·weight`, (p,) each."""

    centre: Floats
    weight: Floats


@frozen
class Snv:
    """Each row less its mean over its standard deviation (n − 1)."""


@frozen(eq=False)
class Msc:
    """Each row fitted as a + b·reference, then (x − a)/b."""

    reference: Floats


@frozen
class Divide:
    """Each row over its "sum", "length" or "maximum"; undefined where that is not positive."""

    by: str


@frozen
class Elementwise:
    """ "log10" or "square-root" of each value."""

    function: str


Operation = Fill | Linear | Scale | Snv | Msc | Divide | Elementwise


@frozen(eq=False)
class Folded:
    """Operations from raw spectra (n, p₀) to scores and distances.

    Attributes
    ----------
    operations : tuple of Operation
        The last one gives centred and scaled spectra (n, p).
    loadings : (p, k) float array
    eigenvalues : (k,) float array
    samples : int
    joint : (h0, q0, nh, nq) or None
    limits : dict of "t2", "q", "joint" → float or None
    """

    operations: tuple[Operation, ...]
    loadings: Floats
    eigenvalues: Floats
    samples: int
    joint: tuple[float, float, float, float] | None
    limits: dict[str, float | None]


def folded(model: SavedModel) -> Folded:
    """The operations of a saved model, judged by the limits that it has.

    Raises
    ------
    ModelError
        A treatment has no such form; the message names it.
    """
    operations: list[Operation] = [] if model.fill is None else [Fill(model.fill)]
    axis = model.axis
    for step, learned in zip(model.steps, model.learned, strict=True):
        if not step.on:
            continue
        own, axis = _operation(step, learned, axis)
        _append(operations, own)
    _append(operations, Scale(model.centre, model.weight))
    scale = model.joint_scale
    limits = {"t2": model.t2_limit, "q": model.q_limit, "joint": model.joint_limit}
    return Folded(
        tuple(operations),
        model.loadings,
        model.eigenvalues,
        model.samples,
        None if scale is None else (scale.h0, scale.q0, scale.nh, scale.nq),
        {name: None if limit is None else limit.value for name, limit in limits.items()},
    )


def _append(operations: list[Operation], own: Operation) -> None:
    """A linear operation, or scaling, after a linear one becomes one with it."""
    last = operations[-1] if operations else None
    if isinstance(own, Scale) and isinstance(last, Linear):
        operations[-1] = Linear(last.matrix * own.weight, (last.offset - own.centre) * own.weight)
    elif isinstance(own, Linear) and isinstance(last, Linear):
        operations[-1] = Linear(last.matrix @ own.matrix, last.offset @ own.matrix + own.offset)
    else:
        operations.append(own)


def _operation(step: Step, learned: Any, axis: Axis) -> tuple[Operation, Axis]:
    known: dict[str, Callable[[], Operation]] = {
        "snv": Snv,
        "normalise-sum": lambda: Divide("sum"),
        "normalise-length": lambda: Divide("length"),
        "normalise-maximum": lambda: Divide("maximum"),
        "square-root": lambda: Elementwise("square-root"),
        "log10": lambda: Elementwise("log10"),
    }
    if step.method == "msc" and learned and set(learned) == {"reference"}:
        reference = np.asarray(learned["reference"], dtype=np.float64)
        own: Operation = Msc(reference)
        _check(step, learned, axis, own)
        return own, axis
    if step.method in known:
        own = known[step.method]()
        _check(step, learned, axis, own)
        return own, axis
    return _linear(step, learned, axis)


def _treated(step: Step, learned: Any, axis: Axis, values: Floats) -> Table:
    ids = tuple(f"{row}" for row in range(len(values)))
    return apply_step(Table(values=values, axis=axis, ids=ids), step, learned)


def _linear(step: Step, learned: Any, axis: Axis) -> tuple[Linear, Axis]:
    """The matrix of a step, from what it makes of zero and of each channel alone; checked on others."""
    p = len(axis)
    if p > WIDEST:
        raise ModelError(
            f"{step.treatment.name} over {shown(p, ',')} channels would be a matrix of "
            f"{shown(p * p * 8 / 1e9, '.1f')} GB.",
            f"Keep {shown(WIDEST, ',')} channels or fewer: bin the spectra before they come in.",
        )
    rng = np.random.default_rng(1)
    try:
        zero = _treated(step, learned, axis, np.zeros((1, p)))
        ones = _treated(step, learned, axis, np.eye(p))
        found = Linear(ones.values - zero.values, zero.values[0])
        probe = rng.normal(size=(PROBES, p)) + 2.0
        wanted = _treated(step, learned, axis, probe).values
    except InputError as error:
        raise _no_form(step) from error
    made = probe @ found.matrix + found.offset
    if np.abs(made - wanted).max() > EXACT * max(float(np.abs(wanted).max()), 1e-300):
        raise _no_form(step)
    return found, ones.axis


def _check(step: Step, learned: Any, axis: Axis, own: Operation) -> None:
    """A step whose settings make it other than the plain form is refused."""
    probe = 1.0 + np.random.default_rng(1).random((PROBES, len(axis)))
    try:
        wanted = _treated(step, learned, axis, probe).values
    except InputError as error:
        raise _no_form(step) from error
    made = applied(own, probe)
    fits = made.shape == wanted.shape
    if not fits or np.abs(made - wanted).max() > EXACT * max(float(np.abs(wanted).max()), 1e-300):
        raise _no_form(step)


def _no_form(step: Step) -> ModelError:
    return ModelError(
        f"{step.treatment.name} has no form outside Scutcher: what it does depends on each spectrum.",
        "Put a polynomial or straight baseline, SNV or MSC in its place.",
    )


def applied(operation: Operation, x: Floats) -> Floats:
    """One operation on rows (n, p)."""
    found: Floats = _applied(operation, x)
    return found


def _applied(operation: Operation, x: Floats) -> Any:
    if isinstance(operation, Linear):
        return x @ operation.matrix + operation.offset
    if isinstance(operation, Fill):
        return np.where(np.isnan(x), operation.values, x)
    if isinstance(operation, Scale):
        return (x - operation.centre) * operation.weight
    if isinstance(operation, Snv):
        return (x - x.mean(axis=1, keepdims=True)) / x.std(axis=1, ddof=1, keepdims=True)
    if isinstance(operation, Msc):
        m = operation.reference
        away = m - m.mean()
        slope = (x - x.mean(axis=1, keepdims=True)) @ away / float(away @ away)
        offset = x.mean(axis=1) - slope * m.mean()
        return (x - offset[:, np.newaxis]) / slope[:, np.newaxis]
    if isinstance(operation, Divide):
        sizes: dict[str, Callable[[], Floats]] = {
            "sum": lambda: x.sum(axis=1),
            "length": lambda: np.sqrt((x**2).sum(axis=1)),
            "maximum": lambda: x.max(axis=1),
        }
        size = sizes[operation.by]()
        return x / np.where(size > 0.0, size, np.nan)[:, np.newaxis]
    return np.log10(x) if operation.function == "log10" else np.sqrt(x)
