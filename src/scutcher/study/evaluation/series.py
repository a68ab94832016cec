"""Treated samples in an order: the series that is looked at, and what is computed of it."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.data.series_order import SeriesOrder
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.series.evolving_rank import EvolvingRank, evolving_rank
from scutcher.core.series.likeness import PairSearch, search_of
from scutcher.core.series.rebuilding import SeriesComponents, series_components
from scutcher.core.unmixing.mixture import Mixture, mixture
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.orders import order_of

LEAST = 5
"""Spectra of a series that can be looked at."""

MOST_PAIRED = 800
"""Spectra up to which every pair is scored."""

SMOOTHING = frozenset({"smoothing"})
"""Families of treatments after which neighbouring channels share their noise."""


@frozen(eq=False)
class Series:
    """One series of the treated samples in the model.

    Attributes
    ----------
    found : Evaluation
    order : SeriesOrder
        Of the table.
    code : int
        Which of its series.
    rows : (m,) int array
        Rows of the table, by position.
    positions : (m,) float array
    values : (m, p) float array
        Treated, not centred; of mixed variables centred and scaled, since they have no common unit.
    """

    found: Evaluation
    order: SeriesOrder
    code: int
    rows: Integers
    positions: Floats
    values: Floats

    @property
    def places(self) -> Floats:
        """Of the channels, (p,)."""
        return self.found.treated.axis.places()

    @property
    def has_amounts(self) -> bool:
        """Whether its samples can be sums of shapes: mixed variables cannot."""
        return self.found.treated.axis.ordered

    @property
    def value_title(self) -> str:
        """What the values are, with their unit."""
        treated = self.found.treated
        if not treated.axis.ordered:
            return "scaled value"
        unit = f" / {treated.signal_unit}" if treated.signal_unit else ""
        return f"{treated.signal.split(', ')[-1]}{unit}"

    @property
    def ids(self) -> list[str]:
        """Of its samples."""
        assert self.found.table is not None
        return [self.found.table.ids[row] for row in self.rows.tolist()]

    @property
    def smoothed(self) -> bool:
        """Whether a treatment lets neighbouring channels share their noise."""
        steps = self.found.recipe.treat
        return any(step.on and step.treatment.family in SMOOTHING for step in steps)

    @computed_once
    def components(self) -> SeriesComponents:
        """Components about the mean, with a verdict on each."""
        return series_components(self.values)

    def windows(self, watch: Watch | None = None) -> EvolvingRank:
        """Growing windows, with the noise of what is left after the components of the uncentred series."""
        most = max(len(self.rows) // 3, 1)
        return evolving_rank(self.values, min(self.components.suggested + 1, most), watch=watch)

    def search(
        self, k: int | None, degree: int, shift: float, kept: tuple[float, ...], stretch: int
    ) -> PairSearch:
        """Every pair made ready to be compared with references.

        Parameters
        ----------
        kept : tuple of float
            Channels that are compared; empty for all.
        """
        places = self.places
        rising = places[0] <= places[-1]
        values = self.values if rising else self.values[:, ::-1]
        axis = places if rising else places[::-1]
        inside = np.isin(axis, kept) if len(kept) else None
        return search_of(values, axis, k, degree, shift, inside, stretch)

    def near(self, position: float) -> int:
        """The place of the spectrum nearest to a position."""
        return int(np.abs(self.positions - position).argmin())


def series_of(state: State, found: Evaluation | None, code: int = 0) -> Series | None:
    """One series as it is in a model; None where there is none, or fewer than five of it are in the model."""
    order = order_of(state)
    if found is None or order is None or found.treated.has_gaps:
        return None
    places = found.places()
    rows = np.array([row for row in order.of(code).tolist() if row in places], dtype=np.intp)
    if len(rows) < LEAST:
        return None
    own = np.array([places[row] for row in rows.tolist()], dtype=np.intp)
    values = found.treated.values[own] if found.treated.axis.ordered else found.scaled.rows(own)
    return Series(found, order, code, rows, order.positions[rows], values)


def mixture_of(
    found: Evaluation, order: SeriesOrder | None, settings: UnmixSettings, watch: Watch | None = None
) -> Mixture:
    """Amounts in the treated samples of a model, in their order where they have one.

    Raises
    ------
    ModelError
        The data or the settings do not allow it.
    """
    none = np.empty(0, dtype=np.intp)
    if order is None:
        return mixture(found.treated, settings, none, watch)
    places = found.places()
    rows = [places[row] for row in order.order.tolist() if row in places]
    others = np.setdiff1d(np.arange(len(found.treated.ids)), rows)
    return mixture(found.treated, settings, np.concatenate([np.array(rows, np.intp), others]), watch)
