"""Starting and ending: the application, its window, and a clean way out."""

from __future__ import annotations

import gc
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QEvent, QTimer
from PySide6.QtWidgets import QApplication, QMessageBox

from scutcher.core.import_check import leave_out_unusable
from scutcher.desk import report
from scutcher.desk.theme import dress
from scutcher.desk.tidy import Tidy
from scutcher.desk.window import Window
from scutcher.study.state import State
from scutcher.study.study import Study


def application() -> QApplication:
    """The one application, dressed."""
    made = QApplication.instance()
    if not isinstance(made, QApplication):
        made = QApplication(sys.argv[:1])
        made.setApplicationName("scutcher")
        dress(made)
        Tidy(made)
    return made


def demo_study(name: str) -> Study:
    """A study of a demo set, with its recipe."""
    from scutcher.demo.sets import demo_recipe, demo_set

    table = leave_out_unusable(demo_set(name)[0])
    return Study(State(name=name, table=table, recipe=demo_recipe(), colour_by=table.classes[0].name))


def run_window(
    files: Sequence[Path] = (), demo: str | None = None, shown: Callable[[Window], None] | None = None
) -> int:
    """Open the window and stay until it is closed.

    Parameters
    ----------
    files : data files to bring in
    demo : the name of a demo set
    shown : is called when the window is on screen
    """
    study = demo_study(demo) if demo is not None else Study()
    made = application()
    window = Window(study, filled=False)
    report.install(window.message.say, lambda text: _show_report(window, text))
    window.show()
    made.processEvents()  # the first frame; the plots come with the next
    QTimer.singleShot(0, window.fill)
    if files:
        QTimer.singleShot(0, lambda: window.open_files(list(files)))
    if shown is not None:
        QTimer.singleShot(0, lambda: shown(window))
    code = made.exec()
    dispose(window)
    return code


def dispose(window: Window) -> None:
    """Take a window down so that nothing of it is left at interpreter exit."""
    window.close()
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
