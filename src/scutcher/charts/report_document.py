"""A report as a document: headings, paragraphs, tables, figures; written as one HTML page or as a PDF."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from pathlib import Path
from textwrap import wrap

from scutcher import __version__
from scutcher.charts.description import Chart
from scutcher.charts.printing import DOUBLE, Figure, draw, svg_text
from scutcher.core.errors import FileError
from scutcher.files.safely import write_text

STYLE = """
body { font-family: Inter, sans-serif; color: #23262B; background: #F3F0E8; margin: 0; font-size: 14px; }
main { max-width: 900px; margin: 0 auto; padding: 28px 36px; background: #FCFBF8; }
h1 { color: #1F2F6B; font-size: 22px; } h2 { font-size: 16px; margin-top: 28px; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
td, th { border-bottom: 1px solid #DED8CB; padding: 3px 14px 3px 0; text-align: left; font-weight: 400; }
th { color: #77736A; } pre { background: #F3F0E8; padding: 10px; } figure { margin: 14px 0; }
figcaption { color: #77736A; font-size: 12px; } svg { max-width: 100%; height: auto; }
"""
LINES_A_PAGE, LETTERS_A_LINE = 62, 120


@dataclass(frozen=True, slots=True)
class Heading:
    """Begins a section."""

    words: str


@dataclass(frozen=True, slots=True)
class Paragraph:
    """Words; as they are, line by line, where they are a listing of a program."""

    words: str
    as_written: bool = False


@dataclass(frozen=True, slots=True)
class Points:
    """Sentences one under the other."""

    sentences: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Rows:
    """A table; its header may be missing."""

    rows: Sequence[tuple[str, ...]]
    header: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """A chart with the words below it."""

    chart: Chart
    caption: str
    legend: tuple[tuple[int, str], ...] = ()
    names: tuple[tuple[float, float, str], ...] = ()

    def figure(self, height: float) -> Figure:
        """How it is drawn, at a height in mm."""
        legend = self.legend if self.chart.marks is not None else ()
        return Figure(DOUBLE, height, legend=legend, names=self.names)


Part = Heading | Paragraph | Points | Rows | Picture


@dataclass(frozen=True, slots=True)
class Document:
    """All that is written.

    Attributes
    ----------
    title : str
    parts : tuple of Part
        From top to bottom.
    """

    title: str
    parts: tuple[Part, ...]


def write_document(document: Document, path: Path) -> None:
    """Write as HTML or PDF, by the file's ending.

    Raises
    ------
    FileError
        The ending is another, or the file cannot be written.
    """
    if path.suffix.lower() == ".html":
        write_text(path, html_of(document))
    elif path.suffix.lower() == ".pdf":
        _write_pdf(document, path)
    else:
        raise FileError(
            f"{path.name} ends in {path.suffix or 'nothing'!r}; reports are HTML or PDF.",
            "End its name in .html or .pdf.",
        )


def html_of(document: Document) -> str:
    """One page that needs nothing else."""
    title = escape(document.title)
    body = "".join(map(_html, document.parts))
    return (
        f'<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><title>{title}</title>'
        f"<style>{STYLE}</style></head><body><main><h1>{title}</h1>{body}"
        f"<p>Made by scutcher {__version__}.</p></main></body></html>\n"
    )


def _html(part: Part) -> str:
    if isinstance(part, Heading):
        return f"<h2>{escape(part.words)}</h2>"
    if isinstance(part, Paragraph):
        tag = "pre" if part.as_written else "p"
        return f"<{tag}>{escape(part.words)}</{tag}>"
    if isinstance(part, Points):
        return f"<ul>{''.join(f'<li>{escape(words)}</li>' for words in part.sentences)}</ul>"
    if isinstance(part, Rows):
        if not part.rows:
            return ""
        head = "".join(f"<th>{escape(cell)}</th>" for cell in part.header)
        rows = ("".join(f"<td>{escape(cell)}</td>" for cell in row) for row in part.rows)
        body = "".join(f"<tr>{cells}</tr>" for cells in rows)
        return f"<table>{f'<tr>{head}</tr>' if head else ''}{body}</table>"
    drawn = svg_text(part.chart, part.figure(76.0))
    return f"<figure>{drawn}<figcaption>{escape(part.caption)}</figcaption></figure>"


def _lines(part: Part) -> list[str]:
    """A part as lines of a page; none for a picture, which has a page of its own."""
    if isinstance(part, Heading):
        return ["", part.words]
    if isinstance(part, Paragraph):
        return part.words.splitlines() if part.as_written else wrap(part.words, LETTERS_A_LINE)
    if isinstance(part, Points):
        return [line for words in part.sentences for line in wrap(words, LETTERS_A_LINE)]
    if isinstance(part, Rows):
        rows = [part.header, *part.rows] if part.header else part.rows
        lines = ("   ".join(row) for row in rows)
        return [line for text in lines for line in wrap(text, LETTERS_A_LINE, drop_whitespace=False) or [""]]
    return []


def _write_pdf(document: Document, path: Path) -> None:
    from matplotlib.backends.backend_pdf import PdfPages
    from matplotlib.figure import Figure as Canvas

    lines = [line for part in document.parts for line in _lines(part)]
    try:
        with PdfPages(path, metadata={"CreationDate": None, "Title": document.title}) as pages:
            for start in range(0, len(lines), LINES_A_PAGE):
                page = Canvas(figsize=(8.27, 11.69))
                title = document.title.replace("$", r"\$")
                page.text(0.08, 0.96, title, fontsize=15, va="top", color="#1F2F6B")
                text = "\n".join(line[:LETTERS_A_LINE] for line in lines[start : start + LINES_A_PAGE])
                page.text(0.08, 0.92, text.replace("$", r"\$"), fontsize=8, va="top", linespacing=1.4)
                pages.savefig(page)
            for part in document.parts:
                if isinstance(part, Picture):
                    pages.savefig(draw(part.chart, part.figure(110.0)))
    except OSError as error:
        raise FileError(
            f"{path.name} cannot be written: {error.strerror}.", "Choose another folder."
        ) from error
