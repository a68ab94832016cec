"""A component model of an image in passes: sums, then scores and distances; no more memory than maps need."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.distances.held_out_limits import HeldOutLimits, limits_of
from scutcher.core.distances.joint_distance import JointScale, fit_joint_scale
from scutcher.core.distances.limits import Limit, q_limit, t2_limit_training
from scutcher.core.errors import ModelError
from scutcher.core.images.covariance import Components, components_of
from scutcher.core.images.image import Image
from scutcher.core.images.measuring import Plane, measured, plane_of
from scutcher.core.images.passes import over_tiles, provisional_centre
from scutcher.core.images.pixel_treatment import PixelTreatment, learn
from scutcher.core.images.segments import Numbers, pixel_segments
from scutcher.core.images.sums import CentredSums, together, without
from scutcher.core.models.pca.component_model import DEFAULT_COMPONENTS
from scutcher.core.models.pca.decomposition import too_many
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.core.numeric.scratch import Scratch
from scutcher.core.progress import Watch, part
from scutcher.core.recipes.recipe import Recipe, ScaleSettings
from scutcher.core.validation.press import predicted_squares

MOST_JUDGED = 20
"""Components up to which the held-out error is found."""


@dataclass(frozen=True, eq=False)
class StreamedModel:
    """A component model of pixels.

    Attributes
    ----------
    saved : SavedModel
        All that is needed to project other pixels.
    components : Components
        All eigenvalues, total variance, centre and weight.
    treatment : PixelTreatment
    press, q2 : (K,) float arrays
        Held-out error with 1…K components; empty without validation.
    segments : int
    counted : int
        Pixels that made the model.
    remarks : tuple of str
    """

    saved: SavedModel
    components: Components
    treatment: PixelTreatment
    press: Floats
    q2: Floats
    segments: int
    counted: int
    remarks: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class PixelMaps:
    """What each pixel of an image has in a model; NaN for those that do not count.

    Attributes
    ----------
    scores : (n, k) float32 array
    t2, q, joint : (n,) float64 arrays
        The joint distance is None where it is not defined.
    t2_limit, q_limit, joint_limit : Limit
        For these pixels.
    """

    scores: np.ndarray
    t2: Floats
    q: Floats
    joint: Floats | None
    t2_limit: Limit
    q_limit: Limit
    joint_limit: Limit | None

    @property
    def known(self) -> Booleans:
        """Which pixels count, (n,)."""
        found: Booleans = np.isfinite(self.q)
        return found


def fit_image(image: Image, recipe: Recipe, watch: Watch | None = None) -> tuple[StreamedModel, PixelMaps]:
    """The model and its maps: a pass for what a treatment learns, one for the sums, one for the maps.

    Parameters
    ----------
    image : Image
    recipe : Recipe
        Components ★ 4. Limits are those of the fit; those for new pixels come from the segments, whose models
        follow from their sums without another pass.
    watch : Watch, optional

    Raises
    ------
    InputError
        What is asked for is not possible with pixels in parts.

    References
    ----------
    Chan, Golub & LeVeque, Am. Stat. 37 (1983) 242–247 (merging); Bro et al., Anal. Bioanal. Chem. 390 (2008)
    1241–1251 (PRESS).
    """
    watch = watch or (lambda share: True)
    treatment = learn(image, recipe.treat, part(watch, 0.0, 0.2))
    numbers, segments, said = pixel_segments(image, recipe.validate)
    centre = provisional_centre(treatment)
    count, scratch = max(segments, 1), Scratch()

    def add(mine: list[CentredSums], tile: slice, values: Floats, kept: Booleans) -> None:
        away = np.subtract(values, centre, out=scratch.array("away", *values.shape))
        if count == 1:
            mine[0].add(away)
            return
        own = numbers[tile][kept]
        for number in np.unique(own):
            mine[number].add(away[own == number])

    runs = over_tiles(
        treatment, lambda: [CentredSums(centre) for _ in range(count)], add, part(watch, 0.2, 0.6)
    )
    sums = [together([run[place] for run in runs]) for place in range(count)]
    whole = together(sums)
    scale = recipe.scale or ScaleSettings(method="none" if image.axis.ordered else "sd")
    components = components_of(whole, scale, treatment.axis)
    k = recipe.model.components or min(DEFAULT_COMPONENTS, components.rank)
    if k > components.rank:
        raise too_many(k, components.rank)
    left_out = _left_out(sums, whole, scale, treatment, k) if segments > 1 else []
    press, q2 = _press(sums, left_out, recipe, treatment)
    maps, held = _maps(treatment, components, k, recipe, numbers, left_out, part(watch, 0.6, 1.0))
    saved = _saved(treatment, components, k, recipe, whole.n, maps, held)
    remarks = (*treatment.remarks, *([said] if said else []), *_passed_over(image, whole.n))
    return StreamedModel(saved, components, treatment, press, q2, segments, whole.n, remarks), maps


def _passed_over(image: Image, counted: int) -> list[str]:
    lost = int(image.looked_at().sum()) - counted
    return [f"{lost:,} pixels with gaps or that could not be treated were left out"] if lost else []


@dataclass(frozen=True, eq=False)
class _LeftOut:
    """A segment's model: components of the others, its plane, and how many pixels they were."""

    components: Components
    plane: Plane
    n: int


