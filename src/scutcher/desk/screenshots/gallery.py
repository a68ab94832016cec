"""What the demo without a window leaves in a folder: pictures, tables and one screen of text."""

from __future__ import annotations

import os
import time
from pathlib import Path

from scutcher.core.models.pca.component_model import explained
from scutcher.core.words import count_of
from scutcher.desk.screenshots.main_views import write_pictures
from scutcher.desk.shell.beginning import demo_study
from scutcher.files.safely import make_folder, write_text
from scutcher.study.evaluation.checks import check
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.results.fit_results import write_fit


def write_gallery(name: str, folder: Path) -> int:
    """Write pictures, tables and a summary of a demo set into a folder, and say where.

    Raises
    ------
    InputError
        There is no such demo set, or the folder cannot be written to.
    """
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    make_folder(folder)
    state = demo_study(name).state
    assert state.table is not None
    start = time.perf_counter()
    found = Evaluator().evaluate(state.table, state.recipe)
    seconds = time.perf_counter() - start
    tables = write_fit(folder, found, check(found), seconds, full=False)
    pictures = write_pictures(demo_study(name), folder)
    text = summary_text(found)
    write_text(folder / "summary.txt", text)
    print(text)
    for path in [*pictures, *tables, folder / "summary.txt"]:
        print(path)
    return 0


def summary_text(found: Evaluation) -> str:
    """One screen of text: what was modelled, what it explains, who is far."""
    model, table = found.model, found.table
    shares = explained(found.decomposition)
    ids = [table.ids[row] for row in found.usable.rows]
    lines = [
        f"Scutcher: {table.name}, {table.shape[0]} samples × {table.shape[1]} variables",
        f"treatments: {', '.join(step.method for step in found.recipe.treat if step.on) or 'none'}; "
        f"centre {found.scaling.centre}, scale {found.scaling.method}",
        f"left out: {count_of(found.usable.left_out_rows)}, "
        f"{count_of(found.usable.left_out_columns, 'variable')}",
        f"{model.k} of {found.decomposition.most} components, R² {shares[: model.k].sum():.4f}",
        "",
        "component  share   cumulative",
    ]
    total = 0.0
    for component in range(model.k):
        total += float(shares[component])
        lines.append(f"{component + 1:>9}  {shares[component]:6.3f}  {total:10.3f}")
    for word, distances, limit in (("T²", model.t2, model.t2_limit), ("Q", model.q, model.q_limit)):
        past = model.past(distances, limit)
        if past is None or limit.value is None:
            lines.append(f"\n{word}: {limit.reason}")
            continue
        worst = sorted(((distances[row], ids[row]) for row in past.nonzero()[0]), reverse=True)
        named = ", ".join(f"{name} ({value / limit.value:.1f} ×)" for value, name in worst[:8])
        lines.append(
            f"\n{word} past its {100 * limit.level:g} % limit ({limit.value:.4g}): {named or 'none'}"
        )
    return "\n".join(lines) + "\n"
