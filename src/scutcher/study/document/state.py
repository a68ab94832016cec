"""The document as one frozen value: data sets, models made of them, and the model that is looked at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from types import MappingProxyType

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.layouts import Layout, NoLayout
from scutcher.core.data.table import Table
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.report_settings import NO_REPORT, ReportSettings

WATCHED = "watched: shown on the model, no part of it"
"""The reason under which a table names the samples that a model watches."""


@dataclass(frozen=True)
class Source:
    """Where the data came from, and which role each column was given: so that it can be read again.

    Attributes
    ----------
    paths : tuple of str
        Absolute; empty where the data did not come from files.
    roles : tuple of (column, role)
        Roles that a person gave; the others were guessed.
    sheet : str
        Of a workbook, or the matrix of a file; "" for the first that suits.
    resampled : bool
        Whether different axes were brought onto their common channels.
    reading : tuple of (key, text)
        How the cells are laid out, as far as it is known: see `files.layout.reading`.
    mends : tuple of str
        What was mended in reading, where it would have been refused: keys of `MENDS`.
    contents : tuple of str
        SHA-256 of each file when it was read, in the order of the paths; empty where it was not taken.
    """

    paths: tuple[str, ...] = ()
    roles: tuple[tuple[str, str], ...] = ()
    sheet: str = ""
    resampled: bool = False
    reading: tuple[tuple[str, str], ...] = ()
    mends: tuple[str, ...] = ()
    contents: tuple[str, ...] = ()


NOWHERE = Source()

BLOCKS = BlocksSettings()


@dataclass(frozen=True, eq=False)
class DataSet:
    """A table as it was brought in, with where it came from.

    Attributes
    ----------
    id : str
        Never changes and is never used again in the study.
    name : str
    table : Table
        Nothing in it is set aside or left out: that belongs to the models.
    source : Source
    layout : Layout
    """

    id: str
    name: str
    table: Table
    source: Source = NOWHERE
    layout: Layout = field(default_factory=NoLayout)


@dataclass(frozen=True, eq=False)
class SampleUse:
    """Which samples and variables of its data set a model uses; the others are trained on.

    Attributes
    ----------
    set_aside : mapping of row → reason
    watched : tuple of int
        Rows that are shown on the model and make no part of it, rising.
    left_out : mapping of column → reason
    """

    set_aside: Mapping[int, str] = field(default_factory=dict)
    watched: tuple[int, ...] = ()
    left_out: Mapping[int, str] = field(default_factory=dict)
    _seen: list[tuple[Table, Table]] = field(default_factory=list, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "set_aside", MappingProxyType(dict(self.set_aside)))
        object.__setattr__(self, "left_out", MappingProxyType(dict(self.left_out)))

    def of(self, table: Table) -> Table:
        """The table as the model uses it; the same object for the same table."""
        if not self._seen or self._seen[0][0] is not table:
            watched = {row: WATCHED for row in self.watched if row not in self.set_aside}
            aside = dict(sorted({**self.set_aside, **watched}.items()))
            used = replace(table, set_aside=aside, left_out=self.left_out)
            self._seen[:] = [(table, used)]
        return self._seen[0][1]

    def same(self, other: SampleUse) -> bool:
        """Whether both use the same samples and variables, for the same reasons."""
        return (self.set_aside, self.watched, self.left_out) == (
            other.set_aside,
            other.watched,
            other.left_out,
        )


@dataclass(frozen=True, eq=False)
class Reached:
    """What a model had reached when it was put by.

    Attributes
    ----------
    figures : tuple of (name, value)
        Samples, variables, R², Q² and so on.
    scores : (n, 2) float array
        Its score plane, for a small picture; one column where only one component was kept.
    codes : (n,) int array
        The class of each of these samples then, −1 for none.
    """

    figures: tuple[tuple[str, float], ...]
    scores: Floats
    codes: Integers

    def figure(self, key: str) -> float | None:
        """One of its figures."""
        return dict(self.figures).get(key)


@dataclass(frozen=True, eq=False)
class Model:
    """What a model is made from; what comes of it is computed.

    Attributes
    ----------
    id : str
        Never changes and is never used again in the study.
    name : str
    dataset : str
        The id of the data set it is made of.
    kind : str
        A key of `core.models.all_kinds`.
    recipe : Recipe
        Treatments, scaling and settings.
    use : SampleUse
        Which samples and variables.
    reached : Reached or None
        Of a model that was put by.
    """

    id: str
    name: str
    dataset: str
    kind: str = "pca"
    recipe: Recipe = field(default_factory=Recipe)
    use: SampleUse = field(default_factory=SampleUse)
    reached: Reached | None = None

    def figure(self, key: str) -> float | None:
        """One of the figures it had reached when it was put by."""
        return None if self.reached is None else self.reached.figure(key)

    def same_inputs(self, other: Model) -> bool:
        """Whether both are made from the same."""
        return (self.dataset, self.kind, self.recipe) == (
            other.dataset,
            other.kind,
            other.recipe,
        ) and self.use.same(other.use)


TOGETHER = "blocks"
"""The kind of a model that is made of several tables."""


@dataclass(frozen=True, eq=False)
class Together:
    """Several tables on the same samples, as they were compared when the comparison was put by.

    Attributes
    ----------
    model : Model
        Its id, its name and what it had reached; of the kind `TOGETHER`, and of the first table's data set.
    settings : BlocksSettings
    members : tuple of Model
        Data set, treatments and samples of each table.
    """

    model: Model
    settings: BlocksSettings
    members: tuple[Model, ...]


@dataclass(frozen=True, eq=False)
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

    @property
    def model(self) -> Model | None:
        """The current model."""
        return next((model for model in self.models if model.id == self.current), None)

    @property
    def dataset(self) -> DataSet | None:
        """The data set of the current model."""
        model = self.model
        return None if model is None else self.dataset_of(model)

    def dataset_of(self, model: Model) -> DataSet:
        """The data set of a model."""
        return next(data for data in self.datasets if data.id == model.dataset)

    @property
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
