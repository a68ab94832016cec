"""The study: the current state, the one way to change it, the way back, and the file that keeps it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from scutcher.core.frozen import frozen
from scutcher.core.words import plain_numbers
from scutcher.study.document.announcer import Announcer
from scutcher.study.document.state import State, changed_fields

if TYPE_CHECKING:
    from scutcher.study.storage.study_file import StudyFile


class Command(Protocol):
    """A small frozen object with a sentence and a pure function from state to state."""

    def label(self, state: State) -> str:
        """What it does to a state, as the undo menu and the log say it: what, from what, to what."""

    def apply(self, state: State) -> State:
        """The state after it; raises an InputError and changes nothing where it is impossible."""


@frozen
class Step:
    """A way to go: what it is called, and the state it leads to (read from the file when it is gone to)."""

    label: str
    state: Callable[[], State]


class Writer(Protocol):
    """Writes behind what a study is told, in the order of coming."""

    def add(self, write: Callable[[], None], failed: Callable[[], None]) -> None:
        """Write something soon; where it fails, nothing after it is written, and the owner hears of it."""

    def finish(self) -> bool:
        """Wait until all is written or has failed; whether it is written."""


class Study(Announcer):
    """Holds the state, runs commands, remembers every earlier state, tells listeners what changed.

    Attributes
    ----------
    writer : Writer or None
        Writes the file behind: a command is known at once, and taken back where it cannot be written.
        Without one every command is written before it is known.
    """

    def __init__(self, state: State | None = None, file: StudyFile | None = None) -> None:
        super().__init__()
        self._state = state or State()
        self._undo: list[Step] = []
        self._redo: list[Step] = []
        self._file = file
        self.writer: Writer | None = None

    def write_by(self, writer: Writer | None) -> None:
        """Have the file written by another writer from now on."""
        if self.writer is not None:
            self.writer.finish()
        self.writer = writer

    @property
    def file(self) -> StudyFile | None:
        """The open file, in which everything is written that was done: it is waited for."""
        if self.writer is not None:
            self.writer.finish()
        return self._file

    @property
    def path(self) -> Path | None:
        """Where the file is."""
        return None if self._file is None else self._file.path

    @property
    def open_file(self) -> StudyFile | None:
        """The open file, in which something may not be written yet."""
        return self._file

    @classmethod
    def open(cls, path: Path) -> Study:
        """The study of a file, where it was left, with all that can be undone and redone.

        Raises
        ------
        FileError
            It cannot be opened as a study.
        """
        from scutcher.study.storage.study_file import StudyFile

        file = StudyFile.open(path)
        place = file.history.place
        try:
            study = cls(file.state(place.now), file)
        except Exception:
            file.close()
            raise
        # the label of a step is that of the command that made the later of its two states
        made_by = (*place.undo, place.now)[1:]
        labels = file.history.labels()
        for revision, later in zip(place.undo, made_by, strict=True):
            study._undo.append(study._stored(labels.get(later, ""), revision))
        for revision in place.redo:
            study._redo.append(study._stored(labels.get(revision, ""), revision))
        return study

    def keep_in(self, path: Path) -> None:
        """Give a study that has no file one, and commit everything from now on."""
        from scutcher.study.storage.study_file import StudyFile

        self._file = StudyFile.create(path, self._state)
        self._undo.clear()
        self._redo.clear()
        self.announce({"file", "history"})

    def move_to(self, path: Path) -> None:
        """Give the study a name: its file, with all its history, is at `path` from now on.

        Raises
        ------
        FileError
            It cannot be written there; the study stays where it was.
        """
        from scutcher.study.storage.study_file import StudyFile

        old = self.file
        if old is None:
            self.keep_in(path)
            return
        old.save_copy(path)
        moved = StudyFile.open(path)
        old.close()
        self._file = moved
        self.announce({"file"})

    def close(self) -> None:
        """Let the file go."""
        file = self.file
        if file is not None:
            file.close()

    @property
    def state(self) -> State:
        """The current state."""
        return self._state

    def do(self, command: Command) -> None:
        """Run a command; one that changes nothing leaves no trace.

        Raises
        ------
        InputError
            The command is impossible, or the change cannot be written; the study is as it was.
        """
        before = self._state
        after = command.apply(before)
        if not changed_fields(before, after):
            return
        with plain_numbers():
            label = command.label(before)
        self._keep("do", label, after, str(getattr(command, "reason", "")))
        self._undo.append(Step(label, lambda: before))
        self._redo.clear()
        self._become(after)

    def forget_steps(self) -> None:
        """The file has forgotten its earlier states: nothing can be undone or redone."""
        self._undo.clear()
        self._redo.clear()
        self.announce({"history"})

    def undo(self) -> str | None:
        """Go back one command; the answer is its label, None where there is none."""
        return self._step("undo", self._undo, self._redo)

    def redo(self) -> str | None:
        """Go forward again; the answer is the label, None where there is nothing to redo."""
        return self._step("redo", self._redo, self._undo)

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._undo[-1].label if self._undo else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring again."""
        return self._redo[-1].label if self._redo else None

    def _stored(self, label: str, revision: int) -> Step:
        def read() -> State:
            file = self.file
            assert file is not None
            return file.state(revision)

        return Step(label, read)

    def _step(self, kind: str, source: list[Step], target: list[Step]) -> str | None:
        if not source:
            return None
        step = source[-1]
        after = step.state()
        self._keep(kind, step.label, after)
        source.pop()
        before = self._state
        target.append(Step(step.label, lambda: before))
        self._become(after)
        return step.label

    def _keep(self, kind: str, label: str, after: State, why: str = "") -> None:
        """Have a step written; what cannot be written is as if it had never been done."""
        if self._file is None:
            return
        write = partial(self._file.keep, kind, label, after, why)
        if self.writer is None:
            write()
        else:
            self._file.check_writable()  # said at once, not behind
            self.writer.add(
                write, partial(self._take_back, self._state, tuple(self._undo), tuple(self._redo))
            )

    def _take_back(self, state: State, undo: tuple[Step, ...], redo: tuple[Step, ...]) -> None:
        self._undo[:], self._redo[:] = undo, redo
        self._become(state)

    def _become(self, after: State) -> None:
        before, self._state = self._state, after
        self.announce(changed_fields(before, after) | {"history"})
