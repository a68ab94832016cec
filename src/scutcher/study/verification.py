"""What still holds of a study or a model: whether it is whole, and whether its files are those of then."""

from __future__ import annotations

from pathlib import Path

from scutcher.core.blocks.saved_blocks import SavedBlocks
from scutcher.core.errors import FileError, InputError
from scutcher.core.frozen import frozen
from scutcher.core.unmixing.saved_mixture import SavedMixture
from scutcher.core.words import count_of
from scutcher.files.class_models_json import AnyModel, read_any_model
from scutcher.files.content_seal import KEY
from scutcher.files.hashes import content_hash
from scutcher.files.model_json import read_plain
from scutcher.files.report_seal import log_seal_of, seal_holds
from scutcher.files.safely import reading
from scutcher.files.signing import signature_of, signature_path
from scutcher.study.document.parts import DataSet, Model
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.storage.study_file import StudyFile


@frozen
class Finding:
    """One thing that was looked at.

    Attributes
    ----------
    holds : bool or None
        None where it cannot be told.
    words : str
        A sentence.
    """

    holds: bool | None
    words: str


def verified(path: Path) -> tuple[Finding, ...]:
    """Look at a study, a report or a model, and at the signature beside it.

    Raises
    ------
    FileError
        There is no such file, or it is neither.
    """
    if not path.exists():
        raise FileError(f"There is no file {path.name}.", "Check the name.")
    kinds = {".scutch": _of_study, ".json": _of_model, ".html": _of_report, ".pdf": _of_report}
    look = kinds.get(path.suffix.lower())
    if look is None:
        raise FileError(
            f"{path.name} is neither a study, a report nor a model of Scutcher.",
            "Name a .scutch file, a report or a model.json.",
        )
    return (*look(path), *_of_signature(path))


def _of_signature(path: Path) -> tuple[Finding, ...]:
    """What the signature beside a file says; nothing where there is none."""
    signature = signature_of(path)
    if signature is not None and signature.holds:
        return (Finding(True, f"{signature_path(path).name} signs it with the key {signature.key}."),)
    if signature is not None:
        return (Finding(False, f"{signature_path(path).name} does not sign this file as it is."),)
    if signature_path(path).exists():
        return (Finding(None, f"{signature_path(path).name} cannot be checked without ssh-keygen."),)
    return ()


def _of_report(path: Path) -> tuple[Finding, ...]:
    with reading(path):
        content = path.read_bytes()
    holds = seal_holds(content)
    if holds is None:
        return (Finding(None, f"{path.name} bears no seal, so a change would not be seen."),)
    if not holds:
        return (Finding(False, f"{path.name} was changed after it was written: its seal does not fit."),)
    log = log_seal_of(content)
    told = f" It tells of a log whose last seal is {log}." if log else ""
    return (Finding(True, f"{path.name} is as Scutcher wrote it: its content has its seal.{told}"),)


def _of_model(path: Path) -> tuple[Finding, ...]:
    try:
        sealed = KEY in read_plain(path)
        model = read_any_model(path)
    except InputError as error:
        return (Finding(False, error.problem),)
    if sealed:
        seal = Finding(True, f"{path.name} is as Scutcher wrote it: its content has its hash.")
    else:
        seal = Finding(None, f"{path.name} has no hash, so a change would not be seen; write it again.")
    return (seal, Finding(True, _words_of(model)))


def _words_of(model: AnyModel) -> str:
    if isinstance(model, list):
        return f"It holds the models of {count_of(len(model), 'class')}, and all of them can be used."
    if isinstance(model, SavedBlocks):
        return f"It holds what {count_of(model.blocks, 'table')} share, and it can be used."
    if isinstance(model, SavedMixture):
        return "It holds the shapes of a mixture, and they can be used."
    what = f"{count_of(model.k, 'component')} of {count_of(model.samples)}"
    return f"It holds a model of {what} over {len(model.axis):,} variables, and it can be used."


def _of_study(path: Path) -> tuple[Finding, ...]:
    try:
        file = StudyFile.open(path)
    except FileError as error:
        return (Finding(False, error.problem),)
    try:
        state, log, altered = file.state(file.history.place.now), file.history.log(), file.altered
    finally:
        file.close()
    if altered:
        whole = Finding(
            False, f"{path.name} was changed by another program: {altered} does not bear its seal."
        )
    else:
        decisions = count_of(len(log), "decision")
        whole = Finding(True, f"{path.name} is as Scutcher wrote it, with a log of {decisions}.")
    sources = [_of_source(data) for data in state.datasets]
    return (whole, *sources, *(_of_fit(state, model) for model in state.models))


def _of_source(data: DataSet) -> Finding:
    source = data.source
    if not source.paths:
        return Finding(None, f"{data.name} did not come from a file.")
    if len(source.contents) != len(source.paths):
        return Finding(None, f"{data.name}: no hash was kept of {Path(source.paths[0]).name}.")
    for name, content in zip(source.paths, source.contents, strict=True):
        path = Path(name)
        if not path.exists():
            return Finding(None, f"{data.name}: {path} is not there, so it cannot be compared.")
        if content_hash(path) != content:
            return Finding(False, f"{data.name}: {path} is not the file that was read; its contents differ.")
    what = Path(source.paths[0]).name if len(source.paths) == 1 else count_of(len(source.paths), "file")
    return Finding(True, f"{data.name} came from {what}, unchanged since (SHA-256).")


def _of_fit(state: State, model: Model) -> Finding:
    """Whether the decisions can be carried out again."""
    named = f"Model {model.name}" if model.name else "The model"
    table = model.use.of(state.dataset_of(model).table)
    try:
        found = Evaluator(keeps=False).evaluate(table, model.recipe)
    except InputError as error:
        return Finding(False, f"{named} cannot be fitted: {error.problem}")
    samples, k = count_of(found.scaled.shape[0]), count_of(found.model.k, "component")
    return Finding(True, f"{named} can be fitted again: {k} of {samples}.")
