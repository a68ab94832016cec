"""Loadings of two components against each other: as they are, or as correlations inside circles."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Marks, Rule
from scutcher.charts.whole_numbers import all_loadings
from scutcher.core.arrays import Floats
from scutcher.core.groups.score_ellipses import TURN
from scutcher.study.evaluation.evaluation import Evaluation

NAMED = 16


def correlations(found: Evaluation, pair: tuple[int, int]) -> Floats:
    """corr(z_j, t_a) of each variable with two components, (p, 2); NaN for constant variables."""
    z, scores = found.z, found.model.scores[:, list(pair)]
    away, spread = z - z.mean(axis=0), scores - scores.mean(axis=0)
    sizes = np.sqrt(np.einsum("ij,ij->j", away, away))
    lengths = np.sqrt(np.einsum("ij,ij->j", spread, spread))
    below = np.outer(sizes, lengths)
    products = away.T @ spread
    shares: Floats = np.divide(products, below, out=np.full_like(products, np.nan), where=below > 0.0)
    return shares


def loading_plane(found: Evaluation, pair: tuple[int, int], circle: bool, weakest: float) -> Chart:
    """Variables on two components.

    Parameters
    ----------
    circle : bool
        Correlations with the scores, with circles at r² = 0.5 and 1, in place of loadings.
    weakest : float
        Variables shorter than this share of the longest are left away.
    """
    points = correlations(found, pair) if circle else found.model.loadings[:, list(pair)]
    lengths = np.nan_to_num(np.hypot(points[:, 0], points[:, 1]))
    shown = np.flatnonzero(lengths >= weakest * float(lengths.max()))
    axis = found.treated.axis
    order = shown[np.argsort(-lengths[shown])]
    named = axis.apart(order, 40, NAMED)
    curves = [
        Curve(
            np.array([0.0, points[column, 0]]),
            np.array([0.0, points[column, 1]]),
            "accent",
            width=0.9,
            arrow=True,
            name=axis.name(column),
            behind=False,
        )
        for column in named
    ]
    if circle:
        curves += [
            Curve(radius * np.cos(TURN), radius * np.sin(TURN), "quiet", dashes=radius < 1.0)
            for radius in (float(np.sqrt(0.5)), 1.0)
        ]
    elif axis.ordered:
        x, y = points[:, 0].copy(), points[:, 1].copy()
        curves.append(Curve(x, y, "quiet", width=0.7))
    across, up = pair
    return Chart(
        title="Loadings as correlations" if circle else "Loadings",
        note="circles at r² = 0.5 and 1" if circle else f"{len(shown)} of {len(axis)} variables",
        x_title=f"component {across + 1}",
        y_title=f"component {up + 1}",
        marks=Marks(
            points[shown, 0],
            points[shown, 1],
            shown.astype(np.intp),
            np.zeros(len(shown), dtype=np.intp),
            tuple(axis.name(int(column)) for column in shown),
        ),
        curves=tuple(curves),
        rules=(Rule(0.0), Rule(0.0, vertical=True)),
        square=True,
        whole=all_loadings(found),
    )


def loading_rows(found: Evaluation) -> tuple[list[str], list[list[str | float]]]:
    """All loadings as a table, the variables of the largest first component first."""
    axis, loadings = found.treated.axis, found.model.loadings
    header = ["variable", *(f"PC{a + 1}" for a in range(loadings.shape[1])), "length"]
    lengths = np.sqrt((loadings**2).sum(axis=1))
    rows: list[list[str | float]] = [
        [axis.name(column), *loadings[column].tolist(), float(lengths[column])]
        for column in np.argsort(-np.abs(loadings[:, 0])).tolist()
    ]
    return header, rows
