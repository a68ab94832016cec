"""Samples that took no part in the tables' model: where they lie, and what missing tables would say."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Lines, Marks, Rule, as_keys, nothing
from scutcher.charts.overlays import NEW, NEW_CODE
from scutcher.charts.words import significant
from scutcher.core.arrays import Floats
from scutcher.core.blocks.checking import SteadyBlocks
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.later import Later
from scutcher.core.blocks.prediction import in_units
from scutcher.core.blocks.projection import ApartNew
from scutcher.core.words import shown

TOLD = 3
"""Variables of a missing table that are told, the best predicted ones."""

HEADER = ["sample", "t", "on the model", "what the missing tables would say"]


def later_marks(fitted: FittedBlocks, later: Later, pair: tuple[int, int]) -> Marks | None:
    """Hollow marks on the plane, in SD; keys from `NEW` on, by the order of the samples."""
    labels = [fitted.label(fitted.model.components[place]) for place in pair]
    columns = [later.new.labels.index(label) for label in labels if label in later.new.labels]
    if len(columns) < 2:
        return None
    scale = float(np.sqrt(fitted.model.n - 1.0))
    x, y = (scale * later.new.scores[:, column] for column in columns)
    kept = np.flatnonzero(np.isfinite(x) & np.isfinite(y))
    if not len(kept):
        return None
    codes = np.full(len(kept), NEW_CODE, dtype=np.intp)
    names = tuple(later.new.ids[row] for row in kept.tolist())
    return Marks(x[kept], y[kept], as_keys(NEW + kept), codes, names)


def later_rows(fitted: FittedBlocks, later: Later, steady: SteadyBlocks | None) -> list[list[str | float]]:
    """Sample, how far its tables disagree, where it belongs, and what it was not measured in."""
    rows: list[list[str | float]] = []
    worst = _worst(later)
    for place in later_order(later):
        sample = later.new.ids[place]
        apart = worst.get(sample)
        t = "" if apart is None else shown(abs(apart.t), ".1f")
        rows.append([sample, t, _verdict(later, place, apart), _foretold(fitted, later, steady, sample)])
    rows += [[sample, "", f"refused: {why}", ""] for sample, why in sorted(later.new.refused.items())]
    return rows


def later_order(later: Later) -> list[int]:
    """Those on which the tables disagree first, the farthest of them before the others."""
    worst = _worst(later)

    def key(place: int) -> tuple[bool, float]:
        apart = worst.get(later.new.ids[place])
        past = apart is not None and apart.past
        return not past, -abs(apart.t) if apart is not None and past else 0.0

    return sorted(range(len(later.new.ids)), key=key)


def _worst(later: Later) -> dict[str, ApartNew]:
    """Of each sample the pair of its tables that disagrees most; they come with the farthest first."""
    found: dict[str, ApartNew] = {}
    for one in later.new.apart:
        found.setdefault(one.sample, one)
    return found


def _verdict(later: Later, place: int, worst: ApartNew | None) -> str:
    if worst is not None and worst.past:
        return f"{worst.pair[0]} and {worst.pair[1]} disagree ({worst.component})"
    there = int(later.new.measured[place].sum())
    if there < 2:
        return "measured in one table: nothing to disagree"
    return "its tables agree"


def _foretold(fitted: FittedBlocks, later: Later, steady: SteadyBlocks | None, sample: str) -> str:
    """`bench: moisture 8.1 ± 0.4 %, …`; only what can be predicted better than by the mean."""
    said = []
    for b, name in enumerate(fitted.names):
        row = later.expected_of(sample, b)
        if row is None:
            continue
        told = None if steady is None or not steady.foretold else steady.foretold[b]
        if told is None:
            said.append(f"{name}: predicted")
        elif not told.share > 0.0:
            said.append(f"{name}: cannot be predicted from the others")
        elif fitted.treated[b].table.axis.ordered:
            said.append(f"{name}: {100 * told.share:.0f} % of its spread")
        else:
            axis = fitted.treated[b].table.axis
            best = np.argsort(-np.nan_to_num(told.of_variable, nan=-np.inf))[:TOLD].tolist()
            values = [_value(axis.name(v), row[v], told.error[v]) for v in best if told.of_variable[v] > 0.0]
            said.append(f"{name}: {', '.join(values)}")
    return "; ".join(said)


def _value(name: str, value: float, error: float) -> str:
    """`moisture 8.1 ± 0.4 %`."""
    word, _, unit = name.partition(" / ")
    return f"{word} {significant(value)} ± {significant(error)} {unit}".strip()


def later_strip(fitted: FittedBlocks, later: Later, b: int, sample: str) -> Chart:
    """One table of such a sample: as measured, or as the others predict it, beside the mean."""
    treated, name = fitted.treated[b], fitted.names[b]
    axis, scaler = treated.table.axis, treated.scaler
    guess = later.expected_of(sample, b)
    row = guess if guess is not None else _measured(fitted, later, b, sample)
    if row is None:
        return nothing(name, f"The other tables say nothing of {name} for {sample}.")
    note = f"{sample}: {'predicted from the others' if guess is not None else 'measured'}"
    shown = row if axis.ordered else (row - scaler.centre) * scaler.weight
    mean = Curve(axis.places(), scaler.centre, "quiet", dashes=True, name="mean")
    return Chart(
        title=name,
        note=note,
        x_title=axis.title,
        y_title=treated.table.signal or "value" if axis.ordered else "from the mean",
        lines=Lines(
            axis.places(), shown[np.newaxis], as_keys([0]), as_keys([0]), (sample,), role="component"
        ),
        curves=(mean,) if axis.ordered else (),
        rules=() if axis.ordered else (Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


def _measured(fitted: FittedBlocks, later: Later, b: int, sample: str) -> Floats | None:
    if b not in later.new.z or sample not in later.new.ids:
        return None
    z = later.new.z[b][later.new.ids.index(sample)]
    return in_units(fitted, b, z[np.newaxis])[0] if np.isfinite(z).all() else None
