"""Where the rows of a table are among some of them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from scutcher.core.arrays import Integers


class RowPlaces(Mapping[int, int]):
    """From a row to its place among `rows`; a dictionary of a hundred thousand takes longer than a frame.

    Parameters
    ----------
    rows : (m,) int array
        0 or more, each once.
    """

    def __init__(self, rows: Integers) -> None:
        self._rows = rows
        places = np.full(int(rows.max(initial=-1)) + 1, -1)
        places[rows] = np.arange(len(rows))
        self._places: list[int] = places.tolist()

    def __getitem__(self, row: int) -> int:
        place = self._places[row] if 0 <= row < len(self._places) else -1
        if place < 0:
            raise KeyError(row)
        return place

    def __contains__(self, row: object) -> bool:
        if not isinstance(row, (int, np.integer)):
            return False
        return bool(0 <= row < len(self._places)) and self._places[row] >= 0

    def __iter__(self) -> Iterator[int]:
        return iter(self._rows.tolist())

    def __len__(self) -> int:
        return len(self._rows)
