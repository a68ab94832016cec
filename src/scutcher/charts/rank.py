"""The Rank page: shares of variance, eigenvalues, evidence, components one by one, fitted values."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.charts import colours
from scutcher.charts.description import Chart, Lines, Marks, Rule, as_keys, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_separation import noise_share
from scutcher.core.models.pca.component_model import explained, explained_by_variable
from scutcher.core.models.pca.decomposition import Decomposition, agree_with
from scutcher.core.validation.evidence import KEYS, Line
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation

SHOWN = 15
DOTS, GRID, LANES = 600, 200, 8
"""Scores of a component that are all drawn, places that more are put on, and classes that have a row."""

EVIDENCE: dict[str, tuple[str, str]] = {
    "lowest-press": (
        "lowest held-out error",
        "The number with the smallest PRESS. It tends to keep one or two too many: the curve is flat there.",
    ),
    "one-standard-error": (
        "held-out error, 1-SE rule",
        "The fewest components whose PRESS is within one standard error of the lowest: the modest choice. The "
        "bar reaches to the lowest. With few segments the standard error itself is uncertain.",
    ),
    "broken-stick": (
        "broken stick",
        "Shares larger than those of a stick broken at random. Strict: it stops early when one component is large.",
    ),
    "mean-eigenvalue": (
        "mean eigenvalue",
        "Components that explain more than one variable's worth. Only for tables scaled to SD; keeps too many "
        "where variables are many.",
    ),
    "permutation": (
        "permuted data, 95th percentile",
        "Eigenvalues above those of data whose columns were shuffled. A large first component hides weaker ones.",
    ),
    "share": (
        "share of variance",
        "The fewest components that reach the share you set. It knows nothing of noise.",
    ),
    "indicator": (
        "indicator function",
        "The minimum of RE/(c − k)². It takes the noise for even over all values: after scaling or derivatives it is not.",
    ),
    "loading-structure": (
        "loading structure",
        "Components up to the first whose loading is white along the axis. Smoothing makes noise look like structure.",
    ),
    "split-half": (
        "split-half agreement",
        "Components whose plane comes out the same in two random halves. Two of like size trade places or turn; "
        "they count as one plane, and it is said which.",
    ),
}


@frozen(eq=False)
class Shares:
    """What the chart of shares draws, for 1…m components.

    Attributes
    ----------
    kept : int
    each, fitted : (m,) float arrays
        Share of each component and R².
    held_out, error, rowwise : (m,) float arrays
        Q², its standard error, and the optimistic row-wise figure; NaN where unknown.
    eigenvalues : (m,) float array
    """

    kept: int
    each: Floats
    fitted: Floats
    held_out: Floats
    error: Floats
    rowwise: Floats
    eigenvalues: Floats

    def rows(self) -> tuple[list[str], list[list[float]]]:
        """The table behind it."""
        header = ["component", "eigenvalue", "share", "R²", "Q²", "SE of Q²", "Q² row-wise (optimistic)"]
        columns = (self.eigenvalues, self.each, self.fitted, self.held_out, self.error, self.rowwise)
        rows = zip(*(column.tolist() for column in columns), strict=True)
        return header, [[place + 1, *row] for place, row in enumerate(rows)]


def shares(found: Evaluation | None, checked: Checked | None) -> Shares | None:
    """Shares of the components computed, at least fifteen where there are so many."""
    if found is None:
        return None
    components = most_components(found, checked)
    each = explained(components)
    m = min(len(each), max(SHOWN, found.model.k + 1))
    unknown = np.full((3, m), np.nan)
    if checked is not None and checked.validation is not None:
        validation = checked.validation
        for row, values in enumerate((validation.q2, validation.q2_error, validation.q2_rowwise)):
            unknown[row, : min(m, len(values))] = values[:m]
    return Shares(
        found.model.k,
        each[:m],
        np.cumsum(each)[:m],
        unknown[0],
        unknown[1],
        unknown[2],
        components.eigenvalues[:m],
    )


def most_components(found: Evaluation, checked: Checked | None) -> Decomposition:
    """The components of an evaluation; of much data the check behind finds more, turned as those are."""
    known = found.decomposition
    if checked is None or checked.components.computed <= known.computed:
        return known
    return agree_with(checked.components, known.loadings)


@frozen
class EvidenceRow:
    """A row of the evidence chart: its name, what it means, what it suggests, why it says nothing."""

    key: str
    name: str
    meaning: str
    suggested: int | None
    up_to: int | None
    reason: str


def evidence_rows(checked: Checked | None, share: float) -> list[EvidenceRow]:
    """One row for each line of evidence; those under way say so."""
    lines = {} if checked is None else checked.lines
    rows = []
    for key in KEYS:
        name, meaning = EVIDENCE[key]
        name = f"{shown(100.0 * share)} % of variance" if key == "share" else name
        line = lines.get(key, Line(key, None, "under way …"))
        told = f"{meaning} Here {line.note}." if line.note else meaning
        rows.append(EvidenceRow(key, name, told, line.suggested, line.up_to, line.reason or line.note))
    return rows


@frozen(eq=False)
class Portrait:
    """One component: its loading over the axis, its scores with their classes, how much of it is noise.

    `classes`, (c,), are the codes of classes that there are, `of_class`, (n,), the place of each sample's.
    """

    component: int
    places: Floats
    loading: Floats
    scores: Floats
    classes: Integers
    of_class: Integers
    share: float
    noise: float | None

    @computed_once
    def lanes(self) -> list[tuple[int, Floats]]:
        """Of each class the code and where its scores lie, from 0 for the lowest to 1; at most eight classes.

        Of very many scores the places of a grid that some lie at.
        """
        scores = np.ascontiguousarray(self.scores)
        low, span = float(scores.min()), float(np.ptp(scores)) or 1.0
        places = (scores - low) / span
        codes, of_class = self.classes, self.of_class
        lanes = len(codes) if codes.max(initial=0) >= colours.CONTINUOUS else LANES
        if len(places) <= DOTS:
            return [(int(code), places[of_class == place]) for place, code in enumerate(codes[:lanes])]
        cells = of_class * (GRID + 1) + np.rint(places * GRID).astype(np.intp)
        there = np.bincount(cells, minlength=len(codes) * (GRID + 1)).reshape(len(codes), GRID + 1)
        found = zip(codes.tolist(), there, strict=True)
        return [(code, np.flatnonzero(row) / GRID) for code, row in found][:lanes]


def portraits(state: State, found: Evaluation | None, checked: Checked | None = None) -> list[Portrait]:
    """The first components, kept or not."""
    if found is None:
        return []
    components = most_components(found, checked)
    each = explained(components)
    axis = found.treated.axis
    classes, of_class = np.unique(colouring_of(state).codes[found.usable.rows], return_inverse=True)
    pictures = []
    for a in range(min(components.computed, max(SHOWN, found.model.k + 2))):
        loading = components.loadings[:, a]
        noise = _noise_of(loading) if axis.ordered else None
        pictures.append(
            Portrait(
                a, axis.places(), loading, components.scores[:, a], classes, of_class, float(each[a]), noise
            )
        )
    return pictures


def _noise_of(loading: Floats) -> float | None:
    """Share of a loading's square that is white along the axis."""
    pair = np.vstack([loading - loading.mean(), -(loading - loading.mean())])
    share = noise_share(pair)
    return share if np.isfinite(share) else None


