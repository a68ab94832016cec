"""Figures of two models, who moved, and which components are partners, as rows."""

from __future__ import annotations

import numpy as np

from scutcher.charts.words import with_minus
from scutcher.core.validation.comparison import Partners
from scutcher.core.words import Shown, shown
from scutcher.study.evaluation.comparison import Comparison
from scutcher.study.evaluation.comparison_figures import Figure
from scutcher.study.evaluation.comparison_sides import Side

NAMES = {
    "samples": ("samples", "in the model", "{:,.0f}"),
    "variables": ("variables", "in the model", "{:,.0f}"),
    "components": ("components", "kept", "{:.0f}"),
    "r2": ("R²", "share rebuilt", "{:.3f}"),
    "q2": ("Q²", "share predicted, held out", "{:.3f}"),
    "separation": ("classes apart", "share with a neighbour of its class", "{:.2f}"),
    "replicates": ("replicate spread", "1: as wide as the set", "{:.2f}"),
    "within": ("within both limits", "held out", "{:.2f}"),
    "shapes": ("shapes", "of the unmixing", "{:.0f}"),
    "left-over": ("left over by shapes", "share of the sum of squares", "{:.4f}"),
}
"""Of each figure: its name, what it is, and how it is written."""

MOST_LISTED = 60
"""Samples that are listed as having moved."""


def figure_rows(compared: Comparison) -> list[tuple[Figure, tuple[str, str, str, str]]]:
    """Each figure with its name, both values, and what B has more."""
    return [(figure, _row(figure)) for figure in compared.figures]


def _row(figure: Figure) -> tuple[str, str, str, str]:
    name, _, form = NAMES[figure.key]
    values = [
        "" if value is None else with_minus(form.format(Shown(value))) for value in (figure.a, figure.b)
    ]
    if figure.a is None or figure.b is None:
        return name, values[0], values[1], ""
    if values[0] == values[1]:
        return name, values[0], values[1], "same"
    more = with_minus(form.format(Shown(figure.b - figure.a)))
    return name, values[0], values[1], more if more.startswith("−") else f"+{more}"


def is_no_contest(figure: Figure, same_data: bool) -> bool:
    """Whether a figure is a share of other data in B than in A."""
    return figure.key in ("r2", "q2") and not same_data


def told(figure: Figure, same_data: bool) -> str:
    """What a figure is, and how sure its difference is."""
    name, what, form = NAMES[figure.key]
    words = [f"{name}: {what}."]
    if np.isfinite(figure.error) and figure.verdict:
        error = with_minus(form.format(Shown(figure.error)))
        verdict = {
            "better": "B is better by more than twice that.",
            "worse": "B is worse by more than twice that.",
            "same": "The difference is within twice that: nobody can tell.",
        }[figure.verdict]
        words.append(f"Standard error of the difference: {error}. {verdict}")
    if is_no_contest(figure, same_data):
        words.append("Shares of differently treated data, or of other samples: no contest.")
    if figure.note:
        words.append(f"{figure.note[0].upper()}{figure.note[1:]}.")
    return " ".join(words)


def moved_rows(compared: Comparison) -> list[tuple[int, list[str | float]]]:
    """Who moved most: its place among the common samples, with name, way distances in shares of limits."""
    turned = compared.turned
    order = np.argsort(-turned.moved, kind="stable")[:MOST_LISTED]
    sides = [_of_limits(compared.a, compared.rows_a), _of_limits(compared.b, compared.rows_b)]
    found: list[tuple[int, list[str | float]]] = []
    for place in order.tolist():
        name = compared.a.found.table.ids[int(compared.rows_a[place])]
        ways = [f"{_share(sides[0][key][place])} → {_share(sides[1][key][place])}" for key in ("q", "t2")]
        found.append((place, [name, shown(turned.moved[place], ".2f"), *ways]))
    return found


def _of_limits(side: Side, rows: np.ndarray) -> dict[str, np.ndarray]:
    """Q and T² of the common samples in shares of their limits; NaN where there is no limit."""
    model, places = side.found.model, side.found.places()
    own = [places[row] for row in rows.tolist()]
    limits = {"q": (model.q, model.q_limit.value), "t2": (model.t2, model.t2_limit.value)}
    return {
        key: values[own] / (np.nan if limit is None or limit <= 0.0 else limit)
        for key, (values, limit) in limits.items()
    }


def _share(value: float) -> str:
    return "–" if not np.isfinite(value) else shown(value, ".2f")


def partner_words(pairs: tuple[Partners, ...], names: tuple[tuple[str, ...], tuple[str, ...]]) -> str:
    """`A1–B1 4° · A2–B3 31° · B2 has no partner`."""
    told = [
        f"A {names[0][one.a]} – B {names[1][one.b]} {one.angle:.0f}°"
        for one in pairs
        if one.a is not None and one.b is not None
    ]
    alone = [f"A {names[0][one.a]}" for one in pairs if one.b is None and one.a is not None]
    alone += [f"B {names[1][one.b]}" for one in pairs if one.a is None and one.b is not None]
    if alone:
        told.append(f"without a partner: {', '.join(alone)}")
    return " · ".join(told)


def component_names(side: Side) -> tuple[str, ...]:
    """`1`, `2`…: what its components are called here."""
    return tuple(str(place + 1) for place in range(side.found.model.k))