def _left_out(
    sums: list[CentredSums], whole: CentredSums, scale: ScaleSettings, treatment: PixelTreatment, k: int
) -> list[_LeftOut]:
    found = []
    for mine in sums:
        others = without(whole, mine)
        try:
            components = components_of(others, scale, treatment.axis)
        except ModelError:
            return []
        if components.rank < k:
            return []
        found.append(_LeftOut(components, plane_of(components, k), others.n))
    return found


def _press(
    sums: list[CentredSums], left_out: list[_LeftOut], recipe: Recipe, treatment: PixelTreatment
) -> tuple[Floats, Floats]:
    """PRESS and Q² from the sums alone: squares of what is linear in a pixel need its products only."""
    if not left_out:
        return np.empty(0), np.empty(0)
    p = len(treatment.axis)
    block = recipe.validate.block or (max(1, round(p / 20)) if treatment.axis.ordered else 1)
    most = min(MOST_JUDGED, *(segment.components.rank for segment in left_out))
    press, total = np.zeros(most), 0.0
    for mine, segment in zip(sums, left_out, strict=True):
        found = segment.components
        scatter = mine.about(found.centre) * np.outer(found.weight, found.weight)
        values, vectors = np.linalg.eigh(scatter)
        rows = (vectors * np.sqrt(np.maximum(values, 0.0))).T  # as many as channels, with the same products
        press += predicted_squares(rows, found.loadings[:, :most], block)
        total += float(np.trace(scatter))
    return press, 1.0 - press / total


def _maps(
    treatment: PixelTreatment,
    components: Components,
    k: int,
    recipe: Recipe,
    numbers: Numbers,
    left_out: list[_LeftOut],
    watch: Watch,
) -> tuple[PixelMaps, HeldOutLimits | None]:
    n = treatment.image.pixels
    scores = np.full((n, k), np.nan, np.float32)
    t2, q = np.full(n, np.nan), np.full(n, np.nan)
    new = [np.full(n, np.nan) for _ in range(3)] if left_out else []
    full, scratch = plane_of(components, k), Scratch()

    def add(mine: None, tile: slice, values: Floats, kept: Booleans) -> None:
        places = np.arange(tile.start, tile.stop)[kept]
        found = measured(values, full, scratch)
        scores[places], t2[places], q[places] = found
        if not left_out:
            return
        own = numbers[places]
        for number in np.unique(own):
            rows, segment = own == number, left_out[number]
            _, far, off = measured(values[rows], segment.plane, scratch)
            new[0][places[rows]], new[1][places[rows]] = far, off
            new[2][places[rows]] = far / max(segment.n - 1, 1) + 1.0 / segment.n

    over_tiles(treatment, lambda: None, add, watch)
    known = np.isfinite(q)
    counted, limits = int(known.sum()), recipe.limits
    leverage = t2[known] / (counted - 1) + 1.0 / counted
    scale = fit_joint_scale(leverage, q[known], limits.joint)
    joint = np.full(n, np.nan)
    if scale is not None:
        joint[known] = scale.distance(leverage, q[known])
    rest = components.eigenvalues[k:]
    thetas = (float(rest.sum()), float((rest**2).sum()), float((rest**3).sum()))
    maps = PixelMaps(
        scores,
        t2,
        q,
        None if scale is None else joint,
        t2_limit_training(counted, k, limits.level),
        q_limit(thetas, q[known], limits.level, limits.q, components.total_variance),
        None if scale is None else scale.limit(limits.level),
    )
    held = None
    if left_out:
        far, off, leverages = (values[known] for values in new)
        total = components.total_variance
        held = limits_of(far, leverages, off, k, limits.level, limits.joint, total, counted)
    return maps, held


def _saved(
    treatment: PixelTreatment,
    components: Components,
    k: int,
    recipe: Recipe,
    counted: int,
    maps: PixelMaps,
    held: HeldOutLimits | None,
) -> SavedModel:
    scale: JointScale | None = None
    if maps.joint is not None:
        known = maps.known
        scale = fit_joint_scale(
            maps.t2[known] / (counted - 1) + 1.0 / counted, maps.q[known], recipe.limits.joint
        )
    return SavedModel(
        axis=treatment.image.axis,
        steps=treatment.steps,
        learned=treatment.learned,
        fill=None,
        treated_labels=treatment.axis.labels,
        centre=components.centre,
        weight=components.weight,
        loadings=components.loadings[:, :k],
        eigenvalues=components.eigenvalues[:k],
        samples=counted,
        level=recipe.limits.level,
        q_limit=maps.q_limit,
        joint_scale=scale,
        held_out=held,
    )
