"""What the model shows of its samples, in one sentence: how much, whether classes, who is far."""

from __future__ import annotations

import numpy as np

from scutcher.charts.page_findings.chance import more_than_due
from scutcher.charts.words import Pieces
from scutcher.core.arrays import Floats, Integers
from scutcher.core.distances.limits import Limit
from scutcher.core.groups.class_separation import neighbour_hits, no_information_rate
from scutcher.core.models.pca.component_model import explained
from scutcher.core.validation.segments import group_codes
from scutcher.core.words import counted, first_of, shown
from scutcher.study.evaluation.evaluation import Evaluation

MOST_PAIRED = 800
"""Samples up to which it is looked who is whose neighbour: of more it takes longer than a frame."""

MOST_NAMED = 3

FAR = 3.0
"""Limits from which a sample is named, however few such samples there are."""


def finding(found: Evaluation, codes: Integers, pair: tuple[int, int]) -> Pieces:
    """How much the two components hold, whether classes lie apart, and who is past the limits.

    Parameters
    ----------
    codes : (n,) int array
        The class of each sample in the model, negative for none.
    """
    pieces = [(_shares(found, pair), ()), *_classes(found, codes), *_far(found)]
    return [*pieces, (".", ())]


def _shares(found: Evaluation, pair: tuple[int, int]) -> str:
    shares, last = explained(found.decomposition), found.model.k - 1
    chosen = sorted({min(pair[0], last), min(pair[1], last)})
    held = 100.0 * float(shares[chosen].sum())
    if len(chosen) == 1:
        return f"Component {chosen[0] + 1} holds {shown(held, '.3g')} % of the variance"
    return f"Components {chosen[0] + 1} and {chosen[1] + 1} hold {shown(held, '.3g')} % of the variance"


def _classes(found: Evaluation, codes: Integers) -> list[tuple[str, tuple[int, ...]]]:
    """The share next to one of their class, against what guessing reaches."""
    if len(codes) > MOST_PAIRED:
        return []
    groups = group_codes(found.treated)
    hits = neighbour_hits(found.model.scores, codes, groups)
    if hits is None:
        return []
    known = np.isfinite(hits)
    rate, chance = float(hits[known].mean()), no_information_rate(codes)
    lots, guessed = len(np.unique(groups[known])), f"{_percent(chance)} by guessing"
    if not more_than_due(round(rate * lots), lots, chance):
        return [(f"; classes do not lie apart ({_percent(rate)} next to their own, {guessed})", ())]
    strangers = tuple(found.usable.rows[known & (hits == 0.0)].tolist())
    words = f"; {_percent(rate)} of the samples lie next to one of their class ({guessed})"
    if not strangers:
        return [(words, ())]
    return [(f"{words}, ", ()), (f"{counted(strangers)} do not", strangers)]


def _percent(share: float) -> str:
    return f"{100.0 * share:.0f} %"


def _far(found: Evaluation) -> list[tuple[str, tuple[int, ...]]]:
    """Samples past the limits of T² and Q, and whether they are more than such limits let through."""
    model, rows = found.model, found.usable.rows
    told: list[tuple[str, tuple[int, ...]]] = []
    for name, values, limit in (("Q", model.q, model.q_limit), ("T²", model.t2, model.t2_limit)):
        past = model.past(values, limit)
        if past is None:
            continue
        count, due = int(past.sum()), (1.0 - limit.level) * len(rows)
        if more_than_due(count, len(rows), 1.0 - limit.level):
            told += [("; ", ()), (f"{counted(count)} past the {name} limit", tuple(rows[past].tolist()))]
            told.append((f" where {counted(round(due))} are due", ()))
        told += _farthest(found, name, values, limit)
    return told or [("; no more samples are past the limits than are due", ())]


def _farthest(
    found: Evaluation, name: str, values: Floats, limit: Limit
) -> list[tuple[str, tuple[int, ...]]]:
    """Who is farthest, where that is three times the limit or more."""
    far = np.flatnonzero(values > FAR * (limit.value or np.inf))
    if not len(far):
        return []
    order = far[np.argsort(-values[far])]
    rows = found.usable.rows[order].tolist()
    told = first_of([found.table.ids[row] for row in rows[: MOST_NAMED + 1]], MOST_NAMED)
    verb = "lies" if len(rows) == 1 else "lie"
    return [
        ("; ", ()),
        (told, tuple(rows)),
        (f" {verb} more than {FAR:.0f} × as far as the {name} limit", ()),
    ]
