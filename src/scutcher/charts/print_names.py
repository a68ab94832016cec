"""Names in printed figures: of curves at their ends, of marks beside them; none covers another."""

from __future__ import annotations

from typing import Any

from scutcher.charts import colours
from scutcher.charts.description import Curve
from scutcher.charts.figure import Figure
from scutcher.charts.name_places import FAR, Box, meet, moves

Names = list[tuple[Any, bool]]
"""Words in the axes, and whether they yield to others."""

APART = 0.5
"""Dots around words that stay free."""


def _leader() -> dict[str, Any]:
    """How the line to a name looks that stands far off."""
    return {"arrowstyle": "-", "linewidth": 0.4, "color": colours.MUTED}


def draw_name(axes: Any, curve: Curve, colour: str, depth: float) -> Any:
    """The name of a curve at its end; over lines and marks on paper, since to outline letters makes paths."""
    across, down = curve.name_anchor
    return axes.annotate(
        curve.name,
        (curve.x[-1], curve.y[-1]),
        xytext=(0.0, 0.0),
        textcoords="offset points",
        ha="left" if across == 0.0 else "right",
        va={0.0: "top", 0.5: "center", 1.0: "bottom"}[down],
        color=colour,
        fontsize="small",
        bbox={"boxstyle": "square,pad=0.1", "fc": "white", "ec": "none", "alpha": 0.75},
        zorder=depth,
    )


def give_room(names: Names) -> None:
    """Move words of one plot that lie over others, once it is known where all of them stand."""
    area = _downwards(names[0][0].axes.get_window_extent())
    boxes = [_downwards(words.get_window_extent(), APART) for words, _ in names]
    offs = moves(boxes, [yields for _, yields in names], area)
    for (words, _), box, off in zip(names, boxes, offs, strict=True):
        if off is None:
            words.remove()
        else:
            _move(words, off[0], -off[1], box[3] - box[1])


def _downwards(box: Any, more: float = 0.0) -> Box:
    """A box of dots that are counted upwards; larger by some on each side."""
    return box.x0 - more, -box.y1 - more, box.x1 + more, -box.y0 + more


def _move(words: Any, right: float, up: float, height: float) -> None:
    """Put words elsewhere by so many dots; a line leads to those that stand far off."""
    points = 72.0 / words.figure.dpi
    words.set_position((right * points, up * points))
    if abs(up) > FAR * height:
        words.axes.annotate(
            "", words.xy, xytext=words.get_position(), textcoords="offset points", arrowprops=_leader()
        )


AROUND = (
    (4, 0),
    (-4, 0),
    (0, 5),
    (0, -5),
    *((r, u) for u in (11, -11, 20, -20, 29, -29, 38, -38) for r in (4, -4)),
)
"""Where a name may stand from its mark, in points; the first that covers no other is taken."""


def draw_names(axes: Any, figure: Figure) -> None:
    """Names beside marks, apart from each other; a line leads to those that stand far off."""
    taken: list[tuple[float, float, float, float]] = []
    scale = 72.0 / axes.figure.dpi
    for x, y, text in figure.names:
        at = axes.transData.transform((x, y)) * scale
        wide, tall = 0.56 * figure.points * len(text), 1.15 * figure.points
        for right, up in AROUND:
            left = at[0] + right - (0.0 if right > 0 else wide if right < 0 else wide / 2.0)
            low = at[1] + up - (0.0 if up > 0 else tall if up < 0 else tall / 2.0)
            box = (left, low, left + wide, low + tall)
            if not any(meet(box, other) for other in taken):
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
            arrowprops=_leader() if abs(up) > 8 else None,
        )
