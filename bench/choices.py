"""Every choice of every page on much data, clicked once: the longest turns of the interface thread."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from functools import partial

from PySide6.QtWidgets import QAbstractButton, QWidget

from bench.gaps import longest_gap, window_on_much
from scutcher.desk.screenshots.taking import at_page
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.window import Window
from scutcher.desk.widgets.choice_menu import ChoiceMenu

SHAPES = ((2000, 500), (10_000, 1000), (100_000, 50))
PAGES = ("Samples", "Treat", "Rank", "Inspect", "Groups")
ASKS = ("…", "copy", "write", "seal", "Average", "Bring back")
"""In the words of what asks somebody something, or changes the data."""
CALM, WORST = 0.2, 3


def report() -> list[str]:
    """The lines of this bench."""
    return [_line(n, p) for n, p in SHAPES]


def _line(n: int, p: int) -> str:
    window = window_on_much(n, p)
    found = []
    for page in PAGES:
        found.append((_longest(window, lambda page=page: window.show_page(page)), page))
        found += [(_longest(window, act), words) for words, act in _choices(at_page(window, page), page)]
    dispose(window)
    found.sort(reverse=True)
    worst = ", ".join(f"{words} {1e3 * seconds:.0f}" for seconds, words in found[:WORST])
    return f"{n:,} × {p:,}: {len(found)} acts, ms of the longest turns by its own time: {worst}"


def _longest(window: Window, act: Callable[[], object]) -> float:
    return max(longest_gap(window, act, time.thread_time, CALM))


def _choices(page: QWidget, name: str) -> Iterator[tuple[str, Callable[[], object]]]:
    """What can be clicked, as it is when its turn comes: words, and the click."""
    for button in page.findChildren(QAbstractButton):
        words = f"{name}: {button.text()}"
        if not (button.isVisible() and button.isEnabled()) or any(ask in words for ask in ASKS):
            continue
        if isinstance(button, ChoiceMenu):
            button.refill()
            for choice in [action.text() for action in button.choices.actions()]:
                if choice and not any(ask in choice for ask in ASKS):
                    yield f"{words} {choice}", partial(_choose, button, choice)
        elif button.isCheckable():
            yield words, button.click
            if button.group() is None:
                yield f"{words}, back", button.click


def _choose(menu: ChoiceMenu, words: str) -> None:
    """A choice that went away with another one is passed over."""
    menu.refill()
    if words in {action.text() for action in menu.choices.actions()}:
        menu.choose(words)
