"""Models: fitted to data by a recipe, validated when asked, applied to new samples, drawn, saved and read."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from scutcher.core.computed_once import computed_once
from scutcher.core.errors import FileError, ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.component_model import explained
from scutcher.core.models.pca.saved_model import SavedModel as Core
from scutcher.core.models.pca.saved_model import project
from scutcher.files.model_json import write_model
from scutcher.files.results import component_names
from scutcher.library.data import Data, File
from scutcher.library.projection import Projection
from scutcher.library.recipes import Recipe
from scutcher.study.audit import audit_of
from scutcher.study.document.parts import Source
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import Checked, check, with_slow_lines
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.saving import held_out_columns, saved_model

if TYPE_CHECKING:
    import pandas
    from matplotlib.figure import Figure

    from scutcher.charts.description import Chart

Drawn = Literal["signals", "treated", "scores", "loadings", "distances", "run-order"]


class SavedModel:
    """A model that has left its data: it treats, projects and judges new samples.

    Parameters
    ----------
    model : the model as the rest of Scutcher sees it
    """

    def __init__(self, model: Core) -> None:
        self._model = model

    @property
    def core(self) -> Core:
        """As the rest of Scutcher sees it."""
        return self._model

    @property
    def components(self) -> int:
        """How many are kept."""
        return self._model.k

    def project(self, data: Data, resample: bool = False) -> Projection:
        """Treat new samples as the training set was treated, project them and measure their distances.

        Parameters
        ----------
        resample : bool
            Whether another ordered axis is read onto the model's.

        Raises
        ------
        InputError
            Variables of the model are missing; the first are named.
        """
        judging = self._model.judging()
        return Projection(judging, project(judging, data.table, resample), data.ids)

    def save(self, file: File) -> None:
        """Write it as JSON, sealed, which `scutcher apply` and `load` read."""
        write_model(Path(file), self._model)

    def __repr__(self) -> str:
        return f"<SavedModel of {self._model.k} components, {self._model.samples} samples>"


@frozen(eq=False)
class Model:
    """A model with the data that it was made of.

    Attributes
    ----------
    data : Data
    recipe : Recipe
    evaluation : Evaluation
        As the rest of Scutcher sees it.
    checked : Checked or None
        Validation and evidence, where they were asked for.
    """

    data: Data
    recipe: Recipe
    evaluation: Evaluation
    checked: Checked | None = None

    @property
    def components(self) -> int:
        """How many are kept."""
        return self.evaluation.model.k

    @property
    def treated(self) -> pandas.DataFrame:
        """The samples in the model after the last treatment, neither centred nor scaled."""
        treated = self.evaluation.treated
        return self._frame(treated.values, list(treated.axis.labels))

    @property
    def scores(self) -> pandas.DataFrame:
        """PC1…PCk of each sample in the model."""
        return self._frame(self.evaluation.model.scores, component_names(self.components))

    @property
    def loadings(self) -> pandas.DataFrame:
        """A row for each variable, a column for each component."""
        import pandas

        index = pandas.Index(self.evaluation.treated.axis.labels, name="variable")
        names = component_names(self.components)
        return pandas.DataFrame(self.evaluation.model.loadings, index=index, columns=names)

    @property
    def distances(self) -> pandas.DataFrame:
        """T², Q and joint distance of each sample, whether past its limit, and held out where validated."""
        model = self.evaluation.model
        measured = (
            ("t2", model.t2, model.t2_limit),
            ("q", model.q, model.q_limit),
            ("joint", model.joint, model.joint_limit),
        )
        columns: dict[str, Any] = {name: values for name, values, _ in measured if values is not None}
        flags = {f"{name}_past": model.past(values, limit) for name, values, limit in measured}
        columns |= {name: flag for name, flag in flags.items() if flag is not None}
        if self.checked is not None:
            held = held_out_columns(self.evaluation, self.checked)
            columns |= {name: values for name, values in held if values is not None}
        import pandas

        return pandas.DataFrame(columns, index=self._samples())

    @property
    def explained(self) -> pandas.DataFrame:
        """Of each component its eigenvalue, its share of the variance, and that of all up to it."""
        import pandas

        k, shares = self.components, explained(self.evaluation.decomposition)
        index = pandas.Index(component_names(k), name="component")
        columns = {
            "eigenvalue": self.evaluation.decomposition.eigenvalues[:k],
            "share": shares[:k],
            "together": shares[:k].cumsum(),
        }
        return pandas.DataFrame(columns, index=index)

    @property
    def validation(self) -> pandas.DataFrame:
        """Q², its standard error and PRESS with 1…K components.

        Raises
        ------
        ModelError
            The model was not validated, or could not be.
        """
        import pandas

        found = None if self.checked is None else self.checked.validation
        if found is None:
            why = "it was not asked for" if self.checked is None else self.checked.why_not
            raise ModelError(f"The model was not validated: {why}.", "Fit it with validate=True.")
        index = pandas.RangeIndex(1, len(found.q2) + 1, name="components")
        columns = {"q2": found.q2, "q2_error": found.q2_error, "press": found.press}
        return pandas.DataFrame(columns, index=index)

    @property
    def evidence(self) -> pandas.Series[Any]:
        """How many components each line of evidence suggests; missing where one says nothing."""
        import pandas

        lines = {} if self.checked is None else self.checked.lines
        told = {key: line.suggested for key, line in lines.items()}
        return pandas.Series(told, dtype="Int64", name="suggested")

    @computed_once
    def saved(self) -> SavedModel:
        """The model without its data."""
        return SavedModel(saved_model(self.evaluation, self.checked))

    def project(self, data: Data, resample: bool = False) -> Projection:
        """New samples on the model: see `SavedModel.project`."""
        return self.saved.project(data, resample)

    def save(self, file: File) -> None:
        """Write the model as JSON, sealed, with date, user, files and recipe; `load` reads it."""
        source = Source(paths=tuple(str(path) for path in self.data.files))
        write_model(Path(file), self.saved.core, audit_of(self.evaluation.recipe, source).plain())

    def figure(
        self, what: Drawn = "scores", pair: tuple[int, int] = (1, 2), colour_by: str | None = None
    ) -> Figure:
        """A chart as it would be printed.

        Parameters
        ----------
        what : "signals", "treated", "scores", "loadings", "distances" or "run-order"
        pair : two components, from 1
        colour_by : str, optional
            A class column or a property; the first class column if it is not given.
        """
        from scutcher.charts.emphasis import colouring_of
        from scutcher.charts.figure import DOUBLE, Figure
        from scutcher.charts.printing import draw

        state = self._state(colour_by)
        chart = self._chart(state, what, (pair[0] - 1, pair[1] - 1))
        legend = colouring_of(state).named()[:8] if what != "loadings" else ()
        drawn: Any = draw(chart, Figure(DOUBLE, 90.0, legend=legend))
        return drawn  # type: ignore[no-any-return]

    def _chart(self, state: State, what: Drawn, pair: tuple[int, int]) -> Chart:
        from scutcher.charts.distances import distances, run_order
        from scutcher.charts.loadings import loadings
        from scutcher.charts.scores import scores
        from scutcher.charts.signals import signals

        found = self.evaluation
        makers = {
            "signals": lambda: signals(state, found, 0, False),
            "treated": lambda: signals(state, found, len(found.stages) - 1, False),
            "scores": lambda: scores(state, found, pair),
            "loadings": lambda: loadings(found, pair),
            "distances": lambda: distances(state, found, False),
            "run-order": lambda: run_order(state, found, "q"),
        }
        if what not in makers:
            raise ModelError(f"There is no chart {what!r}.", f"Choose {', '.join(makers)}.")
        return makers[what]()

    def _state(self, colour_by: str | None) -> State:
        table = self.data.table
        first = table.classes[0].name if table.classes else ""
        column = first if colour_by is None else colour_by
        known = {one.name for one in table.classes} | {one.name for one in table.properties} | {""}
        if column not in known:
            raise ModelError(f"There is no column {column!r}.", "Name a class column or a property.")
        return State.of(table.name, table, self.recipe.settings, column)

    def _frame(self, values: Any, names: list[str]) -> pandas.DataFrame:
        import pandas

        return pandas.DataFrame(values, index=self._samples(), columns=names)

    def _samples(self) -> pandas.Index[Any]:
        import pandas

        return pandas.Index(self.evaluation.treated.ids, name="sample")

    def __repr__(self) -> str:
        n, p = self.evaluation.scaled.shape
        return f"<Model of {self.components} components: {n} samples × {p} variables>"


def fit(data: Data, recipe: Recipe | None = None, validate: bool = False) -> Model:
    """Fit a model, the same as the window and the command line make.

    Parameters
    ----------
    recipe : Recipe, optional
        Without one: nothing is treated, an ordered axis is centred, mixed variables are scaled too.
    validate : bool
        Cross-validate as the recipe says, and compute the lines of evidence.

    Raises
    ------
    InputError
        The data, the recipe or the number of components cannot be used.
    """
    chosen = recipe or Recipe()
    found = Evaluator(keeps=False).evaluate(data.table, chosen.settings)
    return Model(data, chosen, found, with_slow_lines(found, check(found)) if validate else None)


def load(file: File) -> SavedModel:
    """Read a model that was saved by the library, the window or the command line.

    Raises
    ------
    FileError
        It is no model of components, or was changed after it was written.
    """
    from scutcher.files.class_models_json import read_any_model

    model = read_any_model(Path(file))
    if not isinstance(model, Core):
        raise FileError(f"{Path(file).name} holds no model of components.", "Use `scutcher apply` for it.")
    return SavedModel(model)
