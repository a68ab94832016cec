"""What of a picture takes longer than a frame: components by smoothness, groups of pixels."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.matrix import Folded
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.images.pixel_groups import HowManyGroups, how_many_groups, pixel_groups
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.smooth_order import smooth_order
from scutcher.core.progress import Watch, part
from scutcher.core.unmixing.mixture import Mixture
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import PixelGrid
from scutcher.study.evaluation.series import mixture_of

MOST_SMOOTH = 8
"""Components by smoothness that are kept for maps."""


@frozen(eq=False)
class Behind:
    """What takes longer than a frame, for the rows of the model.

    Attributes
    ----------
    smooth : (n, s) float array or None
        Scores of the smoothest components.
    patterns : (p, s) float array or None
    autocorrelation : (s,) float array or None
    limit : float
        What noise stays under.
    groups : (n,) int array or None
    judged : HowManyGroups or None
        What speaks for which number of them.
    mixture : Mixture or None
        Amounts of the shapes of the recipe.
    """

    smooth: Floats | None = None
    patterns: Floats | None = None
    autocorrelation: Floats | None = None
    limit: float = 0.0
    groups: Integers | None = None
    judged: HowManyGroups | None = None
    mixture: Mixture | None = None


def smooth_of(found: Evaluation, grid: PixelGrid, watch: Watch | None = None) -> Behind:
    """The treated pixels on the components in the order of their smoothness.

    Raises
    ------
    ModelError
        No two neighbours differ.
    """
    treated, cells = found.treated, grid.cells[found.usable.rows]
    n = grid.layout.rows * grid.layout.columns
    values = np.full((n, treated.values.shape[1]), np.nan)
    values[cells] = treated.values
    mask = np.zeros(n, dtype=bool)
    mask[cells] = True
    image = Image(Folded(values), grid.layout, treated.axis, mask)
    order = smooth_order(PixelTreatment(image), watch=watch)
    scores = order.scores(treated.values)[:, :MOST_SMOOTH]
    patterns = order.patterns[:, :MOST_SMOOTH]
    return Behind(scores, patterns, order.autocorrelation[:MOST_SMOOTH], order.limit)


def groups_of(
    found: Evaluation, count: int, judged: HowManyGroups | None, watch: Watch | None = None
) -> Behind:
    """The pixels in so many groups, in the scores of the components that are kept."""
    labels = pixel_groups(found.model.scores, count, watch=watch and part(watch, 0.0, 0.5)).labels
    judged = judged or how_many_groups(found.model.scores, watch=watch and part(watch, 0.5, 1.0))
    return Behind(groups=labels, judged=judged)


def amounts_of(found: Evaluation, watch: Watch | None = None) -> Behind:
    """The amounts of the recipe's shapes in every pixel.

    Raises
    ------
    ModelError
        The pixels cannot be sums of these shapes.
    """
    return Behind(mixture=mixture_of(found, None, found.recipe.unmix, watch))
