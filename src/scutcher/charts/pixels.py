"""Samples that are pixels: what a map of them can show, their spectra, and the figures of a few of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from scutcher.charts.maps import PictureMap, Tone, robust_range, some_known
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.frozen import frozen
from scutcher.core.images.map_structure import MapStructure, map_structure
from scutcher.core.images.spectral_angle import spectral_angle
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixel_passes import Behind
from scutcher.study.evaluation.pixels import PixelGrid
from scutcher.study.evaluation.whole_image import WholeMaps


@frozen
class Subject:
    """What a map shows.

    Attributes
    ----------
    kind : str
        "score", "channel", "raw" (a channel as brought in), "ratio", "sum", "t2", "q", "joint", "class",
        "likeness", "inks", or what is computed behind: "smooth", "groups",
        "amount".
    which : tuple of float
        Components or shapes from 0, places of channels, or the number of groups.
    """

    kind: str = "score"
    which: tuple[float, ...] = (0.0,)

    @property
    def component(self) -> int:
        """The component it shows."""
        return int(self.which[0]) if self.which else 0


def nearest(axis: Axis, place: float) -> int:
    """The channel that lies nearest to a place."""
    return int(np.abs(axis.places() - place).argmin())


def title_of(subject: Subject, found: Evaluation) -> str:
    """The heading of a map."""
    axis = found.treated.axis
    if subject.kind == "score":
        return f"Score of component {subject.component + 1}"
    if subject.kind == "smooth":
        return f"Smooth component {subject.component + 1}"
    if subject.kind == "amount":
        return f"Amount of {shape_name(found, subject.component)}"
    if subject.kind == "raw":
        axis = found.part.axis
        return f"{axis.name(nearest(axis, subject.which[0]))} as brought in"
    if subject.kind in ("channel", "ratio", "sum"):
        names = [axis.name(nearest(axis, place)) for place in subject.which]
        join = {"ratio": " over ", "sum": " to "}.get(subject.kind, "")
        return ("Sum of " if subject.kind == "sum" else "") + join.join(names)
    if subject.kind == "inks":
        return "Three components in three inks"
    if subject.kind == "groups":
        return f"{int(subject.which[0])} groups of pixels"
    plain = {"t2": "T²", "q": "Q", "joint": "Joint distance", "class": "Class"}
    return plain.get(subject.kind, "Angle to the pick")


def shape_name(found: Evaluation, place: int) -> str:
    """What a shape of the recipe is called."""
    names = [shape.name for shape in found.recipe.unmix.shapes]
    return names[place] if place < len(names) else f"shape {place + 1}"


def map_of(
    state: State, found: Evaluation, grid: PixelGrid, subject: Subject, picked: Sequence[int], behind: Behind
) -> PictureMap | None:
    """The map of a subject; None where what it needs is not there yet."""
    rows, model = found.usable.rows, found.model
    values: Floats | None = None
    tone: Tone = "one-sided"
    unit, limit = "", None
    if subject.kind == "score":
        values, tone = model.scores[:, min(subject.component, model.k - 1)], "two-sided"
    elif subject.kind == "smooth" and behind.smooth is not None:
        at = min(subject.component, behind.smooth.shape[1] - 1)
        values, tone, unit = behind.smooth[:, at], "two-sided", "SD"
    elif subject.kind == "amount" and behind.mixture is not None:
        values = behind.mixture.amounts[:, min(subject.component, len(behind.mixture.names) - 1)]
    elif subject.kind in ("channel", "ratio", "sum", "raw"):
        values, unit = _of_channels(found, subject)
        tone = "two-sided" if values.min() < 0.0 < values.max() else "one-sided"
    elif subject.kind in ("t2", "q", "joint"):
        values, limit = {
            "t2": (model.t2, model.t2_limit),
            "q": (model.q, model.q_limit),
            "joint": (model.joint, model.joint_limit),
        }[subject.kind]
    elif subject.kind == "likeness" and picked:
        places = found.places()
        own = [places[row] for row in picked if row in places]
        if own:
            values, unit = spectral_angle(found.treated.values, found.treated.values[own].mean(axis=0)), "rad"
    elif subject.kind == "class":
        return _classes(state, grid, rows)
    elif subject.kind == "groups" and behind.groups is not None:
        names = tuple(f"group {code + 1}" for code in range(int(behind.groups.max()) + 1))
        picture = grid.picture(rows, behind.groups.astype(np.float64))
        return PictureMap("groups", title_of(subject, found), picture, "categories", 0.0, 1.0, "", names)
    if values is None:
        return None
    picture = grid.picture(rows, values)
    low, high = robust_range(picture, tone)
    bound = limit.value if limit is not None else None
    if bound is not None:
        low, high = 0.0, max(high, bound)
    key = subject.kind + "".join(
        f"-{shown(value + 1)}" for value in subject.which if subject.kind in ("score", "amount")
    )
    return PictureMap(key, title_of(subject, found), picture, tone, low, high, unit, (), bound)


def of_all_pixels(one: PictureMap, whole: WholeMaps, subject: Subject) -> PictureMap:
    """The same map of all pixels of the file; those not gone over yet as their neighbour in the study."""
    values = whole.picture(subject.kind, min(subject.component, whole.scores.shape[1] - 1))
    if values is None:
        return one
    return replace(one, values=values, step=whole.step)


def _of_channels(found: Evaluation, subject: Subject) -> tuple[Floats, str]:
    """One channel, the ratio of two, or the sum of all from one to the other."""
    treated = found.part if subject.kind == "raw" else found.treated
    places = [nearest(treated.axis, place) for place in subject.which]
    if subject.kind == "sum":
        return treated.values[:, min(places) : max(places) + 1].sum(axis=1), treated.signal_unit
    columns = [treated.values[:, place] for place in places]
    if len(columns) == 1:
        return columns[0], treated.signal_unit
    return np.divide(
        columns[0], columns[1], out=np.full(len(columns[0]), np.nan), where=columns[1] != 0.0
    ), ""


def _classes(state: State, grid: PixelGrid, rows: Integers) -> PictureMap | None:
    table = state.table
    if table is None or not table.classes:
        return None
    named = [column for column in table.classes if column.name == state.colour_by] or list(table.classes)
    column = named[0]
    picture = grid.picture(rows, column.codes()[rows].astype(np.float64))
    return PictureMap("class", column.name, picture, "categories", 0.0, 1.0, "", column.levels)


def structure_of(one: PictureMap) -> MapStructure | None:
    """How much neighbours agree on a map; None for classes."""
    return None if one.tone == "categories" else map_structure(one.values, one.breaks)


def structures(found: Evaluation, grid: PixelGrid) -> list[MapStructure | None]:
    """Of the scores of every component that is kept."""
    rows = found.usable.rows
    return [map_structure(grid.picture(rows, found.model.scores[:, a])) for a in range(found.model.k)]


INK_COLOURS = ("#1F2F6B", "#B5381B", "#146E60")


def inks(found: Evaluation, grid: PixelGrid, components: Sequence[int]) -> np.ndarray:
    """Three components printed over one another, (rows, columns, 3) uint8.

    An ink is strong where the score is high, and does not print below the median. The paper is light
    whatever the screen looks like: inks do not print on dark.
    """
    from scutcher.charts import colours, palettes

    rows = found.usable.rows
    paper = np.array(colours.rgb(palettes.LIGHT.paper), dtype=np.float64)[:, np.newaxis]
    printed = np.repeat(paper, len(rows), axis=1)
    for place, component in enumerate(components):
        values = found.model.scores[:, component]
        low, high = (float(v) for v in np.quantile(some_known(values), (0.5, 0.995)))
        strength = np.clip((values - low) / ((high - low) or 1.0), 0.0, 1.0)
        ink = np.array(colours.rgb(INK_COLOURS[place]), dtype=np.float64)[:, np.newaxis] / paper
        printed *= 1.0 - strength * (1.0 - ink)
    picture = np.empty((*grid.shape, 3), np.uint8)
    picture[:] = colours.rgb(colours.LINEN)
    picture.reshape(-1, 3)[grid.cells[rows]] = np.rint(printed).astype(np.uint8).T
    return picture
