"""Which study a start shows: a demo, a file, those that were open the last time; there is always one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from scutcher.core.data.constant_variables import leave_out_dead
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.study.document.commands.data import AddDataSet
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.session import session


def demo_study(name: str) -> Study:
    """A study of a demo set, with its recipe."""
    from scutcher.demo.sets import THREE, demo_recipe, demo_set, three_tables

    if name == THREE:
        study = Study(State(THREE))
        for own, recipe in three_tables():
            study.do(AddDataSet(own.name, leave_out_dead(own), recipe))
        return Study(replace(study.state, name=THREE))
    table = leave_out_dead(demo_set(name)[0])
    return Study(State.of(name, table, demo_recipe(name), table.classes[0].name if table.classes else ""))


@frozen
class Begun:
    """What the first window shows.

    Attributes
    ----------
    study : Study
    trouble : InputError or None
        What stood in the way, to be said there.
    damaged : Path or None
        A study that could not be opened, and may be rescued.
    fresh : bool
        Whether it is to have a file of its own, which it gets behind the first frame.
    """

    study: Study
    trouble: InputError | None = None
    damaged: Path | None = None
    fresh: bool = False


def first_study(files: Sequence[Path], demo: str | None) -> Begun:
    """The study that a call asks for: a demo, a study file, else the last one that was not put away.

    There is always one: what cannot be opened or kept is said in the window.
    """
    if demo is not None:
        return Begun(demo_study(demo), fresh=True)
    for path in asked_for(files)[:1]:
        try:
            return Begun(Study.open(path))
        except InputError as error:
            return Begun(Study(), error, path, fresh=True)
    return Begun(Study(), fresh=True)


def asked_for(files: Sequence[Path]) -> list[Path]:
    """The studies that a call asks for: the one it names, or those that were open the last time."""
    named = [path for path in files if path.suffix == places.SUFFIX]
    if named or files:
        return named[:1]
    return [Path(one.path) for one in session()] or places.recent()[:1]


def keep(study: Study) -> InputError | None:
    """Give a new study a file in the state folder; answers why there can be none."""
    try:
        study.keep_in(places.unnamed_path())
    except InputError as error:
        words = f"This study is not kept: {error.problem}"
        return InputError(words, "Name it (Ctrl+S) to keep it in another folder.")
    return None


def put_away(study: Study) -> None:
    """Let the file go; one without a name in which nothing was done leaves no trace."""
    file = study.file
    study.close()
    if file is not None and places.is_unnamed(file.path) and not study.undo_label and not study.redo_label:
        places.forget(file.path)
        file.path.unlink(missing_ok=True)
