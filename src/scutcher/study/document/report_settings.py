"""How the report of a study is written: its title and author, which sections in which order, remarks."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

LONGEST = 20_000
"""Letters of a remark."""

Words = Annotated[str, Meta(max_length=LONGEST)]
Line = Annotated[str, Meta(max_length=400)]


class SectionSettings(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One section: its key, whether it is written, and what somebody remarks on it."""

    key: Line
    on: bool = True
    remark: Words = ""


class ReportSettings(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What is chosen of a report; what is not chosen is as it is by itself.

    Attributes
    ----------
    title, author : str
        Empty: the name of the study, and nobody.
    question : str
        What was asked, in somebody's own words; it comes first.
    paper : "a4" or "letter"
    sections : tuple of SectionSettings
        Those that were ordered, switched off or remarked on; others follow in their own order.
    hidden : tuple of str
        Keys of figures that are left out.
    captions : tuple of (key, caption)
        Of figures, in place of their own.
    """

    title: Line = ""
    author: Line = ""
    question: Words = ""
    paper: Literal["a4", "letter"] = "a4"
    sections: tuple[SectionSettings, ...] = ()
    hidden: tuple[Line, ...] = ()
    captions: tuple[tuple[Line, Words], ...] = ()

    def of(self, key: str) -> SectionSettings:
        """The settings of a section."""
        return next((one for one in self.sections if one.key == key), SectionSettings(key))

    def ordered(self, keys: tuple[str, ...]) -> tuple[str, ...]:
        """Keys in the order that was chosen; the others stand after those they stood after."""
        chosen = [one.key for one in self.sections if one.key in keys]
        if not chosen:
            return keys
        rest = [key for key in keys if key not in chosen]
        found = list(chosen)
        for key in rest:
            before = keys[: keys.index(key)]
            place = max((found.index(one) + 1 for one in before if one in found), default=0)
            found.insert(place, key)
        return tuple(found)


NO_REPORT = ReportSettings()
