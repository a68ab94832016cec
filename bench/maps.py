"""The Maps page on an image that does not fit memory: opened, gone over, picked."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from bench.gaps import longest_gap
from scutcher.core.numeric.threads import one_thread
from scutcher.demo.large_belt_scan import write_large_belt_scan
from scutcher.desk.screenshots.taking import at_page, patiently
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.document.study import Study

ROWS, COLUMNS, BANDS = 1000, 1000, 150


def report() -> list[str]:
    """The lines of this bench."""
    application()
    with tempfile.TemporaryDirectory() as folder:
        path = write_large_belt_scan(Path(folder), ROWS, COLUMNS, BANDS)[0]
        window = Window(Study())
        window.resize(1280, 800)
        window.show()
        try:
            return _lines(window, path)
        finally:
            dispose(window)


def _lines(window: Window, path: Path) -> list[str]:
    start = time.perf_counter()
    window.opening.open_files([path])
    patiently(lambda: window.desk.moment.found is not None)
    opened = time.perf_counter() - start
    page = at_page(window, "Maps")
    _painted()
    mapped = time.perf_counter() - start
    _, longest = longest_gap(window, lambda: None)
    start = time.perf_counter()
    page.wall.behind.go_over(True)
    patiently(lambda: page.wall.behind.whole is not None and page.wall.behind.whole.done == 1.0)
    over = time.perf_counter() - start
    _painted()
    rows, columns = page.grid.shape
    picks = []
    for low in (5, 25, 45, 65):
        inside = np.zeros((rows, columns), dtype=bool)
        inside[low : low + rows // 3, low : low + columns // 3] = True
        start = time.perf_counter()
        page._on_pick(0, inside, Qt.KeyboardModifier.NoModifier)
        _painted()
        picks.append(time.perf_counter() - start)
    idle = []
    for _ in range(5):
        start = time.perf_counter()
        window.repaint()
        _painted()
        idle.append(time.perf_counter() - start)
    picked, still = float(np.median(picks)), float(np.median(idle))
    block = np.random.default_rng(1).normal(size=(10_000, BANDS))
    with one_thread():
        start = time.perf_counter()
        for _ in range(ROWS * COLUMNS // len(block)):
            block.T @ block
        product = time.perf_counter() - start
    return [
        f"{ROWS} × {COLUMNS} × {BANDS}, {rows} × {columns} pixels read: model after {opened:.1f} s, "
        f"first maps after {mapped:.1f} s; longest turn {1e3 * longest:.0f} ms",
        f"all pixels gone over behind: {over:.1f} s = {over / product:.1f} products of them",
        f"{int(inside.sum()):,} pixels picked to painted: {1e3 * picked:.0f} ms "
        f"= {picked / still:.1f} idle repaints",
    ]


def _painted() -> None:
    for _ in range(3):
        QApplication.processEvents()
