"""A model of an image as files: what `scutcher fit` leaves in its folder, but for the maps."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import PropertyColumn
from scutcher.core.data.table import Table
from scutcher.core.images.image import Image
from scutcher.core.images.smooth_order import SmoothOrder
from scutcher.core.images.streamed_model import PixelMaps, StreamedModel
from scutcher.core.recipes.recipe import Recipe, ScaleSettings
from scutcher.core.validation.evidence import KEYS
from scutcher.core.words import plain_numbers
from scutcher.files.model_json import write_model
from scutcher.files.results import (
    held_out_plain,
    limit_plain,
    write_distances,
    write_json,
    write_loadings,
    write_scores,
)
from scutcher.files.safely import make_folder

LISTED = 200_000
"""Pixels up to which scores and distances are written as lists too, not only as maps."""


@plain_numbers()
def write_image_fit(
    folder: Path, image: Image, recipe: Recipe, model: StreamedModel, maps: PixelMaps, seconds: float
) -> list[Path]:
    """Write summary.json, loadings.csv, model.json; up to LISTED pixels scores.csv and distances.csv too."""
    make_folder(folder)
    write_json(folder / "summary.json", image_summary(image, recipe, model, maps, seconds))
    labels = model.treatment.axis.labels
    write_loadings(folder / "loadings.csv", labels, model.saved.loadings)
    write_model(folder / "model.json", model.saved)
    names = ["summary.json", "loadings.csv", "model.json"]
    if model.counted <= LISTED:
        names += _write_lists(folder, image, maps)
    return [folder / name for name in names]


def _write_lists(folder: Path, image: Image, maps: PixelMaps) -> list[str]:
    """A row for each pixel that counts, by its place: `y3x12`; of a tall table by its number."""
    known = np.flatnonzero(maps.known)
    places = [image.place_of(int(pixel)) for pixel in known]
    ids = tuple(f"y{row}x{column}" for column, row in places)
    properties = tuple(
        PropertyColumn(name, np.array([place[which] for place in places], dtype=np.float64), "px")
        for which, name in enumerate("xy")
    )
    if image.layout.columns == 1:
        ids, properties = tuple(str(row + 1) for row in known.tolist()), ()
    pixels = Table(np.zeros((len(known), 1)), Axis(("none",)), ids, image.name, properties=properties)
    write_scores(folder / "scores.csv", pixels, maps.scores[known].astype(np.float64))
    distances = (
        ("t2", maps.t2, maps.t2_limit),
        ("q", maps.q, maps.q_limit),
        ("joint", maps.joint, maps.joint_limit),
    )
    write_distances(
        folder / "distances.csv",
        pixels.ids,
        [
            (name, None, None)
            if values is None
            else (
                name,
                values[known],
                None if limit is None or limit.value is None else values[known] > limit.value,
            )
            for name, values, limit in distances
        ],
    )
    return ["scores.csv", "distances.csv"]


def image_summary(
    image: Image, recipe: Recipe, model: StreamedModel, maps: PixelMaps, seconds: float
) -> dict[str, Any]:
    """The figures as plain data, by the names that a fit of a table has."""
    found, saved = model.components, model.saved
    shares = found.eigenvalues / found.total_variance
    scale = recipe.scale or ScaleSettings(method="none" if image.axis.ordered else "sd")
    joint: dict[str, Any] | None = None
    if saved.joint_scale is not None and maps.joint_limit is not None:
        own = saved.joint_scale
        joint = {"method": recipe.limits.joint, "h0": own.h0, "q0": own.q0, "nh": own.nh, "nq": own.nq}
        joint |= {"level": maps.joint_limit.level, "limit": maps.joint_limit.value}
    constant = [model.treatment.axis.labels[place] for place in np.flatnonzero(found.weight == 0.0)]
    return {
        "scutcher": __version__,
        "samples": model.counted,
        "variables": len(found.centre),
        "image": image_plain(image),
        "rank": found.rank,
        "components": saved.k,
        "engine": "gram",
        "centre": scale.centre,
        "scale": scale.method,
        "scale_default": recipe.scale is None,
        "treatments": [step.method for step in saved.steps],
        "total_variance": found.total_variance,
        "eigenvalues": found.eigenvalues,
        "explained": shares,
        "explained_cumulative": np.cumsum(shares),
        "q2": model.q2 if model.segments else None,
        "press": model.press if model.segments else None,
        "validation": {
            "scheme": recipe.validate.scheme,
            "segments": model.segments,
            "seed": recipe.validate.seed,
        },
        "t2_limit": limit_plain(maps.t2_limit),
        "q_limit": limit_plain(maps.q_limit),
        "joint": joint,
        "held_out": held_out_plain(saved.held_out),
        "evidence": dict.fromkeys(KEYS) | {"lowest-press": _lowest_press(model)},
        "left_out": {
            "samples": [],
            "variables": [{"variable": name, "reason": "constant over the image"} for name in constant],
        },
        "warnings": list(model.remarks),
        "seconds_fit": seconds,
    }


def _lowest_press(model: StreamedModel) -> int | None:
    """The number with the lowest held-out error; none is one too."""
    known = np.isfinite(model.q2)
    if not known.any():
        return None
    return int(np.nanargmax(np.concatenate([[0.0], model.q2])))


def image_plain(image: Image) -> dict[str, Any]:
    """Size and mask of an image."""
    layout = image.layout
    plain: dict[str, Any] = {"name": image.name, "rows": layout.rows, "columns": layout.columns}
    plain |= {"images": image.images, "channels": len(image.axis)}
    plain["pixels"] = image.pixels
    plain["masked_out"] = 0 if image.mask is None else int((~image.mask).sum())
    if layout.pixel:
        plain |= {"pixel": layout.pixel, "pixel_unit": layout.unit}
    return plain


@plain_numbers()
def write_smooth_order(folder: Path, image: Image, found: SmoothOrder, labels: tuple[str, ...]) -> list[Path]:
    """Write summary.json, weights.csv and patterns.csv of components in the order of their smoothness."""
    make_folder(folder)
    write_json(
        folder / "summary.json",
        {
            "scutcher": __version__,
            "kind": "maf",
            "samples": found.pixels,
            "variables": len(labels),
            "image": image_plain(image),
            "pairs": {"across": found.pairs[0], "down": found.pairs[1]},
            "autocorrelation": found.autocorrelation,
            "noise_fraction": found.noise,
            "noise_fraction_across": found.along[:, 0] / 2.0,
            "noise_fraction_down": found.along[:, 1] / 2.0,
            "limit": found.limit,
            "above_limit": int((found.autocorrelation > found.limit).sum()),
            "warnings": list(found.warnings),
        },
    )
    write_loadings(folder / "weights.csv", labels, found.weights)
    write_loadings(folder / "patterns.csv", labels, found.patterns)
    return [folder / name for name in ("summary.json", "weights.csv", "patterns.csv")]
