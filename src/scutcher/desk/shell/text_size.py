"""How large everything is: as it was chosen, or as the text of the desktop. Known before the start.

The whole window grows with its text, so that no word is cut off; Qt reads the factor once, when the
application is made.
"""

from __future__ import annotations

import os
from collections.abc import MutableMapping

from PySide6.QtGui import QGuiApplication

from scutcher.study.storage.settings import settings

FACTOR = "QT_SCALE_FACTOR"
MARK = "SCUTCHER_TEXT"
"""Says that the factor is ours, not one that somebody has set for all programs."""

LEAST, MOST = 1.0, 1.75
USUAL = 96.0
"""Dots an inch of text at its usual size."""

NEAR = 0.04


def prepare(environment: MutableMapping[str, str] | None = None) -> None:
    """Set the factor that was chosen, before the application is made; one that is set already stays."""
    found = os.environ if environment is None else environment
    if FACTOR in found:
        return
    chosen = settings().text
    if chosen:
        found[FACTOR], found[MARK] = f"{_inside(chosen / 100.0):g}", "chosen"


def of_desktop(dots: float) -> float:
    """The factor of the desktop's text, from the logical dots an inch of its screen."""
    return _inside(dots / USUAL)


def due(environment: MutableMapping[str, str] | None = None) -> float | None:
    """The factor with which the program has to be started again to follow the desktop; None where it fits."""
    found = os.environ if environment is None else environment
    screen = QGuiApplication.primaryScreen()
    if FACTOR in found or settings().text or screen is None:
        return None
    factor = of_desktop(screen.logicalDotsPerInch())
    return None if abs(factor - 1.0) < NEAR else factor


def fresh_environment(factor: float | None = None) -> dict[str, str]:
    """Of a program that is started again: with another factor, or with none of ours."""
    found = dict(os.environ)
    if found.pop(MARK, None) is not None:
        found.pop(FACTOR, None)
    if factor is not None:
        found[FACTOR], found[MARK] = f"{factor:g}", "desktop"
    return found


def _inside(factor: float) -> float:
    return min(max(factor, LEAST), MOST)
