"""A component model of an image in passes: sums, then scores and distances; no more memory than maps need."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.distances.held_out_limits import HeldOutLimits, limits_of
from scutcher.core.distances.joint_distance import JointScale, fit_joint_scale
from scutcher.core.distances.limits import Limit, q_limit, t2_limit_training
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.images.covariance import Components, components_of
from scutcher.core.images.image import Image
from scutcher.core.images.measuring import Plane, plane_of
from scutcher.core.images.passes import provisional_centre
from scutcher.core.images.pixel_treatment import PixelTreatment, learn
from scutcher.core.images.segments import Numbers, pixel_segments
from scutcher.core.images.sums import CentredSums, together, without
from scutcher.core.images.tile_work import Here, Measured, Passes
from scutcher.core.models.pca.component_model import DEFAULT_COMPONENTS
from scutcher.core.models.pca.decomposition import too_many
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.core.progress import Watch, part
from scutcher.core.recipes.recipe import Recipe, ScaleSettings
from scutcher.core.validation.press import predicted_squares
from scutcher.core.words import shown

MOST_JUDGED = 20
"""Components up to which the held-out error is found."""


@frozen(eq=False)
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


@frozen(eq=False)
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


def fit_image(
    image: Image, recipe: Recipe, watch: Watch | None = None, passes: Passes | None = None
) -> tuple[StreamedModel, PixelMaps]:
    """The model and its maps: a pass for what a treatment learns, one for the sums, one for the maps.

    Parameters
    ----------
    image : Image
    recipe : Recipe
        Components ★ 4. Limits are those of the fit; those for new pixels come from the segments, whose models
        follow from their sums without another pass.
    watch : Watch, optional
    passes : Passes, optional
        Who goes over the pixels; this process where nobody is named.

    Raises
    ------
    InputError
        What is asked for is not possible with pixels in parts.

    References
    ----------
    Chan, Golub & LeVeque, Am. Stat. 37 (1983) 242–247 (merging); Bro et al., Anal. Bioanal. Chem. 390 (2008)
    1241–1251 (PRESS).
    """
    watch, passes = watch or (lambda share: True), passes or Here()
    treatment = learn(image, recipe.treat, passes.mean, part(watch, 0.0, 0.2))
    numbers, segments, said = pixel_segments(image, recipe.validate)
    centre = provisional_centre(treatment)
    sums = passes.sums(treatment, centre, numbers, max(segments, 1), part(watch, 0.2, 0.6))
    whole = together(sums)
    scale = recipe.scale or ScaleSettings(method="none" if image.axis.ordered else "sd")
    components = components_of(whole, scale, treatment.axis)
    k = recipe.model.components or min(DEFAULT_COMPONENTS, components.rank)
    if k > components.rank:
        raise too_many(k, components.rank)
    left_out = _left_out(sums, whole, scale, treatment, k) if segments > 1 else []
    press, q2 = _press(sums, left_out, recipe, treatment)
    planes = [segment.plane for segment in left_out]
    found = passes.measures(treatment, plane_of(components, k), planes, numbers, part(watch, 0.6, 1.0))
    maps, scale_of_joint = _maps(found, components, k, recipe)
    held = _held_out(found, numbers, left_out, components, k, recipe)
    saved = _saved(treatment, components, k, recipe, whole.n, maps.q_limit, scale_of_joint, held)
    remarks = (*treatment.remarks, *([said] if said else []), *_passed_over(image, whole.n))
    return StreamedModel(saved, components, treatment, press, q2, segments, whole.n, remarks), maps


def _passed_over(image: Image, counted: int) -> list[str]:
    lost = int(image.looked_at().sum()) - counted
    return [f"{shown(lost, ',')} pixels with gaps or that could not be treated were left out"] if lost else []


@frozen(eq=False)
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
    found: Measured, components: Components, k: int, recipe: Recipe
) -> tuple[PixelMaps, JointScale | None]:
    known = np.isfinite(found.q)
    t2, q = found.t2[known], found.q[known]
    counted, limits = len(q), recipe.limits
    leverage = t2 / (counted - 1) + 1.0 / counted
    scale = fit_joint_scale(leverage, q, limits.joint)
    joint = np.full(len(known), np.nan)
    if scale is not None:
        joint[known] = scale.distance(leverage, q)
    rest = components.eigenvalues[k:]
    thetas = (float(rest.sum()), float((rest**2).sum()), float((rest**3).sum()))
    maps = PixelMaps(
        found.scores,
        found.t2,
        found.q,
        None if scale is None else joint,
        t2_limit_training(counted, k, limits.level),
        q_limit(thetas, q, limits.level, limits.q, components.total_variance),
        None if scale is None else scale.limit(limits.level),
    )
    return maps, scale


def _held_out(
    found: Measured,
    numbers: Numbers,
    left_out: list[_LeftOut],
    components: Components,
    k: int,
    recipe: Recipe,
) -> HeldOutLimits | None:
    """Limits for new pixels, from each pixel's distance to the model without its segment."""
    if not left_out or found.new_t2 is None or found.new_q is None:
        return None
    known = np.isfinite(found.new_q)
    t2, q = found.new_t2[known], found.new_q[known]
    sizes = np.array([segment.n for segment in left_out], dtype=np.float64)[numbers[known]]
    leverage = t2 / np.maximum(sizes - 1.0, 1.0) + 1.0 / sizes
    limits, total = recipe.limits, components.total_variance
    return limits_of(t2, leverage, q, k, limits.level, limits.joint, total, len(q))


def _saved(
    treatment: PixelTreatment,
    components: Components,
    k: int,
    recipe: Recipe,
    counted: int,
    limit: Limit,
    scale: JointScale | None,
    held: HeldOutLimits | None,
) -> SavedModel:
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
        q_limit=limit,
        joint_scale=scale,
        held_out=held,
    )
