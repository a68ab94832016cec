"""Starting and ending: the application, its windows, and a clean way out."""

from __future__ import annotations

import gc
import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QSettings, QTimer
from PySide6.QtWidgets import QApplication, QMessageBox
from shiboken6 import isValid

from scutcher.core.data.constant_variables import leave_out_dead
from scutcher.core.errors import InputError
from scutcher.desk.shell import error_report as report
from scutcher.desk.shell.display import check_display
from scutcher.desk.shell.memory import Tidy, hold_memory
from scutcher.desk.shell.theme import dress
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.data import AddDataSet
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.storage import state_folder as places


def application() -> QApplication:
    """The one application, dressed."""
    made = QApplication.instance()
    if not isinstance(made, QApplication):
        made = QApplication(sys.argv[:1])
        made.setApplicationName("scutcher")
        dress(made)
        hold_memory()
        Tidy(made)
    return made


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


@dataclass(frozen=True)
class Begun:
    """What the first window shows.

    Attributes
    ----------
    study : Study
    trouble : InputError or None
        What stood in the way, to be said there.
    damaged : Path or None
        A study that could not be opened, and may be rescued.
    """

    study: Study
    trouble: InputError | None = None
    damaged: Path | None = None


def first_study(files: Sequence[Path], demo: str | None) -> Begun:
    """The study that a call asks for: a demo, a study file, else the last one that was not put away.

    There is always one: what cannot be opened or kept is said in the window.
    """
    if demo is not None:
        return kept(demo_study(demo))
    named = [path for path in files if path.suffix == places.SUFFIX]
    asked = named[:1] or ([] if files else places.recent()[:1])
    for path in asked:
        try:
            return Begun(Study.open(path))
        except InputError as error:
            begun = kept(Study())
            return Begun(begun.study, error, path)
    return kept(Study())


def kept(study: Study) -> Begun:
    """A new study with a file in the state folder; without one where there can be none."""
    try:
        study.keep_in(places.unnamed_path())
    except InputError as error:
        words = f"This study is not kept: {error.problem}"
        return Begun(study, InputError(words, "Name it (Ctrl+S) to keep it in another folder."))
    return Begun(study)


class Windows:
    """The open windows, one for each study."""

    def __init__(self) -> None:
        self.all: list[Window] = []
        report.install(self._say, self._show_report)

    def open(self, begun: Begun | Study) -> Window:
        """Show a study in a window of its own."""
        begun = Begun(begun) if isinstance(begun, Study) else begun
        window = Window(begun.study, filled=False)
        window.opening.open_study = lambda path: self.open_file(path, window)
        window.opening.open_state = lambda state: self.open(kept(Study(state)))
        window.closed.connect(partial(self._let_go, window))
        _place(window)
        window.show()
        QApplication.processEvents()  # the first frame; the plots come with the next
        QTimer.singleShot(0, partial(self._fill, window, begun))
        if begun.study.file is not None:
            _quietly(partial(places.remember, begun.study.file.path))
        self.all.append(window)
        return window

    def _fill(self, window: Window, begun: Begun) -> None:
        if window not in self.all:
            return  # it was closed again at once
        window.fill()
        if begun.trouble is not None:
            self._say_trouble(window, begun.trouble, begun.damaged)

    def _say_trouble(self, window: Window, error: InputError, path: Path | None) -> None:
        """Say what stood in the way of a study, with the way on where there is one."""
        from scutcher.study.storage.links import LinkedFile

        if path is not None and isinstance(error, LinkedFile):
            window.message.say(error, "Find the file…", partial(self._relink, path, error.path, window))
        elif path is not None and "rescue" in error.remedy.lower():
            window.message.say(error, "Rescue into a copy", partial(self.rescue, path, window))
        else:
            window.message.say(error)

    def open_file(self, path: Path, asking: Window) -> Window | None:
        """Open a study file; a window that shows it already comes to the front."""
        path = path.absolute()
        for window in self.all:
            file = window.desk.study.file
            if window.isVisible() and file is not None and file.path.absolute() == path:
                window.activateWindow()
                return window
        try:
            return self.open(Study.open(path))
        except InputError as error:
            self._say_trouble(asking, error, path)
            return None

    def rescue(self, path: Path, asking: Window) -> Window | None:
        """Write what is sound of a damaged study into a copy beside it, and open that."""
        from scutcher.study.storage.rescue import rescue

        copy = path.with_name(f"{path.stem}-rescued{places.SUFFIX}")
        try:
            rescue(path, copy)
            return self.open(Study.open(copy))
        except InputError as error:
            asking.message.say(error)
            return None

    def _relink(self, study: Path, old: Path, asking: Window) -> Window | None:
        """Ask where a file has moved to that a study is linked to."""
        from PySide6.QtWidgets import QFileDialog

        from scutcher.study.storage.links import relink

        name, _ = QFileDialog.getOpenFileName(asking, f"Where is {old.name} now?", str(old.parent))
        if not name:
            return None
        try:
            relink(study, old, Path(name))
            return self.open(Study.open(study))
        except InputError as error:
            asking.message.say(error)
            return None

    def _let_go(self, window: Window) -> None:
        """A window was closed: its study is put away, and nothing of it stays."""
        if window not in self.all:
            return
        self.all.remove(window)
        _quietly(lambda: window_settings().setValue("geometry", window.saveGeometry()))
        _quietly(partial(put_away, window.study))
        QTimer.singleShot(0, partial(dispose, window))

    def dispose(self) -> None:
        """Take all windows down, and put their studies away."""
        for window in tuple(self.all):
            window.close()
        for _ in range(3):
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            QApplication.processEvents()

    def _active(self) -> Window | None:
        active = [window for window in self.all if window.isActiveWindow()]
        found = active or self.all
        return found[-1] if found else None

    def _say(self, error: InputError) -> None:
        window = self._active()
        if window is not None:
            window.message.say(error)

    def _show_report(self, text: str) -> None:
        print(text, file=sys.stderr)
        show_report(self._active(), text)


