"""A shade behind strips that says of each channel how much it counts, or which group it belongs to."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Shade
from scutcher.core.arrays import Integers
from scutcher.study.evaluation.evaluation import Evaluation


def shade_of(found: Evaluation, pair: tuple[int, int], kind: str) -> Shade | None:
    """The shade of a kind, along the axis of the model.

    Parameters
    ----------
    pair : (int, int)
        The components whose loadings count, for "size": the length of both together, of the longest.
    kind : "none", "size" or "group"
        "group": blocks of the scaling; where there are none, variables with one unit.
    """
    if kind == "none":
        return None
    x = found.treated.axis.places()
    if kind == "size":
        chosen = [component for component in dict.fromkeys(pair) if component < found.model.k]
        lengths = np.sqrt((found.model.loadings[:, chosen] ** 2).sum(axis=1))
        longest = float(lengths.max(initial=0.0))
        strength = lengths / longest if longest > 0.0 else lengths
        return Shade(x, strength, np.full(len(x), -1, dtype=np.intp))
    codes, names = groups_of(found)
    return Shade(x, np.where(codes >= 0, 0.55, 0.0), codes, names) if names else None


def groups_of(found: Evaluation) -> tuple[Integers, tuple[str, ...]]:
    """The group of each variable, −1 for none, and what the groups are called. Shape (p,)."""
    axis, blocks = found.treated.axis, found.scaling.blocks
    codes = np.full(len(axis), -1, dtype=np.intp)
    if blocks:
        places = {label: column for column, label in enumerate(axis.labels)}
        for code, block in enumerate(blocks):
            codes[[places[label] for label in block.variables if label in places]] = code
        return codes, tuple(f"block {code + 1}" for code in range(len(blocks)))
    units = [axis.unit_of(column) for column in range(len(axis))]
    names = tuple(dict.fromkeys(unit for unit in units if unit))
    for column, unit in enumerate(units):
        codes[column] = names.index(unit) if unit else -1
    return codes, names