def by_variable(found: Evaluation | None, kind: str) -> Chart:
    """Explained variance, or importance, of each variable with the components kept."""
    if found is None:
        return nothing("Explained variance", "It appears with the first model.")
    axis, model = found.treated.axis, found.model
    if kind == "importance":
        eigenvalues = model.decomposition.eigenvalues[: model.k]
        values = (model.loadings**2 @ eigenvalues) / eigenvalues.sum()
        title, unit = "Importance", "Σ λ p² / Σ λ"
    else:
        values = explained_by_variable(model.decomposition, found.scaled, model.k)
        title, unit = "Explained variance", f"share with {model.k}"
    return Chart(
        title=title,
        note="of each variable",
        x_title=axis.title,
        y_title=unit,
        lines=Lines(
            axis.places(), values[np.newaxis, :], as_keys([0]), as_keys([0]), (unit,), role="component"
        ),
        rules=(Rule(0.0), Rule(1.0)) if kind != "importance" else (Rule(0.0),),
        tick_names=() if axis.ordered else axis.labels,
        bars=not axis.ordered,
    )


def fitted_measured(
    state: State, found: Evaluation | None, channel: float | None, picked: tuple[int, ...]
) -> Chart:
    """Fitted against measured with the components kept: a picked sample, else the variable of the cursor.

    Without a cursor the variable of which the components hold the most variance.
    """
    if found is None or state.table is None:
        return nothing("Fitted", "It appears with the first model.")
    model, places = found.model, found.places()
    row = next((places[row] for row in picked if row in places), None)
    axis = found.treated.axis
    if row is not None and len(picked) == 1:
        measured = found.scaled.rows(slice(row, row + 1))[0]
        fitted = model.loadings @ model.scores[row]
        keys = as_keys(np.arange(len(measured)))
        names: Sequence[str] = [axis.name(j) for j in range(len(axis))]
        codes = np.zeros(len(measured), dtype=np.intp)
        what = found.treated.ids[row]
    else:
        if channel is None:
            column = int(np.argmax(model.loadings**2 @ model.eigenvalues))
        else:
            column = int(np.abs(axis.places() - channel).argmin())
        measured = found.scaled.block(np.arange(len(found.usable.rows)), np.array([column]))[:, 0]
        fitted = model.scores @ model.loadings[column]
        keys, names = found.usable.rows, ids_of_rows(state.table, found.usable.rows)
        codes = colouring_of(state).codes[found.usable.rows]
        what = axis.name(column)
    return Chart(
        title="Fitted",
        note=f"{what}, {model.k} components",
        x_title="measured (treated data)",
        y_title="fitted",
        marks=Marks(measured, fitted, keys, codes, names),
    )
