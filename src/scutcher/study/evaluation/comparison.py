"""Two models of a study side by side: planes turned together, partners of components, figures with errors."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError, ModelError
from scutcher.core.groups.class_separation import neighbour_hits, replicate_share
from scutcher.core.models.pca.component_model import explained
from scutcher.core.progress import Watch
from scutcher.core.unmixing.mixture import Mixture
from scutcher.core.validation.comparison import SURE, Partners, Turned, difference_error, partners, turn
from scutcher.core.validation.cross_validation import Validation
from scutcher.core.validation.segments import group_codes
from scutcher.core.words import shown
from scutcher.study.document.state import Model
from scutcher.study.evaluation.checks import Checked, validated
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.saving import seen_as_new
from scutcher.study.evaluation.series import mixture_of

LEAST = 4
"""Samples that two models must share."""

Verdict = Literal["better", "worse", "same", ""]


@dataclass(frozen=True, eq=False)
class Side:
    """One of the two models.

    Attributes
    ----------
    model : Model
        As it stands on the shelf, or as it is now.
    found : Evaluation
    checked : Checked or None
        Once it is validated.
    mixture : Mixture or None
        Where its recipe asks for shapes and they can be found.
    tables : tuple of str
        What was done to each of several tables; empty for a model of one.
    """

    model: Model
    found: Evaluation
    checked: Checked | None = None
    mixture: Mixture | None = None
    tables: tuple[str, ...] = ()

    @property
    def validation(self) -> Validation | None:
        """The held-out error, where it is known."""
        return None if self.checked is None else self.checked.validation


@dataclass(frozen=True)
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


@dataclass(frozen=True, eq=False)
class Comparison:
    """What can be said of two models.

    Attributes
    ----------
    a, b : Side
    rows_a, rows_b : (m,) int arrays
        Rows of the common samples in the tables of A and of B.
    turned : Turned
        Scores of B onto those of A, of the common samples.
    pairs : tuple of Partners
        Components by the angle between their scores.
    shapes : tuple of Partners
        Shapes of both by the angle between them; empty where one of them has none on these channels.
    figures : tuple of Figure
    """

    a: Side
    b: Side
    rows_a: Integers
    rows_b: Integers
    turned: Turned
    pairs: tuple[Partners, ...]
    shapes: tuple[Partners, ...]
    figures: tuple[Figure, ...]

    @cached_property
    def same_data(self) -> bool:
        """Whether shares of variance are shares of the same: same samples, treatments and scaling."""
        a, b = self.a.found, self.b.found
        if self.a.tables or self.b.tables:
            return False
        same_rows = len(self.rows_a) == len(a.usable.rows) == len(b.usable.rows)
        return same_rows and a.run_recipe.treat == b.run_recipe.treat and a.scaling == b.scaling

    def figure(self, key: str) -> Figure | None:
        """One of the figures."""
        return next((figure for figure in self.figures if figure.key == key), None)

    def swapped(self, codes: Integers) -> Comparison:
        """The same with A and B in each other's place; `codes` as `compare` takes them, of the new A."""
        return compare(self.b, self.a, codes)


def side_of(
    model: Model, table: Table, evaluate: Callable[[Table, Watch | None], Evaluation], watch: Watch | None
) -> Side:
    """A model of the shelf, fitted again, with its shapes where it asks for some.

    Raises
    ------
    InputError
        It can no longer be made.
    """
    return with_shapes(Side(model, evaluate(table, watch)), watch)


def with_shapes(side: Side, watch: Watch | None = None) -> Side:
    """The same with its shapes, where the recipe asks for some that can be found."""
    settings = side.found.recipe.unmix
    if not settings.asks:
        return side
    try:
        return replace(side, mixture=mixture_of(side.found, None, settings, watch))
    except InputError:
        return side


def with_checks(side: Side, watch: Watch | None = None) -> Side:
    """The same, validated: also a model that was put by before it was."""
    known = side.checked is not None or side.tables  # shared scores are no data of which to leave some out
    return side if known else replace(side, checked=validated(side.found, watch))


def compare(a: Side, b: Side, codes: Integers) -> Comparison:
    """Put two models side by side.

    Parameters
    ----------
    codes : (n,) int array
        The class of each row of A's table, negative for none.

    Raises
    ------
    ModelError
        They share fewer than four samples.
    """
    rows_a, rows_b = shared_rows(a.found, b.found)
    if len(rows_a) < LEAST:
        raise ModelError(
            f"{a.model.name or 'A'} and {b.model.name or 'B'} share only {len(rows_a)} samples.",
            "Compare models of the same samples.",
        )
    own = [a.found.places()[row] for row in rows_a.tolist()]
    theirs = [b.found.places()[row] for row in rows_b.tolist()]
    scores = a.found.model.scores[own], b.found.model.scores[theirs]
    centred = tuple(one - one.mean(axis=0) for one in scores)
    groups = group_codes(a.found.treated)[own]
    places = np.array(own, np.intp), np.array(theirs, np.intp)
    of_variance = _of_variance(a, b)
    judged = _judged(a, b, scores, places, codes[rows_a], groups)
    if a.tables or b.tables:  # whose repeats are averaged
        judged = [figure for figure in judged if figure.key != "replicates"]
    return Comparison(
        a,
        b,
        rows_a,
        rows_b,
        turn(*scores),
        partners(*centred),
        _shapes(a.mixture, b.mixture),
        (*of_variance, *judged, *_of_shapes(a, b)),
    )


def shared_rows(a: Evaluation, b: Evaluation) -> tuple[Integers, Integers]:
    """Rows of the samples that both models are made of, by id where the tables differ; in A's order."""
    if a.table is b.table or a.table.ids == b.table.ids:
        rows = np.intersect1d(a.usable.rows, b.usable.rows)
        return rows, rows
    place = {b.table.ids[row]: row for row in b.usable.rows.tolist()}
    found = [(row, place[a.table.ids[row]]) for row in a.usable.rows.tolist() if a.table.ids[row] in place]
    rows_a, rows_b = zip(*found, strict=True) if found else ((), ())
    return np.array(rows_a, np.intp), np.array(rows_b, np.intp)


def _of_variance(a: Side, b: Side) -> tuple[Figure, ...]:
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


def _judged(
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


def _of_shapes(a: Side, b: Side) -> tuple[Figure, ...]:
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


def _shapes(a: Mixture | None, b: Mixture | None) -> tuple[Partners, ...]:
    if a is None or b is None or a.shapes.shape[1] != b.shapes.shape[1]:
        return ()
    return partners(a.shapes.T, b.shapes.T)
