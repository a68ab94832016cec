"""Pixels that are masked: samples set aside for where they lie or what they are, not one by one."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.frozen import frozen
from scutcher.study.document.state import State

MASKED = "masked: "
"""How the reason of a masked pixel begins."""


@frozen(eq=False)
class Mask:
    """What is masked.

    Attributes
    ----------
    rows : (m,) int array
        Of the table.
    reasons : tuple of str
        Each once, without the beginning, in the order of the rows.
    """

    rows: Integers
    reasons: tuple[str, ...]


def mask_of(state: State) -> Mask | None:
    """The mask of the current model; None where nothing is masked."""
    model = state.model
    if model is None:
        return None
    masked = {row: why for row, why in model.use.set_aside.items() if why.startswith(MASKED)}
    if not masked:
        return None
    reasons = dict.fromkeys(why.removeprefix(MASKED) for why in masked.values())
    return Mask(np.array(sorted(masked), dtype=np.intp), tuple(reasons))
