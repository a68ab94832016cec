"""A treatment's page of the manual, made from its declaration."""

from __future__ import annotations

from scutcher.core.treatments.base import Field, Treatment, fields_of


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
        low = "" if field.low is None else f" from {field.low:g}"
        high = "" if field.high is None else f" to {field.high:g}"
        values = f"{field.kind}{low}{high}"
    unit = f" {field.unit}" if field.unit else ""
    return f"  {field.name} = {field.default}{unit}  ({values})  {field.help}"