def show_report(window: Window | None, text: str) -> None:
    """A bug: say so, and give the text to send."""
    box = QMessageBox(window)
    box.setWindowTitle("Something in Scutcher broke")
    box.setText("This is a mistake in Scutcher, not in your data. The study is as it was.")
    box.setDetailedText(text)
    box.setStandardButtons(QMessageBox.StandardButton.Close)
    copy = box.addButton("Copy the report", QMessageBox.ButtonRole.ActionRole)
    copy.clicked.connect(lambda: QApplication.clipboard().setText(text))
    box.open()


def window_settings() -> QSettings:
    """Where the window's size and place are kept."""
    return QSettings(str(places.state_folder() / "window.ini"), QSettings.Format.IniFormat)


def _place(window: Window) -> None:
    """As it was the last time, inside the screen that there is now."""
    settings: list[QSettings] = []
    _quietly(lambda: settings.append(window_settings()))
    geometry = settings[0].value("geometry") if settings else None
    if geometry is not None:
        window.restoreGeometry(geometry)
    room = window.screen().availableGeometry()
    if window.width() > room.width() or window.height() + TITLE_BAR > room.height():
        window.resize(min(window.width(), room.width()), min(window.height(), room.height() - TITLE_BAR))
    if not room.contains(window.geometry().topLeft()):
        window.move(room.topLeft())


TITLE_BAR = 36
"""Pixels that the desktop may put over a window."""


def _quietly(work: Callable[[], object]) -> None:
    """Do what only makes things nicer: where it cannot be done, nothing is lost."""
    try:
        work()
    except (InputError, OSError):
        return


def put_away(study: Study) -> None:
    """Let the file go; one without a name in which nothing was done leaves no trace."""
    file = study.file
    study.close()
    if file is not None and places.is_unnamed(file.path) and not study.undo_label and not study.redo_label:
        places.forget(file.path)
        file.path.unlink(missing_ok=True)


def run_window(
    files: Sequence[Path] = (), demo: str | None = None, shown: Callable[[Window], None] | None = None
) -> int:
    """Open the window and stay until it is closed.

    Parameters
    ----------
    files : a study, or data files to bring in
    demo : the name of a demo set
    shown : is called when the window is on screen

    Raises
    ------
    InputError
        There is no such demo, or no display.
    """
    check_display()
    begun = first_study(files, demo)
    made = application()
    windows = Windows()
    window = windows.open(begun)
    data = [path for path in files if path.suffix != places.SUFFIX]
    if data:
        QTimer.singleShot(0, lambda: window.opening.open_files(data))
    if shown is not None:
        QTimer.singleShot(0, lambda: shown(window))
    code = made.exec()
    windows.dispose()
    release_clipboard()
    return code


def release_clipboard() -> None:
    """Let go of tables and pictures on the clipboard: left there, they end the interpreter with a crash.

    So it is with PySide 6.10. What another program has put there stays.
    """
    clipboard = QApplication.clipboard()
    ours = clipboard.ownsClipboard() or QApplication.platformName() == "offscreen"
    held = clipboard.mimeData() if ours else None
    if held is not None and (held.hasHtml() or held.hasFormat("image/svg+xml")):
        clipboard.clear()


def dispose(window: Window) -> None:
    """Take a window down so that nothing of it is left, also at interpreter exit."""
    if not isValid(window):
        return
    window.close()
    release_clipboard()
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()
    gc.collect()
