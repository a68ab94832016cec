"""Several tables as a model that can leave the house: new samples, measured in all of them or in some."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.common import Set
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.matching import keys_of
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError, TableError
from scutcher.core.models.missing_values import filled
from scutcher.core.models.pca.saved_model import on_axis_of
from scutcher.core.recipes.chain import apply_chain
from scutcher.core.recipes.recipe import Step


@dataclass(frozen=True, eq=False)
class SavedBlock:
    """One table, apart from its samples.

    Attributes
    ----------
    name : str
    axis : Axis
        The p₀ variables that go in.
    steps, learned : the treatments that ran, and what each learned
    fill : (p₀,) float array
        Means of the training samples, for gaps.
    treated_labels : tuple of p str
    centre, weight : (p,) float arrays
    basis : (p, r) float array
        The leverage of a row of Z is the square of its product with this.
    """

    name: str
    axis: Axis
    steps: tuple[Step, ...]
    learned: tuple[Any, ...]
    fill: Floats
    treated_labels: tuple[str, ...]
    centre: Floats
    weight: Floats
    basis: Floats


@dataclass(frozen=True, eq=False)
class SavedSet:
    """The components that a set of tables shares, or that one table has alone.

    Attributes
    ----------
    blocks : tuple of int
    labels : tuple of k str
    weights : dict of block → (k, p_b) float array
        Block scores of new rows are `z wᵀ`.
    seen : dict of block → (k, k) float array
        Products of block scores and consensus of the training samples.
    away : dict of (block, block) → (k,) float array
        Sum of squares of the difference of two block scores, over the training samples.
    """

    blocks: Set
    labels: tuple[str, ...]
    weights: dict[int, Floats]
    seen: dict[int, Floats]
    away: dict[tuple[int, int], Floats]


@dataclass(frozen=True, eq=False)
class SavedBlocks:
    """All of it; made of so many samples.

    Attributes
    ----------
    match : str
        The class column by which tables are matched; "" for replicates or ids.
    """

    blocks: tuple[SavedBlock, ...]
    sets: tuple[SavedSet, ...]
    samples: int
    match: str = ""

    @property
    def names(self) -> tuple[str, ...]:
        """Of the tables."""
        return tuple(block.name for block in self.blocks)


@dataclass(frozen=True)
class ApartNew:
    """A new sample that two tables put at different places: t, and whether it is past its limit."""

    sample: str
    component: str
    pair: tuple[str, str]
    t: float
    past: bool


@dataclass(frozen=True, eq=False)
class NewOnBlocks:
    """New samples on several tables.

    Attributes
    ----------
    ids : tuple of m str
    measured : (m, B) bool array
        Which tables a sample was measured in.
    labels : tuple of k str
    scores : (m, k) float array
        Consensus of the shared components, scores of the own ones; NaN where none of its tables is there.
    block_scores : dict of (label, block) → (m,) float array
    apart : tuple of ApartNew
        Every sample and pair of tables that both have, the farthest first.
    limit : float
        Of |t|, over all of them together.
    refused : dict of sample → reason
    """

    ids: tuple[str, ...]
    measured: np.ndarray
    labels: tuple[str, ...]
    scores: Floats
    block_scores: dict[tuple[str, str], Floats]
    apart: tuple[ApartNew, ...]
    limit: float
    refused: dict[str, str]


def saved_blocks(fitted: FittedBlocks) -> SavedBlocks:
    """What is needed for new samples, without the training samples."""
    blocks = tuple(
        SavedBlock(
            one.source.name,
            one.source.table.axis,
            one.source.steps,
            tuple(one.learned),
            one.source.table.values.mean(axis=0),
            one.table.axis.labels,
            one.scaler.centre,
            one.scaler.weight,
            np.ascontiguousarray(block.directions / block.singular),
        )
        for one, block in zip(fitted.treated, fitted.model.blocks, strict=True)
    )
    chosen = dict.fromkeys(one.blocks for one in fitted.model.components)
    sets = tuple(_saved_set(fitted, one) for one in chosen)
    return SavedBlocks(blocks, sets, fitted.model.n, fitted.settings.match)


def _saved_set(fitted: FittedBlocks, chosen: Set) -> SavedSet:
    own = fitted.model.of(chosen)
    consensus = np.column_stack([one.consensus for one in own])
    scores = {b: np.column_stack([one.scores[b] for one in own]) for b in chosen}
    away = {(b, c): ((scores[b] - scores[c]) ** 2).sum(axis=0) for b, c in combinations(chosen, 2)}
    return SavedSet(
        chosen,
        tuple(fitted.label(one) for one in own),
        {b: np.vstack([one.weights[b] for one in own]) for b in chosen},
        {b: scores[b].T @ consensus for b in chosen},
        away,
    )


def on_blocks(
    model: SavedBlocks, tables: Mapping[str, Table], resample: bool = False, level: float = 0.95
) -> NewOnBlocks:
    """New samples on a model of several tables.

    Parameters
    ----------
    tables : dict of block → Table
        Of some of the model's blocks, or of all; repeats of a sample are averaged after treatment.
    level : float
        Coverage of the limit of disagreement, over all samples, pairs and components (Bonferroni).

    Raises
    ------
    InputError
        A table is of no block of the model, lacks variables, or cannot be treated.
    """
    strange = [name for name in tables if name not in model.names]
    if strange or not tables:
        known = ", ".join(model.names)
        what = f"The model has no table {strange[0]!r}." if strange else "No table was given."
        raise ModelError(what, f"Name one of {known}.")
    z: dict[int, dict[str, Floats]] = {}
    refused: dict[str, str] = {}
    for place, block in enumerate(model.blocks):
        if block.name in tables:
            z[place], more = _z_of(block, tables[block.name], model.match, resample)
            refused |= more
    ids = tuple(dict.fromkeys(name for rows in z.values() for name in rows))
    measured = np.array([[b in z and name in z[b] for b in range(len(model.blocks))] for name in ids])
    measured = measured.reshape(len(ids), len(model.blocks))
    whole = {b: _aligned(rows, ids) for b, rows in z.items()}
    block_scores: dict[tuple[str, str], Floats] = {}
    columns: list[Floats] = []
    labels: list[str] = []
    for one in model.sets:
        own = {b: whole[b] @ one.weights[b].T for b in one.blocks if b in whole}
        columns.append(_consensus(one, own, measured))
        labels += one.labels
        for b, values in own.items():
            for place, label in enumerate(one.labels):
                block_scores[(label, model.names[b])] = values[:, place]
    scores = np.hstack(columns) if columns else np.empty((len(ids), 0))
    leverages = {b: ((rows @ model.blocks[b].basis) ** 2).sum(axis=1) for b, rows in whole.items()}
    apart, limit = _apart(model, block_scores, leverages, measured, ids, level)
    return NewOnBlocks(ids, measured, tuple(labels), scores, block_scores, apart, limit, refused)


def _z_of(
    block: SavedBlock, table: Table, match: str, resample: bool
) -> tuple[dict[str, Floats], dict[str, str]]:
    """Sample → row of Z; and what cannot be treated."""
    matched, _ = on_axis_of(block.axis, table, resample)
    column = match if any(one.name == match for one in table.classes) else ""
    keys = keys_of(table, column)
    matched = filled(matched, block.fill) if matched.has_gaps else matched
    treated = apply_chain(matched, block.steps, block.learned)
    if treated.axis.labels != block.treated_labels:
        raise TableError(
            f"After treatment {table.name} has other variables than {block.name} of the model.",
            "Bring in data of the kind that the model was made from.",
        )
    values = (treated.values - block.centre) * block.weight
    rows: dict[str, list[int]] = {}
    for row in table.used_rows().tolist():
        rows.setdefault(keys[row], []).append(row)
    found = {name: values[own].mean(axis=0) for name, own in rows.items()}
    bad = {name for name, row in found.items() if not np.isfinite(row).all()}
    refused = dict.fromkeys(bad, f"{block.name}: it cannot be treated")
    return {name: row for name, row in found.items() if name not in bad}, refused


def _aligned(rows: Mapping[str, Floats], ids: tuple[str, ...]) -> Floats:
    """(m, p) with NaN for samples that were not measured here."""
    width = len(next(iter(rows.values()))) if rows else 0
    nothing = np.full(width, np.nan)
    return np.array([rows.get(name, nothing) for name in ids]).reshape(len(ids), width)


def _consensus(one: SavedSet, own: Mapping[int, Floats], measured: np.ndarray) -> Floats:
    """Of each sample from the tables of the set that it was measured in, by least squares."""
    found = np.full((len(measured), len(one.labels)), np.nan)
    patterns = {tuple(row) for row in measured[:, list(one.blocks)].tolist()}
    for pattern in patterns:
        there = [b for b, seen in zip(one.blocks, pattern, strict=True) if seen]
        if not there:
            continue
        rows = np.flatnonzero((measured[:, list(one.blocks)] == pattern).all(axis=1))
        if len(one.blocks) == 1:
            found[rows] = own[there[0]][rows]
            continue
        right = np.sum([own[b][rows] @ one.seen[b] for b in there], axis=0)
        inner = np.sum([one.seen[b].T @ one.seen[b] for b in there], axis=0)
        found[rows] = np.linalg.solve(inner.T, right.T).T
    return found


def _apart(
    model: SavedBlocks,
    block_scores: Mapping[tuple[str, str], Floats],
    leverages: Mapping[int, Floats],
    measured: np.ndarray,
    ids: tuple[str, ...],
    level: float,
) -> tuple[tuple[ApartNew, ...], float]:
    """How differently two tables place each new sample, in standard errors of a prediction.

    Block scores are fitted in the components of their table: the wider of two takes as much freedom from the
    differences of the training samples, and its leverage makes those of new ones larger.
    """
    from scipy.special import stdtrit

    found: list[tuple[str, str, tuple[str, str], float]] = []
    widest = 1
    for one in model.sets:
        for (b, c), squares in one.away.items():
            both = np.flatnonzero(measured[:, b] & measured[:, c])
            wide = max(model.blocks[b].basis.shape[1], model.blocks[c].basis.shape[1])
            freedom = model.samples - 1 - wide
            if not len(both) or freedom < 1:
                continue
            widest = max(widest, wide)
            names = model.names[b], model.names[c]
            spread = 1.0 + 1.0 / model.samples + np.fmax(leverages[b], leverages[c])[both]
            for label, square in zip(one.labels, squares.tolist(), strict=True):
                if square > 0.0:
                    t_b, t_c = (block_scores[(label, name)][both] for name in names)
                    t = (t_b - t_c) / np.sqrt(square / freedom * spread)
                    found += [(ids[row], label, names, float(v)) for row, v in zip(both, t, strict=True)]
    chance = (1.0 - level) / (2.0 * max(len(found), 1))
    limit = float(-stdtrit(max(model.samples - 1 - widest, 1), chance))
    ordered = sorted(found, key=lambda entry: -abs(entry[3]))
    return tuple(ApartNew(*entry, past=abs(entry[3]) > limit) for entry in ordered), limit
