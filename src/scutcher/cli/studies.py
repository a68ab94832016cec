"""What is in a study that a command names."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from scutcher.core.errors import FileError

if TYPE_CHECKING:
    from scutcher.core.data.table import Table
    from scutcher.core.models.pca.saved_model import SavedModel
    from scutcher.core.recipes.recipe import Recipe
    from scutcher.study.document.state import State
    from scutcher.study.storage.history import LogEntry


def study_of(path: Path) -> tuple[State, tuple[LogEntry, ...]]:
    """State and log of a study file that holds data.

    Raises
    ------
    FileError
    """
    from scutcher.study.storage.study_file import StudyFile

    if not path.exists():
        raise FileError(f"There is no study {path.name}.", "Check the name.")
    file = StudyFile.open(path)
    try:
        state, log = file.state(file.history.place.now), tuple(file.history.log())
    finally:
        file.close()
    if state.table is None:
        raise FileError(f"{path.name} holds no data, so there is no model in it.", "Name another study.")
    return state, log


def study_seal(path: Path) -> tuple[str, str]:
    """The seal of the last decision of a study file, and what in it was changed by another program."""
    from scutcher.study.storage.study_file import StudyFile

    file = StudyFile.open(path)
    try:
        return file.history.log_seal(), file.altered
    finally:
        file.close()


def model_of_study(path: Path) -> SavedModel:
    """The model of a study, fitted and validated anew."""
    from scutcher.study.evaluation.checks import validated
    from scutcher.study.evaluation.evaluator import Evaluator
    from scutcher.study.evaluation.saving import saved_model

    state, _ = study_of(path)
    assert state.table is not None
    found = Evaluator(keeps=False).evaluate(state.table, state.recipe)
    return saved_model(found, validated(found))


def component_model_of(path: Path) -> SavedModel:
    """The one component model of a study or a model.json.

    Raises
    ------
    FileError
        It holds shapes, or models of classes.
    """
    from scutcher.core.models.pca.saved_model import SavedModel
    from scutcher.files.class_models_json import read_any_model

    model = model_of_study(path) if path.suffix == ".scutch" else read_any_model(path)
    if not isinstance(model, SavedModel):
        raise FileError(f"{path.name} holds no single component model.", "Name a model.json of scutcher fit.")
    return model


def write_study(
    path: Path,
    table: Table,
    recipe: Recipe,
    files: Sequence[Path] = (),
    roles: Sequence[tuple[str, str]] = (),
    resampled: bool = False,
) -> Path:
    """A new study file of data and a recipe; the files, with their roles, are where the data came from."""
    from scutcher.files.hashes import content_hash
    from scutcher.study.document.parts import Source
    from scutcher.study.document.state import State
    from scutcher.study.storage.study_file import StudyFile

    source = Source(
        tuple(str(file.absolute()) for file in files),
        tuple(roles),
        resampled=resampled,
        reading=table.origin.reading if len(files) == 1 else (),
        contents=tuple(map(content_hash, files)),
    )
    colour_by = table.classes[0].name if table.classes else ""
    StudyFile.create(path, State.of(path.stem, table, recipe, colour_by, source)).close()
    return path
