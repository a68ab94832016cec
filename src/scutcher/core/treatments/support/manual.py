"""A treatment's page of the manual, made from its declaration."""

from __future__ import annotations

from collections.abc import Iterable

from scutcher.core.treatments.base import Field, Treatment, fields_of
from scutcher.core.words import shown


def entry(treatment: Treatment) -> str:
    """Name, purpose, parameters with range, default and unit, and source, as plain text."""
    lines = [
        f"{treatment.key}: {treatment.name}",
        f"  purpose   {treatment.purpose}",
        f"  learns    {'from the training set' if treatment.learns else 'nothing: row by row'}",
        f"  needs     {', '.join(treatment.needs) or 'nothing special'}",
        f"  source    {treatment.source}",
        f"  {treatment.help}",
    ]
    fields = fields_of(treatment.parameters)
    lines += [_parameter(field) for field in fields] or ["  no parameters"]
    return "\n".join(lines)


def _parameter(field: Field) -> str:
    if field.choices:
        values = ", ".join(str(choice) for choice in field.choices)
    else:
        low = "" if field.low is None else f" from {shown(field.low)}"
        high = "" if field.high is None else f" to {shown(field.high)}"
        values = f"{field.kind}{low}{high}"
    unit = f" {field.unit}" if field.unit else ""
    return f"  {field.name} = {field.default}{unit}  ({values})  {field.help}"


def guide(treatments: Iterable[Treatment]) -> str:
    """The guide's page of all treatments, as Markdown, by family."""
    found = list(treatments)
    families = list(dict.fromkeys(treatment.family for treatment in found))
    lines = [
        "# Treatments",
        "",
        "Made from the declarations by `./run cli treatments --markdown`; do not edit by hand.",
        "Parameters in a recipe are written as `name = value`. *Set*: learns from the training set, stores",
        "what it learned, and is learned again inside each validation segment; the others work row by row.",
    ]
    for family in families:
        lines += ["", f"## {family.capitalize()}"]
        for treatment in (treatment for treatment in found if treatment.family == family):
            lines += [
                "",
                f"### `{treatment.key}`: {treatment.name}{' (set)' if treatment.learns else ''}",
                "",
            ]
            lines += [f"{treatment.purpose.capitalize()}. {treatment.help}", ""]
            lines += [f"- {_in_words(field)}" for field in fields_of(treatment.parameters)]
            lines += [f"- needs: {', '.join(treatment.needs)}"] if treatment.needs else []
            lines += [f"- source: {treatment.source}"]
    return "\n".join(lines) + "\n"


def _in_words(field: Field) -> str:
    if field.choices:
        values = ", ".join(f"`{choice}`" for choice in field.choices)
    else:
        low = "" if field.low is None else f" from {shown(field.low)}"
        high = "" if field.high is None else f" to {shown(field.high)}"
        values = f"{field.kind}{low}{high}"
    unit = f" {field.unit}" if field.unit else ""
    default = "none" if field.default in ((), "") else field.default
    return f"`{field.name}` = {default}{unit} ({values}): {field.help}"
