"""The study and its file, as the window sees them: name it, copy it, snapshots, the log, recent ones."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QLineEdit, QWidget

from scutcher.charts.signals import stage_data, stage_name, stage_of
from scutcher.core.errors import FileError, InputError
from scutcher.core.progress import Watch
from scutcher.core.words import shown
from scutcher.desk.actions.action import Entry
from scutcher.desk.actions.outcome import ask_path, then_say, tried, write_behind
from scutcher.desk.actions.reporting import report_maker
from scutcher.desk.context import Desk
from scutcher.desk.widgets.popover import Ask, Choice
from scutcher.files.csv_text import csv_text, harmless
from scutcher.files.safely import write_text
from scutcher.files.writing import write_table
from scutcher.study.document.commands.data import GoBackTo
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.study_file import StudyFile
from scutcher.study.work import Priority

DATA_FILTER = "CSV (*.csv);;XLSX (*.xlsx);;HDF5 (*.h5);;JCAMP-DX (*.dx);;Parquet (*.parquet)"
OF_CHARTS = "Charts on this page"

STUDY_FILTER = f"Scutcher studies (*{places.SUFFIX})"


class Filing:
    """Asks for names and paths, then tells the study or its file."""

    def __init__(self, desk: Desk, window: QWidget) -> None:
        self.desk = desk
        self.window = window

    @property
    def file(self) -> StudyFile | None:
        """The open file, where there is one: all is written."""
        return self.desk.study.file

    def title(self) -> str:
        """What the study is called: its file's name once it has one."""
        path, state = self.desk.study.path, self.desk.study.state
        if path is not None and not places.is_unnamed(path):
            return path.stem
        return state.name if state.table is not None else ""

    def entries(self) -> Iterable[Entry]:
        """What the search field finds."""
        file = self.desk.study.open_file
        if file is None:
            return
        from scutcher.files.signing import can_sign

        yield Entry("Save a copy…", "action", self.ask_copy, about="Study")
        yield Entry("Export the log…", "action", self.ask_log, about="Study")
        yield Entry("Forget the steps that led here…", "action", self.ask_to_forget, about="Study")
        if can_sign():
            yield Entry("Sign the study…", "action", self.ask_signature, about="Study")
        if file.history.is_linked and not file.read_only_reason:
            yield Entry("Copy the data into the study", "action", self.pack, about="Study")
        yield Entry("Take a snapshot…", "action", lambda: self.ask_snapshot(self.window), about="Study")
        for name, revision in file.history.snapshots.items():
            yield Entry(f"Go back to snapshot {name}", "action", self._returner(name, revision))

    def name_study(self, path: Path) -> bool:
        """Put the study under a name; an unnamed file is gone from the state folder then."""
        old = self.desk.study.path
        if not tried(self.desk, lambda: self.desk.study.move_to(_with_suffix(path))):
            return False
        if old is not None and places.is_unnamed(old):
            with suppress(InputError):
                places.forget(old)
            old.unlink(missing_ok=True)
        with suppress(InputError):  # the list of recent studies is a convenience
            places.remember(_with_suffix(path))
        return True

    def save_copy(self, path: Path) -> bool:
        """Write the whole study, with its history, to another file, behind."""
        file, path = self.file, _with_suffix(path)
        if file is None:
            return False
        return write_behind(self.desk, "The copy is", path, lambda watch: file.save_copy(path))

    def pack(self) -> None:
        """Copy the values of data files that the study only points to into it, behind."""
        file = self.file
        if file is None:
            return

        done = InputError(f"The data are in {file.path.name} now.", "Their file may go.")
        self.desk.live.ask(
            "packing", file.path, file.pack, then_say(self.desk, done), priority=Priority.FILES
        )

    def export_log(self, path: Path) -> bool:
        """Write every decision as CSV: when, who, what kind, what, why."""
        file = self.file
        if file is None:
            return False
        rows = ([entry.at, entry.who, entry.kind, entry.what, entry.why] for entry in file.history.log())
        text = csv_text(["when", "who", "kind", "what", "why"], ([harmless(c) for c in row] for row in rows))
        return write_behind(self.desk, "The log is", path, lambda watch: write_text(path, text))

    def write_data(self, path: Path) -> bool:
        """Write the data at the chosen knot: CSV, XLSX, HDF5 or JCAMP-DX, by the file's ending."""
        state, found = self.desk.study.state, self.desk.moment.found
        if state.table is None:
            return False
        stage = stage_of(self.desk.selection.look.stage, found)
        table, values, rows = stage_data(state, stage, found)
        part = state.table.take(rows) if len(rows) != len(table.ids) or stage == 0 else table
        data = replace(part, values=values, axis=table.axis, signal=table.signal, name=state.table.name)
        return write_behind(self.desk, "The table is", path, lambda watch: write_table(data, path))

    def ask_data(self) -> None:
        """Ask where the data go."""
        state, found = self.desk.study.state, self.desk.moment.found
        stage = stage_name(state, stage_of(self.desk.selection.look.stage, found), found)
        self._ask_path(f"Write the data {stage}", DATA_FILTER, self.write_data)

    def ask_report(self) -> None:
        """Ask where a report of the study goes; it is written behind."""
        if self.desk.moment.found is None:
            self.desk.say(InputError("There is no model to report.", "Bring in its data first (Ctrl+O)."))
            return
        self._ask_path("Write a report", "HTML (*.html);;PDF (*.pdf)", self.write_report)

    def write_report(self, path: Path) -> bool:
        """Write a report of the moment behind, as HTML or PDF by the file's ending."""
        make = report_maker(self.desk, self.file)
        if make is None:
            return False

        def work(watch: Watch) -> None:
            from scutcher.charts.report.contents import write_report
            from scutcher.charts.report.writing import check_ending

            check_ending(path)
            write_report(make(watch), path, watch)

        return write_behind(self.desk, "The report is", path, work)

    def snapshot(self, name: str) -> bool:
        """Give the state of now a name."""
        file = self.file
        if not name.strip():
            self.desk.say(InputError("The snapshot has no name.", "Give it one."))
            return False
        return file is not None and tried(self.desk, lambda: file.snapshot(name.strip()))

    def ask_name(self) -> None:
        """Ctrl+S."""
        self._ask_path("Name this study", STUDY_FILTER, self.name_study)

    def ask_signature(self) -> None:
        """Ask for the key that signs the study file as it is."""
        if self.file is None:
            self.desk.say(InputError("The study is in no file yet.", "Name it first (Ctrl+S)."))
            return
        start = str(Path.home() / ".ssh")
        key, _ = QFileDialog.getOpenFileName(
            self.window, "Your key (private, or .pub of one in the agent)", start
        )
        if key:
            self.sign_study(Path(key))

    def sign_study(self, key: Path) -> bool:
        """Sign the study file as it is now, behind; the signature lies beside it."""
        file = self.file
        if file is None:
            return False
        path = file.path
        done = InputError(f"{path.name} is signed as it is now.", f"The signature is {path.name}.sig.")

        def work(watch: Watch) -> None:
            from scutcher.files.signing import sign

            sign(path, key)

        self.desk.live.ask("sign", path, work, then_say(self.desk, done), priority=Priority.OUT)
        return True

    def ask_copy(self) -> None:
        """Ask where the copy goes."""
        self._ask_path("Save a copy", STUDY_FILTER, self.save_copy)

    def ask_log(self) -> None:
        """Ask where the log goes."""
        self._ask_path("Export the log", "CSV (*.csv)", self.export_log)

    def ask_snapshot(self, anchor: QWidget) -> Ask:
        """Ask for the name of a snapshot."""
        name = QLineEdit()
        name.setPlaceholderText("e.g. before leaving out the wet lot")
        ask = Ask(
            self.window, "Take a snapshot", [("name", name)], "Take it", lambda: self.snapshot(name.text())
        )
        ask.open_at(anchor, above=True)
        return ask

    def ask_to_forget(self) -> Choice | None:
        """Ask whether the file is to be made small: all earlier states go."""
        file = self.file
        if file is None:
            self.desk.say(InputError("This study has no file yet.", "There is nothing to make smaller."))
            return None
        before = file.path.stat().st_size

        def done(answer: object) -> None:
            if isinstance(answer, InputError):
                self.desk.say(answer)
            elif isinstance(answer, Exception):
                raise answer
            else:
                self.desk.study.forget_steps()
                after = file.path.stat().st_size
                sizes = f"{shown(before / 1e6, '.2f')} MB → {shown(after / 1e6, '.2f')} MB"
                self.desk.say(InputError(f"The file is smaller now: {sizes}.", "The log has every decision."))

        def forget() -> None:
            self.desk.live.ask(
                "forget", file.path, lambda watch: file.forget_steps(), done, priority=Priority.FILES
            )

        words = (
            f"{file.path.name} has {shown(before / 1e6, '.2f')} MB. Every earlier state that undo and redo "
            "lead to is forgotten, and cannot be brought back. The study as it is now, its snapshots and its "
            "log stay."
        )
        asked = Choice(self.window, "Forget the steps that led here?", words, {"Forget them": forget})
        asked.open_in_middle()
        return asked

    def check_undisturbed(self) -> None:
        """Say what others have done to the file while it was open here."""
        file = self.desk.study.open_file  # whether all is written does not matter here
        if file is None:
            return
        try:
            file.check_undisturbed(wait=False)
        except InputError as error:
            self.desk.say(error, "Save a copy…", self.ask_name)

    def say_how_it_was_found(self) -> None:
        """Tell at once that another program changed the file, or that nothing can be changed."""
        file = self.desk.study.open_file
        if file is not None and file.altered:
            self.desk.say(
                FileError(
                    f"{file.path.name} was changed by another program: {file.altered} does not "
                    "bear its seal.",
                    "What is shown may not be what was done here; compare it with a copy.",
                )
            )
        if file is not None and file.read_only_reason:
            self.desk.say(
                FileError(
                    f"{file.read_only_reason}: you can look, not change.",
                    "Save a copy (Ctrl+K) and go on in that.",
                )
            )

    def _ask_path(self, title: str, kinds: str, use: Callable[[Path], bool]) -> None:
        ask_path(self.window, title, self.title() or "study", kinds, use)

    def _returner(self, name: str, revision: int) -> Callable[[], object]:
        def go() -> None:
            file = self.file
            assert file is not None
            self.desk.do(GoBackTo(name, file.state(revision)))

        return go


def _with_suffix(path: Path) -> Path:
    return path if path.suffix == places.SUFFIX else path.with_name(path.name + places.SUFFIX)
