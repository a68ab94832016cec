"""What everybody is looking at: one pick, one class in focus, one channel cursor. Not part of undo."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import fields, replace
from typing import Any

from scutcher.core.frozen import frozen
from scutcher.study.document.announcer import Announcer
from scutcher.study.document.study import Study


@frozen
class Look:
    """Where the eyes are.

    Attributes
    ----------
    picked : tuple of int
        Rows of the table, in the order they were picked.
    before : tuple of int
        The rows that were picked before these, for one group against another.
    hovered : int or None
        The row under the pointer.
    focus : str or None
        The class that stands out; the others fade, or are hidden when `alone`.
    alone : bool
    channel : float or None
        The channel cursor, in the unit of the axis.
    channels : tuple of float
        The channels that are picked, rising.
    pair : (int, int)
        The components on the score plane, from 0.
    stage : int or None
        The knot whose data the signals strip shows: 0 as brought in, then one for each treatment,
        then centred and scaled. None: the last treatment.
    along : bool
        Whether what goes in run order is drawn by the position of the samples (time, depth), where they
        have one.
    """

    picked: tuple[int, ...] = ()
    before: tuple[int, ...] = ()
    hovered: int | None = None
    focus: str | None = None
    alone: bool = False
    channel: float | None = None
    channels: tuple[float, ...] = ()
    pair: tuple[int, int] = (0, 1)
    stage: int | None = None
    along: bool = True


class Selection(Announcer):
    """The one look that every view observes.

    Attributes
    ----------
    count : int or None
        Samples of the table: a row beyond them, of a view of other data, is no pick. None: not known.
    """

    def __init__(self, count: int | None = None) -> None:
        super().__init__()
        self.look = Look()
        self.count = count

    def change(self, **fields: Any) -> None:
        """Put new values in; listeners hear the names of those that are really different."""
        different = {name: value for name, value in fields.items() if getattr(self.look, name) != value}
        if different:
            self.look = replace(self.look, **different)
            self.announce(different)

    def forget(self) -> None:
        """Look at nothing in particular: the data are others now."""
        fresh = Look()
        self.change(**{field.name: getattr(fresh, field.name) for field in fields(fresh)})

    def pick(self, rows: Iterable[int], how: str = "replace") -> None:
        """Pick samples.

        Parameters
        ----------
        rows : rows of the table
        how : "replace", "add", "toggle", or "common" for those that were picked before too
        """
        old = self.look.picked
        there = (int(row) for row in rows)
        new = _joined(old, tuple(row for row in there if self.count is None or 0 <= row < self.count), how)
        starts_anew = how == "replace" and old and new != old
        self.change(picked=new, before=old if starts_anew else self.look.before)

    def pick_channels(self, places: Iterable[float], how: str = "replace") -> None:
        """Pick channels by their places on the axis, as samples are picked."""
        self.change(channels=channels_joined(self.look.channels, places, how))

    def keep_to(self, before: Sequence[str], now: Sequence[str]) -> None:
        """The samples are others now: what was picked is found again by its name, or is gone."""
        self.count = len(now)
        place = {name: row for row, name in enumerate(now)}
        picked = tuple(place[before[row]] for row in self.look.picked if before[row] in place)
        self.change(picked=picked, before=(), hovered=None)


class PickByName:
    """Listens to a study: where its samples are others now, the pick goes by their names.

    It has to be the first of all listeners: nobody draws the new samples before.
    """

    def __init__(self, study: Study, selection: Selection) -> None:
        self._study, self._selection = study, selection
        self._names = _names(study)
        selection.count = len(self._names)

    def __call__(self, changed: frozenset[str]) -> None:
        """Something of the study is other."""
        names = _names(self._study)
        if "table" in changed and names != self._names:
            before, self._names = self._names, names
            self._selection.keep_to(before, names)


def _names(study: Study) -> Sequence[str]:
    table = study.state.table
    return () if table is None else table.ids


def channels_joined(old: tuple[float, ...], new: Iterable[float], how: str) -> tuple[float, ...]:
    """Picked channels after another pick, rising."""
    return tuple(sorted(_joined(old, tuple(float(place) for place in new), how)))


def _joined(old: tuple[Any, ...], new: tuple[Any, ...], how: str) -> tuple[Any, ...]:
    """What is picked after a pick, in the order of picking."""
    new = tuple(dict.fromkeys(new))
    if how == "add":
        return tuple(dict.fromkeys((*old, *new)))
    if how == "common":
        kept = set(new)
        return tuple(one for one in old if one in kept)
    if how == "toggle":
        was, now = set(old), set(new)
        return (*(one for one in old if one not in now), *(one for one in new if one not in was))
    return new
