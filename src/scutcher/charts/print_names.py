"""Names in printed figures: of curves at their ends, of marks beside them; none covers another."""

from __future__ import annotations

from typing import Any

from scutcher.charts import colours
from scutcher.charts.description import NAME_FAR, NAME_LINES, Curve
from scutcher.charts.figure import Figure

Names = list[tuple[Any, bool]]
"""Words in the axes, and whether they yield to others."""


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
    """Move words that lie over others some lines down or up, once it is known where all of them stand.

    Those that yield go where they would lie over others; the rest stay where there is no room at all.
    """
    taken: list[Any] = []
    for words, yields in sorted(names, key=lambda each: each[1]):
        box = words.get_window_extent()
        if yields:
            if any(box.overlaps(other) for other in taken):
                words.remove()
                continue
        else:
            places = _places(box, words.axes.get_window_extent())
            free = (one for one in places if not any(one.overlaps(other) for other in taken))
            moved = next(free, places[0])
            _move(words, moved.x0 - box.x0, moved.y0 - box.y0, box.height)
            box = moved
        taken.append(box)


def _places(box: Any, area: Any) -> list[Any]:
    """Where words may stand inside the axes, the best place first; all of these are boxes of dots."""
    inside = box.translated(max(area.x0 - box.x0, 0.0) + min(area.x1 - box.x1, 0.0), 0.0)
    lines = [inside.translated(0.0, -line * box.height) for line in NAME_LINES]
    return [one for one in lines if area.y0 <= one.y0 and one.y1 <= area.y1] or [inside]


def _move(words: Any, right: float, up: float, height: float) -> None:
    """Put words elsewhere by so many dots; a line leads to those that stand far off."""
    points = 72.0 / words.figure.dpi
    words.set_position((right * points, up * points))
    if abs(up) > NAME_FAR * height:
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
            arrowprops=_leader() if abs(up) > 8 else None,
        )


def _meet(one: tuple[float, float, float, float], two: tuple[float, float, float, float]) -> bool:
    """Whether two boxes cover each other."""
    return one[0] < two[2] and two[0] < one[2] and one[1] < two[3] and two[1] < one[3]
