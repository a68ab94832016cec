"""The one place that colours and marker shapes come from."""

from __future__ import annotations

LINEN = "#F3F0E8"
PAPER = "#FCFBF8"
HAIRLINE = "#DED8CB"
CHIP = "#E6E0D0"
INK = "#23262B"
MUTED = "#6F6B62"
FADED = "#C9C4B8"
ACCENT = "#1F2F6B"
OCHRE = "#B9770E"
ALARM = "#B5381B"

CLASS_COLOURS = (
    "#1B1E6E", "#CD3C14", "#E3B81A", "#146E60", "#7F2BC4", "#9D8FF0", "#4C1414", "#F07BB4",
)  # fmt: skip
CLASS_SHAPES = ("disc", "wedge", "box", "lozenge", "plus", "gable", "cross", "bar")
NO_CLASS_COLOUR = "#5C636E"
NO_CLASS_SHAPE = "disc"

COMPONENT_COLOURS = (ACCENT, OCHRE)
GROUP_COLOURS = ("#BFD0E0", "#EBC7B8", "#BFD6B3", "#D9C6E6", "#E3D5A9", "#C4C0B8")
"""Of groups of variables behind strips: pale, so that nobody takes them for classes of samples."""
PALE = 0.62
BETTER, RANGE = ACCENT, "#8C9AC4"


CONTINUOUS, STEPS = 1000, 16
"""Codes from CONTINUOUS on are steps of a continuous scale, the lowest first."""
RAMP_LOW, RAMP_HIGH = "#D9C48A", "#23215E"


def ramp_colour(share: float) -> str:
    """The colour of a value on a continuous scale, 0 to 1: pale straw to deep indigo."""
    low, high = rgb(RAMP_LOW), rgb(RAMP_HIGH)
    mixed = (round(a + (b - a) * share) for a, b in zip(low, high, strict=True))
    return "#" + "".join(f"{part:02X}" for part in mixed)


def class_colour(code: int) -> str:
    """The colour of a class by its place; after eight they repeat with the next shape."""
    if code >= CONTINUOUS:
        return ramp_colour((code - CONTINUOUS) / (STEPS - 1))
    return NO_CLASS_COLOUR if code < 0 else CLASS_COLOURS[code % len(CLASS_COLOURS)]


def pale(colour: str) -> str:
    """The same, mostly paper."""
    mixed = (round(a + (b - a) * PALE) for a, b in zip(rgb(colour), rgb(PAPER), strict=True))
    return "#" + "".join(f"{part:02X}" for part in mixed)


def group_colour(code: int) -> str:
    """The colour of a group of variables by its place."""
    return GROUP_COLOURS[code % len(GROUP_COLOURS)]


def class_shape(code: int) -> str:
    """The marker shape of a class by its place; in the second round of colours the shapes move on."""
    if code < 0 or code >= CONTINUOUS:
        return NO_CLASS_SHAPE
    rounds = code // len(CLASS_COLOURS)
    return CLASS_SHAPES[(code + 3 * rounds) % len(CLASS_SHAPES)]


def rgb(colour: str) -> tuple[int, int, int]:
    """`#RRGGBB` as three numbers from 0 to 255."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def signed_map(steps: int = 256) -> list[tuple[int, int, int]]:
    """Alarm through paper to accent, for signed quantities, the lowest first."""
    return _mixed((ALARM, PAPER, ACCENT), steps)


def unsigned_map(steps: int = 256) -> list[tuple[int, int, int]]:
    """Paper to ink, for quantities without a sign, the lowest first."""
    return _mixed((PAPER, RANGE, INK), steps)


def _mixed(stops: tuple[str, ...], steps: int) -> list[tuple[int, int, int]]:
    ends = [rgb(stop) for stop in stops]
    found = []
    for step in range(steps):
        place = step / (steps - 1) * (len(ends) - 1)
        first = min(int(place), len(ends) - 2)
        share = place - first
        a, b = ends[first], ends[first + 1]
        found.append(tuple(round(p + (q - p) * share) for p, q in zip(a, b, strict=True)))
    return found  # type: ignore[return-value]
