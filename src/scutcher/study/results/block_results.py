"""Several tables as files: what `scutcher blocks` leaves in its folder."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.core.blocks.checking import CheckedBlocks, SteadyBlocks
from scutcher.core.blocks.component import KINDS, kind_of
from scutcher.core.blocks.disagreement import Apart, why
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.later import Later
from scutcher.core.blocks.prediction import Expected
from scutcher.core.blocks.projection import NewOnBlocks
from scutcher.core.blocks.saved_blocks import SavedBlocks, saved_blocks
from scutcher.core.words import plain_numbers
from scutcher.files.blocks_json import write_blocks_model
from scutcher.files.csv_text import csv_text
from scutcher.files.results import digits, write_json
from scutcher.files.safely import make_folder, write_text

TOP = 3
"""Variables that are named for a sample on which blocks disagree."""


@plain_numbers()
def write_blocks(
    folder: Path,
    fitted: FittedBlocks,
    checked: CheckedBlocks,
    steady: SteadyBlocks,
    incomplete: Later | None = None,
) -> list[Path]:
    """Shares, consensus, block scores, loadings, agreement, outside columns and figures.

    Of samples that some tables lack their place on the components and what the missing tables would say.
    """
    make_folder(folder)
    texts = {
        "shares.csv": _shares(fitted),
        "consensus.csv": _consensus(fitted),
        "block-scores.csv": _block_scores(fitted),
        "agreement.csv": _agreement(fitted, checked, steady),
        "outside.csv": _outside(fitted, checked),
    }
    for b, name in enumerate(fitted.names):
        texts[f"loadings-{_safe(name)}.csv"] = _loadings(fitted, b)
    if incomplete is not None:
        texts["incomplete.csv"] = _consensus_of_new(fitted.names, incomplete.new)
        texts |= {
            f"predicted-{_safe(fitted.names[one.block])}.csv": _predicted(fitted, one)
            for one in incomplete.expected
        }
    for name, text in texts.items():
        write_text(folder / name, text)
    write_json(folder / "summary.json", summary_of(fitted, checked, steady))
    write_blocks_model(folder / "model.json", saved_blocks(fitted))
    return [folder / name for name in (*texts, "summary.json", "model.json")]


@plain_numbers()
def write_new_on_blocks(folder: Path, model: SavedBlocks, found: NewOnBlocks) -> list[Path]:
    """Consensus and block scores of new samples, where their tables disagree, and figures."""
    make_folder(folder)
    block_scores = [
        [name, block, label, digits(float(values[row]))]
        for (label, block), values in found.block_scores.items()
        for row, name in enumerate(found.ids)
        if np.isfinite(values[row])
    ]
    apart = [
        [one.sample, one.component, *one.pair, digits(one.t), "yes" if one.past else "no"]
        for one in found.apart
    ]
    texts = {
        "consensus.csv": _consensus_of_new(model.names, found),
        "block-scores.csv": csv_text(["sample", "block", "component", "score"], block_scores),
        "disagree.csv": csv_text(["sample", "component", "block", "other block", "t", "past"], apart),
    }
    for name, text in texts.items():
        write_text(folder / name, text)
    plain = {
        "scutcher": __version__,
        "samples": len(found.ids),
        "model": {"samples": model.samples, "blocks": list(model.names)},
        "limit": found.limit,
        "disagree": sorted({one.sample for one in found.apart if one.past}),
        "refused": found.refused,
    }
    write_json(folder / "summary.json", plain)
    return [folder / name for name in (*texts, "summary.json")]


def _consensus_of_new(names: Sequence[str], found: NewOnBlocks) -> str:
    rows = (
        [
            name,
            ";".join(block for block, seen in zip(names, there, strict=True) if seen),
            *map(digits, row),
        ]
        for name, there, row in zip(found.ids, found.measured.tolist(), found.scores.tolist(), strict=True)
    )
    return csv_text(["sample", "measured in", *found.labels], rows)


def _predicted(fitted: FittedBlocks, one: Expected) -> str:
    labels = fitted.treated[one.block].table.axis.labels
    rows = ([name, *map(digits, row)] for name, row in zip(one.samples, one.values.tolist(), strict=True))
    return csv_text(["sample", *labels], rows)


def _safe(name: str) -> str:
    """A name that can be part of a file's."""
    return "".join(letter if letter.isalnum() or letter in "-_.() " else "_" for letter in name)[:80]


def _shares(fitted: FittedBlocks) -> str:
    """A row for each block and component, and one for what is left over."""
    rows = []
    for b, name in enumerate(fitted.names):
        own = fitted.model.of_block(b)
        for one in own:
            kind = kind_of(one, len(fitted.names))
            rows.append([name, fitted.label(one), kind, digits(one.shares[b])])
        left = 1.0 - sum(one.shares[b] for one in own)
        rows.append([name, "left over", "left over", digits(left)])
    return csv_text(["block", "component", "kind", "share"], rows)


def _consensus(fitted: FittedBlocks) -> str:
    components = fitted.model.components
    scale = np.sqrt(fitted.model.n - 1.0)
    values = scale * np.column_stack([one.consensus for one in components])
    header = ["sample", *(fitted.label(one) for one in components)]
    rows = ([name, *map(digits, row)] for name, row in zip(fitted.matched.ids, values.tolist(), strict=True))
    return csv_text(header, rows)


