"""What a treatment declares: its parameters, its function, what it learns, its source, what it needs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, get_args, get_type_hints

import msgspec

from scutcher.core.errors import RecipeError, TableError
from scutcher.core.table import Table


class Parameters(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """The settings of a treatment; each field carries its range, unit and help in a `msgspec.Meta`."""


Learned = Any
"""What a treatment learned from the training set: a frozen record of arrays and numbers, or None."""


@dataclass(frozen=True)
class Treatment:
    """One treatment, as the trail, the recipe, the command line, the guide and the tests read it.

    Attributes
    ----------
    key : str
        The name in recipes: the trade's term, lower case, hyphenated; never renamed.
    name, purpose, help : str
        On screen: the full name; what it is for, as one would search for it; a sentence of advice.
    source : str
        Where it is published.
    parameters : subclass of Parameters
    apply : (Table, Parameters, Learned) → Table
        Treats the rows of a table; the input is not changed.
    fit : (Table, Parameters) → Learned, or None
        For those that learn from the training set.
    needs : tuple of "ordered", "no-gaps", "classes", …
        Checked by `check_needs` before anything is computed.
    short : Parameters → str
        The line under the knot on the trail.
    """

    key: str
    name: str
    purpose: str
    help: str
    source: str
    parameters: type[Parameters]
    apply: Callable[[Table, Any, Learned], Table]
    fit: Callable[[Table, Any], Learned] | None = None
    needs: tuple[str, ...] = ()
    short: Callable[[Any], str] = lambda parameters: ""

    @property
    def learns(self) -> bool:
        """Whether it learns from the set, and so is relearned inside each validation segment."""
        return self.fit is not None


@dataclass(frozen=True)
class Field:
    """One parameter as a form, a manual or a message shows it."""

    name: str
    default: Any
    kind: str
    low: float | None
    high: float | None
    choices: tuple[Any, ...]
    unit: str
    help: str


def fields_of(parameters: type[msgspec.Struct]) -> tuple[Field, ...]:
    """Read the declared fields of a parameter struct, in order."""
    hints = get_type_hints(parameters, include_extras=True)
    found = []
    for field in msgspec.structs.fields(parameters):
        kind, *notes = get_args(hints[field.name]) or (hints[field.name],)
        is_choice = isinstance(kind, str)
        metas = [note for note in notes if isinstance(note, msgspec.Meta)]
        meta = metas[0] if metas else msgspec.Meta()
        choices = get_args(kind) if get_args(kind) else ()
        if is_choice:
            choices = get_args(hints[field.name])
        found.append(
            Field(
                name=field.encode_name,
                default=None if field.default is msgspec.NODEFAULT else field.default,
                kind="choice" if choices else getattr(kind, "__name__", str(kind)),
                low=meta.ge if meta.ge is not None else meta.gt,
                high=meta.le if meta.le is not None else meta.lt,
                choices=tuple(choices),
                unit=str((meta.extra or {}).get("unit", "")),
                help=meta.description or "",
            )
        )
    return tuple(found)


def check_needs(treatment: Treatment, table: Table) -> None:
    """Refuse a table that the treatment cannot work on, with the step that would help.

    Raises
    ------
    TableError
        The treatment needs no gaps, and there is one; it needs an ordered axis, and there is none.
    RecipeError
        It needs something that nobody has defined: a mistake in the declaration.
    """
    for need in treatment.needs:
        if need == "no-gaps":
            gaps = table.gaps()
            if gaps.any():
                row = int(gaps.any(axis=1).argmax())
                raise TableError(
                    f"{treatment.name}: sample {table.ids[row]} has {int(gaps[row].sum())} gaps.",
                    "Leave out samples with gaps or fill them first.",
                )
        elif need == "ordered":
            if not table.axis.ordered:
                raise TableError(
                    f"{treatment.name} needs an ordered axis; this is a table of mixed variables.",
                    "Switch the step off or use numeric column headers.",
                )
        else:
            raise RecipeError(f"{treatment.name} declares an unknown need {need!r}.", "Correct its file.")
