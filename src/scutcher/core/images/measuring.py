"""Scores and distances of treated pixels on a plane of components, with no memory of their own."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.images.covariance import Components
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.core.numeric.scratch import Scratch


@frozen(eq=False)
class Plane:
    """k components, laid so that products with them are fast.

    Attributes
    ----------
    centre : (p,) float array
    weight : (p,) float array or None
        None where all are one.
    loadings : (p, k) float array
    turned : (k, p) float array
        The same.
    eigenvalues : (k,) float array
    """

    centre: Floats
    weight: Floats | None
    loadings: Floats
    turned: Floats
    eigenvalues: Floats


def plane_of(model: Components | SavedModel, k: int) -> Plane:
    """The first k components of a model."""
    weight = None if (model.weight == 1.0).all() else model.weight
    loadings = np.ascontiguousarray(model.loadings[:, :k])
    turned = np.ascontiguousarray(loadings.T)
    return Plane(model.centre, weight, loadings, turned, model.eigenvalues[:k])


def measured(values: Floats, plane: Plane, scratch: Scratch) -> tuple[Floats, Floats, Floats]:
    """Scores (m, k), T² (m,) and Q (m,) of treated pixels (m, p), Q from the residual itself."""
    z = np.subtract(values, plane.centre, out=scratch.array("z", *values.shape))
    if plane.weight is not None:
        z *= plane.weight
    scores = z @ plane.loadings
    t2: Floats = (scores**2 / plane.eigenvalues).sum(axis=1)
    z -= np.matmul(scores, plane.turned, out=scratch.array("fitted", *values.shape))
    return scores, t2, np.einsum("ij,ij->i", z, z)
