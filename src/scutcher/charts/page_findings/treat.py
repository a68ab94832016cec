"""What a step did, in one sentence; a difference is called better only where it is more than chance."""

from __future__ import annotations

from collections.abc import Sequence

from scutcher.charts.page_findings.chance import told_apart
from scutcher.charts.words import Pieces, with_minus
from scutcher.core.words import Shown
from scutcher.study.evaluation.step_effects import Effect

RULES = {
    "separation": {
        "better": "it moves classes apart ({before:.2f} → {after:.2f} with a neighbour of their class)",
        "worse": "it brings classes together ({before:.2f} → {after:.2f} with a neighbour of their class)",
        "same": "classes stay as far apart, for all that {groups} groups can tell",
    },
    "replicates": {
        "better": "replicates lie closer ({before:.2f} → {after:.2f} of all spread)",
        "worse": "replicates lie further apart ({before:.2f} → {after:.2f} of all spread)",
        "same": "replicates lie as close",
    },
    "noise": {
        "better": "",
        "worse": "the share of noise grows ({before:.2f} → {after:.2f} of the variance)",
        "same": "",
    },
}
"""What is said of each figure, in this order."""

LITTLE = {"replicates": 0.1, "noise": 0.05}
"""Changes that are not worth a word: of the replicates' spread as a share of it, of the noise as it is."""


def finding(name: str, effects: Sequence[Effect], groups: int, waiting: bool) -> Pieces:
    """What the step of a name did.

    Parameters
    ----------
    groups : how many groups of replicates, or samples, the separation rests on
    waiting : whether Q² is still being computed
    """
    known = {effect.key: effect for effect in effects}
    parts = [words for key in RULES for words in _said(key, known.get(key), groups)]
    q2 = known.get("q2")
    if q2 is not None and q2.before is not None and q2.after is not None:
        before, after = Shown(q2.before), Shown(q2.after)
        parts.append(with_minus(f"Q² {before:.3f} without it, {after:.3f} with it"))
    elif waiting:
        parts.append("Q² is being computed")
    if not parts:
        parts = ["without classes, replicates or held-out figures nothing tells whether it helps"]
    return [(f"{name}: {'; '.join(parts)}.", ())]


def of_ends(is_data: bool, steps: int) -> Pieces:
    """Where no step is chosen."""
    if is_data:
        words = "The data as they were brought in" + ("." if steps else ": add a treatment, or try several.")
        return [(words, ())]
    return [("Centring and scaling come last: they decide which variables the model looks at.", ())]


def _said(key: str, effect: Effect | None, groups: int) -> list[str]:
    if effect is None or effect.before is None or effect.after is None:
        return []
    words = RULES[key][_verdict(effect, groups)]
    return (
        [words.format(before=Shown(effect.before), after=Shown(effect.after), groups=groups)] if words else []
    )


def _verdict(effect: Effect, groups: int) -> str:
    before, after = effect.before or 0.0, effect.after or 0.0
    if effect.key == "separation":
        differs = told_apart(before, after, groups)
    else:
        scale = before if effect.key == "replicates" else 1.0
        differs = abs(after - before) > LITTLE[effect.key] * scale
    if not differs:
        return "same"
    return "better" if (after - before) * effect.better > 0 else "worse"
