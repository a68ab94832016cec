"""What an instrument has written since a folder is watched: a control strip, rows, a sentence."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from scutcher.charts.description import Chart, Flags, Marks, Rule, as_keys, nothing
from scutcher.charts.overlays import NEW, NEW_CODE
from scutcher.charts.words import Pieces, significant
from scutcher.core.words import count_of, counted, first_of
from scutcher.study.watching import Seen

KINDS = {"joint": "joint", "t2": "T²", "q": "Q"}
HEADER = ["file", "sample", "T²", "Q", "joint", "belongs", "why, and where"]
MOST_ROWS = 200
"""Samples that are listed, the newest first."""

WAITS = "Files that are whole appear here: one that is still written is left until it stays as it is."


def control_strip(seen: Sequence[Seen], limits: Mapping[str, float | None], kind: str) -> Chart:
    """A distance of every sample in the order of reading, as multiples of its limit."""
    limit = limits.get(kind)
    values = [getattr(one, kind) for one in seen]
    kept = [place for place, value in enumerate(values) if value is not None]
    name = KINDS[kind]
    if not kept or not limit:
        return nothing(
            f"{name} in order", WAITS if limit or not kept else f"The model has no limit of {name}."
        )
    places = np.array(kept, dtype=np.intp)
    y = np.array([values[place] for place in kept]) / limit
    x = places.astype(np.float64) + 1.0
    names = tuple(seen[place].sample for place in kept)
    past = np.array([seen[place].belongs == "no" for place in kept])
    return Chart(
        title=f"{name} in order",
        note="1 = limit for new samples; ringed: it does not belong",
        x_title="sample, in order of reading",
        y_title=f"{name} / limit",
        marks=Marks(x, y, as_keys(NEW + places), np.full(len(x), NEW_CODE), names),
        flags=(Flags(x[past], y[past], "ring", alarm=True),) if past.any() else (),
        rules=(Rule(1.0, alarm=True),),
    )


def watched_rows(seen: Sequence[Seen]) -> list[list[str | float]]:
    """The newest first."""
    rows: list[list[str | float]] = []
    for one in list(seen)[: -MOST_ROWS - 1 : -1]:
        where = ", ".join(one.channels) if one.belongs == "no" else ""
        why = "; ".join(part for part in (one.why, where) if part)
        figures = ["" if value is None else significant(value) for value in (one.t2, one.q, one.joint)]
        rows.append([one.file, one.sample, *figures, one.belongs, why])
    return rows


def watched_finding(seen: Sequence[Seen]) -> Pieces:
    """How many have come, and which of them do not belong."""
    read = [one for one in seen if one.belongs]
    alien = [one.sample for one in read if one.belongs == "no"]
    unread = sum(not one.belongs for one in seen)
    words = f"{count_of(len(read), 'sample')} so far"
    if alien:
        words += f"; {counted(alien)} not of this model: {first_of(alien[::-1], 4)}"
    elif read:
        words += "; all belong"
    if unread:
        words += f"; {unread} could not be read"
    return [(f"{words}.", ())]
