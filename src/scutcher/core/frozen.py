"""Frozen dataclasses that are worked out when the first object is made: a start names many and makes few."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import Field, dataclass, field
from threading import RLock
from typing import Any, TypeVar, cast, dataclass_transform, overload

C = TypeVar("C", bound=type[Any])


@overload
def frozen(kind: C, /) -> C: ...


@overload
def frozen(*, eq: bool = True, repr: bool = True) -> Callable[[C], C]: ...


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def frozen(kind: C | None = None, /, *, eq: bool = True, repr: bool = True) -> C | Callable[[C], C]:
    """Make a class a frozen dataclass when its first object, or its fields, are asked for.

    `dataclasses.dataclass` writes and compiles the methods of a class, about a millisecond for each: a fifth
    of a start for classes of which most make nothing before the window is there.

    Parameters
    ----------
    kind : the class
    eq, repr : as of `dataclasses.dataclass`; without `eq` an object equals itself only
    """

    def postpone(made: C) -> C:
        _Unfinished(made, eq, repr)
        return made

    return postpone if kind is None else postpone(kind)


_one_at_a_time = RLock()  # a class finishes those that it is made from


class _Unfinished:
    """Stands for the fields of a class, and in front of its `__init__`, until the first use."""

    def __init__(self, kind: type[Any], eq: bool, repr: bool) -> None:
        self.kind, self.eq, self.repr = kind, eq, repr

        def first(self_: object, *given: Any, **named: Any) -> None:
            self.finish()
            kind.__init__(self_, *given, **named)

        self.first = first
        kind.__dataclass_fields__ = self
        if "__init__" in kind.__dict__:
            self.finish()  # nothing would stand in front of it
        else:
            kind.__init__ = first

    def finish(self) -> None:
        """Write the methods; once, whoever asks."""
        with _one_at_a_time:
            kind = self.kind
            if kind.__dict__.get("__dataclass_fields__") is not self:
                return
            made = dataclass(frozen=True, eq=self.eq, repr=self.repr)(self._twin())
            init = made.__init__
            for name, value in vars(made).items():
                if name not in OF_EACH and vars(kind).get(name) is not value and value is not init:
                    _belongs_to(value, made, kind)
                    setattr(kind, name, value)
            for name in set(vars(kind)) - set(vars(made)) - OF_EACH:
                delattr(kind, name)  # a field without a default
            kind.__init__ = init  # last: a thread that makes an object meanwhile waits in the former

    def _twin(self) -> type[Any]:
        """The class as it was written. Half finished it would be seen by other threads."""
        written = {
            name: value
            for name, value in vars(self.kind).items()
            if name not in OF_EACH and value is not self and value is not self.first
        }
        make: Callable[..., type[Any]] = type(self.kind)
        twin = make(self.kind.__name__, self.kind.__bases__, written)
        twin.__qualname__ = self.kind.__qualname__
        return twin

    def __get__(self, instance: object, owner: type[Any]) -> dict[str, Field[Any]]:
        """The fields, of a class that is finished by asking."""
        self.finish()
        return cast(dict[str, Field[Any]], self.kind.__dataclass_fields__)


OF_EACH = frozenset({"__dict__", "__weakref__"})
"""What each class has of its own."""


def _belongs_to(value: object, twin: type[Any], kind: type[Any]) -> None:
    """A method that asks whether an object is of the twin asks for the class itself."""
    for cell in getattr(value, "__closure__", None) or ():
        if cell.cell_contents is twin:
            cell.cell_contents = kind
