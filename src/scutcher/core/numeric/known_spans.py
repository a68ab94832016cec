"""The lowest and highest value of each variable of a large array, found once for as long as it lives."""

from __future__ import annotations

from weakref import ref

import numpy as np

from scutcher.core.arrays import Floats, value_span
from scutcher.core.numeric.threads import in_parts

Span = tuple[Floats, Floats]

LARGE = 500_000
"""Values of an array above which its span is kept."""

_known: dict[int, tuple[ref[Floats], Span]] = {}


def known_span(values: Floats) -> Span:
    """As `value_span`, (n, p) → two (p,) arrays; for any thread.

    Of an array that may still be written to it is found anew each time.
    """
    if values.size < LARGE or values.flags.writeable:
        return value_span(values)
    kept = _known.get(id(values))
    if kept is not None and kept[0]() is values:
        return kept[1]
    n, p = values.shape

    def add(part: slice, own: Floats) -> None:
        low, high = value_span(values[part])
        np.fmin(own[0], low, out=own[0])
        np.fmax(own[1], high, out=own[1])

    parts = in_parts(add, (n, p), lambda: np.full((2, p), np.nan))
    span = np.fmin.reduce([low for low, _ in parts]), np.fmax.reduce([high for _, high in parts])
    key = id(values)
    _known[key] = ref(values, lambda gone: _known.pop(key, None)), span
    return span
