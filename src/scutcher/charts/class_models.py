"""One model per class on screen: who is accepted by which, and what tells two models apart."""

from __future__ import annotations

import numpy as np

from scutcher.charts.class_table import Cell, ClassSquare
from scutcher.charts.description import Chart, Lines, Marks, Rule, nothing
from scutcher.core.arrays import Floats, Integers
from scutcher.core.errors import InputError
from scutcher.core.groups.acceptance import Acceptance
from scutcher.core.words import count_of, counted
from scutcher.study.evaluation.class_models import ClassModels

SMALL = 1e-3  # of the limit: nearer samples are drawn there

WHO = ["sample", "labelled", "belongs to", "nearest", "× limit"]


def accepted_square(found: ClassModels, shares: bool = False) -> ClassSquare:
    """Rows: samples as labelled; columns: the models that accept them; and where they belong."""
    counts, sizes = found.acceptance.numbers()
    codes = np.array([model.code for model in found.models], dtype=np.intp)
    cells, bars = [], []
    for row, size in enumerate(sizes.tolist()):
        line = []
        for column, count in enumerate(counts[row].tolist()):
            share = count / size if size else 0.0
            own = row == column
            figure = f"{100.0 * share:.0f} %" if shares else f"{count} of {size}" if own else f"{count}"
            line.append(Cell(figure, "own" if own else "accepted", share, "own" if own else "mixed"))
        cells.append(tuple(line))
        bars.append(_verdicts(found, row))
    words = tuple(
        f"{size} · {count_of(model.k, 'component')}" for size, model in zip(sizes, found.models, strict=True)
    )
    return ClassSquare(
        codes, found.names, words, tuple(cells), None, "own, other, several, none", tuple(bars)
    )


def _verdicts(found: ClassModels, place: int) -> tuple[int, int, int, int]:
    acceptance = found.acceptance
    mine = (acceptance.codes == place) & acceptance.known
    counts, inside = acceptance.counts, acceptance.inside
    own = mine & (counts == 1) & inside[:, place]
    another = mine & (counts == 1) & ~inside[:, place]
    return (
        int(own.sum()),
        int(another.sum()),
        int((mine & (counts > 1)).sum()),
        int((mine & (counts == 0)).sum()),
    )


def two_models(found: ClassModels, one: int, two: int, rows: Integers) -> Chart:
    """Every sample's distance to two models, each over its limit, on logarithmic axes.

    Parameters
    ----------
    one, two : places of the models
    rows : rows of the study's table that the samples are
    """
    ratios = found.acceptance.ratios[:, [one, two]]
    there = np.flatnonzero(np.isfinite(ratios).all(axis=1))
    x, y = np.log10(np.maximum(ratios[there], SMALL)).T
    names = tuple(found.table.ids[row] for row in there.tolist())
    return Chart(
        title="Distance to two models",
        note="own samples held out; within 0: accepted",
        x_title=f"log₁₀ distance to {found.names[one]} / limit",
        y_title=f"log₁₀ distance to {found.names[two]} / limit",
        marks=Marks(x, y, rows[there], found.column.codes()[there], names),
        rules=(Rule(0.0, alarm=True), Rule(0.0, vertical=True, alarm=True)),
    )


TELL_APART = "Where the two models tell apart"

Line = tuple[int, tuple[str, str, str, str, float]]
"""A row, and what stands in its line: the columns of WHO."""


def who_belongs(found: ClassModels, kind: str = "all") -> list[Line]:
    """A line for each sample, with its row: all, or those of "none", "several" or "another" class."""
    acceptance = found.acceptance
    counts, nearest = acceptance.counts, acceptance.nearest
    every = np.arange(len(counts))
    is_kind = {
        "all": acceptance.known,
        "none": counts == 0,
        "several": counts > 1,
        "another": (counts == 1) & (acceptance.codes >= 0) & ~acceptance.inside[every, acceptance.codes],
    }
    rows = np.flatnonzero(acceptance.known & is_kind[kind])
    near = nearest[rows]
    ratios = acceptance.ratios[rows, near]
    places = where(found.names, acceptance, rows)
    lines = [
        (row, (found.table.ids[row], found.column.values[row], place, found.names[other], ratio))
        for row, place, other, ratio in zip(
            rows.tolist(), places, near.tolist(), ratios.tolist(), strict=True
        )
    ]
    return sorted(lines, key=lambda line: -line[1][4]) if kind == "none" else lines


