"""What there is to see on maps, in one sentence: the strangest object, where it lies, what sets it apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.charts.pixels import structures
from scutcher.charts.words import Pieces
from scutcher.core.arrays import Floats, Integers
from scutcher.core.distances.joint_distance import fit_joint_scale
from scutcher.core.frozen import frozen
from scutcher.core.images.masking import areas
from scutcher.core.images.pixel_groups import settled, split_start
from scutcher.core.words import count_of
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import PixelGrid

LEAST, GAMMA = 4, 0.05
"""Pixels that an object has at least; chance that anything is flagged where nothing is strange."""

CLEAR = 0.75
"""Simplified silhouette above which touching pixels are two things and not one."""


@frozen(eq=False)
class StrangeObject:
    """Connected pixels past the limit that allows for the number of pixels.

    Attributes
    ----------
    rows : (m,) int array
        Of the table.
    x, y : (int, int)
        First and last column and row.
    component : int
        On which it lies farthest from the other pixels, in their standard deviations.
    away : float
        How far.
    channels : tuple of str
        Those that pull most on it, with that sign.
    """

    rows: Integers
    x: tuple[int, int]
    y: tuple[int, int]
    component: int
    away: float
    channels: tuple[str, ...]


def strange_objects(found: Evaluation, grid: PixelGrid, most: int = 99) -> list[StrangeObject]:
    """Objects past the limit of the joint distance, the one that lies farthest out first.

    Median and quartiles give its scale: an object of some size would widen limits by moments until it is in.
    """
    model, rows = found.model, found.usable.rows
    leverages = model.t2 / (len(rows) - 1) + 1.0 / len(rows)
    scale = fit_joint_scale(leverages, model.q, "robust")
    limit = None if scale is None else scale.outlier_limit(GAMMA, len(rows)).value
    if scale is None or limit is None:
        return []
    joint = scale.distance(leverages, model.q)
    flagged = grid.inside(rows[joint > limit])
    far = grid.picture(rows, joint)
    parts = [piece for part in areas(flagged, LEAST) for piece in _told_apart(found, grid, part)]
    parts.sort(key=lambda part: -float(far[part[:, 0], part[:, 1]].mean()))
    return [_object(found, grid, part) for part in parts[:most]]


def _told_apart(found: Evaluation, grid: PixelGrid, part: Integers) -> list[Integers]:
    """Pixels that touch and are unlike: the pieces of each kind, where there are two kinds."""
    if len(part) < 2 * LEAST:
        return [part]
    places = found.places()
    cells = part[:, 0] * grid.layout.columns + part[:, 1]
    points = found.model.scores[[places[row] for row in grid.rows_at[cells].tolist()]]
    labels, centres, _ = settled(points, split_start(points, 2))
    away = np.sqrt(((points[:, np.newaxis] - centres) ** 2).sum(axis=2))
    near, far = away.min(axis=1), away.max(axis=1)
    clear = float(np.mean((far - near) / np.maximum(far, 1e-300)))
    if clear < CLEAR:
        return [part]
    found_pieces = []
    for kind in range(2):
        inside = np.zeros(grid.shape, dtype=bool)
        inside[tuple(part[labels == kind].T)] = True
        found_pieces += areas(inside, LEAST)
    return found_pieces or [part]


def _object(found: Evaluation, grid: PixelGrid, part: Integers) -> StrangeObject:
    rows = grid.rows_at[part[:, 0] * grid.layout.columns + part[:, 1]]
    places = found.places()
    own = np.array([places[row] for row in rows.tolist()])
    others = np.ones(len(found.usable.rows), dtype=bool)
    others[own] = False
    scores = found.model.scores
    spread = scores[others].std(axis=0)
    away = (scores[own].mean(axis=0) - scores[others].mean(axis=0)) / np.where(spread > 0.0, spread, 1.0)
    component = int(np.abs(away).argmax())
    pull = found.model.loadings[:, component] * np.sign(away[component])
    channels = tuple(found.treated.axis.name(int(at)) for at in peaks(pull, 2))
    ends = [(int(part[:, side].min()), int(part[:, side].max())) for side in (1, 0)]
    return StrangeObject(rows, ends[0], ends[1], component, float(away[component]), channels)


def peaks(values: Floats, most: int) -> list[int]:
    """The highest places of a line that are higher than what is beside them, the highest first."""
    inner = np.flatnonzero((values[1:-1] >= values[:-2]) & (values[1:-1] > values[2:])) + 1
    inner = inner[values[inner] > 0.0]
    if not len(inner):
        inner = np.array([int(values.argmax())])
    return [int(at) for at in inner[np.argsort(-values[inner], kind="stable")][:most]]


def finding(found: Evaluation, grid: PixelGrid, objects: Sequence[StrangeObject]) -> Pieces:
    """The sentence, its counts standing for the pixels they count."""
    if objects:
        first = objects[0]
        several = len(objects) - 1
        pieces = [
            ("One object unlike the rest: " if not several else "Farthest from the rest: ", ()),
            (count_of(len(first.rows), "pixel"), tuple(first.rows.tolist())),
            (f", x {first.x[0]}–{first.x[1]}, y {first.y[0]}–{first.y[1]}; ", ()),
            (
                f"{abs(first.away):.0f} SD out on component {first.component + 1}, at "
                f"{' and '.join(first.channels)}",
                (),
            ),
        ]
        if several:
            rest = tuple(row for one in objects[1:] for row in one.rows.tolist())
            pieces += [("; ", ()), (f"{several} more", rest), (" past the limit", ())]
        return [*pieces, (".", ())]
    shown = [one for one in structures(found, grid) if one is not None]
    if not shown:
        return [("No two neighbouring pixels are known: nothing can be said of structure.", ())]
    smooth = [place + 1 for place, one in enumerate(shown) if not one.is_noise]
    if not smooth:
        return [("No object past the limit, and no component is more than noise over the picture.", ())]
    names = ", ".join(map(str, smooth))
    words = "component" if len(smooth) == 1 else "components"
    return [
        (f"No object past the limit; {words} {names} of {len(shown)} show structure over the picture.", ())
    ]
