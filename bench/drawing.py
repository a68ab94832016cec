"""10,000 spectra × 1,000 channels on a strip: first picture, pan, zoom, pick; beside a smaller set."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from bench.timing import best_seconds
from scutcher.charts.description import Chart, Lines
from scutcher.charts.emphasis import FADED, FRONT, PLAIN
from scutcher.desk.painting.strip import StripView
from scutcher.desk.shell.start import application

SIZES = ((150, 700), (10_000, 1_000))


def report() -> list[str]:
    """The lines of this bench."""
    application()
    lines = []
    for n, p in SIZES:
        rng = np.random.default_rng(0)
        x = np.linspace(1100.0, 2500.0, p)
        ys = 1.0 + 0.1 * rng.normal(size=(n, 1)) + np.sin(x / 90.0) * rng.uniform(0.5, 1.0, (n, 1))
        view = StripView()
        view.resize(660, 400)
        view.show()
        codes = np.arange(n) % 4
        names = tuple(map(str, range(n)))

        def first(view: StripView = view, n: int = n, x=x, ys=ys, codes=codes, names=names) -> None:  # type: ignore[no-untyped-def]
            view.raster.show_lines(np.empty(0), np.empty((0, 0)))
            chart = Chart("signals", lines=Lines(x, ys, np.arange(n), codes, names))
            view.show_chart(chart, np.full(n, PLAIN))
            view.settle()
            view.repaint()
            QApplication.processEvents()

        def pan(view: StripView = view) -> None:
            view.ground.translateBy(x=7.0)
            for _ in range(3):  # as in the window: whoever moves a view paints nothing
                QApplication.processEvents()

        def pick(view: StripView = view, n: int = n) -> None:
            strength = np.full(n, FADED)
            strength[np.random.default_rng().integers(0, n, 3)] = FRONT
            view.emphasise(strength)
            view.repaint()
            QApplication.processEvents()

        def refine(view: StripView = view) -> None:
            view.raster._coarse = True
            view.raster.finish()
            view.repaint()
            QApplication.processEvents()

        times = [best_seconds(work, 5) for work in (first, pan, pick, refine)]
        words = ("first picture", "a step of a pan", "a pick", "every line, at rest")
        lines.append(
            f"{n} × {p}: " + ", ".join(f"{w} {1e3 * t:.0f} ms" for w, t in zip(words, times, strict=True))
        )
        view.close()
        view.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        QApplication.processEvents()
    return lines
