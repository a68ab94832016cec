"""How the samples of the current data lie along a series; light, since every window asks."""

from __future__ import annotations

from weakref import WeakKeyDictionary

from scutcher.core.data.layouts import SeriesLayout
from scutcher.core.data.series_order import SeriesOrder, layout_of, series_order
from scutcher.core.data.table import Table
from scutcher.study.document.state import State

_orders: WeakKeyDictionary[Table, dict[SeriesLayout | None, SeriesOrder | None]] = WeakKeyDictionary()


def layout_of_state(state: State) -> SeriesLayout | None:
    """How the samples of the current data lie along a series; None where they do not."""
    dataset = state.dataset
    return None if dataset is None else layout_of(dataset.table, dataset.layout)


def order_of(state: State) -> SeriesOrder | None:
    """Positions of the samples of the current data; the same object for the same table and layout."""
    dataset = state.dataset
    if dataset is None:
        return None
    kept = _orders.setdefault(dataset.table, {})
    asked = dataset.layout if isinstance(dataset.layout, SeriesLayout) else None
    if asked not in kept:
        layout = layout_of(dataset.table, dataset.layout)
        kept[asked] = None if layout is None else series_order(dataset.table, layout)
    return kept[asked]
