"""Commands on several tables: how they are matched and compared."""

from __future__ import annotations

from dataclasses import replace

from msgspec import structs

from scutcher.core.blocks.matching import REPEATS
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.commands.shelf import OpenModel, free_name
from scutcher.study.document.parts import TOGETHER, Model, Reached, Together
from scutcher.study.document.state import State


@frozen
class BlocksBy:
    """Other settings of the comparison of the data sets."""

    settings: BlocksSettings

    def label(self, state: State) -> str:
        return "Blocks: " + _said(state.blocks, self.settings)

    def apply(self, state: State) -> State:
        return state if self.settings == state.blocks else replace(state, blocks=self.settings)


@frozen(eq=False)
class PutTogetherBy:
    """Put the comparison of several tables on the shelf.

    Attributes
    ----------
    name : str
    members : tuple of Model
        The model whose treatments and samples each table has.
    reached : Reached
        Its figures and its consensus plane.
    """

    name: str
    members: tuple[Model, ...]
    reached: Reached

    def label(self, state: State) -> str:
        return f"Put {free_name(state, self.name)} on the shelf"

    def apply(self, state: State) -> State:
        if max(len(self.members), len(state.blocks.parts)) < 2:
            raise InputError("There are not two tables to be compared.", "Add a data set first.")
        made = state.made + 1
        model = Model(
            f"m{made}",
            free_name(state, self.name),
            self.members[0].dataset,
            TOGETHER,
            Recipe(blocks=state.blocks),
            reached=self.reached,
        )
        members = tuple(replace(member, name="", reached=None) for member in self.members)
        put = Together(model, state.blocks, members)
        return replace(state, together=(*state.together, put), made=made)


@frozen
class OpenTogether:
    """Compare the tables again as they were when the comparison was put by.

    Each table gets the treatments and samples that it had: of a model that is there, or of a new one; the
    models of before stay on the shelf.
    """

    id: str

    def label(self, state: State) -> str:
        put = state.together_of(self.id)
        return f"Open {'a comparison' if put is None else put.model.name}"

    def apply(self, state: State) -> State:
        put = state.together_of(self.id)
        if put is None:
            raise InputError("This comparison is not in the study any more.", "Nothing was changed.")
        look_at = ""
        for member in put.members:
            state, ident = _brought_back(state, member, put.model.name)
            if state.dataset is not None and member.dataset == state.dataset.id:
                look_at = ident
        if look_at and look_at != state.current:
            state = OpenModel(look_at, "model of before").apply(state)
        inside = {member.dataset for member in put.members}
        without = tuple(data.name for data in state.datasets if data.id not in inside)
        return replace(state, blocks=structs.replace(put.settings, without=without))


def _brought_back(state: State, member: Model, name: str) -> tuple[State, str]:
    """The state with a model as a table had it, made last, so that it is that table's; and its id."""
    known = next((model for model in state.models if model.same_inputs(member)), None)
    made = state.made if known is not None else state.made + 1
    model = known or replace(member, id=f"m{made}", name=free_name(state, name))
    others = tuple(old for old in state.models if old is not model)
    return replace(state, models=(*others, model), made=made), model.id


def _said(before: BlocksSettings, after: BlocksSettings) -> str:
    words = []
    if before.match != after.match:
        words.append(f"matched by {after.match or 'id'}")
    if before.repeats != after.repeats:
        words.append(REPEATS[after.repeats])
    old, new = dict(before.ranks), dict(after.ranks)
    words += [f"{name} in {k} components" for name, k in new.items() if old.get(name) != k]
    words += [f"components of {name} as suggested" for name in old if name not in new]
    counted, count_now = dict(before.counts), dict(after.counts)
    words += [
        f"{k} in common to {' and '.join(names)}" for names, k in count_now.items() if counted.get(names) != k
    ]
    words += [f"as found for {' and '.join(names)}" for names in counted if names not in count_now]
    words += [f"without {name}" for name in after.without if name not in before.without]
    words += [f"with {name}" for name in before.without if name not in after.without]
    for key, name in (("level", "level"), ("floor", "least agreement"), ("permutations", "draws")):
        one, two = getattr(before, key), getattr(after, key)
        if one != two:
            words.append(f"{name} {one:g} → {two:g}")
    if before.weights != after.weights:
        words.append("weighted by variance" if after.weights == "variance" else "each table weighs the same")
    old_factors, new_factors = dict(before.factors), dict(after.factors)
    words += [f"{name} counts {k:g} times" for name, k in new_factors.items() if old_factors.get(name) != k]
    words += [f"{name} counts once" for name in old_factors if name not in new_factors]
    if before.series != after.series:
        words.append("samples follow each other" if after.series else "samples stand for themselves")
    if before.parts != after.parts:
        words.append(f"{len(after.parts)} parts" if after.parts else "whole tables")
    return "; ".join(words) or "other settings"
