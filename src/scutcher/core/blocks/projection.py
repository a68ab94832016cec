"""New samples on a model of several tables, measured in all of them or in some."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.matching import keys_of
from scutcher.core.blocks.repeats import one_of_each
from scutcher.core.blocks.saved_blocks import SavedBlock, SavedBlocks, SavedSet
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError, ModelError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import filled
from scutcher.core.models.pca.saved_model import on_axis_of
from scutcher.core.recipes.chain import apply_chain


@frozen
class ApartNew:
    """A new sample that two tables put at different places: t, and whether it is past its limit."""

    sample: str
    component: str
    pair: tuple[str, str]
    t: float
    past: bool


@frozen(eq=False)
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
    z : dict of block → (m, p) float array
        Treated, centred and scaled; NaN for samples that were not measured there.
    """

    ids: tuple[str, ...]
    measured: np.ndarray
    labels: tuple[str, ...]
    scores: Floats
    block_scores: dict[tuple[str, str], Floats]
    apart: tuple[ApartNew, ...]
    limit: float
    refused: dict[str, str]
    z: dict[int, Floats]


def on_blocks(
    model: SavedBlocks, tables: Mapping[str, Table], resample: bool = False, level: float = 0.95
) -> NewOnBlocks:
    """New samples on a model of several tables.

    Parameters
    ----------
    tables : dict of block → Table
        Of some of the model's blocks, or of all; rows of one sample are made one after treatment.
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
            z[place], more = _z_of(block, tables[block.name], model, resample)
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
    return NewOnBlocks(ids, measured, tuple(labels), scores, block_scores, apart, limit, refused, whole)


def blocks_of(model: SavedBlocks, table: Table, resample: bool = False) -> list[str]:
    """The blocks that a table is of: the one of its name, else those whose variables it has.

    Raises
    ------
    ModelError
        It is of none.
    """
    if table.name in model.names:
        return [table.name]
    fitting = []
    for block in model.blocks:
        try:
            on_axis_of(block.axis, table, resample)
        except InputError:
            continue
        fitting.append(block.name)
    if not fitting:
        known = ", ".join(model.names)
        words = f"{table.name} has the variables of none of the tables {known}."
        raise ModelError(words, "Bring in one of them.")
    return fitting


def by_block(model: SavedBlocks, tables: Sequence[Table], resample: bool = False) -> dict[str, Table]:
    """Tables by the block that they are of.

    Raises
    ------
    ModelError
        One is of none, or two are of the same.
    """
    named: dict[str, Table] = {}
    for table in tables:
        for name in blocks_of(model, table, resample):
            if name in named:
                raise ModelError(f"Two files are of the table {name}.", "Give one file for each table.")
            named[name] = table
    return named


def _z_of(
    block: SavedBlock, table: Table, model: SavedBlocks, resample: bool
) -> tuple[dict[str, Floats], dict[str, str]]:
    """Sample → row of Z; and what cannot be treated."""
    matched, _ = on_axis_of(block.axis, table, resample)
    column = model.match if any(one.name == model.match for one in table.classes) else ""
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
    order = np.array([row for own in rows.values() for row in own], dtype=np.intp)
    samples = one_of_each(values[order], [len(own) for own in rows.values()], model.repeats)
    found = dict(zip(rows, samples, strict=True))
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
