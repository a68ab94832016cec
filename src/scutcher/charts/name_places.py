"""Where names stand on a plot, on screen and on paper: apart from each other and inside it."""

from __future__ import annotations

from collections.abc import Sequence

Box = tuple[float, float, float, float]
"""Left, top, right and bottom, downwards, in any unit of the screen or the paper."""

Off = tuple[float, float]
"""To the right, and down."""

LINES = (0, 1, -1, 2, -2, 3, -3, 4, -4, 5, -5, 6, -6)
"""Lines by which a name is lower than its place where others stand there, the best first."""

FAR = 1.5
"""Lines from which a line leads to such a name."""


def moves(boxes: Sequence[Box], yields: Sequence[bool], area: Box, air: float = 0.0) -> list[Off | None]:
    """By how much each name is moved so that none covers another: sideways into the plot, and by lines.

    Names that yield come last and are not moved by lines: None where there is no room. The others stay where
    there is none at all.

    Parameters
    ----------
    boxes : of the letters, where the names would stand
    yields : whether each gives way
    area : of the plot
    air : around letters, up to the rim of the plot, and between names of which one yields
    """
    found: list[Off | None] = [None] * len(boxes)
    taken: list[Box] = []
    for place in sorted(range(len(boxes)), key=lambda place: yields[place]):
        off = found[place] = _off(boxes[place], yields[place], taken, area, air)
        if off is not None:
            taken.append(_moved(boxes[place], *off))
    return found


def _off(box: Box, gives_way: bool, taken: list[Box], area: Box, air: float) -> Off | None:
    left, top, right, bottom = area
    across = max(left - box[0] + air, 0.0) + min(right - box[2] - air, 0.0)
    here = _moved(box, across, 0.0)
    if gives_way:
        around = here[0] - 2 * air, here[1] - 2 * air, here[2] + 2 * air, here[3] + 2 * air
        return None if any(meet(around, other) for other in taken) else (across, 0.0)
    for line in LINES:
        there = _moved(here, 0.0, line * (box[3] - box[1]))
        inside = there[1] - air >= top and there[3] + air <= bottom
        if inside and not any(meet(there, other) for other in taken):
            return across, there[1] - here[1]
    return across, 0.0


def meet(one: Box, two: Box) -> bool:
    """Whether two boxes cover each other."""
    return one[0] < two[2] and two[0] < one[2] and one[1] < two[3] and two[1] < one[3]


def _moved(box: Box, right: float, down: float) -> Box:
    return box[0] + right, box[1] + down, box[2] + right, box[3] + down
