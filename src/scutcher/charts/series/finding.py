"""What there is to see in a series, in one sentence."""

from __future__ import annotations

import numpy as np

from scutcher.charts.series.amounts import half_at, own_rows
from scutcher.charts.series.windows import changes_said
from scutcher.charts.words import Pieces
from scutcher.core.series.evolving_rank import EvolvingRank
from scutcher.core.unmixing.mixture import Mixture
from scutcher.core.words import count_of, counted, shown
from scutcher.study.evaluation.series import Series


def finding(series: Series, found: Mixture | None, windows: EvolvingRank | None) -> Pieces:
    """Which shape gives way to which, and when; later changes; whether anything is left over."""
    order, k = series.order, series.components.suggested
    pieces: list[tuple[str, tuple[int, ...]]] = []
    if found is not None:
        pieces += _of_shapes(series, found)
    if not pieces:
        things = "spectra" if series.has_amounts else "samples"
        words = f"{counted(series.rows)} {things} over {order.quantity}: "
        said = "no component goes along it" if not k else f"{count_of(k, 'component')} go along it"
        pieces.append((words + (said if k != 1 else "1 component goes along it"), ()))
    later = "" if windows is None else changes_said(order, series, windows)
    if later:
        pieces.append((f"; {later}", ()))
    if found is not None:
        pieces += _left_over(series, found)
    return [*pieces, (".", ())]


def _of_shapes(series: Series, found: Mixture) -> list[tuple[str, tuple[int, ...]]]:
    """When the first shape is half gone; of found ones only where they are determined."""
    opened, names = found.opened, found.names
    if opened is not None and not opened.determined:
        reach = "range" if opened.exact else "range at least"
        return [
            (
                f"{len(names)} shapes found and not determined, {reach} "
                f"{shown(opened.width, '.2f')} of their height",
                (),
            )
        ]
    half = half_at(series, found) if len(names) > 1 else None
    if half is None:
        return []
    words = f"From {names[0]} to {names[1]}: half" if len(names) == 2 else f"{names[0]} is half gone"
    near = (int(series.rows[series.near(half)]),)
    return [(f"{words} at ", ()), (f"{shown(half, '.3g')} {series.order.unit}".strip(), near)]


def _left_over(series: Series, found: Mixture) -> list[tuple[str, tuple[int, ...]]]:
    limit = found.q_limit.value
    past = series.rows[found.q[own_rows(series)] > limit] if limit is not None else np.empty(0, np.intp)
    if found.another_is_needed:
        words = "; what is left over is no noise, another shape is needed"
        if not len(past):
            return [(words, ())]
        return [(f"{words}: ", ()), (f"{counted(past)} past the limit", tuple(past.tolist()))]
    if len(past) > max(0.1 * len(series.rows), 1):
        return [
            ("; ", ()),
            (f"{counted(past)} past the limit", tuple(past.tolist())),
            (" of what noise leaves", ()),
        ]
    return [("; nothing is left over but noise", ())]
