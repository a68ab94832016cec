"""What a model's file has to hold, value by value: checked as a whole before anything is built from it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

import msgspec
import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.recipes.chain import apply_chain
from scutcher.core.recipes.recipe import Step

Level = Annotated[float, Meta(gt=0.0, lt=1.0)]
Positive = Annotated[float, Meta(gt=0.0)]
Count = Annotated[int, Meta(ge=1, le=2**40)]

LARGEST = 1e100
"""Of loadings and shapes."""

ORTHONORMAL = 1e-6
"""How far products of loadings may be from those of orthonormal ones."""


class AxisPart(msgspec.Struct):
    """The variables that go in."""

    labels: list[str]
    positions: list[float] | None
    quantity: str
    unit: str


class LimitPart(msgspec.Struct):
    """A limit with its level and how it was made."""

    level: Level
    method: str
    value: Annotated[float, Meta(ge=0.0)] | None
    reason: str = ""


class HeldOutPart(msgspec.Struct):
    """Limits that were learned from left-out samples."""

    h0: Positive | None
    q0: float | None
    nh: Positive | None
    nq: float | None
    q_limit: Annotated[float, Meta(ge=0.0)] | None
    joint_limit: Annotated[float, Meta(ge=0.0)] | None
    level: Level
    groups: Count
    method: str
    t2_limit: Annotated[float, Meta(ge=0.0)] | None = None
    reason: str = ""


class ModelPart(msgspec.Struct):
    """A component model."""

    axis: AxisPart
    treat: list[dict[str, Any]]
    learned: list[dict[str, Any] | None]
    fill: list[float] | None
    treated_labels: list[str]
    centre: list[float]
    weight: list[Annotated[float, Meta(ge=0.0)]]
    loadings: list[list[float]]
    eigenvalues: list[Positive]
    samples: Count
    level: Level
    q_limit: LimitPart
    joint_scale: Annotated[list[Positive], Meta(min_length=4, max_length=4)] | None
    held_out: HeldOutPart | None = None
    filled_with: str = ""


class ShapesPart(msgspec.Struct):
    """The shapes of a mixture."""

    axis: AxisPart
    treat: list[dict[str, Any]]
    learned: list[dict[str, Any] | None]
    treated_labels: list[str]
    names: list[str]
    shapes: list[list[float]]
    rule: str
    background: int
    q_limit: LimitPart
    means_of: list[Annotated[int, Meta(ge=0)]] = []


def check_model(plain: dict[str, Any]) -> None:
    """Refuse a component model whose parts are of another type, range or size than they have to be.

    Raises
    ------
    ValueError, msgspec.ValidationError
    """
    part = msgspec.convert(plain, ModelPart, strict=True)
    loadings = _matrix(part.loadings)  # (k, p)
    products = loadings @ loadings.T
    if np.abs(products - np.eye(len(loadings))).max(initial=0.0) > ORTHONORMAL:
        raise ValueError("loadings that are not orthonormal")
    _finite(part.centre, part.weight, part.fill, part.eigenvalues, part.axis.positions)
    if (np.diff(part.eigenvalues) > 1e-9 * part.eigenvalues[0]).any():
        raise ValueError("eigenvalues that rise")
    _check_learned(part.learned)


def check_shapes(plain: dict[str, Any]) -> None:
    """The same for the shapes of a mixture.

    Raises
    ------
    ValueError, msgspec.ValidationError
    """
    part = msgspec.convert(plain, ShapesPart, strict=True)
    _matrix(part.shapes)
    _finite(part.axis.positions)
    _check_learned(part.learned)


def _matrix(rows: list[list[float]]) -> Floats:
    if not rows or len({len(row) for row in rows}) != 1 or not rows[0]:
        raise ValueError("rows of other lengths")
    found = np.array(rows, dtype=np.float64)
    _finite(found)
    if np.abs(found).max() > LARGEST:
        raise ValueError("numbers that cannot be squared")
    return found


def _finite(*parts: Any) -> None:
    for part in parts:
        if part is not None and not np.isfinite(np.asarray(part, dtype=np.float64)).all():
            raise ValueError("not finite")


def _check_learned(learned: list[dict[str, Any] | None]) -> None:
    """What treatments learned is lists of numbers or of words, each of one length."""
    for lesson in learned:
        for value in (lesson or {}).values():
            if not isinstance(value, list):
                raise ValueError("a lesson is no list")
            if value and all(isinstance(one, str) for one in value):
                continue
            _finite(np.array(value, dtype=np.float64))


def check_runs(axis: Axis, steps: Sequence[Step], learned: Sequence[Any], labels: tuple[str, ...]) -> None:
    """Refuse treatments whose lessons do not belong to them: one made-up spectrum goes through them.

    Raises
    ------
    ValueError
    """
    values = 1.0 + 0.5 * np.sin(np.linspace(0.3, 9.0, len(axis)))[np.newaxis]
    table = Table(values=values, axis=axis, ids=("trial",))
    try:
        treated = apply_chain(table, steps, learned)
    except InputError:
        return  # the spectrum that was made up is not one that the treatments can have
    except Exception as error:
        raise ValueError("what a treatment learned does not belong to it") from error
    if treated.axis.labels != labels:
        raise ValueError("other variables after the treatments")
