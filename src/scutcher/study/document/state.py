"""The document as one frozen value: data sets, models made of them, and the model that is looked at."""

from __future__ import annotations

from dataclasses import fields, replace

from scutcher.core.computed_once import computed_once
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.parts import (
    BLOCKS,
    NOWHERE,
    DataSet,
    Model,
    SampleUse,
    Source,
    Together,
)
from scutcher.study.document.report_settings import NO_REPORT, ReportSettings


@frozen(eq=False)
class State:
    """All that a study holds.

    Attributes
    ----------
    name : str
        What the study is called on screen.
    datasets : tuple of DataSet
        In the order they came.
    models : tuple of Model
        In the order they were made.
    current : str
        The id of the model that is looked at; "" where there is none.
    colour_by : str
        The class column that colours everything, or "" for none.
    made : int
        How many ids were given.
    blocks : BlocksSettings
        How the data sets are compared as several tables on the same samples.
    report : ReportSettings
        How its report is written.
    together : tuple of Together
        Comparisons of several tables that were put by.
    """

    name: str = "untitled"
    datasets: tuple[DataSet, ...] = ()
    models: tuple[Model, ...] = ()
    current: str = ""
    colour_by: str = ""
    made: int = 0
    blocks: BlocksSettings = BLOCKS
    report: ReportSettings = NO_REPORT
    together: tuple[Together, ...] = ()

    @classmethod
    def of(
        cls,
        name: str,
        table: Table,
        recipe: Recipe | None = None,
        colour_by: str = "",
        source: Source = NOWHERE,
    ) -> State:
        """A state with one data set and one model; what the table has set aside is the model's."""
        bare, use = split_use(table)
        model = Model("m2", "", "d1", recipe=recipe or Recipe(), use=use)
        return cls(name, (DataSet("d1", table.name, bare, source),), (model,), "m2", colour_by, made=2)

    @computed_once
    def model(self) -> Model | None:
        """The current model."""
        return next((model for model in self.models if model.id == self.current), None)

    @computed_once
    def dataset(self) -> DataSet | None:
        """The data set of the current model."""
        model = self.model
        return None if model is None else self.dataset_of(model)

    def dataset_of(self, model: Model) -> DataSet:
        """The data set of a model."""
        return next(data for data in self.datasets if data.id == model.dataset)

    @computed_once
    def table(self) -> Table | None:
        """The data of the current model, with what it sets aside; None before there are any."""
        model = self.model
        return None if model is None else model.use.of(self.dataset_of(model).table)

    @property
    def recipe(self) -> Recipe:
        """The recipe of the current model."""
        model = self.model
        return NO_RECIPE if model is None else model.recipe

    @property
    def source(self) -> Source:
        """Where the data of the current model came from."""
        dataset = self.dataset
        return NOWHERE if dataset is None else dataset.source

    @property
    def named(self) -> tuple[Model, ...]:
        """The models that have a name: those on the shelf, and the current one where it came from there."""
        return tuple(model for model in (*self.models, *self._of_tables) if model.name)

    @property
    def shelf(self) -> tuple[Model, ...]:
        """The models that are not looked at, then those of several tables."""
        return tuple(model for model in (*self.models, *self._of_tables) if model.id != self.current)

    @property
    def _of_tables(self) -> tuple[Model, ...]:
        return tuple(one.model for one in self.together)

    @property
    def needed(self) -> frozenset[str]:
        """The ids of the data sets that some model is made of."""
        members = [member for one in self.together for member in one.members]
        return frozenset(model.dataset for model in (*self.models, *members))

    def together_of(self, ident: str) -> Together | None:
        """A comparison of several tables by the id of its model."""
        return next((one for one in self.together if one.model.id == ident), None)


NO_RECIPE = Recipe()

SHOWN = ("table", "recipe", "source")
"""What listeners hear of beside the fields: properties of the current model."""


def has_several_tables(state: State) -> bool:
    """Whether there are two data sets, or one that was cut."""
    count = len(state.datasets)
    return count > 1 or (count == 1 and len(state.blocks.parts) > 1)


def split_use(table: Table) -> tuple[Table, SampleUse]:
    """A table without what it has set aside, and that."""
    use = SampleUse(table.set_aside, (), table.left_out)
    if not table.set_aside and not table.left_out:
        return table, use
    return replace(table, set_aside={}, left_out={}), use


def changed_fields(before: State, after: State) -> frozenset[str]:
    """The fields that are different objects in the two states; "shelf" where another model is put by."""
    names = [f.name for f in fields(State)] + list(SHOWN)
    changed = {name for name in names if _value(before, name) is not _value(after, name)}
    if changed & {"models", "current", "together"}:
        old, new = before.shelf, after.shelf
        if len(old) != len(new) or any(a is not b for a, b in zip(old, new, strict=True)):
            changed.add("shelf")
    return frozenset(changed)


def _value(state: State, name: str) -> object:
    shown = {"table": state.table, "recipe": state.recipe, "source": state.source}
    return shown[name] if name in shown else vars(state)[name]
