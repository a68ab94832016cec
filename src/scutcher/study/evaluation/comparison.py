"""Two models of a study side by side: planes turned together, partners of components, figures with errors."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.unmixing.mixture import Mixture
from scutcher.core.validation.comparison import Partners, Turned, partners, turn
from scutcher.core.validation.segments import group_codes
from scutcher.study.evaluation.comparison_figures import (
    Figure,
    judged,
    of_shapes,
    of_variance,
)
from scutcher.study.evaluation.comparison_sides import Side
from scutcher.study.evaluation.evaluation import Evaluation

LEAST = 4
"""Samples that two models must share."""


@frozen(eq=False)
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

    @computed_once
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
    figures = judged(a, b, scores, places, codes[rows_a], groups)
    if a.tables or b.tables:  # whose repeats are averaged
        figures = [figure for figure in figures if figure.key != "replicates"]
    return Comparison(
        a,
        b,
        rows_a,
        rows_b,
        turn(*scores),
        partners(*centred),
        _shapes(a.mixture, b.mixture),
        (*of_variance(a, b), *figures, *of_shapes(a, b)),
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


def _shapes(a: Mixture | None, b: Mixture | None) -> tuple[Partners, ...]:
    if a is None or b is None or a.shapes.shape[1] != b.shapes.shape[1]:
        return ()
    return partners(a.shapes.T, b.shapes.T)
