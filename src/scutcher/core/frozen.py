"""Frozen dataclasses that are worked out when the first object is made: a start names many and makes few."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import MISSING, Field, FrozenInstanceError, dataclass, field, fields
from operator import attrgetter
from reprlib import recursive_repr
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

    `dataclasses.dataclass` writes and compiles six methods of a class, about a millisecond for each class: a
    fifth of a start for classes of which most make nothing before the window is there. Here only `__init__`
    is written; the others are the same few lines for every class.

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
        """Add the methods; once, whoever asks."""
        with _one_at_a_time:
            kind = self.kind
            if kind.__dict__.get("__dataclass_fields__") is not self:
                return
            made = dataclass(init=False, eq=False, repr=False)(self._twin())
            for name, value in vars(made).items():
                if name not in OF_EACH and vars(kind).get(name) is not value:
                    setattr(kind, name, value)
            for name in set(vars(kind)) - set(vars(made)) - OF_EACH - {"__init__"}:
                delattr(kind, name)  # a field without a default
            self._add_methods(fields(made))
            if vars(kind).get("__init__") is self.first:  # last: a thread that makes an object waits in it
                kind.__init__ = _init_of(kind, fields(made))

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

    def _add_methods(self, all_fields: tuple[Field[Any], ...]) -> None:
        methods = _refusals(self.kind, frozenset(each.name for each in all_fields))
        if self.repr:
            methods["__repr__"] = _repr_of([each.name for each in all_fields if each.repr])
        if self.eq:
            methods |= _equality(tuple(each.name for each in all_fields if each.compare))
        for name, method in methods.items():
            if vars(self.kind).get(name) is None:  # a class that says what equals it has no hash
                method.__qualname__ = f"{self.kind.__qualname__}.{name}"
                setattr(self.kind, name, method)

    def __get__(self, instance: object, owner: type[Any]) -> dict[str, Field[Any]]:
        """The fields, of a class that is finished by asking."""
        self.finish()
        return cast(dict[str, Field[Any]], self.kind.__dataclass_fields__)


OF_EACH = frozenset({"__dict__", "__weakref__"})
"""What each class has of its own."""

Methods = dict[str, Callable[..., Any]]


def _init_of(kind: type[Any], all_fields: tuple[Field[Any], ...]) -> Callable[..., None]:
    """`__init__`, written out: the only method whose form differs from class to class."""
    given, lines = [], []
    known: dict[str, Any] = {"_set": object.__setattr__, "_none": MISSING}
    for each in all_fields:
        name, value = each.name, each.name
        if each.default_factory is not MISSING:
            known[f"_make_{name}"] = each.default_factory
            value = f"_make_{name}() if {name} is _none else {name}" if each.init else f"_make_{name}()"
            given += [f"{name}=_none"] if each.init else []
        elif not each.init:
            continue
        elif each.default is not MISSING:
            known[f"_of_{name}"] = each.default
            given.append(f"{name}=_of_{name}")
        else:
            given.append(name)
        lines.append(f"_set(self, {name!r}, {value})")
    if hasattr(kind, "__post_init__"):
        lines.append("self.__post_init__()")
    made: dict[str, Callable[..., None]] = {}
    body = "; ".join(lines) or "pass"
    exec(f"def __init__({', '.join(['self', *given])}): {body}", known, made)
    init = made["__init__"]
    init.__qualname__ = f"{kind.__qualname__}.__init__"
    init.__annotations__ = {each.name: each.type for each in all_fields if each.init} | {"return": None}
    return init


def _refusals(kind: type[Any], names: frozenset[str]) -> Methods:
    """What refuses a change; a plain class made from this one may have more of its own."""

    def __setattr__(self: object, name: str, value: object) -> None:
        if type(self) is kind or name in names:
            raise FrozenInstanceError(f"cannot assign to field {name!r}")
        super(kind, self).__setattr__(name, value)

    def __delattr__(self: object, name: str) -> None:
        if type(self) is kind or name in names:
            raise FrozenInstanceError(f"cannot delete field {name!r}")
        super(kind, self).__delattr__(name)

    return {"__setattr__": __setattr__, "__delattr__": __delattr__}


def _repr_of(names: list[str]) -> Callable[..., str]:
    @recursive_repr()
    def __repr__(self: object) -> str:
        said = ", ".join(f"{name}={getattr(self, name)!r}" for name in names)
        return f"{type(self).__qualname__}({said})"

    return __repr__


def _equality(names: tuple[str, ...]) -> Methods:
    """What compares objects of the same class, and counts them, by their fields."""
    read = attrgetter(*names) if names else lambda self: ()
    values = read if len(names) != 1 else lambda self: (read(self),)

    def __eq__(self: object, other: object) -> bool:
        return values(self) == values(other) if other.__class__ is self.__class__ else NotImplemented

    def __hash__(self: object) -> int:
        return hash(values(self))

    return {"__eq__": __eq__, "__hash__": __hash__}
