"""The sections on how it was made: other models, new samples, every decision, the recipe, versions."""

from __future__ import annotations

from scutcher.charts.report.document import Heading, Paragraph, Part, Points, Rows
from scutcher.charts.report.material import Report
from scutcher.charts.report.new_samples import new_parts
from scutcher.charts.shelf_figures import FIGURES, figure_cells, figure_keys
from scutcher.core.words import count_of, shown
from scutcher.files.recipe_toml import recipe_text


def models(report: Report) -> list[Part]:
    """The models that were put by, beside the one that is reported."""
    named = [model for model in report.state.named if model.reached is not None]
    if not named:
        return []
    used = figure_keys(named)
    rows = [(model.name, *figure_cells(model, used)) for model in named]
    words = (
        "Figures as they were when each model was put by; R² and Q² are shares of what it makes of the data."
    )
    return [Paragraph(words), Rows(rows, ("model", *(FIGURES[key][0] for key in used)))]


def new_samples(report: Report) -> list[Part]:
    """New samples on the model, and which of them do not belong."""
    if report.new is None:
        return []
    return new_parts(report.state, report.found, report.new)


def decisions(report: Report) -> list[Part]:
    """The log, and whether it is whole."""
    if not report.log:
        return []
    if report.altered:
        whole = f"The study was changed by another program: {report.altered} does not bear its seal."
    elif report.log_seal:
        whole = (
            f"The log of {count_of(report.log, 'decision')} is a chain, each hashed onto the one before; "
            f"it is whole, and its last seal is {report.log_seal}."
        )
    else:
        whole = f"The log holds {count_of(report.log, 'decision')}."
    rows = [(entry.at, entry.who, entry.what, entry.why) for entry in report.log]
    return [Paragraph(whole), Rows(rows, ("when (UTC)", "who", "what", "why"))]


def recipe(report: Report) -> list[Part]:
    """Everything that turns the data into the model, as a file that Scutcher reads."""
    return [Paragraph(recipe_text(report.found.recipe), as_written=True)]


def versions(report: Report) -> list[Part]:
    """By what, when, by whom, of which files."""
    audit = report.audit
    if audit is None:
        return []
    rows = [
        ("made", f"{audit.at} UTC, by {audit.who}"),
        ("program", audit.program),
        ("libraries", ", ".join(f"{name} {version}" for name, version in audit.libraries)),
        ("recipe, SHA-256", audit.recipe_hash),
        ("seeds", ", ".join(f"{what}: {seed}" for what, seed in audit.seeds)),
    ]
    files = [
        (one.name, "" if one.size is None else shown(one.size, ","), one.sha256 or "not taken")
        for one in audit.files
    ]
    parts: list[Part] = [Rows(rows)]
    if files:
        parts += [Heading("Files"), Rows(files, ("file", "bytes", "SHA-256"))]
    return [*parts, Points(("This report bears a seal: `scutcher verify` says whether it was changed.",))]