def _block_scores(fitted: FittedBlocks) -> str:
    scale = np.sqrt(fitted.model.n - 1.0)
    header, columns = ["sample"], []
    for one in fitted.model.components:
        for b in one.blocks:
            header.append(f"{fitted.label(one)}: {fitted.names[b]}")
            columns.append(scale * one.scores[b])
    values = np.column_stack(columns)
    rows = ([name, *map(digits, row)] for name, row in zip(fitted.matched.ids, values.tolist(), strict=True))
    return csv_text(header, rows)


def _loadings(fitted: FittedBlocks, b: int) -> str:
    own = fitted.model.of_block(b)
    z = fitted.model.blocks[b].z
    squares = np.einsum("ij,ij->j", z, z)
    header, columns = ["variable"], []
    for one in own:
        header += [fitted.label(one), f"share: {fitted.label(one)}"]
        loading = one.loadings[b]
        share = np.divide(loading**2, squares, out=np.zeros_like(loading), where=squares > 0.0)
        columns += [loading, share]
    labels = fitted.treated[b].table.axis.labels
    values = np.column_stack(columns).tolist()
    return csv_text(header, ([label, *map(digits, row)] for label, row in zip(labels, values, strict=True)))


def _agreement(fitted: FittedBlocks, checked: CheckedBlocks, steady: SteadyBlocks) -> str:
    header = ["component", "blocks", "agreement", "held_out", "found_in", "segments", "alike", "p_value"]
    header += ["back_in", "draws", "back_alike"]
    rows = []
    for one in fitted.model.components:
        if len(one.blocks) < 2:
            continue
        out, chance = checked.held_of(one), checked.p_of(one)
        names = " & ".join(fitted.names[b] for b in one.blocks)
        row = [fitted.label(one), names, digits(min(one.agreement, 1.0))]
        if out is None:
            row += ["", "", "", ""]
        else:
            row += [digits(out.agreement), str(out.segments), str(out.of), digits(out.alike)]
        again = steady.of(one)
        back = ["", "", ""] if again is None else [str(again.found), str(again.draws), digits(again.alike)]
        rows.append([*row, digits(chance), *back])
    return csv_text(header, rows)


def _outside(fitted: FittedBlocks, checked: CheckedBlocks) -> str:
    header = ["column", "component", "kind", "value", "p", "p_holm", "samples"]
    rows = (
        [
            one.column,
            fitted.label(fitted.model.components[one.component]),
            one.kind,
            digits(one.value),
            digits(one.p),
            digits(one.holm),
            str(one.known),
        ]
        for one in checked.outside
    )
    return csv_text(header, rows)


def summary_of(fitted: FittedBlocks, checked: CheckedBlocks, steady: SteadyBlocks) -> dict[str, Any]:
    """The figures of a model of blocks."""
    model, names = fitted.model, fitted.names
    counts = {
        "common": sum(len(one.blocks) == len(names) for one in model.components),
        "shared": sum(1 < len(one.blocks) < len(names) for one in model.components),
        "own": {name: sum(one.blocks == (b,) for one in model.components) for b, name in enumerate(names)},
    }
    return {
        "scutcher": __version__,
        "blocks": [
            {
                "name": name,
                "variables": block.z.shape[1],
                "components": block.r,
                "treatments": [step.method for step in source.steps],
                "scale": source.scaling.method,
                "share": sum(one.shares[b] for one in model.of_block(b)),
                "share_held_out": checked.shares[b],
                "share_held_out_by_kind": dict(zip(KINDS, steady.foretold[b].explained.tolist(), strict=True))
                if steady.foretold
                else None,
                "predicted_from_others": steady.foretold[b].share if steady.foretold else None,
                "reliability": block.reliability,
            }
            for b, (name, block, source) in enumerate(
                zip(names, model.blocks, fitted.matched.sources, strict=True)
            )
        ],
        "samples": model.n,
        "matched_by": fitted.settings.match or "id",
        "repeats": fitted.settings.repeats,
        "in_some_only": {name: list(where) for name, where in fitted.matched.only.items()},
        "components": counts,
        "decided": [{"blocks": list(chosen), "components": k} for chosen, k in fitted.settings.counts],
        "sets": [
            {
                "blocks": [names[b] for b in chosen],
                "components": len(model.of(chosen)),
                "squared_singular_values": model.spreads[chosen],
                "agreement": [one.agreement for one in model.of(chosen)],
            }
            for chosen in model.sets
        ],
        "level": model.level,
        "floor": model.floor,
        "series": fitted.settings.series,
        "disagree": [_apart(fitted, one) for one in checked.apart],
        "warnings": fitted.warnings(),
    }


def _apart(fitted: FittedBlocks, one: Apart) -> dict[str, Any]:
    component = fitted.model.components[one.component]
    return {
        "sample": fitted.matched.ids[one.row],
        "component": fitted.label(component),
        "between": [fitted.names[b] for b in one.pair],
        "residual": one.residual,
        "named": None if one.block < 0 else fitted.names[one.block],
        "because_of": because_of(fitted, one.row, one.component, odd_block(one)),
    }


def odd_block(one: Apart) -> int:
    """The block that is named; else the second of the two that are farthest apart."""
    return one.block if one.block >= 0 else one.pair[1]


def because_of(fitted: FittedBlocks, row: int, place: int, b: int) -> list[str]:
    """The variables that place a sample elsewhere than the other blocks do, the strongest first."""
    found = why(fitted.model, fitted.model.components[place], b, row)
    toward = np.sign(found.away) or 1.0
    axis = fitted.treated[b].table.axis
    order = np.argsort(-found.shares * toward, kind="stable")
    return [axis.name(column) for column in axis.apart(order, 50, TOP)]
