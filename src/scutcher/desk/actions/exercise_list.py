"""Three exercises on made-up data with known answers: each looks at what one did."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from msgspec.structs import replace as changed

from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.constant_variables import leave_out_dead
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.state import State


@frozen
class Verdict:
    """Whether an exercise is solved, and what is said to whoever did it."""

    solved: bool
    words: str


@frozen(eq=False)
class Exercise:
    """Something to do in the window.

    Attributes
    ----------
    key, title, task : str
    begin : function
        The data and recipe that it begins with.
    check : function of the state and of the rows that are picked
    """

    key: str
    title: str
    task: str
    begin: Callable[[], tuple[Table, Recipe]]
    check: Callable[[State, Sequence[int]], Verdict]


NAMES = {"wet": "exercise: a wet lot", "rank": "exercise: how many", "leak": "exercise: a leak"}
"""What the data of each exercise are called."""


def is_begun(state: State, key: str) -> bool:
    """Whether the study holds the data of an exercise."""
    return state.table is not None and state.table.name == NAMES[key]


def _lots(key: str) -> tuple[Table, Recipe]:
    from scutcher.demo.sets import demo_recipe, demo_set

    return replace(leave_out_dead(demo_set("intake-nir")[0]), name=NAMES[key]), demo_recipe("intake-nir")


def _wet() -> tuple[Table, Recipe]:
    return _lots("wet")


def _check_wet(state: State, picked: Sequence[int]) -> Verdict:
    table = state.table
    assert table is not None and table.replicates is not None
    lots = table.replicates
    wet = {row for row, name in enumerate(lots) if name == "L17"}
    chosen = set(picked) or set(table.set_aside)
    if not chosen:
        return Verdict(False, "Nothing is picked or set aside yet: pick the scans that you think are wet.")
    if chosen == wet:
        return Verdict(True, "Yes: L17. The water bands at 1450 and 1940 nm stand above all others.")
    if chosen & wet and chosen - wet:
        return Verdict(False, "The wet lot is among them, but others are too.")
    if chosen < wet:
        return Verdict(False, "That is it, but not all of it: a lot was scanned more than once.")
    return Verdict(False, "These are not wet: look at 1450 and 1940 nm in their spectra.")


def _rank() -> tuple[Table, Recipe]:
    from scutcher.demo.sets import demo_recipe, demo_set

    recipe = demo_recipe("practice")
    table = replace(demo_set("practice")[0], name=NAMES["rank"])
    return table, changed(recipe, model=changed(recipe.model, components=6))


def _check_rank(state: State, picked: Sequence[int]) -> Verdict:
    from scutcher.demo.practice import COMPONENTS

    k = state.recipe.model.components
    if k == COMPONENTS:
        return Verdict(True, f"Yes: {COMPONENTS}. The held-out error is lowest there, and the rest is noise.")
    if k is None:
        return Verdict(False, "No number was chosen yet: look at Rank, then drag the handle.")
    side = "more" if k < COMPONENTS else "fewer"
    return Verdict(False, f"Not {k}: {side}. Look at what held-out samples say on Rank.")


def _leak() -> tuple[Table, Recipe]:
    table, recipe = _lots("leak")
    assert table.replicates is not None
    lots = ClassColumn("lot", tuple(table.replicates))
    bare = replace(table, replicates=None, classes=(*table.classes, lots))
    return bare, changed(recipe, validate=changed(recipe.validate, scheme="one-out"))


def _check_leak(state: State, picked: Sequence[int]) -> Verdict:
    asked = state.recipe.validate
    if asked.scheme == "class" and asked.column == "lot":
        return Verdict(True, "Yes: now the scans of a lot are left out together.")
    if asked.scheme == "class":
        by = asked.column or "the first column"
        return Verdict(False, f"Left out by {by}: that says nothing of the lots.")
    if asked.scheme == "none":
        return Verdict(False, "Without a held-out check there is no leak, and no proof either.")
    return Verdict(False, "Scans of one lot are still on both sides: leave them out together, on Rank.")


EXERCISES = (
    Exercise(
        "wet",
        "Find the wet lot",
        "One of 48 lots came in wet. Pick its scans, all of them and no others (or set them aside).",
        _wet,
        _check_wet,
    ),
    Exercise(
        "rank",
        "How many components?",
        "Six components are kept of data that were made with fewer. Keep as many as there are.",
        _rank,
        _check_rank,
    ),
    Exercise(
        "leak",
        "A leak",
        "Three scans of each lot, and every scan is left out alone: its siblings give it away. Mend the "
        "check: what is held out must never have been seen. The column lot says which scans belong together.",
        _leak,
        _check_leak,
    ),
)
