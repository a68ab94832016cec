"""Chapters of the guide that are made from what is declared: treatments, settings, figures."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal, get_args, get_origin, get_type_hints

import msgspec
from msgspec import Meta

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.rank import EVIDENCE
from scutcher.core.recipes.recipe import SECTIONS
from scutcher.core.treatments import all_treatments
from scutcher.core.treatments.support.manual import guide
from scutcher.core.words import shown

TITLES = {
    "scale": "Centring and scaling",
    "model": "The component model",
    "limits": "Limits of the distances",
    "validate": "Validation",
    "evidence": "Evidence on the number of components",
    "groups": "Groups",
    "unmix": "Unmixing",
    "blocks": "Several tables",
}
"""Of the sections of a recipe."""


NAMED = {
    "t2": "T²",
    "q": "Q",
    "q_share": "Q, share of each variable",
    "t2_share": "T², share of each variable",
}
"""Figures whose keys are no words."""


def treatments_chapter() -> str:
    """Every treatment with what it is for, its parameters and its source."""
    whole = guide(all_treatments().values())
    return whole[whole.index("\n## ") :].strip()


def settings_chapter() -> str:
    """Every setting of a recipe: its values, what it is by itself, what it does."""
    parts = ["A recipe is a text file (TOML) with a part `[[treat]]` for each treatment, and these parts:"]
    for section, kind in SECTIONS.items():
        parts.append(f"\n## {TITLES[section]}: `[{section}]`\n")
        parts += _settings_of(kind)
    return "\n".join(parts)


def _settings_of(kind: type[msgspec.Struct]) -> Iterator[str]:
    hints = get_type_hints(kind, include_extras=True)
    for field in msgspec.structs.fields(kind):
        values, meta = _values(hints[field.name])
        told = f": {meta.description}" if meta is not None and meta.description else ""
        usual = "" if field.default in (None, msgspec.NODEFAULT, ()) else f" = {_said(field.default)}"
        yield f"- `{field.encode_name}`{usual}{f' ({values})' if values else ''}{told}"


def _values(hint: Any) -> tuple[str, Meta | None]:
    """The choices of a setting or the range of a number, and what is said of it."""
    meta = None
    for part in (hint, *get_args(hint)):
        if get_origin(part) is Annotated:
            found = [one for one in part.__metadata__ if isinstance(one, Meta)]
            meta = found[0] if found else None
            hint = get_args(part)[0]
            break
    literal = (part for part in (hint, *get_args(hint)) if get_origin(part) is Literal)
    choices = [one for part in literal for one in get_args(part)]
    if choices:
        return ", ".join(map(str, choices)), meta
    if meta is None:
        return "", None
    low = meta.ge if meta.ge is not None else meta.gt
    high = meta.le if meta.le is not None else meta.lt
    ends = [f"from {shown(low)}" if low is not None else "", f"to {shown(high)}" if high is not None else ""]
    return " ".join(one for one in ends if one), meta


def _said(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return f'"{value}"' if isinstance(value, str) else str(value)


def figures_chapter() -> str:
    """What every figure on screen means, with formula and source; and every line of evidence."""
    parts = ["What stands in the tooltips of titles and figures, in one place.\n"]
    parts += [f"- **{_words(key)}**: {text}" for key, text in DEFINITIONS.items()]
    parts.append("\n## Lines of evidence on the number of components\n")
    parts += [f"- **{name}**: {meaning}" for name, meaning in EVIDENCE.values()]
    return "\n".join(parts)


def _words(key: str) -> str:
    return NAMED.get(key, key.replace("_", " "))
