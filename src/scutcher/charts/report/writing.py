"""A document as one HTML page that needs nothing else, or as a PDF of the same template."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Callable
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any
from weakref import WeakKeyDictionary

from scutcher import __version__
from scutcher.charts.colours import class_colour
from scutcher.charts.description import Chart
from scutcher.charts.palettes import on_paper
from scutcher.charts.print_axes import class_marker_path
from scutcher.charts.printing import svg_text
from scutcher.charts.report.document import Document, Heading, Paragraph, Picture, Points, Rows
from scutcher.charts.report.typesetting import typesetter
from scutcher.core.errors import FileError
from scutcher.core.progress import Watch
from scutcher.files.report_seal import sealed_html, sealed_pdf
from scutcher.files.safely import write_bytes, write_text

HEIGHT = 68.0
"""mm of a figure."""

PAPERS = {"a4": "A4", "letter": "letter"}


@on_paper()
def write_document(document: Document, path: Path, watch: Watch | None = None) -> None:
    """Write as HTML or PDF, by the file's ending.

    Raises
    ------
    FileError
        The ending is another, or the file cannot be written.
    """
    check_ending(path)
    if path.suffix.lower() == ".html":
        write_text(path, html_of(document))
    else:
        write_bytes(path, sealed_pdf(pdf_of(document, watch)))


def check_ending(path: Path) -> None:
    """Refuse what no report can be written to, before anything is computed for it.

    Raises
    ------
    FileError
    """
    if path.suffix.lower() not in (".html", ".pdf"):
        raise FileError(
            f"{path.name} ends in {path.suffix or 'nothing'!r}; reports are HTML or PDF.",
            "End its name in .html or .pdf.",
        )


@on_paper()
def html_of(document: Document) -> str:
    """One page that needs nothing else, with the seal of its content."""
    return sealed_html(_filled(document))


@on_paper()
def pdf_of(document: Document, watch: Watch | None = None) -> bytes:
    """Pages of paper, with page numbers, contents and bookmarks.

    Raises
    ------
    FileError
        The system has no library to set text with.
    Stopped
        The watch answers False.
    """
    return typesetter().pdf(_filled(document, _as_image), _of_paper(document), watch)


def _filled(document: Document, put: Callable[[str], str] = str) -> str:
    """The page; `put` says how the SVG of a figure stands in it."""
    from jinja2 import Environment
    from markupsafe import Markup

    numbers: dict[int, int] = {}
    environment = Environment(autoescape=True, trim_blocks=False)
    for name, kind in (("heading", Heading), ("paragraph", Paragraph), ("points", Points), ("rows", Rows)):
        environment.tests[name] = lambda part, kind=kind: isinstance(part, kind)

    def number(part: Picture) -> int:
        return numbers.setdefault(id(part), len(numbers) + 1)

    filled: str = environment.from_string(_text("page.html")).render(
        document=document,
        generator=f"scutcher {__version__}",
        style=Markup(_text("style.css")),
        script=Markup(_text("sorting.js")),
        drawn=lambda part: Markup(put(_drawn(part))),
        swatch=lambda code: Markup(_swatch(code)),
        number=number,
    )
    return filled


def _as_image(drawn: str) -> str:
    """A figure of its own: what sets the text need not read a megabyte of curves letter by letter."""
    return f'<img src="data:image/svg+xml;base64,{b64encode(drawn.encode()).decode()}">'


_figures: WeakKeyDictionary[Chart, dict[object, str]] = WeakKeyDictionary()
"""The figures that were drawn, for as long as their charts are there."""


def _drawn(part: Picture) -> str:
    kept = _figures.setdefault(part.chart, {})
    if part.names not in kept:
        kept[part.names] = svg_text(part.chart, part.figure(HEIGHT))
    return kept[part.names]


@cache
def _text(name: str) -> str:
    return (files("scutcher.charts.report") / name).read_text(encoding="utf-8")


def _swatch(code: int) -> str:
    """The marker of a class, as it stands on the figure."""
    path, colour = class_marker_path(code), class_colour(code)
    return f'<svg viewBox="-1.2 -1.2 2.4 2.4"><path d="{path}" fill="{colour}"/></svg>'


def _of_paper(document: Document) -> str:
    """What stands on every page of paper, and the letters that are set."""
    faces = "".join(
        f"@font-face {{ font-family: Inter; font-weight: {weight}; src: url({_face(name)}); }}"
        for name, weight in (("Regular", 400), ("SemiBold", 600), ("Bold", 700))
    )
    margin = "font-family: Inter; font-size: 7.5pt; color: #77736A;"
    return (
        f"{faces} @page {{ size: {PAPERS[document.paper]};"
        f" @top-left {{ content: {_quoted(document.title)}; {margin} }}"
        f" @top-right {{ content: string(section); {margin} }}"
        f" @bottom-left {{ content: {_quoted(document.made)}; {margin} }}"
        f" @bottom-right {{ content: counter(page) ' of ' counter(pages); {margin} }} }}"
        " @page :first { @top-left { content: none } @top-right { content: none } }"
    )


def _face(name: str) -> str:
    face: Any = files("scutcher.desk") / "fonts" / f"Inter-{name}.ttf"
    return Path(str(face)).as_uri()


def _quoted(words: str) -> str:
    """Words as a string of a style sheet: whatever they hold."""
    safe = "".join(f"\\{ord(letter):06x} " if letter in "\\\"'<\n\r" else letter for letter in words)
    return f'"{safe}"'
