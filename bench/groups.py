"""The Groups page beside one validation: what stands at once, the held-out share, chance; and many pixels."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np

from bench.fitting import data, table_of
from bench.timing import best_seconds
from scutcher.charts.class_differences import class_strips, difference_strip
from scutcher.charts.class_table import class_square
from scutcher.charts.groups import GroupsLook, group_plane
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.core.recipes.recipe import GroupSettings, recipe_from_plain
from scutcher.study.evaluation.checks import held_out
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.grouping import grouping_of, held_out_groups, with_p_value


def classed(n: int, p: int, classes: int) -> Table:
    """Samples in classes that lie a little apart."""
    codes = np.arange(n) % classes
    rng = np.random.default_rng(1)
    values = data(n, p) + rng.normal(size=(classes, p))[codes] * 0.2
    return replace(table_of(values), classes=(ClassColumn("kind", tuple(f"c{code:02d}" for code in codes)),))


def page_of(found: Evaluation) -> None:
    """Everything that the page shows at once, as plain data."""
    grouping = grouping_of(found, "", found.recipe.groups)
    two = (int(grouping.present[0]), int(grouping.present[1]))
    class_square(grouping, None)
    group_plane(grouping, grouping.pair, GroupsLook(), two)
    class_strips(grouping, two, True, ())
    difference_strip(grouping, two, grouping.difference(*two, draws=0), "difference")


def report() -> list[str]:
    """The lines of this bench."""
    recipe = recipe_from_plain({"model": {"components": 6}})
    found = Evaluator(keeps=False).evaluate(classed(1000, 700, 10), recipe)
    validated = best_seconds(lambda: held_out(found), 3)
    grouping = grouping_of(found, "", recipe.groups)
    page = best_seconds(lambda: page_of(found), 3)
    band = best_seconds(lambda: grouping.difference(0, 1), 3)
    judged = best_seconds(lambda: held_out_groups(grouping), 3)
    held = held_out_groups(grouping)
    chance = best_seconds(lambda: with_p_value(grouping, held), 1)
    many = Evaluator(keeps=False).evaluate(classed(100_000, 60, 5), recipe)
    beside = best_seconds(lambda: held_out(many), 1)
    lines = [
        f"1,000 × 700, 10 classes: one validation takes {1e3 * validated:.0f} ms",
        f"  the page at once {page / validated:.2f} × it ({1e3 * page:.0f} ms), the band behind "
        f"{band / validated:.2f} ×, held-out share {judged / validated:.2f} ×, 199 permutations "
        f"{chance / validated:.2f} ×",
    ]
    for method in ("nearest-centre", "nearest-neighbours"):
        other = grouping_of(many, "", replace_method(method))
        start = time.perf_counter()
        page_of(many)
        at_once = time.perf_counter() - start
        start = time.perf_counter()
        held_out_groups(other)
        seconds = time.perf_counter() - start
        lines.append(
            f"100,000 × 60, 5 classes, {method}: the page {at_once / beside:.2f} × one validation "
            f"({1e3 * at_once:.0f} ms), held-out share {seconds / beside:.2f} ×"
        )
    return lines


def replace_method(method: str) -> GroupSettings:
    """Settings with another way to assign."""
    return recipe_from_plain({"groups": {"method": method}}).groups
