"""All pixels of an image of which every so-manieth was read: on the model of those, as they are gone over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.images.measuring import Plane, measured, plane_of
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.projecting import on_axis_of_model
from scutcher.core.images.tile_work import Measured, measures_of
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.core.numeric.scratch import Scratch
from scutcher.core.progress import Watch, tell
from scutcher.files.images.opening import can_open, open_image
from scutcher.files.images.shape import ImageShape, shape_of
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import pixel_grid, step_of

Elsewhere = Callable[[str, ImageShape | None, str | None, PixelTreatment, Plane, Watch], Measured]
"""Measures the pixels of a file: by its path, its shape and the name of the array in it."""

GROUPS = 60
"""Parts in which the picture gets sharp."""


def is_thinned(state: State) -> bool:
    """Whether there are more pixels in the file than in the study."""
    table, paths = state.table, state.source.paths
    return table is not None and len(paths) == 1 and can_open(Path(paths[0])) and step_of(table) > 1


@frozen(eq=False)
class OnePixel:
    """A pixel of the file, read by itself.

    Attributes
    ----------
    column, row : int
        Of the image.
    spectrum : (p,) float array
        Treated.
    scores : (k,) float array
    t2, q : float
    """

    column: int
    row: int
    spectrum: Floats
    scores: Floats
    t2: float
    q: float


@dataclass(eq=False)
class WholeMaps:
    """Scores and distances of all pixels; for those not gone over yet, of their neighbour in the study.

    Attributes
    ----------
    rows, columns, step : int
        Of the image, and of every so-manieth pixel that is in the study.
    scores : (n, k) float32 array
    t2, q : (n,) float32 arrays
    joint : (n,) float32 array or None
    treatment : PixelTreatment
        Of the pixels as the file has them.
    plane : Plane
        Of the model.
    done : float
        Share of the pixels.
    """

    rows: int
    columns: int
    step: int
    scores: np.ndarray
    t2: np.ndarray
    q: np.ndarray
    joint: np.ndarray | None
    treatment: PixelTreatment
    plane: Plane
    done: float = 0.0

    def picture(self, kind: str, component: int) -> Floats | None:
        """One of them as a map, (rows, columns)."""
        values = {"t2": self.t2, "q": self.q, "joint": self.joint}.get(kind, self.scores[:, component])
        return None if values is None else values.reshape(self.rows, self.columns)

    def pixel(self, column: int, row: int) -> OnePixel | None:
        """One pixel read from the file and treated; None where it cannot be.

        Raises
        ------
        FileError
            The file is gone.
        """
        at = row * self.columns + column
        values, good = self.treatment.apply(self.treatment.image.fetch(slice(at, at + 1)))
        if not good.all():
            return None
        scores, t2, q = measured(values, self.plane, Scratch())
        return OnePixel(column, row, values[0], scores[0], float(t2[0]), float(q[0]))


def go_over(
    state: State,
    found: Evaluation,
    model: SavedModel,
    started: Callable[[WholeMaps], None],
    watch: Watch,
    elsewhere: Elsewhere | None = None,
) -> WholeMaps:
    """Open the file of a study and measure all its pixels on a model.

    Around samples that are set aside no pixel counts.

    Parameters
    ----------
    found : Evaluation
        Of the pixels that are in the study: what is shown until the others are gone over.
    model : SavedModel
        The same, to be taken elsewhere.
    started : function
        Told at once; what it is handed is filled while the work goes on.
    elsewhere : function, optional
        Measures all pixels on other machines that see the same file.

    Raises
    ------
    FileError
        The file is gone, or is no image any more.
    """
    grid = pixel_grid(state.table)
    assert state.table is not None and grid is not None
    said = dict(state.source.reading).get("image")
    shape = shape_of(said) if said else None
    path, name = state.source.paths[0], state.source.sheet or None
    opened = open_image(Path(path), shape, name)
    image: Image = on_axis_of_model(model, opened)
    step, layout = step_of(state.table), image.layout
    if image.images != 1 or layout.rows < step or layout.columns < step:
        raise FileError(f"{Path(state.source.paths[0]).name} is no single image.", "Open it anew.")
    rows, columns = (np.arange(count) // step for count in (layout.rows, layout.columns))
    used, own = found.usable.rows, found.model

    def coarse(values: Floats) -> np.ndarray:
        return grid.picture(used, values).astype(np.float32)[np.ix_(rows, columns)].ravel()

    scores = np.column_stack([coarse(own.scores[:, a]) for a in range(model.k)])
    joint = None if own.joint is None or model.joint_scale is None else coarse(own.joint)
    t2, q = coarse(own.t2), coarse(own.q)
    image = image.masked(np.isfinite(q))
    treatment, plane = PixelTreatment(image, model.steps, model.learned), plane_of(model, model.k)
    maps = WholeMaps(layout.rows, layout.columns, step, scores, t2, q, joint, treatment, plane)
    started(maps)
    if elsewhere is not None and image.matrix is opened.matrix:
        here = elsewhere(path, shape, name, treatment, plane, watch)
        _put(maps, slice(0, image.pixels), here, model)
        maps.done = 1.0
        return maps
    tiles = image.tiles()
    ends = np.linspace(0, len(tiles), min(GROUPS, len(tiles)) + 1).round().astype(int).tolist()
    for low, high in pairwise(ends):
        tell(watch, low / len(tiles))
        those = tiles[low:high]
        here = measures_of(treatment, plane, [], np.zeros(0, np.uint8), None, those)
        _put(maps, slice(those[0].start, those[-1].stop), here, model)
        maps.done = high / len(tiles)
    return maps


def _put(maps: WholeMaps, cut: slice, here: Measured, model: SavedModel) -> None:
    """What was measured at its place."""
    maps.scores[cut], maps.t2[cut], maps.q[cut] = here.scores, here.t2, here.q
    if maps.joint is not None and model.joint_scale is not None:
        leverage = here.t2 / (model.samples - 1) + 1.0 / model.samples
        maps.joint[cut] = model.joint_scale.distance(leverage, here.q)
