"""What a treatment declares: its parameters, its function, what it learns, its source, what it needs."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cache
from typing import Any, get_args, get_origin, get_type_hints

import msgspec

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen


class Parameters(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """The settings of a treatment; each field carries its range, unit and help in a `msgspec.Meta`.

    `Meta.extra` may hold "unit", "slider" (the range a form's slider covers, where it is narrower than
    what is allowed), "log" (the slider is logarithmic) and "of" (what a text names: "class column",
    "class", "sample", "property").
    """


Learned = Mapping[str, Any] | None
"""What a treatment learned from the training set: arrays and lists of words by name; None for nothing."""


@frozen(eq=False)
class Inside:
    """What a treatment can show of its work, beside its result.

    Attributes
    ----------
    baseline : (n, p) float array or None
        What was taken off each spectrum.
    reference : (p,) float array or None
        The spectrum that each was held against.
    per_sample : (n,) float array or None
        A figure of each sample: its quotient, its shift.
    per_sample_name : str
        What that figure is, with its unit.
    """

    baseline: Floats | None = None
    reference: Floats | None = None
    per_sample: Floats | None = None
    per_sample_name: str = ""


def subtracting(baselines: Callable[[Table, Any], Floats]) -> Callable[[Table, Any, Learned], Table]:
    """The `apply` of a treatment that takes a (n, p) baseline off."""

    def apply(table: Table, parameters: Any, learned: Learned) -> Table:
        return table.with_values(table.values - baselines(table, parameters))

    return apply


def taken_off(before: Table, after: Table, parameters: Any, learned: Learned) -> Inside:
    """The `inside` of a treatment that takes a baseline off: it is what is gone."""
    return Inside(before.values - after.values)


@frozen
class Treatment:
    """One treatment, as the trail, the recipe, the command line, the guide and the tests read it.

    Attributes
    ----------
    key : str
        The name in recipes: the trade's term, lower case, hyphenated; never renamed.
    name, family, purpose, help : str
        On screen: the full name; the kind of step; what it is for, as one would search for it; a
        sentence of advice.
    source : str
        Where it is published.
    parameters : subclass of Parameters
    apply : (Table, Parameters, Learned) → Table
        Treats the rows of a table; the input is not changed.
    fit : (Table, Parameters) → Learned, or None
        For those that learn from the training set.
    needs : tuple of keys of `needs.NEEDS`
        Checked by `check_needs` before anything is computed.
    short : Parameters → str
        The line under the knot on the trail.
    inside : (Table, Table, Parameters, Learned) → Inside, or None
        What the picture shows of its work; the tables are those before and after the step.
    suggest : Table → Parameters, or None
        Settings that suit a table, where the defaults cannot know it; put into the recipe when added.
    of_mean : Parameters → bool
        Whether what it learns follows from the mean spectrum of the set alone: then a pass over data that do
        not fit memory teaches it exactly.
    slow : bool
        Whether row-wise work is done in parts, so that it can tell how far it is and be stopped.
    cost : float
        About how many multiplications a value takes: what is much is not done while somebody waits.
    channels : (Axis, Parameters) → int, or None
        How many channels come out, where they may be more than went in.
    """

    key: str
    name: str
    family: str
    purpose: str
    help: str
    source: str
    parameters: type[Parameters]
    apply: Callable[[Table, Any, Learned], Table]
    fit: Callable[[Table, Any], Learned] | None = None
    needs: tuple[str, ...] = ()
    short: Callable[[Any], str] = lambda parameters: ""
    inside: Callable[[Table, Table, Any, Learned], Inside] | None = None
    of_mean: Callable[[Any], bool] = lambda parameters: False
    slow: bool = False
    cost: float = 40.0
    channels: Callable[[Axis, Any], int] | None = None
    suggest: Callable[[Table], Any] | None = None

    @property
    def learns(self) -> bool:
        """Whether it learns from the set, and so is relearned inside each validation segment."""
        return self.fit is not None


@frozen
class Field:
    """One parameter as a form, a manual or a message shows it.

    `kind` is "choice", "int", "float", "bool", "str", "regions" or "region"; `of` says what a text names.
    """

    name: str
    default: Any
    kind: str
    low: float | None
    high: float | None
    choices: tuple[Any, ...]
    unit: str
    help: str
    slider: tuple[float, float] | None = None
    log: bool = False
    of: str = ""


@cache
def fields_of(parameters: type[msgspec.Struct]) -> tuple[Field, ...]:
    """Read the declared fields of a parameter struct, in order."""
    hints = get_type_hints(parameters, include_extras=True)
    return tuple(_field(field, hints[field.name]) for field in msgspec.structs.fields(parameters))


def _field(field: msgspec.structs.FieldInfo, hint: Any) -> Field:
    kind, meta = _unwrapped(hint)
    extra = meta.extra or {}
    choices = get_args(kind) if str(get_origin(kind)) == "typing.Literal" else ()
    low = meta.ge if meta.ge is not None else meta.gt
    high = meta.le if meta.le is not None else meta.lt
    return Field(
        name=field.encode_name,
        default=None if field.default is msgspec.NODEFAULT else field.default,
        kind="choice" if choices else _kind(kind),
        low=low,
        high=high,
        choices=tuple(choices),
        unit=str(extra.get("unit", "")),
        help=meta.description or "",
        slider=extra.get("slider"),
        log=bool(extra.get("log", False)),
        of=str(extra.get("of", "")),
    )


def _unwrapped(hint: Any) -> tuple[Any, msgspec.Meta]:
    """The bare type and the note on it, through `Annotated` and `… | None`."""
    meta = msgspec.Meta()
    while True:
        if hasattr(hint, "__metadata__"):
            metas = [note for note in hint.__metadata__ if isinstance(note, msgspec.Meta)]
            meta = metas[0] if metas else meta
            hint = hint.__origin__
        elif type(None) in get_args(hint):
            hint = next(part for part in get_args(hint) if part is not type(None))
        else:
            return hint, meta


def _kind(hint: Any) -> str:
    if get_origin(hint) is tuple:
        return "regions" if Ellipsis in get_args(hint) else "region"
    return getattr(hint, "__name__", str(hint))
