"""The print painter: charts as SVG, PDF, EPS, TIFF or PNG at a chosen width, by matplotlib."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from io import BytesIO
from pathlib import Path
from typing import Any

from scutcher.charts.description import Chart
from scutcher.charts.figure import Figure
from scutcher.charts.palettes import on_paper
from scutcher.charts.print_axes import draw_chart
from scutcher.charts.print_names import draw_names, give_room
from scutcher.core.errors import FileError
from scutcher.core.progress import Watch, tell

KINDS = (".svg", ".pdf", ".eps", ".tif", ".tiff", ".png")


@on_paper()
def save_figure(chart: Chart | Sequence[Chart], path: Path, figure: Figure) -> None:
    """Draw a chart, or several as panels with letters, into a file; its ending says which kind.

    Raises
    ------
    FileError
        The ending is not one of `KINDS`, or the file cannot be written.
    """
    check_kind(path)
    drawn = draw(chart, figure) if isinstance(chart, Chart) else draw_panels(chart, figure)
    try:
        _write(drawn, path, path.suffix.lower(), figure)
    except OSError as error:
        raise FileError(
            f"{path.name} cannot be written: {error.strerror}.", "Choose another folder."
        ) from error


def check_kind(path: Path) -> None:
    """Refuse an ending that no kind of figure has.

    Raises
    ------
    FileError
    """
    if path.suffix.lower() not in KINDS:
        raise FileError(
            f"{path.name} ends in {path.suffix or 'nothing'!r}; figures are SVG, PDF, EPS, TIFF or PNG.",
            f"End its name in {', '.join(KINDS)}.",
        )


@on_paper()
def in_three_forms(chart: Chart, figure: Figure, watch: Watch | None = None) -> tuple[bytes, bytes, bytes]:
    """A chart as PNG, SVG and PDF, for programs that take one or another.

    Raises
    ------
    Stopped
        Between two forms: of very many lines each takes some seconds.
    """
    drawn = draw(chart, figure)
    tell(watch, 0.25)
    dots = _form(drawn, ".png", figure)
    tell(watch, 0.5)
    drawing = _svg(drawn, figure)
    tell(watch, 0.75)
    return dots, drawing, _form(drawn, ".pdf", figure)


@on_paper()
def svg_text(chart: Chart, figure: Figure) -> str:
    """A chart as SVG."""
    return _svg(draw(chart, figure), figure).decode()


def _svg(drawn: Any, figure: Figure) -> bytes:
    """Without what stands before the drawing in a file of its own."""
    whole = _form(drawn, ".svg", figure)
    return whole[whole.index(b"<svg") :]


def _form(drawn: Any, suffix: str, figure: Figure) -> bytes:
    out = BytesIO()
    _write(drawn, out, suffix, figure)
    return out.getvalue()


def _write(drawn: Any, to: Path | BytesIO, suffix: str, figure: Figure) -> None:
    with _real_letters():
        drawn.savefig(to, format=suffix[1:], dpi=figure.dots, metadata=_no_date(suffix))


def _no_date(suffix: str) -> dict[str, Any] | None:
    """The same chart makes the same file: no date in it."""
    return {".svg": {"Date": None}, ".pdf": {"CreationDate": None}}.get(suffix)


def _real_letters() -> Any:
    """Text stays text that can be searched and set anew: TrueType in PDF and EPS, letters in SVG."""
    import matplotlib

    kinds: Any = {"svg.fonttype": "none", "pdf.fonttype": 42, "ps.fonttype": 42, "svg.hashsalt": "scutcher"}
    return matplotlib.rc_context(kinds)


@on_paper()
def draw(chart: Chart, figure: Figure) -> Any:
    """The chart as a matplotlib figure, without any window."""
    return draw_panels((chart,), figure)


@on_paper()
def draw_panels(charts: Sequence[Chart], figure: Figure) -> Any:
    """Several charts as one figure, two beside each other, each with a letter; `height` is that of a row."""
    import matplotlib
    from matplotlib.figure import Figure as Canvas

    _use_our_face()
    across = min(len(charts), 2)
    down = -(-len(charts) // across)
    with matplotlib.rc_context({"font.size": figure.points}):
        size = (figure.width / 25.4, down * figure.height / 25.4)
        canvas = Canvas(figsize=size, layout="constrained")
        names = []
        for place, chart in enumerate(charts):
            axes = canvas.add_subplot(down, across, place + 1)
            own, alone = figure, len(charts) == 1
            if not alone:  # its words are those of its chart; one legend serves all panels
                last = place == len(charts) - 1
                legend = figure.legend if last else ()
                own = replace(figure, title=None, x_title=None, y_title=None, legend=legend)
            names.append(draw_chart(axes, chart, own, alone))
            if len(charts) > 1:
                axes.text(-0.02, 1.04, chr(ord("a") + place), transform=axes.transAxes, fontweight="bold",
                          ha="right", va="bottom", fontsize=figure.points + 2)  # fmt: skip
        crowded = [each for each in names if len(each) > 1]
        if figure.names or crowded:
            canvas.draw_without_rendering()  # or nobody knows where marks will be
        for each in crowded:
            give_room(each)
        if figure.names:
            draw_names(canvas.axes[0], figure)
    return canvas


def _use_our_face() -> None:
    """The shipped letters, whatever the machine has."""
    from importlib.resources import files

    from matplotlib import font_manager

    folder = files("scutcher.desk") / "fonts"
    known = {font.fname for font in font_manager.fontManager.ttflist}
    for face in ("Regular", "Bold"):
        path = str(folder / f"Inter-{face}.ttf")
        if path not in known:
            font_manager.fontManager.addfont(path)
    import matplotlib

    matplotlib.rcParams["font.family"] = ["Inter", "DejaVu Sans"]