def where(names: tuple[str, ...], acceptance: Acceptance, rows: Integers) -> list[str]:
    """The class to which each of some samples belongs, how many, or none."""
    inside = acceptance.inside[rows]
    counts, first = inside.sum(axis=1).tolist(), inside.argmax(axis=1).tolist()
    return [
        f"{count} classes" if count > 1 else names[one] if count else "none"
        for count, one in zip(counts, first, strict=True)
    ]


def powers_chart(found: ClassModels, one: int, two: int, kind: str) -> Chart:
    """What tells two models apart at each variable, or how much each says of it.

    Parameters
    ----------
    kind : "discriminating" or "modelling"
    """
    try:
        first, second, power = found.powers(one, two)
    except InputError as error:
        return nothing(TELL_APART, str(error))
    axis = found.models[one].found.treated.axis
    names: tuple[str, ...]
    if kind == "discriminating":
        ys, names, note = (
            power[np.newaxis, :],
            ("discriminating power",),
            "RMS residual of the other over its own; 1: no help",
        )
        codes = np.array([0])
    else:
        ys, names, note = (
            np.array([first, second]),
            (found.names[one], found.names[two]),
            "1 − s(e)/s(z); 0: says nothing",
        )
        codes = np.array([found.models[one].code, found.models[two].code])
    return Chart(
        title=TELL_APART if kind == "discriminating" else "What each model says of a variable",
        note=note,
        x_title=axis.title,
        y_title=f"{kind} power",
        lines=_power_lines(axis.places(), ys, names, codes, kind),
        rules=(Rule(1.0 if kind == "discriminating" else 0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


def _power_lines(x: Floats, ys: Floats, names: tuple[str, ...], codes: Integers, kind: str) -> Lines:
    keys = -1 - np.arange(len(names))
    return Lines(x, ys, keys, codes, names, role="component" if kind == "discriminating" else "class")


def models_finding(found: ClassModels, rows: Integers) -> list[tuple[str, tuple[int, ...]]]:
    """The sentence at the top, in pieces with the rows of the study's table that they stand for."""
    acceptance = found.acceptance
    counts, known = acceptance.counts, acceptance.known
    one, several, none, other = acceptance.verdicts()

    def of(chosen: np.ndarray) -> tuple[int, ...]:
        return tuple(rows[np.flatnonzero(chosen)].tolist())

    wrong = known & (counts == 1) & (acceptance.codes >= 0)
    wrong &= acceptance.inside.argmax(axis=1) != acceptance.codes
    pieces: list[tuple[str, tuple[int, ...]]] = [
        (f"{count_of(one)} {'belongs' if one == 1 else 'belong'} to one class", of(known & (counts == 1))),
        (", ", ()),
        (f"{counted(several)} to several", of(known & (counts > 1))),
        (", ", ()),
        (f"{counted(none)} to none", of(known & (counts == 0))),
    ]
    if one > 1:
        pieces.append((f"; {counted(other)} of the {counted(one)} to another class than labelled", of(wrong)))
    elif other:
        pieces.append(("; that one to another class than labelled", of(wrong)))
    return pieces


def left_out_words(found: ClassModels) -> str:
    """Classes without a model, and samples that have no distance to some model."""
    words = list(found.too_few.values())
    if found.left_out:
        names = ", ".join(found.table.ids[row] for row in sorted(found.left_out)[:3])
        reason = next(iter(found.left_out.values()))
        words.append(f"{count_of(len(found.left_out))} left out ({names}): {reason}")
    wide = [place for place in range(len(found.models)) if _is_widened(found, place)]
    limits = [f"{found.names[place]} (most by {_farthest(found, place)})" for place in wide]
    if len(limits) == 1:
        words.append(f"few far samples widen the limit of {limits[0]}")
    elif limits:
        words.append(f"few far samples widen the limits of {', '.join(limits[:-1])} and {limits[-1]}")
    return "; ".join(words)


def _is_widened(found: ClassModels, place: int) -> bool:
    """Whether a limit rests on few far samples: its distances have less than one degree of freedom."""
    held = found.models[place].saved.held_out
    return held is not None and held.scale is not None and min(held.scale.nh, held.scale.nq) < 1.0


def _farthest(found: ClassModels, place: int) -> str:
    """Of the samples of a class the one that is farthest from its model."""
    own = np.where(found.acceptance.codes == place, found.acceptance.ratios[:, place], -np.inf)
    return found.table.ids[int(np.nanargmax(own))]
