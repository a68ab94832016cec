"""The longest gap in the event loop while something runs behind, on much data; beside an idle repaint."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtWidgets import QApplication

from bench.fitting import data, table_of
from scutcher.core.data.columns import ClassColumn
from scutcher.desk.screenshots.taking import window_on
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.recipe import AddStep, KeepComponents
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study

SHAPES = ((10_000, 1000), (100_000, 50), (1000, 20_000))
QUIET = 1.2  # seconds without anything under way that end a stretch


def longest_gap(
    window: Window,
    act: Callable[[], object],
    clock: Callable[[], float] = time.perf_counter,
    calm_for: float = QUIET,
) -> tuple[float, float]:
    """Seconds of the act itself, and of the longest turn of the event loop until all is done.

    Parameters
    ----------
    clock : that they are counted by
        `time.thread_time`: what the interface thread computes itself, on a machine that others work on too.
    calm_for : seconds without anything under way that end it
    """
    start = clock()
    act()
    took = clock() - start
    longest, calm = 0.0, time.perf_counter()
    while time.perf_counter() - calm < calm_for:
        turn = clock()
        QApplication.processEvents()
        longest = max(longest, clock() - turn)
        if window.desk.live.busy or window.desk.live.checking is not None:
            calm = time.perf_counter()
        time.sleep(0.001)
    return took, longest


def window_on_much(n: int, p: int) -> Window:
    """A window on a table of four classes that has just come to the screen."""
    kinds = tuple(f"c{code}" for code in np.arange(n) % 4)
    table = replace(table_of(data(n, p)), classes=(ClassColumn("kind", kinds),))
    return window_on(Study(State.of("much", table)))


def report() -> list[str]:
    """The lines of this bench."""
    lines = []
    for n, p in SHAPES:
        window = window_on_much(n, p)
        acts: dict[str, Callable[[], object]] = {
            "opened": lambda: None,
            "SNV added": lambda w=window: w.desk.do(AddStep("snv")),
            "one component more": lambda w=window: w.desk.do(KeepComponents(5)),
            "two set aside": lambda w=window: w.desk.do(SetAside((3, 7), "bench")),
            "one picked": lambda w=window: w.selection.pick([11]),
            "Samples": lambda w=window: w.show_page("Samples"),
            "Treat": lambda w=window: w.show_page("Treat"),
            "Rank": lambda w=window: w.show_page("Rank"),
            "Groups": lambda w=window: w.show_page("Groups"),
            "Inspect": lambda w=window: w.show_page("Inspect"),
        }
        words = []
        for name, act in acts.items():
            took, longest = longest_gap(window, act)
            words.append(f"{name} {1e3 * took:.0f}/{1e3 * longest:.0f}")
        lines.append(f"{n:,} × {p:,}, ms of the act / longest turn after it: " + ", ".join(words))
        dispose(window)
    return lines
