"""Starting and ending: the application, its window, and a clean way out."""

from __future__ import annotations

import gc
import sys
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QSettings, QTimer
from PySide6.QtWidgets import QApplication, QMessageBox

from scutcher.core.data.constant_variables import leave_out_unusable
from scutcher.core.errors import InputError
from scutcher.desk.shell import error_report as report
from scutcher.desk.shell.memory import Tidy, hold_memory
from scutcher.desk.shell.theme import dress
from scutcher.desk.shell.window import Window
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
    from scutcher.demo.sets import demo_recipe, demo_set

    table = leave_out_unusable(demo_set(name)[0])
    return Study(State.of(name, table, demo_recipe(name), table.classes[0].name))


def first_study(files: Sequence[Path], demo: str | None) -> Study:
    """The study that a call asks for: a demo, a study file, else the last one that was not put away.

    Raises
    ------
    InputError
        The study file or the demo cannot be opened.
    """
    if demo is not None:
        study = demo_study(demo)
        study.keep_in(places.unnamed_path())
        return study
    named = [path for path in files if path.suffix == places.SUFFIX]
    if named:
        return Study.open(named[0])
    if not files:
        for path in places.recent()[:1]:
            try:
                return Study.open(path)
            except InputError as error:
                print(f"scutcher: {error}", file=sys.stderr)
    study = Study()
    study.keep_in(places.unnamed_path())
    return study


class Windows:
    """The open windows, one for each study."""

    def __init__(self) -> None:
        self.all: list[Window] = []

    def open(self, study: Study) -> Window:
        """Show a study in a window of its own."""
        window = Window(study, filled=False)
        window.opening.open_study = lambda path: self.open_file(path, window)
        report.install(window.message.say, lambda text: _show_report(window, text))
        settings = window_settings()
        geometry = settings.value("geometry")
        if geometry is not None:
            window.restoreGeometry(geometry)
        window.show()
        QApplication.processEvents()  # the first frame; the plots come with the next
        QTimer.singleShot(0, window.fill)
        if study.file is not None:
            places.remember(study.file.path)
        self.all.append(window)
        return window

    def open_file(self, path: Path, asking: Window) -> Window | None:
        """Open a study file; a window that shows it already comes to the front."""
        for window in self.all:
            file = window.desk.study.file
            if window.isVisible() and file is not None and file.path == path:
                window.activateWindow()
                return window
        try:
            return self.open(Study.open(path))
        except InputError as error:
            rescuable = "rescue" in error.remedy.lower()
            action = partial(self.rescue, path, asking) if rescuable else None
            asking.message.say(error, "Rescue into a copy", action)
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

    def dispose(self) -> None:
        """Take all windows down, and put their studies away."""
        for window in self.all:
            window_settings().setValue("geometry", window.saveGeometry())
            study = window.desk.study
            dispose(window)
            put_away(study)


def window_settings() -> QSettings:
    """Where the window's size and place are kept."""
    return QSettings(str(places.state_folder() / "window.ini"), QSettings.Format.IniFormat)


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
        The study file or the demo cannot be opened.
    """
    study = first_study(files, demo)
    made = application()
    windows = Windows()
    window = windows.open(study)
    data = [path for path in files if path.suffix != places.SUFFIX]
    if data:
        QTimer.singleShot(0, lambda: window.opening.open_files(data))
    if shown is not None:
        QTimer.singleShot(0, lambda: shown(window))
    code = made.exec()
    windows.dispose()
    return code


def dispose(window: Window) -> None:
    """Take a window down so that nothing of it is left at interpreter exit."""
    window.close()
    clipboard = QApplication.clipboard()
    held = clipboard.mimeData()
    if held is not None and held.hasFormat("image/svg+xml"):
        clipboard.clear()  # what is left there of ours ends the interpreter with a crash (PySide 6.10)
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()
    gc.collect()


def _show_report(window: Window, text: str) -> None:
    """A bug: say so, and give the text to send."""
    box = QMessageBox(window)
    box.setWindowTitle("Something in Scutcher broke")
    box.setText("This is a mistake in Scutcher, not in your data. The study is as it was.")
    box.setDetailedText(text)
    box.setStandardButtons(QMessageBox.StandardButton.Close)
    copy = box.addButton("Copy the report", QMessageBox.ButtonRole.ActionRole)
    copy.clicked.connect(lambda: QApplication.clipboard().setText(text))
    print(text, file=sys.stderr)
    box.open()
