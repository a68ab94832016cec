"""What files of models have in common: axis, treatments, limits, and how bad data is refused."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis
from scutcher.core.distances.limits import Limit
from scutcher.core.errors import FileError, InputError
from scutcher.core.recipes.chain import learned_from_plain, learned_to_plain
from scutcher.core.recipes.recipe import Recipe, Step, recipe_from_plain, recipe_to_plain
from scutcher.files.content_seal import check_seal


@contextmanager
def refusing(path: Path, command: str) -> Iterator[None]:
    """Turn what is wrong with the data of a file into a FileError; the command writes such files."""
    try:
        yield
    except InputError as error:
        raise FileError(f"{path.name}: {error.problem}", error.remedy) from error
    except (LookupError, TypeError, ValueError, OverflowError, msgspec.ValidationError) as error:
        raise FileError(
            f"{path.name} is damaged: its parts do not fit together.", f"Write it again with {command}."
        ) from error


@contextmanager
def opened(path: Path, plain: Mapping[str, Any], version: int, what: str, command: str) -> Iterator[None]:
    """What holds for every kind of model: its version is the one that is read, its seal holds, it fits.

    Raises
    ------
    FileError
    """
    if plain.get("version") != version:
        raise FileError(
            f"{path.name} is {what} of version {plain.get('version')}; this Scutcher reads {version}.",
            "Use the Scutcher that wrote it, or a newer one.",
        )
    check_seal(path, plain)
    with refusing(path, command):
        yield


def way_in_plain(axis: Axis, steps: Sequence[Step], learned: Sequence[Any]) -> dict[str, Any]:
    """The variables that go in, the treatments, and what each learned."""
    return {
        "axis": {
            "labels": list(axis.labels),
            "positions": None if axis.positions is None else axis.positions.tolist(),
            "quantity": axis.quantity,
            "unit": axis.unit,
        },
        "treat": recipe_to_plain(Recipe(treat=tuple(steps))).get("treat", []),
        "learned": [learned_to_plain(lesson) for lesson in learned],
    }


def way_in_of_plain(plain: dict[str, Any]) -> tuple[Axis, tuple[Step, ...], tuple[Any, ...]]:
    """The way back.

    Raises
    ------
    ValueError
        Positions and labels, or treatments and what they learned, are not as many.
    """
    own = plain["axis"]
    positions = None if own["positions"] is None else finite(own["positions"])
    axis = Axis(tuple(map(str, own["labels"])), positions, str(own["quantity"]), str(own["unit"]))
    steps = recipe_from_plain({"treat": plain["treat"]}).treat
    learned = tuple(learned_from_plain(lesson) for lesson in plain["learned"])
    if len(learned) != len(steps) or (positions is not None and len(positions) != len(axis.labels)):
        raise ValueError("parts")
    return axis, steps, learned


def limit_of_plain(plain: dict[str, Any]) -> Limit:
    """The way back from `limit_plain`."""
    value = plain["value"]
    reason = str(plain.get("reason", ""))
    return Limit(float(plain["level"]), str(plain["method"]), None if value is None else float(value), reason)


def finite(plain: Any) -> Floats:
    """Numbers, none of them infinite or unknown; else a ValueError."""
    found = np.asarray(plain, dtype=np.float64)
    if not np.isfinite(found).all():
        raise ValueError("not finite")
    return found
