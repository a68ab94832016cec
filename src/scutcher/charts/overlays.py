"""What can be laid over the score plane: ellipses, hulls, centroids, run order, arrows, hollow marks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from scutcher.charts.colours import CONTINUOUS
from scutcher.charts.description import Chart, Curve, Marks
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.replicates import replicate_codes
from scutcher.core.frozen import frozen
from scutcher.core.groups.score_ellipses import (
    centroids,
    class_ellipse,
    deviation_ellipse,
    hull,
    joint_ellipse,
)
from scutcher.core.models.pca.saved_model import Projected, SavedModel
from scutcher.core.numeric.group_means import means_by_group
from scutcher.core.validation.stability import Stability
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.new_samples import AsideProjected, Newcomers

ARROWS, NAMED = 40, 12
MOST_TAILS = 2000  # samples of which held-out places are drawn
MOST_ORDER = 10_000  # samples that the line in run order goes through; of more it passes over some
NEW = 1_000_000_000
"""Keys of new samples start here: they are not rows of the table."""

NEW_CODE = -1


@frozen
class Overlays:
    """Which of them are wanted.

    Attributes
    ----------
    ellipses : "none", "all", "class", "sd"
    level : float
        Coverage of the ellipses.
    hulls, centroids, order, replicates, arrows, places, aside, square : bool
        `places`: tails to where models put the samples that have not seen them; `aside`: samples set aside,
        projected, in hollow marks.
    labels : "picked", "outlying" (past a limit), "all"
    label_by : str
        A class or property column; "" for the id.
    """

    ellipses: str = "none"
    level: float = 0.95
    hulls: bool = False
    centroids: bool = False
    order: bool = False
    replicates: bool = False
    arrows: bool = False
    places: bool = True
    aside: bool = True
    square: bool = False
    labels: str = "picked"
    label_by: str = ""


def with_overlays(
    chart: Chart,
    state: State,
    found: Evaluation | None,
    pair: tuple[int, int],
    wanted: Overlays,
    new: Newcomers | None = None,
    stable: Stability | None = None,
    away: AsideProjected | None = None,
) -> Chart:
    """The score plane with what is wanted over it."""
    if found is None or chart.marks is None or state.table is None:
        return chart
    marks = chart.marks
    points = np.column_stack([marks.x, marks.y])
    curves: list[Curve] = []
    notes: list[str] = []
    codes = np.where(marks.codes >= CONTINUOUS, -1, marks.codes)
    if wanted.ellipses == "all" and pair[0] != pair[1]:
        outline = joint_ellipse(found.decomposition.eigenvalues[list(pair)], len(points), wanted.level)
        curves.append(Curve(outline[:, 0], outline[:, 1], "alarm", dashes=True))
        notes.append(f"T² {shown(100 * wanted.level)} %")
    elif wanted.ellipses == "sd":
        for width in (1, 2, 3):
            outline = deviation_ellipse(points, width)
            curves.append(Curve(outline[:, 0], outline[:, 1], "quiet", width=0.9))
        notes.append("1, 2, 3 SD")
    elif wanted.ellipses == "class":
        curves += _by_class(points, codes, lambda part: class_ellipse(part, wanted.level))
        notes.append(f"{shown(100 * wanted.level)} % of each class")
        notes += _too_few(codes, colouring_of(state).levels)
    if wanted.hulls:
        curves += _by_class(points, codes, hull)
    if wanted.order:
        every = -(-len(points) // MOST_ORDER) or 1
        curves.append(Curve(marks.x[::every], marks.y[::every], "quiet", width=0.6))
        notes += [f"run order: one of {every} samples"] if every > 1 else []
    if wanted.replicates and found.part.replicates is not None:
        curves += replicate_stars(points, found.part.replicates)
    if wanted.places and stable is not None and len(points) <= MOST_TAILS:
        curves.append(_tails(points, stable.places[:, list(pair)]))
    if wanted.centroids:
        levels = colouring_of(state).levels
        size = 0.012 * np.ptp(points, axis=0)
        for code, middle in centroids(points, codes).items():
            x = middle[0] + size[0] * np.array([-1.0, 1.0, np.nan, 0.0, 0.0])
            y = middle[1] + size[1] * np.array([0.0, 0.0, np.nan, -1.0, 1.0])
            name = levels[code] if code < len(levels) else ""
            curves.append(Curve(x, y, "class", code, width=2.4, name=name, behind=False))
    if wanted.arrows:
        drawn, scale = arrows(found, pair, points)
        curves += drawn
        notes.append(f"arrows: loadings × {shown(scale, '.3g')}")
    note = " · ".join([chart.note, *notes])
    if wanted.labels != "picked" or wanted.label_by:
        chart = replace(chart, labels=_labels(state, found, wanted))
    hollow = ghosts(state, pair, away if wanted.aside else None, new)
    return replace(chart, curves=tuple(curves), note=note, ghosts=hollow, square=wanted.square)


def _labels(state: State, found: Evaluation, wanted: Overlays) -> tuple[str, ...]:
    """A name for each mark that is to have one; "" for the others; "picked" names wait for the pick."""
    assert state.table is not None
    part = state.table.take(found.usable.rows)
    names: list[str] = list(part.ids)
    for column in part.classes:
        if column.name == wanted.label_by:
            names = list(column.values)
    for measured in part.properties:
        if measured.name == wanted.label_by:
            names = [shown(value) for value in measured.values]
    if wanted.labels == "all":
        return tuple(names)
    model = found.model
    past = np.zeros(len(names), dtype=bool)
    if wanted.labels == "outlying":
        for distance, limit in ((model.t2, model.t2_limit), (model.q, model.q_limit)):
            over = model.past(distance, limit)
            past |= over if over is not None else False
    return tuple(name if far else f"\0{name}" for name, far in zip(names, past, strict=True))


def _by_class(points: Floats, codes: np.ndarray, outline_of: object) -> list[Curve]:
    drawn = []
    for code in np.unique(codes[codes >= 0]).tolist():
        outline = outline_of(points[codes == code])  # type: ignore[operator]
        if len(outline):
            drawn.append(Curve(outline[:, 0], outline[:, 1], "class", int(code), width=1.3))
    return drawn


def _too_few(codes: np.ndarray, levels: tuple[str, ...]) -> list[str]:
    few = [levels[code] for code in range(len(levels)) if 0 < int((codes == code).sum()) < 4]
    return [f"none for {', '.join(few)}: fewer than 4 samples"] if few else []


def _tails(points: Floats, places: Floats) -> Curve:
    """From each sample to its held-out place, as one broken line."""
    x, y = _pieces(points, places)
    return Curve(x, y, "quiet", width=0.9)


def _pieces(ends: Floats, others: Floats) -> tuple[Floats, Floats]:
    """x and y of a broken line, from each end to the other."""
    runs = np.full((len(ends), 3, 2), np.nan)
    runs[:, 0], runs[:, 1] = ends, others
    x, y = runs.reshape(-1, 2).T
    return x, y


def replicate_stars(points: Floats, replicates: Sequence[str]) -> list[Curve]:
    """A star from the mean of each replicate id to its samples, as one broken line."""
    codes = replicate_codes(replicates)
    rows = np.flatnonzero(np.bincount(codes)[codes] > 1)
    if not len(rows):
        return []
    x, y = _pieces(means_by_group(points, codes)[codes[rows]], points[rows])
    return [Curve(x, y, "quiet", width=0.8)]


def arrows(found: Evaluation, pair: tuple[int, int], points: Floats) -> tuple[list[Curve], float]:
    """The variables as arrows over the scores, the strongest named; and by how much loadings are stretched.

    Both components are stretched alike, so that angles and relative lengths are those of the loadings.
    """
    ends = found.model.loadings[:, list(pair)]
    lengths = np.hypot(ends[:, 0], ends[:, 1])
    reach = float(np.abs(points).max())
    scale = 0.8 * reach / (float(lengths.max()) or 1.0)
    strongest = np.argsort(-lengths)
    axis = found.treated.axis
    shown = axis.apart(strongest, 40, NAMED if axis.ordered else ARROWS)
    drawn = []
    for rank, column in enumerate(shown):
        x, y = scale * ends[column]
        named = rank < NAMED
        drawn.append(
            Curve(
                np.array([0.0, x]),
                np.array([0.0, y]),
                "accent" if named else "quiet",
                width=1.2 if named else 0.6,
                arrow=True,
                name=axis.name(int(column)) if named else "",
                behind=not named,
            )
        )
    return drawn, scale


def ghosts(
    state: State, pair: tuple[int, int], away: AsideProjected | None, new: Newcomers | None
) -> Marks | None:
    """Hollow marks: samples set aside, projected, and new samples (keys from NEW on)."""
    parts: list[tuple[Floats, Integers, Integers, Sequence[str]]] = []
    if away is not None and state.table is not None:
        scores, rows = away[0].scores[:, list(pair)], away[1]
        parts.append((scores, rows, colouring_of(state).codes[rows], ids_of_rows(state.table, rows)))
    if new is not None and max(pair) < new.found.scores.shape[1]:
        count = len(new.found.rows)
        codes = np.full(count, NEW_CODE)
        parts.append((new.found.scores[:, list(pair)], NEW + np.arange(count), codes, new.found.table.ids))
    if not parts:
        return None
    scores = np.vstack([part[0] for part in parts])
    return Marks(
        scores[:, 0],
        scores[:, 1],
        np.concatenate([part[1] for part in parts]).astype(np.intp),
        np.concatenate([part[2] for part in parts]).astype(np.intp),
        tuple(name for part in parts for name in part[3]),
    )


def distance_ghosts(
    state: State,
    found: Evaluation,
    kinds: tuple[str, str],
    log: bool,
    new: Newcomers | None,
    away: AsideProjected | None = None,
) -> Marks | None:
    """The same samples by their distances over the limits: "t2", "q", "joint", or "order" for their place.

    The model has not seen them: they are judged by the limits for new samples.
    """
    parts: list[tuple[Projected, SavedModel, Integers, Integers, Sequence[str], Floats]] = []
    if away is not None and state.table is not None:
        seen, rows, model = away
        codes, order = colouring_of(state).codes[rows], np.asarray(rows + 1.0, dtype=np.float64)
        parts.append((seen, model, rows, codes, ids_of_rows(state.table, rows), order))
    if new is not None:
        count = len(new.found.rows)
        order = np.asarray(len(found.table.ids) + 1.0 + np.arange(count), dtype=np.float64)
        codes = np.full(count, NEW_CODE, dtype=np.intp)
        parts.append((new.found, new.model, NEW + np.arange(count), codes, new.found.table.ids, order))
    if not parts:
        return None
    columns = [
        np.concatenate([_share(part[0], part[1], kind, part[5], log) for part in parts]) for kind in kinds
    ]
    return Marks(
        columns[0],
        columns[1],
        np.concatenate([part[2] for part in parts]).astype(np.intp),
        np.concatenate([part[3] for part in parts]).astype(np.intp),
        tuple(name for part in parts for name in part[4]),
    )


def _share(seen: Projected, model: SavedModel, kind: str, order: Floats, log: bool) -> Floats:
    """One kind of distance of projected samples over its limit, or their place."""
    if kind == "order":
        return order
    distance = {"t2": seen.t2, "q": seen.q, "joint": seen.joint}[kind]
    limit = {"t2": model.t2_limit, "q": model.q_limit, "joint": model.joint_limit}[kind]
    if distance is None:
        return np.full(len(seen.rows), np.nan)
    share: Floats = distance / limit.value if limit is not None and limit.value else distance
    return np.log10(np.maximum(share, 1e-12)) if log else share
