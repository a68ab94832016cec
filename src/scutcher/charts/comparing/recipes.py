"""Two recipes in words: what both do, what only one does, and what was changed from A to B."""

from __future__ import annotations

from difflib import SequenceMatcher

import msgspec
from msgspec.structs import replace

from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import Recipe, ScaleSettings, Step
from scutcher.core.words import count_of, shown
from scutcher.study.document.commands.recipe import from_to
from scutcher.study.evaluation.comparison import Comparison
from scutcher.study.evaluation.comparison_sides import Side

MOST_NAMED = 5
"""Samples or variables that are named; the others are counted."""

CENTRES = {"mean": "centred by the mean", "median": "centred by the median", "none": "not centred"}


@frozen
class RecipeWords:
    """Sentences under `both`, `changed` (A → B), `only_a` and `only_b`."""

    both: tuple[str, ...]
    changed: tuple[str, ...]
    only_a: tuple[str, ...]
    only_b: tuple[str, ...]

    def rows(self) -> list[tuple[str, str]]:
        """Each that says something, with its heading."""
        headed = zip(
            ("both", "A → B", "only A", "only B"),
            (self.both, self.changed, self.only_a, self.only_b),
            strict=True,
        )
        return [(heading, " · ".join(words)) for heading, words in headed if words]


def recipe_words(compared: Comparison) -> RecipeWords:
    """What the two models do to which samples."""
    both: list[str] = []
    changed: list[str] = []
    only_a: list[str] = []
    only_b: list[str] = []
    a, b = compared.a, compared.b
    if a.tables or b.tables:
        return _of_tables(a, b)
    for same, one, two in (
        (_data(a) == _data(b), _data(a), _data(b)),
        (_scaling(a) == _scaling(b), _scaling(a), _scaling(b)),
    ):
        if same:
            both.append(one)
        else:
            only_a.append(one)
            only_b.append(two)
    _compare_left_out(a, b, both, only_a, only_b)
    _compare_steps(a, b, both, changed, only_a, only_b)
    k = a.found.model.k, b.found.model.k
    if k[0] == k[1]:
        both.append(count_of(k[0], "component"))
    else:
        changed.append(f"components {k[0]} → {k[1]}")
    changed += _other_settings(a.found.recipe, b.found.recipe)
    return RecipeWords(tuple(both), tuple(changed), tuple(only_a), tuple(only_b))


def _of_tables(a: Side, b: Side) -> RecipeWords:
    """Where one of them is made of several tables: what is done to each, table by table."""
    one, two = (
        [*side.tables, *_counts(side)] if side.tables else [_data(side), _scaling(side), *_steps(side)]
        for side in (a, b)
    )
    both = tuple(words for words in one if words in two)
    mine, theirs = (tuple(words for words in own if words not in both) for own in (one, two))
    return RecipeWords(both, (), mine, theirs)


def _counts(side: Side) -> list[str]:
    return [count_of(side.found.model.k, "shared component")]


def _steps(side: Side) -> list[str]:
    return [step_words(step) for step in side.found.run_recipe.treat if step.on] or ["untreated"]


def _data(side: Side) -> str:
    table = side.found.table
    return f"{table.name}: {shown(side.found.scaled.shape[0], ',')} of {count_of(table.shape[0], 'sample')}"


def _scaling(side: Side) -> str:
    scaling: ScaleSettings = side.found.scaling
    divided = "not scaled" if scaling.method == "none" else f"scaled by {scaling.method}"
    return f"{CENTRES[scaling.centre]}, {divided}"


def _compare_left_out(a: Side, b: Side, both: list[str], only_a: list[str], only_b: list[str]) -> None:
    """Samples that are set aside and variables that are left out."""
    for words, of in (("set aside", _set_aside), ("left out", _left_out)):
        one, two = of(a), of(b)
        for names, into in ((one & two, both), (one - two, only_a), (two - one, only_b)):
            if names:
                into.append(f"{_named(names)} {words}")


def _set_aside(side: Side) -> frozenset[str]:
    table = side.found.table
    return frozenset(table.ids[row] for row in table.set_aside)


def _left_out(side: Side) -> frozenset[str]:
    table = side.found.table
    return frozenset(table.axis.name(column) for column in table.left_out)


def _named(names: frozenset[str]) -> str:
    told = sorted(names)
    more = len(told) - MOST_NAMED
    return ", ".join(told) if more <= 1 else f"{', '.join(told[:MOST_NAMED])} and {more} more"


def step_words(step: Step) -> str:
    """`Savitzky–Golay (15 pt, 2nd derivative)`; the abbreviation alone where that is all there is to say."""
    short = step.treatment.short(step.parameters)
    if not short or short.isupper():
        return short or step.treatment.name
    return f"{step.treatment.name} ({short})"


def _compare_steps(
    a: Side, b: Side, both: list[str], changed: list[str], only_a: list[str], only_b: list[str]
) -> None:
    """Treatments in their order; the same method with other settings was changed."""
    one, two = ([step for step in side.found.run_recipe.treat if step.on] for side in (a, b))
    if not one and not two:
        both.append("untreated")
        return
    matcher = SequenceMatcher(None, [s.method for s in one], [s.method for s in two], autojunk=False)
    for tag, start, end, begin, stop in matcher.get_opcodes():
        if tag == "equal":
            for was, now in zip(one[start:end], two[begin:stop], strict=True):
                if was.parameters == now.parameters:
                    both.append(step_words(was))
                else:
                    changed.append(f"{was.treatment.name}: {from_to(was.parameters, now.parameters)}")
        else:
            only_a += map(step_words, one[start:end])
            only_b += map(step_words, two[begin:stop])


def _other_settings(a: Recipe, b: Recipe) -> list[str]:
    """What differs in how gaps, limits, validation and shapes are dealt with."""
    found: list[str] = []
    settings: tuple[tuple[str, msgspec.Struct, msgspec.Struct], ...] = (
        ("model", replace(a.model, components=None), replace(b.model, components=None)),
        ("limits", a.limits, b.limits),
        ("validation", a.validate, b.validate),
        ("shapes", replace(a.unmix, shapes=()), replace(b.unmix, shapes=())),
    )
    found += [f"{heading}: {from_to(was, now)}" for heading, was, now in settings if was != now]
    names = [tuple(shape.name for shape in recipe.unmix.shapes) for recipe in (a, b)]
    if names[0] != names[1]:
        said = [" + ".join(one) or "none given" for one in names]
        found.append(f"shapes {said[0]} → {said[1]}")
    return found
