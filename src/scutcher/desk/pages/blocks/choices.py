"""How the tables are matched and compared: the choices of one menu, as commands."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Any

from msgspec.structs import replace

from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.matching import REPEATS
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.words import shown
from scutcher.desk.actions.cutting import whole_again
from scutcher.desk.context import Desk
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.study.document.commands.blocks import BlocksBy
from scutcher.study.document.commands.shelf import OpenModel
from scutcher.study.evaluation.blocks import members_of

FLOORS = {0.3: "a loose agreement (0.3) is enough", 0.5: "half the same (0.5)", 0.8: "nearly the same (0.8)"}


@dataclass(eq=False)
class BlockChoices:
    """Everything it changes is a command of the study."""

    desk: Desk
    fitted: FittedBlocks | None = None

    @property
    def settings(self) -> BlocksSettings:
        """Of the study."""
        return self.desk.moment.state.blocks

    def change(self, **fields: Any) -> bool:
        """One command with other settings."""
        return self.desk.do(BlocksBy(replace(self.settings, **fields)))

    def fill(self, menu: ChoiceMenu) -> None:
        """Tables, matching, components, strictness."""
        state = self.desk.moment.state
        for dataset in state.datasets:
            inside = dataset.name not in self.settings.without
            menu.add(f"{dataset.name} is a block", inside, partial(self.turn, dataset.name))
        menu.line()
        for member in members_of(state):
            now = state.dataset is member.dataset
            menu.add(f"treat and look at {member.dataset.name}", now, partial(self.open, member.model.id))
        if self.settings.parts:
            menu.add("one whole table again", False, partial(whole_again, self.desk))
        menu.line()
        names = dict.fromkeys(level.name for dataset in state.datasets for level in dataset.table.classes)
        menu.add("matched by id or repeats", not self.settings.match, partial(self.change, match=""))
        for name in names:
            menu.add(f"matched by {name}", self.settings.match == name, partial(self.change, match=name))
        repeats = self.settings.repeats
        if repeats != "mean" or (self.fitted is not None and self.fitted.matched.has_repeats):
            menu.line()
            for how, words in REPEATS.items():
                menu.add(words, repeats == how, partial(self.change, repeats=how))
        if self.fitted is not None:
            menu.line()
            for name, block in zip(self.fitted.names, self.fitted.model.blocks, strict=True):
                more = f"one component more of {name} ({block.r})"
                menu.add(more, False, partial(self.rank, name, block.r + 1))
                if block.r > 1:
                    fewer = f"one component fewer of {name}"
                    menu.add(fewer, False, partial(self.rank, name, block.r - 1))
            if self.settings.ranks or self.settings.counts:
                as_found = partial(self.change, ranks=(), counts=())
                menu.add("components as suggested", False, as_found)
        menu.line()
        weights = self.settings.weights
        menu.add("each table weighs the same", weights == "same", partial(self.change, weights="same"))
        menu.add("weighs by its variance", weights == "variance", partial(self.change, weights="variance"))
        for dataset in state.datasets:
            twice = dict(self.settings.factors).get(dataset.name, 1.0) != 1.0
            menu.add(f"{dataset.name} counts twice", twice, partial(self.weigh, dataset.name))
        menu.line()
        for floor, words in FLOORS.items():
            menu.add(words, self.settings.floor == floor, partial(self.change, floor=floor))
        for level in (0.95, 0.99):
            words = f"chance bounds at {shown(100 * level)} %"
            menu.add(words, self.settings.level == level, partial(self.change, level=level))
        series = self.settings.series
        menu.add("samples follow each other", series, partial(self.change, series=not series))

    def turn(self, name: str) -> None:
        """Whether a data set is a block."""
        without = self.settings.without
        kept = tuple(n for n in without if n != name) if name in without else (*without, name)
        self.change(without=kept)

    def weigh(self, name: str) -> None:
        """A table counts twice in the axes of what is shared, or once again."""
        factors = dict(self.settings.factors)
        if factors.pop(name, 1.0) == 1.0:
            factors[name] = 2.0
        self.change(factors=tuple(factors.items()))

    def rank(self, name: str, count: int) -> None:
        """Another number of components of a block."""
        ranks = {**dict(self.settings.ranks), name: min(max(count, 1), 20)}
        self.change(ranks=tuple(ranks.items()))

    def decide(self, names: tuple[str, ...], count: int) -> None:
        """So many components for a set of tables, whatever the rule says; for one table of its own ones."""
        if self.fitted is None:
            return
        if len(names) > 1:
            kept = [(chosen, old) for chosen, old in self.settings.counts if set(chosen) != set(names)]
            self.change(counts=(*kept, (tuple(names), count)))
            return
        place = self.fitted.names.index(names[0])
        own = len(self.fitted.model.of((place,)))
        self.rank(names[0], self.fitted.model.blocks[place].r + count - own)

    def open(self, ident: str) -> None:
        """Look at the model of a block: its trail is that block's treatments."""
        model = self.desk.moment.state.model
        if model is not None and model.id != ident:
            name = self.desk.moment.state.dataset_of(model).name
            self.desk.do(OpenModel(ident, name))
