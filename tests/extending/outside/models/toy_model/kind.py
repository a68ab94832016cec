"""The mean of the training samples as a model: distances are how far a sample is from it."""

from dataclasses import dataclass

import msgspec
import numpy as np

from scutcher.core.models.kind import ModelKind


class ToySettings(msgspec.Struct, frozen=True):
    """It has none."""


@dataclass(frozen=True, eq=False)
class Mean:
    """(p,) mean, and the (n,) distances of the training samples from it."""

    mean: np.ndarray
    away: np.ndarray


def fit(prepared, recipe, watch=None):
    """Take the mean."""
    z = prepared.scaled.whole
    return Mean(z.mean(axis=0), np.linalg.norm(z - z.mean(axis=0), axis=1))


KIND = ModelKind(
    key="toy-model",
    name="Toy",
    purpose="shows how a kind of model is added",
    settings=ToySettings,
    gives=frozenset({"distances"}),
    fit=fit,
    short=lambda fitted: "the mean",
    project=lambda fitted, rows: {"distance": np.linalg.norm(rows - fitted.mean, axis=1)},
    distances=lambda fitted: {"distance": fitted.away},
    validate=lambda part, recipe, fitted, watch=None: None,
    evidence=lambda fitted, prepared, recipe: {},
    to_plain=lambda fitted: {"mean": fitted.mean.tolist()},
    from_plain=lambda plain: Mean(np.array(plain["mean"]), np.empty(0)),
)
