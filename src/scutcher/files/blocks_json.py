"""A model of several tables as JSON: self-contained, versioned, readable."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import msgspec
import numpy as np
from msgspec import Meta

from scutcher import __version__
from scutcher.core.arrays import Floats
from scutcher.core.blocks.saved_blocks import SavedBlock, SavedBlocks, SavedSet
from scutcher.core.recipes.block_settings import Repeats
from scutcher.files.content_seal import sealed
from scutcher.files.model_parts import finite, opened, way_in_of_plain, way_in_plain
from scutcher.files.model_schema import AxisPart, check_runs
from scutcher.files.results import write_json

FORMAT, VERSION = "scutcher blocks", 1


class _BlockPart(msgspec.Struct):
    name: str
    axis: AxisPart
    treat: list[dict[str, Any]]
    learned: list[dict[str, Any] | None]
    fill: list[float]
    treated_labels: list[str]
    centre: list[float]
    weight: list[Annotated[float, Meta(ge=0.0)]]
    basis: list[list[float]]


class _SetPart(msgspec.Struct):
    blocks: list[Annotated[int, Meta(ge=0, le=4)]]
    labels: list[str]
    weights: list[list[list[float]]]
    seen: list[list[list[float]]]
    away: list[list[Annotated[float, Meta(ge=0.0)]]]


class _Part(msgspec.Struct):
    blocks: Annotated[list[_BlockPart], Meta(min_length=2, max_length=5)]
    sets: list[_SetPart]
    samples: Annotated[int, Meta(ge=3, le=2**40)]
    match: str
    repeats: Repeats = "mean"


def write_blocks_model(path: Path, model: SavedBlocks) -> None:
    """Write a model so that reading gives the same numbers back, to the last digit."""
    plain = {
        "format": FORMAT,
        "version": VERSION,
        "written_by": f"scutcher {__version__}",
        "samples": model.samples,
        "match": model.match,
        "repeats": model.repeats,
        "blocks": [
            {
                "name": one.name,
                **way_in_plain(one.axis, one.steps, one.learned),
                "fill": one.fill.tolist(),
                "treated_labels": list(one.treated_labels),
                "centre": one.centre.tolist(),
                "weight": one.weight.tolist(),
                "basis": one.basis.tolist(),
            }
            for one in model.blocks
        ],
        "sets": [
            {
                "blocks": list(one.blocks),
                "labels": list(one.labels),
                "weights": [one.weights[b].tolist() for b in one.blocks],
                "seen": [one.seen[b].tolist() for b in one.blocks],
                "away": [own.tolist() for own in one.away.values()],
            }
            for one in model.sets
        ],
    }
    write_json(path, sealed(plain))


def blocks_of_plain(path: Path, plain: dict[str, Any]) -> SavedBlocks:
    """The model of plain data that were read from a file.

    Raises
    ------
    FileError
        It is none, is of a newer version, or its parts do not fit together.
    """
    with opened(path, plain, VERSION, "a model of tables", "scutcher blocks"):
        part = msgspec.convert(plain, _Part, strict=True)
        blocks = tuple(_block(one) for one in plain["blocks"])
        if len({one.name for one in blocks}) != len(blocks):
            raise ValueError("two tables of one name")
        sets = tuple(_set(one, blocks) for one in part.sets)
        return SavedBlocks(blocks, sets, part.samples, part.match, part.repeats)


def _block(plain: dict[str, Any]) -> SavedBlock:
    axis, steps, learned = way_in_of_plain(plain)
    labels = tuple(map(str, plain["treated_labels"]))
    check_runs(axis, steps, learned, labels)
    fill, centre, weight = (finite(plain[name]) for name in ("fill", "centre", "weight"))
    if fill.shape != (len(axis),) or centre.shape != (len(labels),) or weight.shape != centre.shape:
        raise ValueError("parts of other lengths")
    basis = finite(plain["basis"])
    if basis.ndim != 2 or len(basis) != len(labels):
        raise ValueError("a basis of another shape")
    return SavedBlock(str(plain["name"]), axis, steps, learned, fill, labels, centre, weight, basis)


def _set(part: _SetPart, blocks: tuple[SavedBlock, ...]) -> SavedSet:
    chosen, k = tuple(part.blocks), len(part.labels)
    pairs = [(b, c) for place, b in enumerate(chosen) for c in chosen[place + 1 :]]
    sizes = len(part.weights) == len(part.seen) == len(chosen) and len(part.away) == len(pairs)
    if not sizes or sorted(set(chosen)) != list(chosen) or not k or chosen[-1] >= len(blocks):
        raise ValueError("a set of other tables")
    weights = {
        b: _shaped(own, (k, len(blocks[b].centre))) for b, own in zip(chosen, part.weights, strict=True)
    }
    seen = {b: _shaped(own, (k, k)) for b, own in zip(chosen, part.seen, strict=True)}
    away = {pair: _shaped(own, (k,)) for pair, own in zip(pairs, part.away, strict=True)}
    return SavedSet(chosen, tuple(part.labels), weights, seen, away)


def _shaped(rows: list[list[float]] | list[float], shape: tuple[int, ...]) -> Floats:
    found = finite(rows)
    if found.shape != shape or np.abs(found).max(initial=0.0) > 1e100:
        raise ValueError("numbers of another shape")
    return found
