"""Which pixels are looked at: those whose channel lies above or below a value, and what is connected."""

from __future__ import annotations

import re
from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans
from scutcher.core.data.axis import Axis
from scutcher.core.errors import RecipeError
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.progress import Watch, tell
from scutcher.core.words import shown

WORDS = re.compile(r"^\s*(?P<channel>[^<>]+?)\s*(?P<side>[<>])\s*(?P<value>[-+0-9.eE]+)\s*$")


@frozen
class Threshold:
    """Pixels count where a channel, as it was brought in, lies on one side of a value."""

    channel: int
    side: Literal["<", ">"]
    value: float

    def words(self, axis: Axis) -> str:
        """`2100 nm above 0.62`."""
        return (
            f"{axis.name(self.channel)} {'above' if self.side == '>' else 'below'} {shown(self.value, '.4g')}"
        )


def threshold_of(text: str, axis: Axis) -> Threshold:
    """Understand `2100 > 0.62`: a channel by its name, or the nearest on an ordered axis.

    Raises
    ------
    RecipeError
        It is not so written, or there is no such channel.
    """
    found = WORDS.match(text)
    try:
        value = float(found["value"]) if found else float("nan")
    except ValueError:
        value = float("nan")
    if found is None or not np.isfinite(value):
        raise RecipeError(
            f"The mask {text!r} is not understood.", "Write a channel and a value, as 2100>0.62."
        )
    name = found["channel"]
    if name in axis.labels:
        place = axis.labels.index(name)
    else:
        try:
            wanted = float(name)
        except ValueError:
            wanted = float("nan")
        positions = axis.positions
        if positions is None or not positions.min() <= wanted <= positions.max():
            raise RecipeError(f"There is no channel {name!r}.", "Name one of the image.")
        place = int(np.abs(positions - wanted).argmin())
    return Threshold(place, "<" if found["side"] == "<" else ">", value)


def mask_by(image: Image, threshold: Threshold, watch: Watch | None = None) -> Booleans:
    """The pixels for which it holds, inside the mask there is, (n,); one pass."""
    found = np.zeros(image.pixels, dtype=bool)
    tiles = image.tiles(16_000_000)
    for place, tile in enumerate(tiles):
        tell(watch, place / len(tiles))
        channel = image.fetch(tile)[:, threshold.channel]
        found[tile] = channel > threshold.value if threshold.side == ">" else channel < threshold.value
    if image.mask is not None:
        found &= image.mask
    return found


def areas(flagged: Booleans, least: int = 1) -> list[np.ndarray]:
    """Connected pixels of a map, the largest area first; pixels that touch at a corner are connected.

    Parameters
    ----------
    flagged : (rows, columns) bool array
    least : int
        Pixels of an area.

    Returns
    -------
    list of (m, 2) int arrays
        Row and column of each pixel.
    """
    from scipy.ndimage import find_objects, label

    labels, count = label(flagged, structure=np.ones((3, 3)))
    sizes = np.bincount(labels.ravel(), minlength=count + 1)[1:]
    boxes = find_objects(labels)
    found = []
    for place in np.argsort(-sizes, kind="stable"):
        if sizes[place] < least:
            break
        box = boxes[place]
        inside = np.argwhere(labels[box] == place + 1)
        found.append(inside + [box[0].start, box[1].start])
    return found
