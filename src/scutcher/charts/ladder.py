"""The ladder: what each component adds, fitted, and how many are kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from scutcher.charts.words import with_minus
from scutcher.core.arrays import Floats
from scutcher.core.models.pca.component_model import explained
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation

SHOWN = 10


@dataclass(frozen=True, eq=False)
class Ladder:
    """What the ladder draws.

    Attributes
    ----------
    kept, rank : int
    fitted : (m,) float array
        Cumulative share of the variance with 1…m components, fractions of one.
    held_out : (m,) float array
        Q² with 1…m components; NaN where it has not been computed.
    """

    kept: int
    rank: int
    fitted: Floats
    held_out: Floats

    @property
    def text(self) -> str:
        """The figures under the headline."""
        known = np.isfinite(self.held_out[self.kept - 1]) if self.kept <= len(self.held_out) else False
        held_out = with_minus(f"Q² {self.held_out[self.kept - 1]:.3f}") if known else "Q² not validated yet"
        return f"R² {self.fitted[self.kept - 1]:.3f}   {held_out}"


def ladder(found: Evaluation | None, checked: Checked | None = None) -> Ladder | None:
    """The ladder of a model; at least ten components, or all, and always the kept one."""
    if found is None:
        return None
    rank, kept = found.decomposition.most, found.model.k
    shown = min(found.decomposition.computed, max(SHOWN, kept + 1))
    fitted = np.cumsum(explained(found.decomposition))[:shown]
    held_out = np.full(shown, np.nan)
    if checked is not None and checked.validation is not None:
        q2 = checked.validation.q2[:shown]
        held_out[: len(q2)] = q2
    return Ladder(kept, rank, fitted, held_out)
