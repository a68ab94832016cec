"""Samples that are pixels: what a map of them can show, their spectra, and the figures of a few of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from weakref import WeakKeyDictionary

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Ribbon, Rule, nothing
from scutcher.charts.loadings import loadings
from scutcher.charts.maps import PictureMap, Tone, robust_range
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.images.map_structure import MapStructure, map_structure
from scutcher.core.images.spectral_angle import spectral_angle
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import Behind, PixelGrid
from scutcher.study.evaluation.whole_image import WholeMaps

AROUND = (0.05, 0.95)
"""Of the pixels, what a band on the spectra strip shows."""


@dataclass(frozen=True)
class Subject:
    """What a map shows.

    Attributes
    ----------
    kind : str
        "score", "channel", "raw" (a channel as brought in), "ratio", "sum", "t2", "q", "joint", "class",
        "likeness", "inks", or what is computed behind: "smooth", "groups".
    which : tuple of float
        Components from 0, places of channels, or the number of groups.
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
    key = subject.kind + "".join(f"-{value + 1:g}" for value in subject.which if subject.kind == "score")
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

    An ink is strong where the score is high, and does not print below the median.
    """
    from scutcher.charts.colours import LINEN, PAPER, rgb

    rows = found.usable.rows
    paper = np.array(rgb(PAPER), dtype=np.float64)
    printed = np.broadcast_to(paper, (len(rows), 3)).copy()
    for place, component in enumerate(components):
        values = found.model.scores[:, component]
        low, high = (float(v) for v in np.quantile(values, (0.5, 0.995)))
        strength = np.clip((values - low) / ((high - low) or 1.0), 0.0, 1.0)[:, np.newaxis]
        ink = np.array(rgb(INK_COLOURS[place]), dtype=np.float64) / paper
        printed *= 1.0 - strength * (1.0 - ink)
    picture = np.empty((*grid.shape, 3), np.uint8)
    picture[:] = rgb(LINEN)
    picture.reshape(-1, 3)[grid.cells[rows]] = np.rint(printed).astype(np.uint8)
    return picture


def two_regions(found: Evaluation | None, picked: Sequence[int], before: Sequence[int]) -> Chart:
    """The mean of the picked pixels less that of those picked before; band: SD of single pixels in both."""
    title = "Two regions"
    if found is None:
        return nothing(title, "They appear with the first model.")
    treated, places = found.treated, found.places()
    one, other = ([places[row] for row in rows if row in places] for rows in (picked, before))
    if len(one) < 2 or len(other) < 2:
        return nothing(title, "Pick one region, then another: their difference appears here.")
    a, b = treated.values[one], treated.values[other]
    difference = a.mean(axis=0) - b.mean(axis=0)
    freedom = len(a) + len(b) - 2
    spread = np.sqrt((a.var(axis=0) * len(a) + b.var(axis=0) * len(b)) / freedom)
    x = treated.axis.places()
    clear = np.divide(np.abs(difference), spread, out=np.zeros(len(x)), where=spread > 0.0)
    at = int(clear.argmax())
    return Chart(
        title=title,
        note=f"{len(one):,} picked less {len(other):,} before; band: SD of single pixels · clearest "
        f"{treated.axis.name(at)}, {clear[at]:.1f} SD",
        x_title=treated.axis.title,
        y_title="difference",
        lines=Lines(x, difference[np.newaxis, :], np.array([0]), np.array([0]), (title,), role="component"),
        spreads=(Ribbon(x, difference - spread, difference + spread),),
        rules=(Rule(0.0),),
        tick_names=() if treated.axis.ordered else treated.axis.labels,
        bars=not treated.axis.ordered,
    )


def spectra_strip(found: Evaluation | None, picked: Sequence[int], hovered: int | None, less: bool) -> Chart:
    """The mean of the picked pixels with its spread, the pixel under the cursor, and where all pixels lie."""
    if found is None:
        return nothing("Spectra", "They appear with the first model.")
    treated, places = found.treated, found.places()
    values, x = treated.values, treated.axis.places()
    usual = usual_of(treated)
    base = usual.mean if less else np.zeros(values.shape[1])
    own = [places[row] for row in picked if row in places]
    names, lines, spreads = [], [], []
    if own:
        mean = values[own].mean(axis=0) - base
        lines.append(mean)
        names.append(f"picked, mean of {len(own):,}")
        around = np.quantile(values[own], AROUND, axis=0) - base if len(own) > 1 else np.array([mean, mean])
        spreads.append(Ribbon(x, around[0], around[1]))
    curves: tuple[Curve, ...] = ()
    if hovered is not None and hovered in places:
        line = values[places[hovered]] - base
        if own:
            curves = (Curve(x, line, "alarm", width=1.3, behind=False),)
        else:
            lines.append(line)
            names.append("under the cursor")
    note = "; ".join(
        [
            *(names[:1] if own else []),
            *(["red: under the cursor"] if curves else names[:1] if not own else []),
        ]
    )
    if not lines:
        lines, names = [usual.median - base], ["median of all pixels"]
        note = "median; point at a map, or pick"
    return Chart(
        title="Spectra",
        note=f"{note} · grey: 90 % of all pixels",
        x_title=treated.axis.title,
        y_title="less the mean" if less else treated.signal or "value",
        lines=Lines(
            x,
            np.array(lines),
            np.arange(len(lines)),
            np.zeros(len(lines), dtype=np.intp),
            tuple(names),
            role="component",
        ),
        ribbon=Ribbon(x, usual.low - base, usual.high - base),
        spreads=tuple(spreads),
        curves=curves,
        rules=(Rule(0.0),) if less else (),
        tick_names=() if treated.axis.ordered else treated.axis.labels,
        bars=False,
    )


MANY = 4_000
"""Pixels of which the range of all is found; of more, so many evenly spaced."""


@dataclass(frozen=True, eq=False)
class Usual:
    """Of all pixels, channel by channel: mean, median, and where nine tenths lie between; (p,) each."""

    mean: Floats
    median: Floats
    low: Floats
    high: Floats


_usual: WeakKeyDictionary[Table, Usual] = WeakKeyDictionary()


def usual_of(treated: Table) -> Usual:
    """What is usual in a table; found once."""
    if treated not in _usual:
        rows = np.linspace(0, len(treated.ids) - 1, min(MANY, len(treated.ids))).astype(np.intp)
        low, median, high = np.quantile(treated.values[rows], (AROUND[0], 0.5, AROUND[1]), axis=0)
        _usual[treated] = Usual(treated.values.mean(axis=0), median, low, high)
    return _usual[treated]


def loading_strip(found: Evaluation | None, subjects: Sequence[Subject], behind: Behind) -> Chart:
    """The loadings of the components that the maps show; the pattern of a smooth component."""
    smooth = [one.component for one in subjects if one.kind == "smooth"]
    if found is not None and smooth and behind.patterns is not None:
        axis, at = found.treated.axis, min(smooth[0], behind.patterns.shape[1] - 1)
        line = behind.patterns[:, at][np.newaxis, :]
        name = (f"smooth component {at + 1}",)
        return Chart(
            title="Pattern of the map",
            note="what a pixel gains with one SD of the smooth component",
            x_title=axis.title,
            y_title="per SD",
            lines=Lines(axis.places(), line, np.array([0]), np.array([0]), name, role="component"),
            rules=(Rule(0.0),),
            tick_names=() if axis.ordered else axis.labels,
            bars=not axis.ordered,
        )
    shown = [one.component for one in subjects if one.kind == "score"]
    chart = loadings(found, (shown[0], shown[-1]) if shown else (0, 0))
    return replace(chart, title="Loadings of the maps" if len(set(shown)) > 1 else "Loading of the map")


def readings(
    found: Evaluation, picked: Sequence[int], hovered: int | None, state: State
) -> list[tuple[str, str | float, str | float]]:
    """What the pixel under the cursor and the picked ones have: name, cursor, mean of the pick."""
    places, model = found.places(), found.model
    own = [places[row] for row in picked if row in places]
    at = places.get(hovered) if hovered is not None else None

    def both(values: Floats, divisor: float = 1.0) -> tuple[str | float, str | float]:
        one: str | float = "" if at is None else float(values[at]) / divisor
        return one, "" if not own else float(values[own].mean()) / divisor

    lines: list[tuple[str, str | float, str | float]] = [("pixels", "" if at is None else 1, len(own) or "")]
    lines += [(f"component {a + 1}", *both(model.scores[:, a])) for a in range(model.k)]
    for name, values, limit in (("T²", model.t2, model.t2_limit), ("Q", model.q, model.q_limit)):
        if limit.value:
            lines.append((f"{name} / limit", *both(values, limit.value)))
    table = state.table
    if table is not None and table.classes:
        column = next((c for c in table.classes if c.name == state.colour_by), table.classes[0])
        names = [column.values[row] for row in picked]
        often = max(set(names), key=names.count) if names else ""
        lines.append((column.name, column.values[hovered] if hovered is not None else "", often))
    return lines
