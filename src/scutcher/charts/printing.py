"""The print painter: charts as SVG, PDF, EPS, TIFF or PNG at a chosen width, by matplotlib."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.charts import colours
from scutcher.charts.description import Chart, Curve
from scutcher.charts.palettes import on_paper
from scutcher.core.errors import FileError

MARKERS: dict[str, Any] = {
    "disc": "o",
    "wedge": "v",
    "box": "s",
    "lozenge": "D",
    "plus": "P",
    "gable": "^",
    "cross": "X",
    "bar": ((-0.2, -0.55), (0.2, -0.55), (0.2, 0.55), (-0.2, 0.55), (-0.2, -0.55)),
}
HEAVY, UNDER = 20_000, 1.5
"""Points of lines that a light figure draws as dots; what lies below that level becomes one picture."""

Ends = tuple[float | None, float | None]

KINDS = (".svg", ".pdf", ".eps", ".tif", ".tiff", ".png")
MOST_NAMED = 12
"""Lines that are named beside the figure at most."""

SINGLE, DOUBLE = 85.0, 176.0
"""Widths of one and two columns of a journal, mm."""


@dataclass(frozen=True)
class Figure:
    """How a figure is to look.

    Attributes
    ----------
    width, height : float
        mm.
    points : float
        Size of the letters.
    title, x_title, y_title : str or None
        In place of the chart's own; None keeps it, "" leaves it out.
    dots : int
        Dots an inch, for PNG.
    legend : tuple of (code, name)
    x_range, y_range : (low, high), None for an end that follows the data
    reverse : bool
        The level axis runs from right to left, as wavenumbers do.
    names : tuple of (x, y, text)
        Beside marks, apart from each other.
    light : bool
        Many long lines are drawn as dots in a vector file too: they would weigh more than all the rest.
    """

    width: float = SINGLE
    height: float = 64.0
    points: float = 8.0
    title: str | None = None
    x_title: str | None = None
    y_title: str | None = None
    dots: int = 300
    legend: tuple[tuple[int, str], ...] = ()
    x_range: Ends = (None, None)
    y_range: Ends = (None, None)
    reverse: bool = False
    names: tuple[tuple[float, float, str], ...] = ()
    light: bool = False


@on_paper()
def save_figure(chart: Chart | Sequence[Chart], path: Path, figure: Figure) -> None:
    """Draw a chart, or several as panels with letters, into a file; its ending says which kind.

    Raises
    ------
    FileError
        The ending is not one of `KINDS`, or the file cannot be written.
    """
    if path.suffix.lower() not in KINDS:
        raise FileError(
            f"{path.name} ends in {path.suffix or 'nothing'!r}; figures are SVG, PDF, EPS, TIFF or PNG.",
            f"End its name in {', '.join(KINDS)}.",
        )
    drawn = draw(chart, figure) if isinstance(chart, Chart) else draw_panels(chart, figure)
    try:
        with _real_letters():
            drawn.savefig(path, dpi=figure.dots, metadata=_no_date(path.suffix.lower()))
    except OSError as error:
        raise FileError(
            f"{path.name} cannot be written: {error.strerror}.", "Choose another folder."
        ) from error


@on_paper()
def svg_text(chart: Chart, figure: Figure) -> str:
    """A chart as SVG."""
    from io import StringIO

    out = StringIO()
    drawn = draw(chart, figure)
    with _real_letters():
        drawn.savefig(out, format="svg", metadata=_no_date(".svg"), dpi=figure.dots)
    text = out.getvalue()
    return text[text.index("<svg") :]


def class_marker_path(code: int) -> str:
    """The marker of a class as the path of an SVG, about two units across, y downwards."""
    from matplotlib.markers import MarkerStyle

    style = MarkerStyle(MARKERS[colours.class_shape(code)])
    path = style.get_path().transformed(style.get_transform())
    outlines = [np.asarray(one, dtype=np.float64) for one in path.to_polygons(closed_only=False)]
    reach = max(float(np.abs(outline).max()) for outline in outlines)
    words = (
        "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in (outline / [reach, -reach]).tolist()) + "Z"
        for outline in outlines
    )
    return " ".join(words)


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
        for place, chart in enumerate(charts):
            axes = canvas.add_subplot(down, across, place + 1)
            own, alone = figure, len(charts) == 1
            if not alone:  # its words are those of its chart; one legend serves all panels
                last = place == len(charts) - 1
                legend = figure.legend if last else ()
                own = replace(figure, title=None, x_title=None, y_title=None, legend=legend)
            _draw_chart(axes, chart, own, alone)
            if len(charts) > 1:
                axes.text(-0.02, 1.04, chr(ord("a") + place), transform=axes.transAxes, fontweight="bold",
                          ha="right", va="bottom", fontsize=figure.points + 2)  # fmt: skip
        if figure.names:
            canvas.draw_without_rendering()  # or nobody knows where marks will be
            _draw_names(canvas.axes[0], figure)
    return canvas


def _draw_chart(axes: Any, chart: Chart, figure: Figure, alone: bool) -> None:
    """One chart into its axes."""
    _dress(axes, chart, figure)
    _draw_background(axes, chart)
    handles = _draw_lines(axes, chart)
    if figure.light and chart.lines is not None and chart.lines.ys.size > HEAVY:
        for line in handles:
            line.set_zorder(UNDER - 0.1)
        axes.set_rasterization_zorder(UNDER)
    _draw_areas(axes, chart)
    _draw_marks(axes, chart)
    for curve in chart.curves:
        _draw_curve(axes, curve)
    if chart.square:
        axes.set_aspect("equal", adjustable="datalim" if chart.grid is None else "box")
    _draw_legend(axes, chart, figure, handles, alone)
    for ends, put in ((figure.x_range, axes.set_xlim), (figure.y_range, axes.set_ylim)):
        if ends != (None, None):
            put(*ends)
    if figure.reverse:
        axes.invert_xaxis()


AROUND = (
    (4, 0),
    (-4, 0),
    (0, 5),
    (0, -5),
    *((r, u) for u in (11, -11, 20, -20, 29, -29, 38, -38) for r in (4, -4)),
)
"""Where a name may stand from its mark, in points; the first that covers no other is taken."""


def _draw_names(axes: Any, figure: Figure) -> None:
    """Names beside marks, apart from each other; a line leads to those that stand far off."""
    taken: list[tuple[float, float, float, float]] = []
    scale = 72.0 / axes.figure.dpi
    leader = {"arrowstyle": "-", "linewidth": 0.4, "color": colours.MUTED}
    for x, y, text in figure.names:
        at = axes.transData.transform((x, y)) * scale
        wide, tall = 0.56 * figure.points * len(text), 1.15 * figure.points
        for right, up in AROUND:
            left = at[0] + right - (0.0 if right > 0 else wide if right < 0 else wide / 2.0)
            low = at[1] + up - (0.0 if up > 0 else tall if up < 0 else tall / 2.0)
            box = (left, low, left + wide, low + tall)
            if not any(_meet(box, other) for other in taken):
                break
        taken.append(box)
        axes.annotate(
            text,
            (x, y),
            xytext=(right, up),
            textcoords="offset points",
            ha="left" if right > 0 else "right" if right < 0 else "center",
            va="bottom" if up > 0 else "top" if up < 0 else "center",
            fontsize=figure.points,
            arrowprops=leader if abs(up) > 8 else None,
        )


def _meet(one: tuple[float, float, float, float], two: tuple[float, float, float, float]) -> bool:
    """Whether two boxes cover each other."""
    return one[0] < two[2] and two[0] < one[2] and one[1] < two[3] and two[1] < one[3]


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


def _dress(axes: Any, chart: Chart, figure: Figure) -> None:
    title = chart.title if figure.title is None else figure.title
    axes.set_title(title, loc="left", fontsize=figure.points + 1, fontweight="bold")
    axes.set_xlabel(chart.x_title if figure.x_title is None else figure.x_title)
    axes.set_ylabel(chart.y_title if figure.y_title is None else figure.y_title)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    for side in ("left", "bottom"):
        axes.spines[side].set_linewidth(0.6)
    axes.tick_params(width=0.6, length=3)
    if chart.tick_names:
        axes.set_xticks(np.arange(1, len(chart.tick_names) + 1), chart.tick_names, rotation=60, ha="right")


def _draw_background(axes: Any, chart: Chart) -> None:
    if chart.grid is not None:
        grid = chart.grid
        table = colours.signed_map() if grid.signed else colours.unsigned_map()
        from matplotlib.colors import ListedColormap

        shades = ListedColormap([tuple(part / 255 for part in colour) for colour in table])
        mesh = axes.pcolormesh(
            grid.x,
            grid.y,
            grid.values,
            cmap=shades,
            vmin=grid.low,
            vmax=grid.high,
            rasterized=True,
            shading="nearest",
        )
        axes.figure.colorbar(mesh, ax=axes)
        if grid.downwards:
            axes.invert_yaxis()
    for rule in chart.rules:
        line = axes.axvline if rule.vertical else axes.axhline
        style = "--" if rule.alarm else "-"
        line(rule.at, color=colours.ALARM if rule.alarm else colours.FADED, linewidth=0.7, linestyle=style)
    for ribbon in (chart.ribbon, *(() if chart.bars else chart.spreads)):
        if ribbon is not None:
            axes.fill_between(ribbon.x, ribbon.low, ribbon.high, color=colours.CHIP, linewidth=0)


def _draw_lines(axes: Any, chart: Chart) -> list[Any]:
    """Draw the lines; answers a handle of each."""
    lines, handles = chart.lines, []
    if lines is None:
        return []
    many = len(lines.keys) > 60
    for place, values in enumerate(lines.ys):
        if lines.role == "component":
            colour = colours.COMPONENT_COLOURS[place % len(colours.COMPONENT_COLOURS)]
        else:
            colour = colours.class_colour(int(lines.codes[place]))
        faint = None if lines.faint is None else lines.faint[place]
        if chart.bars:
            width = 0.8 / len(lines.keys)
            drawn = axes.bar(
                lines.x + (place - (len(lines.keys) - 1) / 2) * width,
                np.nan_to_num(values),
                width,
                color=colour if faint is None else [colours.pale(colour) if one else colour for one in faint],
            )
        else:
            if faint is not None:
                axes.plot(lines.x, values, color=colours.pale(colour), linewidth=0.9)
                values = np.where(faint, np.nan, values)
            (drawn,) = axes.plot(
                lines.x, values, color=colour, linewidth=0.4 if many else 0.9, alpha=0.5 if many else 1.0
            )
        handles.append(drawn)
        if chart.bars and place < len(chart.spreads):
            spread = chart.spreads[place]
            at = lines.x + (place - (len(lines.keys) - 1) / 2) * width
            axes.vlines(at, spread.low, spread.high, color=colours.INK, linewidth=0.5, zorder=3)
    return handles


def _draw_marks(axes: Any, chart: Chart) -> None:
    for marks, hollow in ((chart.ghosts, True), (chart.marks, False)):
        if marks is None:
            continue
        for code in np.unique(marks.codes).tolist():
            chosen = marks.codes == code
            colour = colours.class_colour(int(code))
            axes.scatter(
                marks.x[chosen],
                marks.y[chosen],
                s=16,
                marker=MARKERS[colours.class_shape(int(code))],
                facecolors="none" if hollow else colour,
                edgecolors=colour if hollow else "white",
                linewidths=0.7 if hollow else 0.3,
                zorder=2 if hollow else 3,
            )


def _draw_areas(axes: Any, chart: Chart) -> None:
    """Regions, and the signs over marks."""
    for area in chart.areas:
        colour = colours.class_colour(area.code)
        axes.fill(area.x, area.y, facecolor=colour, alpha=0.14, zorder=1)
        axes.plot(area.x, area.y, color=colour, linewidth=0.6, zorder=1.5)
    for flags in chart.flags:
        colour = colours.ALARM if flags.alarm else colours.MUTED
        ring = {"marker": "o", "facecolors": "none", "edgecolors": colour, "s": 60}
        cross = {"marker": "x", "c": colour, "s": 36}
        how: dict[str, Any] = ring if flags.symbol == "ring" else cross
        axes.scatter(flags.x, flags.y, linewidths=0.9, zorder=4, **how)


def _draw_curve(axes: Any, curve: Curve) -> None:
    roles = {"quiet": colours.MUTED, "ink": colours.INK, "accent": colours.ACCENT}
    roles |= {"other": colours.OCHRE, "alarm": colours.ALARM}
    colour = colours.class_colour(curve.code) if curve.role == "class" else roles[curve.role]
    style = "--" if curve.dashes else "-"
    axes.plot(curve.x, curve.y, color=colour, linewidth=0.8 * curve.width, linestyle=style, zorder=2.5)
    if curve.name:
        axes.annotate(curve.name, (curve.x[-1], curve.y[-1]), color=colour, fontsize="small")


def _draw_legend(axes: Any, chart: Chart, figure: Figure, handles: list[Any], alone: bool) -> None:
    from matplotlib.lines import Line2D

    named = [] if chart.lines is None or chart.lines.role == "sample" else list(chart.lines.names)
    if 1 < len(named) <= MOST_NAMED and not alone:
        axes.legend(handles, named, frameon=False, handlelength=1.0, fontsize="small")
    elif 1 < len(named) <= MOST_NAMED and not figure.legend:
        axes.figure.legend(handles, named, loc="outside lower left", ncols=4, frameon=False, handlelength=1.4)
    if figure.legend:
        marks = [
            Line2D(
                [],
                [],
                linestyle="",
                marker=MARKERS[colours.class_shape(code)],
                color=colours.class_colour(code),
            )
            for code, _ in figure.legend
        ]
        names = [name for _, name in figure.legend]
        axes.figure.legend(marks, names, loc="outside lower left", ncols=4, frameon=False, handletextpad=0.2)


def wide(figure: Figure) -> Figure:
    """The same at the width of two columns."""
    return replace(figure, width=DOUBLE, height=80.0)
