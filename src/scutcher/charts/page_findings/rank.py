"""How many components the evidence asks for, in one sentence; none of the lines decides alone."""

from __future__ import annotations

import numpy as np

from scutcher.charts.words import Pieces
from scutcher.core.validation.evidence import KEYS
from scutcher.core.words import count_of, shown
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation


def finding(found: Evaluation, checked: Checked | None) -> Pieces:
    """Where the lines lie, what is kept, and whether fewer predict as well."""
    k = found.model.k
    if checked is None:
        return [(f"{_kept(k)}; the evidence is being computed.", ())]
    told = [line.suggested for line in checked.lines.values() if line.suggested is not None]
    parts = [_lines(told, len(checked.lines) < len(KEYS)), _kept(k)]
    parts += _predicted(checked, k)
    return [(_sentence(parts), ())]


def _sentence(parts: list[str]) -> str:
    words = "; ".join(part for part in parts if part)
    return f"{words[:1].upper()}{words[1:]}."


def _kept(k: int) -> str:
    return f"{count_of(k, 'component')} {'is' if k == 1 else 'are'} kept"


def _lines(told: list[int], more: bool) -> str:
    """The middle half of what the lines suggest, and all of it."""
    if not told:
        return "no line of evidence says anything" + (" yet" if more else "")
    low, high = (int(np.quantile(told, q, method="nearest")) for q in (0.25, 0.75))
    so_far = " so far" if more else ""
    count = count_of(len(told), "line")
    verb = "suggests" if len(told) == 1 else "suggest"
    if min(told) == max(told):
        return f"{count} of evidence{so_far} {verb} {told[0]}"
    middle = f"{low}" if low == high else f"{low} to {high}"
    return f"{count} of evidence{so_far} {verb} {min(told)} to {max(told)}, the middle half {middle}"


def _predicted(checked: Checked, k: int) -> list[str]:
    """Q² of what is kept, against the best and against the fewest that do as well."""
    validation = checked.validation
    if validation is None or k > len(validation.q2) or not np.isfinite(validation.q2).any():
        return [] if validation is None else [f"Q² is not known for {k}"]
    q2, best = validation.q2, int(np.nanargmax(validation.q2))
    line = checked.lines.get("one-standard-error")
    fewest = None if line is None else line.suggested
    said = f"their Q² is {shown(q2[k - 1], '.3f')}" if k > 1 else f"its Q² is {shown(q2[0], '.3f')}"
    if fewest is not None and 0 < fewest < k and q2[k - 1] <= q2[best] + 1e-12:
        return [f"{said}, and {fewest} predict as well to within one standard error"]
    if fewest is not None and k < fewest:
        return [f"{said}; {count_of(fewest, 'component')} predict more ({shown(q2[fewest - 1], '.3f')})"]
    return [
        f"{said}, no further from the best ({best + 1}: {shown(q2[best], '.3f')}) than one standard error"
    ]
