"""An image on a model that was made before, in one pass."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.matrix import Columns
from scutcher.core.errors import TableError
from scutcher.core.images.image import Image
from scutcher.core.images.measuring import measured, plane_of
from scutcher.core.images.passes import over_tiles
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.streamed_model import PixelMaps
from scutcher.core.models.pca.saved_model import SavedModel, places_on
from scutcher.core.numeric.scratch import Scratch
from scutcher.core.progress import Watch
from scutcher.core.words import first_of


def project_image(model: SavedModel, image: Image, watch: Watch | None = None) -> PixelMaps:
    """Scores and distances of every pixel, with the limits for new ones.

    Raises
    ------
    TableError
        The image lacks channels of the model; the first are named.
    """
    treatment = PixelTreatment(on_axis_of_model(model, image), model.steps, model.learned)
    if treatment.axis.labels != model.treated_labels:
        raise TableError(
            f"After treatment there are {len(treatment.axis)} channels, the model has "
            f"{len(model.treated_labels)}.",
            "The image is not of the kind that the model was made from.",
        )
    n, k, plane, scratch = image.pixels, model.k, plane_of(model, model.k), Scratch()
    scores = np.full((n, k), np.nan, np.float32)
    t2, q = np.full(n, np.nan), np.full(n, np.nan)

    def add(mine: None, tile: slice, values: Floats, kept: Booleans) -> None:
        places = np.arange(tile.start, tile.stop)[kept]
        scores[places], t2[places], q[places] = measured(values, plane, scratch)

    over_tiles(treatment, lambda: None, add, watch)
    joint = None
    if model.joint_scale is not None:
        joint = model.joint_scale.distance(t2 / (model.samples - 1) + 1.0 / model.samples, q)
    return PixelMaps(scores, t2, q, joint, model.t2_limit, model.q_limit, model.joint_limit)


def on_axis_of_model(model: SavedModel, image: Image) -> Image:
    """The image over the channels of a model, in its order.

    Raises
    ------
    TableError
        Channels are missing.
    """
    if image.axis.labels == model.axis.labels:
        return image
    if image.axis.ordered != model.axis.ordered:
        raise TableError(f"{image.name} has another kind of axis than the model.", "Bring in a like image.")
    places = places_on(model.axis, image.axis)
    missing = np.flatnonzero(places < 0)
    if missing.size:
        names = first_of([model.axis.name(int(place)) for place in missing], 3)
        raise TableError(
            f"{image.name} lacks {len(missing)} of the model's {len(model.axis)} channels: {names}.",
            "Bring in an image with these channels.",
        )
    return replace(image, matrix=Columns(image.matrix, places), axis=model.axis)
