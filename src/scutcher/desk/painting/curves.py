"""Curves over a plot: ellipses, hulls, arrows, baselines, references; and in which order they are drawn."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QColor

from scutcher.charts import colours
from scutcher.charts.description import Area, Curve, Flags
from scutcher.desk.painting.labels import Label
from scutcher.desk.painting.setup import pen
from scutcher.desk.painting.strokes import Line, Outline, Signs, Stroke

REGIONS, BEHIND, SIGNS, BEFORE = -2.0, 4.0, 14.0, 18.0
"""Depths of regions, of curves behind the marks, of signs over marks, and of curves before them."""

ROLES = {"quiet": "MUTED", "ink": "INK", "accent": "ACCENT", "other": "OCHRE", "alarm": "ALARM"}
"""Names of colours."""

WASH = 36  # how opaque the filling of a region is, of 255
SYMBOLS = {"ring": ("circle", 12.0), "cross": ("cross", 11.0)}
"""Signs and their pixels."""

NAME_PX = 11


def curve_colour(curve: Curve) -> str:
    """The colour of its role, or of its class."""
    if curve.role == "class":
        return colours.class_colour(curve.code)
    return str(getattr(colours, ROLES[curve.role]))


def curve_layers(
    curves: Sequence[Curve], areas: Sequence[Area], flags: Sequence[Flags]
) -> dict[float, list[Stroke]]:
    """The strokes of each depth; names are read before everything else."""
    found: dict[float, list[Stroke]] = {REGIONS: [_outline(area) for area in areas]}
    for depth, behind in ((BEHIND, True), (BEFORE, False)):
        found[depth] = [stroke for curve in curves if curve.behind is behind for stroke in _strokes(curve)]
    found[BEFORE] += [_name(curve) for curve in curves if curve.name and len(curve.x)]
    found[SIGNS] = [_signs(one) for one in flags]
    return found


def _outline(area: Area) -> Outline:
    """A soft filling and a thin outline."""
    colour = colours.class_colour(area.code)
    wash = QColor(colour)
    wash.setAlpha(WASH)
    return Outline(area.x, area.y, pen(colour, 0.8), wash)


def _signs(flags: Flags) -> Signs:
    sign, size = SYMBOLS[flags.symbol]
    style = pen(colours.ALARM, 1.4) if flags.alarm else pen(colours.MUTED, 0.8)
    return Signs(flags.x, flags.y, sign, size, style)


def _strokes(curve: Curve) -> list[Stroke]:
    """The line, and the head of an arrow."""
    colour = curve_colour(curve)
    found: list[Stroke] = [Line(curve.x, curve.y, pen(colour, curve.width, dashes=curve.dashes))]
    if curve.arrow and len(curve.x) > 1:
        found.append(Signs(curve.x[-1:], curve.y[-1:], "circle", 4.0, fill=colour))
    return found


def _name(curve: Curve) -> Label:
    """The name at the end of a curve."""
    end = float(curve.x[-1]), float(curve.y[-1])
    return Label(
        curve.name, *end, curve_colour(curve), curve.name_anchor, NAME_PX, curve.name_yields, rim=True
    )
