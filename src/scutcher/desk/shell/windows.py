"""The open windows, one for each study: opened, answered for, remembered, dressed, put away."""

from __future__ import annotations

import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QSettings, QTimer
from PySide6.QtWidgets import QApplication

from scutcher.core.errors import InputError
from scutcher.desk.actions.numerals import take_numerals
from scutcher.desk.context import follow
from scutcher.desk.shell import error_report as report
from scutcher.desk.shell.beginning import Begun, keep, put_away
from scutcher.desk.shell.ending import dispose, start_again
from scutcher.desk.shell.ground import take_ground
from scutcher.desk.shell.single import Doorbell
from scutcher.desk.shell.text_size import fresh_environment
from scutcher.desk.shell.warming import SOON, warm
from scutcher.desk.shell.window import Window
from scutcher.study.document.study import Study
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.session import Open, keep_session


class Windows:
    """The open windows, one for each study."""

    def __init__(self) -> None:
        self.all: list[Window] = []
        self.ending = False
        """Whether all windows are being closed together: then all of them come back the next time."""
        self._bells: dict[Window, Doorbell] = {}
        report.install(self._say, self._show_report)
        QApplication.styleHints().colorSchemeChanged.connect(lambda scheme: self.redress())

    def open(self, begun: Begun | Study) -> Window:
        """Show a study in a window of its own."""
        begun = Begun(begun) if isinstance(begun, Study) else begun
        window = Window(begun.study, filled=False)
        window.opening.open_study = lambda path: self.open_file(path, window)
        window.opening.open_state = lambda state: self.open(Begun(Study(state), fresh=True))
        window.closed.connect(partial(self._let_go, window))
        window.preferences.shown_anew.connect(self.redress)
        window.preferences.begin_again.connect(self.begin_again)
        window.ended.connect(self.end)
        follow(window, begun.study, lambda changed: self._on_file(window) if "file" in changed else None)
        _place(window)
        window.show()
        QApplication.processEvents()  # the first frame; the plots come with the next
        QTimer.singleShot(0, partial(self._fill, window, begun))
        self.all.append(window)
        if begun.fresh:
            QTimer.singleShot(0, partial(self._keep, window, begun))
        else:
            QTimer.singleShot(0, partial(self._on_file, window))
        return window

    def _keep(self, window: Window, begun: Begun) -> None:
        """A new study gets its file: whoever waits for the first picture need not wait for the disk."""
        if window not in self.all or window.study.path is not None:
            return  # it was closed again at once, or named
        trouble = keep(window.study)
        if trouble is not None and begun.trouble is None:
            window.message.say(trouble)

    def _on_file(self, window: Window) -> None:
        """The study of a window has a file, or another one."""
        if window not in self.all:
            return  # it was closed again at once
        if window.study.path is not None:
            _quietly(partial(places.remember, window.study.path))
        self._ring_at(window)
        self._remember()

    def _ring_at(self, window: Window) -> None:
        """Whoever wants the study of a window is answered by it."""
        old, path = self._bells.pop(window, None), window.study.path
        if old is not None:
            old.close()
        if path is not None:
            _quietly(lambda: self._bells.update({window: Doorbell(path, window.come_forward, window)}))

    def _remember(self) -> None:
        """What is open now is open again after the next start."""
        opened = [
            Open(str(window.study.path.absolute()), window.stack.current)
            for window in self.all
            if window.study.path is not None
        ]
        _quietly(lambda: keep_session(opened))

    def end(self) -> None:
        """Close all windows together."""
        self._remember()
        self.ending = True
        for window in tuple(self.all):
            window.close()
        self.ending = not self.all  # one that has something to say stays

    def begin_again(self) -> None:
        """Start the program again, with the studies that are open."""
        self.end()
        for _ in range(3):
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            QApplication.processEvents()
        if self.all:
            return  # one has something to say that was not written
        start_again(fresh_environment())

    def _fill(self, window: Window, begun: Begun) -> None:
        if window not in self.all:
            return  # it was closed again at once
        window.fill()
        QTimer.singleShot(SOON, warm)
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
            own = window.study.path
            if window.isVisible() and own is not None and own.absolute() == path:
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
            saved = rescue(path, copy)
            window = self.open(Study.open(copy))
            told = InputError(f"This is what could be saved of {path.name}.", saved.said())
            QTimer.singleShot(0, partial(window.message.say, told))
            return window
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

    def redress(self) -> None:
        """Where another ground or mark is due every study gets a fresh window in the place of its own."""
        made = QApplication.instance()
        if not isinstance(made, QApplication):
            return
        ground, numerals = take_ground(made), take_numerals()
        if not ground and not numerals:
            return
        for old in tuple(self.all):
            page, place = old.stack.current, old.saveGeometry()
            self.all.remove(old)
            bell = self._bells.pop(old, None)
            if bell is not None:
                bell.close()
            fresh = self.open(old.study)
            fresh.restoreGeometry(place)
            QTimer.singleShot(0, partial(fresh.show_page, page))
            QTimer.singleShot(0, partial(dispose, old))

    def _let_go(self, window: Window) -> None:
        """A window was closed: its study is put away, and nothing of it stays."""
        if window not in self.all:
            return
        if len(self.all) == 1 and not self.ending:
            self._remember()  # the last one comes back
        self.all.remove(window)
        if self.all and not self.ending:
            self._remember()
        bell = self._bells.pop(window, None)
        if bell is not None:
            bell.close()
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
    from PySide6.QtWidgets import QMessageBox

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
