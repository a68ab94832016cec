"""Window start-up: from the command to the painted window, beside a bare Python and a bare window."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Sequence
from statistics import median

BARE_PYTHON = "print('painted', flush=True)"
BARE_WINDOW = """
from PySide6.QtWidgets import QApplication, QWidget
application = QApplication([]); window = QWidget(); window.resize(1280, 800); window.show(); window.repaint()
application.processEvents()
print('painted', flush=True)
window.deleteLater()
"""
SCUTCHER = """
import scutcher.desk.shell.window as module
from scutcher.desk.shell.start import run_window
class Watched(module.Window):
    def fill(self):
        print('painted', flush=True)
        super().fill()
import scutcher.desk.shell.windows as windows
windows.Window = Watched
raise SystemExit(run_window(demo='intake-nir', shown=lambda window: window.close()))
"""
COMPLETE = """
from scutcher.desk.shell.start import run_window
def shown(window):
    from PySide6.QtWidgets import QApplication
    QApplication.processEvents()
    window.repaint()
    print('painted', flush=True)
    window.close()
raise SystemExit(run_window(demo='intake-nir', shown=shown))
"""


OPENED = COMPLETE.replace("demo='intake-nir'", "files=[__import__('pathlib').Path({!r})]")
"""The same with a study."""


def seconds_to_paint(program: str) -> float:
    """From the start of the process to its line `painted`."""
    start = time.perf_counter()
    with subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        line = process.stdout.readline()
        elapsed = time.perf_counter() - start
        process.communicate(timeout=60)
    if line.strip() != "painted" or process.returncode != 0:
        raise RuntimeError(f"the program ended with {process.returncode} and said {line!r}")
    return elapsed


def in_turn(programs: Sequence[str], times: int = 9) -> list[float]:
    """The median seconds of each, measured in turn: these machines change their pace."""
    rounds = [[seconds_to_paint(program) for program in programs] for _ in range(times)]
    return [median(own) for own in zip(*rounds, strict=True)]


def report() -> list[str]:
    """The lines of this bench."""
    python, window, first, complete = in_turn((BARE_PYTHON, BARE_WINDOW, SCUTCHER, COMPLETE))
    return [
        f"bare Python {python:.2f} s, bare window {window:.2f} s, all in turn, medians",
        f"demo, window painted {first:.2f} s = {first / window:.1f} × a bare window",
        f"demo, every plot painted {complete:.2f} s = {complete / window:.1f} × a bare window",
    ]
