"""The decisions of a study on the same or other data, and what comes out otherwise."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of, first_of
from scutcher.files.results import defined
from scutcher.study.document.parts import SampleUse, Source
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import Checked, validated
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.results.fit_results import summary
from scutcher.study.storage.links import read_source

SAME = 1e-9
"""Relative difference up to which two figures are the same."""

NOT_COMPARED = {"seconds_fit", "reading", "warnings", "scutcher"}
FEW = 4  # values of a list that are told one by one


@frozen
class Replay:
    """What differs, as lines "name: then → now", and what the decisions could not be applied to.

    Attributes
    ----------
    same : int
        Figures that are the same.
    differences : tuple of str
    flags : tuple of str
        Samples that are past a limit in one and not in the other.
    notes : tuple of str
    """

    same: int
    differences: tuple[str, ...]
    flags: tuple[str, ...]
    notes: tuple[str, ...]


def replayed(state: State, paths: tuple[Path, ...]) -> Replay:
    """Read other files as those of the study were read, decide as in the study, and compare.

    Raises
    ------
    InputError
        The files cannot be read so, or the recipe cannot be used on them.
    """
    model, data = state.model, state.dataset
    assert model is not None and data is not None
    table = read_source(_source_of(data.source, paths))
    use, notes = _moved(model.use, data.table, table)
    then = _fitted(model.use.of(data.table), state)
    now = _fitted(use.of(table), state)
    pairs = list(_compared(_plain(then), _plain(now)))
    differences = tuple(line for line in pairs if line)
    return Replay(len(pairs) - len(differences), differences, tuple(_flags(then[0], now[0])), notes)


def _source_of(source: Source, paths: tuple[Path, ...]) -> Source:
    return replace(source, paths=tuple(str(path.absolute()) for path in paths), contents=())


def _fitted(table: Table, state: State) -> tuple[Evaluation, Checked]:
    found = Evaluator(keeps=False).evaluate(table, state.recipe)
    return found, validated(found)


def _moved(use: SampleUse, old: Table, new: Table) -> tuple[SampleUse, tuple[str, ...]]:
    """What was set aside, watched and left out, found again by the names of samples and variables."""
    rows = {name: row for row, name in enumerate(new.ids)}
    if len(rows) < len(new.ids):
        raise TableError("Some samples of these files have the same name.", "Give each its own name.")
    columns = {label: column for column, label in enumerate(new.axis.labels)}
    aside = {old.ids[row]: why for row, why in use.set_aside.items()}
    watched = [old.ids[row] for row in use.watched]
    left = {old.axis.labels[column]: why for column, why in use.left_out.items()}
    lost = [name for name in (*aside, *watched) if name not in rows]
    gone = [label for label in left if label not in columns]
    moved = SampleUse(
        {rows[name]: why for name, why in aside.items() if name in rows},
        tuple(sorted(rows[name] for name in watched if name in rows)),
        {columns[label]: why for label, why in left.items() if label in columns},
    )
    notes = []
    if lost:
        notes.append(
            f"{count_of(len(lost))} set aside or watched then are not in these files: {first_of(lost)}."
        )
    if gone:
        what = count_of(len(gone), "variable")
        notes.append(f"{what} left out then are not in these files: {first_of(gone)}.")
    return moved, tuple(notes)


def _plain(fitted: tuple[Evaluation, Checked]) -> dict[str, Any]:
    plain: dict[str, Any] = defined(summary(*fitted, 0.0))
    return {key: value for key, value in plain.items() if key not in NOT_COMPARED}


def _compared(then: Any, now: Any, name: str = "") -> Iterator[str]:
    """A line for each figure: empty where it is the same."""
    if isinstance(then, dict) and isinstance(now, dict):
        for key in dict.fromkeys((*then, *now)):
            yield from _compared(then.get(key), now.get(key), f"{name}.{key}" if name else key)
    elif isinstance(then, list) and isinstance(now, list) and len(then) == len(now):
        shown = 0
        for place, (one, other) in enumerate(zip(then, now, strict=True)):
            for line in _compared(one, other, f"{name}[{place + 1}]"):
                shown += bool(line)
                if not line or shown <= FEW:
                    yield line
        if shown > FEW:
            yield f"{name}: {shown - FEW} more"
    elif _same(then, now):
        yield ""
    else:
        yield f"{name}: {_word(then)} → {_word(now)}"


def _same(one: Any, other: Any) -> bool:
    numbers = (int, float)
    if isinstance(one, numbers) and isinstance(other, numbers):
        return bool(np.isclose(one, other, rtol=SAME, atol=1e-12))
    return bool(one == other)


def _word(value: Any) -> str:
    if isinstance(value, list):
        return f"{count_of(len(value), 'value')}"
    return "none" if value is None else f"{value:.6g}" if isinstance(value, float) else str(value)


def _flags(then: Evaluation, now: Evaluation) -> Iterator[str]:
    """A line for each sample of both that is past a limit in one only."""
    before, after = _past(then), _past(now)
    for name in before:
        if name in after and before[name] != after[name]:
            yield f"{name}: past {_list(before[name])} → past {_list(after[name])}"


def _past(found: Evaluation) -> dict[str, tuple[str, ...]]:
    model, kinds = found.model, ("T²", "Q", "joint")
    past = (
        model.past(model.t2, model.t2_limit),
        model.past(model.q, model.q_limit),
        model.past(model.joint, model.joint_limit),
    )
    return {
        name: tuple(kind for kind, flags in zip(kinds, past, strict=True) if flags is not None and flags[row])
        for row, name in enumerate(found.treated.ids)
    }


def _list(kinds: tuple[str, ...]) -> str:
    return ", ".join(kinds) if kinds else "nothing"
