"""A report as a document: sections of headings, paragraphs, tables and figures, whatever it is written as."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from scutcher.charts.description import Chart
from scutcher.charts.figure import DOUBLE, Figure

DOTS = 220
"""An inch, of what is drawn as dots."""

Paper = Literal["a4", "letter"]


@dataclass(frozen=True, slots=True)
class Heading:
    """Begins a part of a section; as the first of a section it is its title."""

    words: str


@dataclass(frozen=True, slots=True)
class Paragraph:
    """Words; as they are, line by line, where they are a listing of a program; a remark is somebody's own."""

    words: str
    as_written: bool = False
    remark: bool = False


@dataclass(frozen=True, slots=True)
class Points:
    """Sentences one under the other."""

    sentences: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Rows:
    """A table; its header may be missing."""

    rows: Sequence[tuple[str, ...]]
    header: tuple[str, ...] = ()
    figures: tuple[bool, ...] = field(init=False)
    """Which columns hold numbers, and stand at the right; of a table without a header none."""

    def __post_init__(self) -> None:
        columns = zip(*self.rows, strict=False) if self.rows else ()
        numbers = (bool(self.header) and any(column) and all(map(_is_number, column)) for column in columns)
        object.__setattr__(self, "figures", tuple(numbers))  # asked for with every cell


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """A chart with the words below it."""

    chart: Chart
    caption: str
    legend: tuple[tuple[int, str], ...] = ()
    names: tuple[tuple[float, float, str], ...] = ()

    @property
    def key(self) -> str:
        """What it is called among the figures of a report: the title of its chart, and its note."""
        return " · ".join(word for word in (self.chart.title, self.chart.note) if word)

    @property
    def shows_classes(self) -> bool:
        """Whether the colours on it are those of classes."""
        chart = self.chart
        lines = chart.lines is not None and chart.lines.role != "component" and len(self.legend) > 1
        return chart.marks is not None or lines

    def figure(self, height: float) -> Figure:
        """How it is drawn, at a height in mm; its legend stands below it."""
        return Figure(DOUBLE, height, dots=DOTS, names=self.names, light=True)


Part = Heading | Paragraph | Points | Rows | Picture


@dataclass(frozen=True, slots=True)
class Section:
    """A part with a title of its own, in the contents and the bookmarks."""

    key: str
    title: str
    parts: tuple[Part, ...]


@dataclass(frozen=True, slots=True)
class Document:
    """All that is written.

    Attributes
    ----------
    title, author : str
    sections : tuple of Section
        From top to bottom.
    paper : "a4" or "letter"
    made : str
        By what and when, at the foot of every page.
    log_seal : str
        The seal of the last decision that it tells of, where it tells of a log.
    """

    title: str
    sections: tuple[Section, ...]
    author: str = ""
    paper: Paper = "a4"
    made: str = ""
    log_seal: str = ""


def section(key: str, title: str, parts: Sequence[Part]) -> Section | None:
    """A section of parts; a heading at their head is its title; None where there is nothing in it."""
    if parts and isinstance(parts[0], Heading):
        title, parts = parts[0].words, parts[1:]
    kept = tuple(part for part in parts if not (isinstance(part, Rows) and not part.rows))
    return Section(key, title, kept) if kept else None


def with_captions(found: Section, captions: dict[str, str], hidden: frozenset[str]) -> Section | None:
    """The same without figures that were not chosen, and with captions that somebody gave."""
    parts: list[Part] = []
    for part in found.parts:
        if isinstance(part, Picture):
            if part.key in hidden:
                continue
            part = replace(part, caption=captions.get(part.key, part.caption))
        parts.append(part)
    return replace(found, parts=tuple(parts)) if parts else None


def _is_number(cell: str) -> bool:
    text = cell.replace("−", "-").replace(",", "").removesuffix(" %")
    if not text:
        return True
    try:
        float(text)
    except ValueError:
        return False
    return True
