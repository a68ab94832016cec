"""One chart in the axes of a printed figure: background, lines, areas, marks, curves, legend."""

from __future__ import annotations

from typing import Any

import numpy as np

from scutcher.charts import colours
from scutcher.charts.description import Chart, Curve, Lines
from scutcher.charts.figure import Figure
from scutcher.charts.print_names import Names, draw_name
from scutcher.core.arrays import Floats

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
BEFORE = 5
"""Depth of what lies over marks and the signs on them."""

HEAVY, UNDER = 20_000, 1.5
"""Points of lines that a light figure draws as dots; what lies below that level becomes one picture."""

ROOM, PITCH = 0.85, 0.42
"""Of the width of a figure what its axis has; millimetres of a slanted name for each point of its letters."""

MANY_BARS = MANY_LINES = 200
"""Bars, and lines, that are drawn one by one at most."""

MOST_NAMED = 12
"""Lines that are named beside the figure at most."""


def draw_chart(axes: Any, chart: Chart, figure: Figure, alone: bool) -> Names:
    """One chart into its axes; the names of its curves, for `give_room`."""
    _dress(axes, chart, figure)
    _draw_background(axes, chart)
    handles = _draw_lines(axes, chart)
    if figure.light and chart.lines is not None and chart.lines.ys.size > HEAVY:
        for line in handles:
            line.set_zorder(UNDER - 0.1)
        axes.set_rasterization_zorder(UNDER)
    _draw_areas(axes, chart)
    _draw_marks(axes, chart)
    names = [(_draw_curve(axes, curve), curve.name_yields) for curve in chart.curves]
    if chart.square:
        axes.set_aspect("equal", adjustable="datalim" if chart.grid is None else "box")
    _draw_legend(axes, chart, figure, handles, alone)
    for ends, put in ((figure.x_range, axes.set_xlim), (figure.y_range, axes.set_ylim)):
        if ends != (None, None):
            put(*ends)
    if figure.reverse:
        axes.invert_xaxis()
    return [(words, yields) for words, yields in names if words is not None]


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
        named = slice(None, None, -(-len(chart.tick_names) // _names_that_fit(figure)))
        places = np.arange(1, len(chart.tick_names) + 1)
        axes.set_xticks(places[named], chart.tick_names[named], rotation=60, ha="right")


def _names_that_fit(figure: Figure) -> int:
    """How many slanted names have room under an axis: of very many each would take its time as well."""
    return max(int(ROOM * figure.width / (PITCH * figure.points)), 2)


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
    from matplotlib.patches import Patch

    lines, handles = chart.lines, []
    if lines is None:
        return []
    many = len(lines.keys) > 60
    if len(lines.keys) > MANY_LINES and not chart.bars and lines.faint is None:
        return [_one_drawing(axes, lines)]
    for place, values in enumerate(lines.ys):
        colour = _colour_of(lines, place)
        faint = None if lines.faint is None else lines.faint[place]
        if chart.bars:
            width = 0.8 / len(lines.keys)
            middles = lines.x + (place - (len(lines.keys) - 1) / 2) * width
            shades = colour if faint is None else [colours.pale(colour) if one else colour for one in faint]
            _draw_bars(axes, middles, np.nan_to_num(values), width, shades)
            drawn = Patch(color=colour)  # the first bar may be a faint one
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


def _colour_of(lines: Lines, place: int) -> str:
    if lines.role == "component":
        return colours.COMPONENT_COLOURS[place % len(colours.COMPONENT_COLOURS)]
    return colours.class_colour(int(lines.codes[place]))


def _one_drawing(axes: Any, lines: Lines) -> Any:
    """Very many lines as one drawing."""
    from matplotlib.collections import LineCollection

    x = np.broadcast_to(lines.x, lines.ys.shape)
    known = np.isfinite(lines.ys)
    axes.update_datalim(np.column_stack([x[known], lines.ys[known]]))
    shades = [_colour_of(lines, place) for place in range(len(lines.keys))]
    drawn = LineCollection(list(np.stack([x, lines.ys], axis=2)), colors=shades, linewidths=0.4, alpha=0.5)
    drawn.set_in_layout(False)  # it lies within the axes: nobody need measure it
    axes.add_collection(drawn, autolim=False)
    axes.autoscale_view()
    return drawn


def _draw_bars(axes: Any, middles: Floats, tall: Floats, width: float, shades: str | list[str]) -> None:
    """Bars from zero; very many of them as one drawing."""
    if len(middles) <= MANY_BARS:
        axes.bar(middles, tall, width, color=shades)
        return
    from matplotlib.collections import PolyCollection

    left, right, zero = middles - width / 2.0, middles + width / 2.0, np.zeros(len(middles))
    pairs = (left, zero), (left, tall), (right, tall), (right, zero)
    corners = np.stack([np.column_stack(pair) for pair in pairs], axis=1)
    axes.update_datalim(corners.reshape(-1, 2))
    axes.add_collection(PolyCollection(list(corners), facecolors=shades, linewidths=0))
    axes.autoscale_view()


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


def _draw_curve(axes: Any, curve: Curve) -> Any:
    """The line; its name, where it has one."""
    roles = {"quiet": colours.MUTED, "ink": colours.INK, "accent": colours.ACCENT}
    roles |= {"other": colours.OCHRE, "alarm": colours.ALARM}
    colour = colours.class_colour(curve.code) if curve.role == "class" else roles[curve.role]
    style = "--" if curve.dashes else "-"
    width, depth = 0.8 * curve.width, 2.5 if curve.behind else BEFORE
    axes.plot(curve.x, curve.y, color=colour, linewidth=width, linestyle=style, zorder=depth)
    return draw_name(axes, curve, colour, BEFORE + 1) if curve.name else None


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
