"""The one place that colours and marker shapes come from; the colours are those of the palette of now.

`colours.INK` and the others are looked up when they are used, so that they must not be kept in constants.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

from scutcher.charts import palettes

if TYPE_CHECKING:
    LINEN = PAPER = HAIRLINE = CHIP = INK = MUTED = FADED = ACCENT = OCHRE = ALARM = ""
    OWN = LATER = NO_CLASS_COLOUR = RANGE = RAMP_LOW = RAMP_HIGH = BETTER = ""
    CLASS_COLOURS: tuple[str, ...] = ()
    COMPONENT_COLOURS: tuple[str, ...] = ()
    GROUP_COLOURS: tuple[str, ...] = ()

CLASS_SHAPES = ("disc", "wedge", "box", "lozenge", "plus", "gable", "cross", "bar")
NO_CLASS_SHAPE = "disc"
PALE = 0.62

CONTINUOUS, STEPS = 1000, 16
"""Codes from CONTINUOUS on are steps of a continuous scale, the lowest first."""

FIELDS = {
    "CLASS_COLOURS": "classes",
    "GROUP_COLOURS": "groups",
    "NO_CLASS_COLOUR": "no_class",
    "BETTER": "accent",
}
"""Names that are not those of the palette's fields."""


def __getattr__(name: str) -> str | tuple[str, ...]:
    palette = palettes.now()
    if name == "COMPONENT_COLOURS":
        return palette.accent, palette.ochre
    if name in ("RAMP_LOW", "RAMP_HIGH"):
        return palette.ramp[name == "RAMP_HIGH"]
    field = FIELDS.get(name, name.lower())
    if not name.isupper() or field not in palette.__dataclass_fields__:
        raise AttributeError(f"There is no colour {name!r}.")
    found: str | tuple[str, ...] = getattr(palette, field)
    return found


def ramp_colour(share: float) -> str:
    """The colour of a value on a continuous scale, 0 to 1: pale straw to deep indigo."""
    low, high = map(rgb, palettes.now().ramp)
    mixed = (round(a + (b - a) * share) for a, b in zip(low, high, strict=True))
    return "#" + "".join(f"{part:02X}" for part in mixed)


def class_colour(code: int) -> str:
    """The colour of a class by its place; after eight they repeat with the next shape."""
    if code >= CONTINUOUS:
        return ramp_colour((code - CONTINUOUS) / (STEPS - 1))
    palette = palettes.now()
    return palette.no_class if code < 0 else palette.classes[code % len(palette.classes)]


def pale(colour: str) -> str:
    """The same, mostly paper."""
    mixed = (round(a + (b - a) * PALE) for a, b in zip(rgb(colour), rgb(palettes.now().paper), strict=True))
    return "#" + "".join(f"{part:02X}" for part in mixed)


def group_colour(code: int) -> str:
    """The colour of a group of variables by its place."""
    groups = palettes.now().groups
    return groups[code % len(groups)]


def class_shape(code: int) -> str:
    """The marker shape of a class by its place; in the second round of colours the shapes move on."""
    if code < 0 or code >= CONTINUOUS:
        return NO_CLASS_SHAPE
    rounds = code // len(palettes.now().classes)
    return CLASS_SHAPES[(code + 3 * rounds) % len(CLASS_SHAPES)]


def rgb(colour: str) -> tuple[int, int, int]:
    """`#RRGGBB` as three numbers from 0 to 255."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def signed_map(steps: int = 256) -> tuple[tuple[int, int, int], ...]:
    """Alarm through paper to accent, for signed quantities, the lowest first."""
    palette = palettes.now()
    return _mixed((palette.alarm, palette.paper, palette.accent), steps)


def unsigned_map(steps: int = 256) -> tuple[tuple[int, int, int], ...]:
    """Paper to ink, for quantities without a sign, the lowest first."""
    palette = palettes.now()
    return _mixed((palette.paper, palette.range, palette.ink), steps)


@lru_cache(32)
def _mixed(stops: tuple[str, ...], steps: int) -> tuple[tuple[int, int, int], ...]:
    ends = [rgb(stop) for stop in stops]
    found = []
    for step in range(steps):
        place = step / (steps - 1) * (len(ends) - 1)
        first = min(int(place), len(ends) - 2)
        share = place - first
        a, b = ends[first], ends[first + 1]
        found.append(tuple(round(p + (q - p) * share) for p, q in zip(a, b, strict=True)))
    return tuple(found)  # type: ignore[arg-type]
