"""Commands on what a model uses: samples set aside, watched and brought back; variables left out."""

from __future__ import annotations

from dataclasses import replace

from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of
from scutcher.study.document.changes import model_of, names_of, table_of, with_use
from scutcher.study.document.state import State

LEAST = 2
"""Samples and variables that a model needs."""


@frozen
class SetAside:
    """Take samples out of the model, with a reason that stays with them."""

    rows: tuple[int, ...]
    reason: str

    def label(self, state: State) -> str:
        return f"Set aside {names_of(table_of(state).ids, self.rows)}: {self.reason.strip()}"

    def apply(self, state: State) -> State:
        table, use = table_of(state), model_of(state).use
        reason = self.reason.strip()
        if not reason:
            raise InputError(
                "No reason was given.", "Say why these samples are set aside; nothing was changed."
            )
        _check_rows(self.rows, len(table.ids))
        if not set(self.rows) - set(use.set_aside):
            return state
        _check_left(len(table.ids) - len({*table.set_aside, *self.rows}))
        gone = set(self.rows)
        watched = tuple(row for row in use.watched if row not in gone)
        aside = {**use.set_aside, **dict.fromkeys(self.rows, reason)}
        return with_use(state, replace(use, set_aside=aside, watched=watched, _seen=[]))


@frozen
class Watch:
    """Take samples out of the model and show them on it: how does it do on what it has not seen?"""

    rows: tuple[int, ...]

    def label(self, state: State) -> str:
        return f"Watch {names_of(table_of(state).ids, self.rows)}"

    def apply(self, state: State) -> State:
        table, use = table_of(state), model_of(state).use
        _check_rows(self.rows, len(table.ids))
        fresh = set(self.rows) - set(use.set_aside)
        if fresh <= set(use.watched):
            return state
        _check_left(len(table.ids) - len({*table.set_aside, *fresh}))
        watched = tuple(sorted({*use.watched, *fresh}))
        return with_use(state, replace(use, watched=watched, _seen=[]))


@frozen
class BringBack:
    """Let samples that were set aside or watched into the model again."""

    rows: tuple[int, ...]

    def label(self, state: State) -> str:
        return f"Bring back {names_of(table_of(state).ids, self.rows)}"

    def apply(self, state: State) -> State:
        use = model_of(state).use
        if not set(self.rows) & {*use.set_aside, *use.watched}:
            return state
        back = set(self.rows)
        aside = {row: reason for row, reason in use.set_aside.items() if row not in back}
        watched = tuple(row for row in use.watched if row not in back)
        return with_use(state, replace(use, set_aside=aside, watched=watched, _seen=[]))


@frozen
class LeaveOutVariables:
    """Take variables out of the model, with a reason."""

    columns: tuple[int, ...]
    reason: str

    def label(self, state: State) -> str:
        names = names_of(table_of(state).axis.labels, self.columns, "variable")
        return f"Leave out {names}: {self.reason.strip()}"

    def apply(self, state: State) -> State:
        table, use = table_of(state), model_of(state).use
        reason = self.reason.strip()
        if not reason:
            raise InputError(
                "No reason was given.", "Say why these variables are left out; nothing was changed."
            )
        _check_rows(self.columns, len(table.axis), "variable")
        fresh = set(self.columns) - set(use.left_out)
        if not fresh:
            return state
        left = len(table.used_columns()) - len(fresh)
        if left < LEAST:
            raise InputError(
                f"Only {count_of(left, 'variable')} would be left.",
                f"Keep at least {LEAST}; nothing was changed.",
            )
        left_out = {**use.left_out, **dict.fromkeys(self.columns, reason)}
        return with_use(state, replace(use, left_out=left_out, _seen=[]))


@frozen
class BringBackVariables:
    """Let variables that were left out into the model again; empty ones stay out."""

    columns: tuple[int, ...]

    def label(self, state: State) -> str:
        return f"Bring back {names_of(table_of(state).axis.labels, self.columns, 'variable')}"

    def apply(self, state: State) -> State:
        table, use = table_of(state), model_of(state).use
        kept = {column: why for column, why in table.left_out.items() if column not in self.columns}
        fresh = leave_out_empty(replace(table, left_out=kept))
        if fresh.left_out == table.left_out:
            return state
        return with_use(state, replace(use, left_out=fresh.left_out, _seen=[]))


def _check_left(left: int) -> None:
    if left < LEAST:
        raise InputError(
            f"Only {count_of(left)} would be left.", f"Keep at least {LEAST}; nothing was changed."
        )


def _check_rows(places: tuple[int, ...], count: int, thing: str = "sample") -> None:
    for place in places:
        if not 0 <= place < count:
            raise InputError(
                f"There is no {thing} {place + 1}; the table has {count}.", "Nothing was changed."
            )
