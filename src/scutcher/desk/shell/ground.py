"""On which ground the program is drawn: as it was chosen, or as the desktop says."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QStyleHints
from PySide6.QtWidgets import QApplication

from scutcher.charts import palettes
from scutcher.desk.shell.theme import dress
from scutcher.study.storage.settings import settings


def of_desktop(hints: QStyleHints) -> str:
    """What the desktop asks for: more contrast first, then dark."""
    accessibility = getattr(hints, "accessibility", None)  # since Qt 6.10
    wants = accessibility().contrastPreference() if accessibility is not None else None
    if wants is not None and getattr(wants, "name", "") == "HighContrast":
        return "contrast"
    return "dark" if hints.colorScheme() == Qt.ColorScheme.Dark else "light"


def wanted() -> str:
    """The key of the palette that is due."""
    chosen = settings().ground
    return chosen if chosen in palettes.PALETTES else of_desktop(QGuiApplication.styleHints())


def take_ground(application: QApplication) -> bool:
    """Dress the application in the ground that is due; whether it is another than before."""
    before = palettes.now()
    palettes.choose(wanted())
    dress(application)
    return palettes.now() is not before
