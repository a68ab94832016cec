"""The ladder: what each component adds, fitted, and how many are kept."""

from __future__ import annotations

import numpy as np

from scutcher.charts.words import with_minus
from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.images.map_structure import MapStructure
from scutcher.core.models.pca.component_model import explained
from scutcher.core.words import shown
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation

SHOWN = 10


@frozen(eq=False)
class Ladder:
    """What the ladder draws.

    Attributes
    ----------
    kept, rank : int
    fitted : (m,) float array
        Cumulative share of the variance with 1…m components, fractions of one.
    held_out : (m,) float array
        Q² with 1…m components; NaN where it has not been computed.
    structure : tuple of MapStructure or None
        Where samples are pixels, of the map of each component.
    """

    kept: int
    rank: int
    fitted: Floats
    held_out: Floats
    structure: tuple[MapStructure | None, ...] = ()

    @property
    def told(self) -> str:
        """Where samples are pixels: how much neighbours agree on the map of each component."""
        known = [(place + 1, one) for place, one in enumerate(self.structure) if one is not None]
        if not known:
            return ""
        words = [
            f"{at}: {shown(one.agreement, '.2f')}{' noise' if one.is_noise else ''}" for at, one in known
        ]
        reach = 2.0 * known[0][1].variance ** 0.5
        return with_minus(
            f"Neighbours agree over the picture (Moran's I; noise within ±{shown(reach, '.3f')}): "
            f"{', '.join(words)}"
        )

    def is_noise(self, component: int) -> bool:
        """Whether the map of a component (from 0) is known to be noise."""
        one = self.structure[component] if component < len(self.structure) else None
        return one is not None and one.is_noise

    @property
    def text(self) -> str:
        """The figures under the headline."""
        known = np.isfinite(self.held_out[self.kept - 1]) if self.kept <= len(self.held_out) else False
        held_out = (
            with_minus(f"Q² {shown(self.held_out[self.kept - 1], '.3f')}")
            if known
            else "Q² not validated yet"
        )
        return f"R² {shown(self.fitted[self.kept - 1], '.3f')}   {held_out}"


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
    structure = () if checked is None else checked.structure[:shown]
    return Ladder(kept, rank, fitted, held_out, structure)
