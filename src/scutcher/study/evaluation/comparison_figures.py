"""The figures in which two models are compared, each with its standard error where there is one."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_separation import neighbour_hits, replicate_share
from scutcher.core.models.pca.component_model import explained
from scutcher.core.validation.comparison import SURE, difference_error
from scutcher.core.words import shown
from scutcher.study.evaluation.comparison_sides import Side
from scutcher.study.evaluation.saving import seen_as_new

Verdict = Literal["better", "worse", "same", ""]


@frozen
class Figure:
    """One figure of both models; None where a model has none.

    Attributes
    ----------
    key : str
    a, b : float or None
    better : int
        +1 where more is better, −1 where less is, 0 where neither.
    error : float
        Standard error of `b − a`; NaN where it is not known.
    note : str
        What is to be said of it.
    """

    key: str
    a: float | None
    b: float | None
    better: int = 0
    error: float = float("nan")
    note: str = ""

    @property
    def verdict(self) -> Verdict:
        """Whether B is better by more than the error of the difference; "" where nobody can say."""
        if self.better == 0 or self.a is None or self.b is None or not np.isfinite(self.error):
            return ""
        difference = self.better * (self.b - self.a)
        if abs(difference) <= SURE * self.error or difference == 0.0:
            return "same"
        return "better" if difference > 0.0 else "worse"


def of_variance(a: Side, b: Side) -> tuple[Figure, ...]:
    """Samples and variables where they differ, components, R² and Q²."""
    shapes = [side.found.scaled.shape for side in (a, b)]
    of_tables = bool(a.tables or b.tables)
    found = [
        Figure(key, float(shapes[0][place]), float(shapes[1][place]))
        for place, key in enumerate(("samples", "variables"))
        if shapes[0][place] != shapes[1][place] and not of_tables
    ]
    k = [float(side.found.model.k) for side in (a, b)]
    r2 = [float(explained(side.found.decomposition)[: side.found.model.k].sum()) for side in (a, b)]
    found.append(Figure("components", k[0], k[1]))
    if of_tables:
        return tuple(found)
    found.append(Figure("r2", r2[0], r2[1]))
    held = [_q2(side) for side in (a, b)]
    if any(value is not None for value, _ in held):
        error = float(np.hypot(held[0][1], held[1][1]))
        found.append(Figure("q2", held[0][0], held[1][0], 1, error))
    return tuple(found)


def _q2(side: Side) -> tuple[float | None, float]:
    validation, k = side.validation, side.found.model.k
    if validation is None or k > len(validation.q2) or not np.isfinite(validation.q2[k - 1]):
        return None, float("nan")
    return float(validation.q2[k - 1]), float(validation.q2_error[k - 1])


def judged(
    a: Side,
    b: Side,
    scores: tuple[Floats, Floats],
    places: tuple[Integers, Integers],
    codes: Integers,
    groups: Integers,
) -> list[Figure]:
    """Figures of the samples that both have, with the jackknife error of their difference."""
    found = []
    hits = [neighbour_hits(one, codes, groups) for one in scores]
    if hits[0] is not None and hits[1] is not None:
        found.append(_mean_figure("separation", hits[0], hits[1], groups))
    if len(np.unique(groups)) < len(groups):
        found.append(_replicates(scores, groups))
    inside = [_inside(side, place) for side, place in zip((a, b), places, strict=True)]
    if inside[0] is not None and inside[1] is not None:
        levels = {side.found.recipe.limits.level for side in (a, b)}
        due = " and ".join(f"{shown(level**2, '.2f')} to {shown(level, '.2f')}" for level in sorted(levels))
        found.append(replace(_mean_figure("within", inside[0], inside[1], groups), note=f"{due} due"))
    return found


def _mean_figure(key: str, a: Floats, b: Floats, groups: Integers) -> Figure:
    """The mean of something that each sample has; NaN for a sample that has it not."""
    error = difference_error(lambda stay: float(np.nanmean(b[stay]) - np.nanmean(a[stay])), groups)
    return Figure(key, float(np.nanmean(a)), float(np.nanmean(b)), 1, error)


def _replicates(scores: tuple[Floats, Floats], groups: Integers) -> Figure:
    shares = [replicate_share(one, groups) for one in scores]

    def difference(stay: Booleans) -> float:
        codes = np.unique(groups[stay], return_inverse=True)[1]
        one, two = (replicate_share(values[stay], codes) for values in scores)
        return two - one

    a, b = (share if np.isfinite(share) else None for share in shares)
    return Figure("replicates", a, b, -1, difference_error(difference, groups))


def _inside(side: Side, places: Integers) -> Floats | None:
    """Of each sample 1 where it is within both limits of a model that has not seen it, NaN where unknown."""
    seen = seen_as_new(side.found, side.checked)
    t2, q = (None, None) if seen is None else (seen.distances["t2"], seen.distances["q"])
    limits = [] if seen is None else [seen.limits[key] for key in ("t2", "q")]
    values = [limit.value for limit in limits if limit is not None and limit.value is not None]
    if t2 is None or q is None or len(values) < 2:
        return None
    inside = ((t2 <= values[0]) & (q <= values[1])).astype(np.float64)
    inside[~np.isfinite(t2) | ~np.isfinite(q)] = np.nan
    chosen: Floats = inside[places]
    return chosen if np.isfinite(chosen).any() else None


def of_shapes(a: Side, b: Side) -> tuple[Figure, ...]:
    """How many shapes, and the share of the signal that they leave over."""
    if a.mixture is None and b.mixture is None:
        return ()
    counts, over = zip(*(_left_over(side) for side in (a, b)), strict=True)
    note = "less with more shapes, always"
    return Figure("shapes", *counts), Figure("left-over", over[0], over[1], note=note)


def _left_over(side: Side) -> tuple[float | None, float | None]:
    if side.mixture is None:
        return None, None
    whole = float(np.einsum("ij,ij->", side.found.treated.values, side.found.treated.values))
    left = float(np.einsum("ij,ij->", side.mixture.residuals, side.mixture.residuals))
    return float(len(side.mixture.names)), left / whole if whole > 0.0 else None
