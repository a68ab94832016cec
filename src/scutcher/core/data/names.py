"""Many short texts as one column: ids, replicate ids, classes; a million of them are taken at once."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any, overload

import numpy as np

from scutcher.core.arrays import Integers


class Names(Sequence[str]):
    """A sequence of texts that never changes, equal to a tuple of the same texts.

    Texts are kept as references in an array, so that taking some of a million costs milliseconds; where one
    stands is looked up in a table that is made when it is first asked for.
    """

    __slots__ = ("__weakref__", "_hash", "_places", "_texts")

    def __init__(self, texts: Iterable[str]) -> None:
        listed = list(texts)
        array = np.empty(len(listed), dtype=object)
        array[:] = listed
        self._keep(array)

    @classmethod
    def of(cls, texts: Sequence[str]) -> Names:
        """The texts as a column; the same object where they are one already."""
        return texts if isinstance(texts, Names) else cls(texts)

    def _keep(self, array: Any) -> None:
        array.flags.writeable = False
        self._texts = array
        self._places: dict[str, int] | None = None
        self._hash: int | None = None

    def take(self, rows: Integers) -> Names:
        """Those at some places, in that order."""
        taken = Names.__new__(Names)
        taken._keep(self._texts[rows])
        return taken

    @overload
    def __getitem__(self, place: int) -> str: ...
    @overload
    def __getitem__(self, place: slice) -> Names: ...
    def __getitem__(self, place: int | slice) -> str | Names:
        if isinstance(place, slice):
            return self.take(np.arange(len(self))[place])
        text: str = self._texts[place]
        return text

    def __len__(self) -> int:
        return len(self._texts)

    def __iter__(self) -> Iterator[str]:
        return iter(self._texts.tolist())

    def __contains__(self, text: object) -> bool:
        return text in self._table()

    def index(self, text: str, start: int = 0, stop: int | None = None) -> int:
        """The first place of a text.

        Raises
        ------
        ValueError
            It is not there.
        """
        if start or stop is not None:
            return list(self).index(text, start, len(self) if stop is None else stop)
        if text not in self._table():
            raise ValueError(f"{text!r} is not among {len(self)} names")
        return self._table()[text]

    def __eq__(self, other: object) -> bool:
        if self is other:
            return True
        if isinstance(other, Names):
            return len(self) == len(other) and self._texts.tolist() == other._texts.tolist()
        return isinstance(other, tuple) and tuple(self) == other

    def __hash__(self) -> int:
        if self._hash is None:
            self._hash = hash(tuple(self._texts.tolist()))
        return self._hash

    def __repr__(self) -> str:
        shown = ", ".join(map(repr, self._texts[:5].tolist()))
        return f"<{len(self)} names: {shown}{', …' if len(self) > 5 else ''}>"

    def _table(self) -> dict[str, int]:
        if self._places is None:
            texts = self._texts.tolist()
            self._places = dict(zip(reversed(texts), range(len(texts) - 1, -1, -1), strict=True))
        return self._places
