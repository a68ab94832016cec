"""Memory that one thread uses again: fresh memory for each tile costs more than the work on it."""

from __future__ import annotations

from threading import local

import numpy as np

from scutcher.core.arrays import Floats


class Scratch:
    """Arrays by name, one set for each thread."""

    def __init__(self) -> None:
        self._kept = local()

    def array(self, name: str, rows: int, columns: int) -> Floats:
        """An array of that shape, its values whatever they were; valid until the name is asked for again."""
        held: dict[str, Floats] = self._kept.__dict__.setdefault("arrays", {})
        found = held.get(name)
        if found is None or found.size < rows * columns:
            found = held[name] = np.empty(rows * columns)
        view: Floats = found[: rows * columns].reshape(rows, columns)
        return view
