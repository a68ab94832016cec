"""The report of new samples: which belong to the model, which do not and why, drawn over the model's own."""

from __future__ import annotations

from dataclasses import replace

from scutcher import __version__
from scutcher.charts.description import Marks
from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.overlays import Overlays, distance_ghosts, with_overlays
from scutcher.charts.report.document import Document, Heading, Paragraph, Part, Picture, Points, Rows, section
from scutcher.charts.scores import scores
from scutcher.core.distances.limits import Limit
from scutcher.core.words import counted, shown
from scutcher.files.recipe_toml import recipe_text
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.new_samples import Newcomers

MOST_LISTED = 500
"""Samples that are listed by name; a table of all of them is written as numbers."""


def new_samples_document(state: State, found: Evaluation, new: Newcomers) -> Document:
    """New samples as a document.

    Parameters
    ----------
    found : the model of the study that judged them
    """
    sections = (
        section("new", "New samples", new_parts(state, found, new)),
        section("recipe", "Recipe of the model", [Paragraph(recipe_text(found.recipe), as_written=True)]),
    )
    title = f"{new.table.name} on the model of {state.name}"
    kept = tuple(one for one in sections if one is not None)
    return Document(title, kept, made=f"scutcher {__version__}")


def new_parts(state: State, found: Evaluation, new: Newcomers) -> list[Part]:
    """What is said of new samples: facts, verdicts, who could not be judged, figures."""
    refused, count = sorted(new.found.refused.items()), len(new.found.rows)
    notes = (*new.table.origin.remarks, *new.found.notes)
    parts: list[Part] = [Rows(facts(state, new))]
    parts += [Points(notes)] if notes else []
    parts += [Heading("Verdicts"), Rows(_verdicts(new), HEADER)]
    if count > MOST_LISTED:
        parts.append(Paragraph(f"The first {MOST_LISTED} of {counted(count)} are listed."))
    if refused:
        rows = [(new.table.ids[row], why) for row, why in refused[:MOST_LISTED]]
        parts += [Heading("Not judged"), Rows(rows, ("sample", "why"))]
    return [*parts, Heading("Figures"), *_figures(state, found, new)]


MOST_NAMED = 20
"""Samples that are named on a figure."""
HEADER = ("sample", "belongs", "T² / limit", "Q / limit", "joint / limit", "why not")


BASES = {"held-out": "from samples held out", "fitted": "from the samples of the fit"}


def facts(state: State, new: Newcomers) -> list[tuple[str, str]]:
    """The model, the samples and the limits in words."""
    model, count = new.model, len(new.found.rows)
    belong = sum(new.belongs(row) for row in range(count))
    rows = [
        ("model", f"{state.name}: {model.k} components of {model.samples} samples"),
        ("new samples", f"{new.table.name}: {new.table.shape[0]}"),
        ("belong", f"{counted(belong)} of {counted(count)}"),
        ("do not belong", f"{counted(count - belong)} of {counted(count)}"),
        ("limits", BASES.get(model.basis, model.basis)),
    ]
    limits = (("T² limit", model.t2_limit), ("Q limit", model.q_limit), ("joint limit", model.joint_limit))
    return rows + [(name, _limit(limit)) for name, limit in limits if limit is not None]


def _limit(limit: Limit) -> str:
    if limit.value is None:
        return limit.reason
    return f"{shown(limit.value, '.5g')} ({shown(100 * limit.level)} %, {limit.method})"


def _verdicts(new: Newcomers) -> list[tuple[str, ...]]:
    """One line a sample, those that do not belong first."""
    found, model = new.found, new.model
    pairs = ((found.t2, model.t2_limit), (found.q, model.q_limit), (found.joint, model.joint_limit))
    order = sorted(range(len(found.rows)), key=new.belongs)
    lines = []
    for row in order[:MOST_LISTED]:
        shares = (
            "–"
            if values is None or limit is None or not limit.value
            else shown(values[row] / limit.value, ".2f")
            for values, limit in pairs
        )
        verdict = "yes" if new.belongs(row) else "no"
        lines.append((found.table.ids[row], verdict, *shares, new.reasons(row)))
    return lines


def _figures(state: State, found: Evaluation, new: Newcomers) -> list[Picture]:
    """The planes of the model with the new samples as hollow marks."""
    legend = colouring_of(state).named()[:8]
    pair = (0, min(1, found.model.k - 1))
    plane = with_overlays(scores(state, found, pair), state, found, pair, Overlays(aside=False), new)
    nobody = State()  # what is set aside in the study is not spoken of here
    away = distance_ghosts(nobody, found, ("t2", "q"), False, new)
    order = distance_ghosts(nobody, found, ("order", "q"), False, new)
    drawn = (
        (plane, "Hollow: the new samples; named: those that do not belong."),
        (
            replace(distances(state, found, False), ghosts=away),
            "The new samples over the limits for new ones.",
        ),
        (replace(run_order(state, found, "q"), ghosts=order), "The new samples in the order of their table."),
    )
    return [Picture(chart, caption, legend, _strangers(new, chart.ghosts)) for chart, caption in drawn]


def _strangers(new: Newcomers, marks: Marks | None) -> tuple[tuple[float, float, str], ...]:
    """Names of those that do not belong, where they are drawn."""
    if marks is None:
        return ()
    away = [row for row in range(len(marks.keys)) if not new.belongs(row)][:MOST_NAMED]
    return tuple((float(marks.x[row]), float(marks.y[row]), marks.names[row]) for row in away)
