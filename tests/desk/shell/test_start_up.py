"""A start makes what its window needs, and not every class that Qt and our own folders have."""

import os
import re
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import scutcher
from scutcher.desk.painting import plotting_library

START = """
import enum, sys
made, make = set(), enum.EnumType._create_
def watched(cls, name, *given, **named):
    made.add(name)
    return make(cls, name, *given, **named)
enum.EnumType._create_ = watched
from scutcher.desk.shell.start import run_window
def say(when):
    read = [name.rpartition(".")[2] for name in sys.modules if name.startswith("scutcher.core.treatments.")]
    print(when, "WizardStyle" in made, "StandardPixmap" in made, "arpls" in read, "snv" in read)
import scutcher.desk.shell.windows as windows
class Watched(windows.Window):
    def fill(self):
        say("first")
        super().fill()
windows.Window = Watched
def shown(window):
    from PySide6.QtWidgets import QApplication
    QApplication.processEvents()
    window.repaint()
    say("whole")
    window.close()
raise SystemExit(run_window(demo="intake-nir", shown=shown))
"""
LIBRARY = """
from scutcher.desk.painting.plotting_library import pg
import PySide6.QtCore, PySide6.QtGui, PySide6.QtWidgets
print("QWizard" in vars(pg.QtWidgets), pg.QtWidgets.QWizard is PySide6.QtWidgets.QWizard)
print(pg.QtCore.Qt is PySide6.QtCore.Qt, issubclass(pg.GraphicsObject, PySide6.QtWidgets.QGraphicsObject))
print("QPainter" in dir(PySide6.QtGui), hasattr(pg.QtGui, "QNothing"))
"""


UNREAD = """
import sys
from scutcher.desk.painting.plotting_library import Unread, pg
library = [module for name, module in sys.modules.items() if name.startswith("pyqtgraph")]
print(*sorted(name for module in library for name, what in vars(module).items() if what is Unread))
try:
    pg.GroupBox()
except NotImplementedError:
    from pyqtgraph.graphicsItems.PlotItem import PlotItem
    print(PlotItem.__name__)
"""


class StartUp(unittest.TestCase):
    def output_of(self, program):
        with tempfile.TemporaryDirectory() as folder:
            surroundings = os.environ | {"XDG_STATE_HOME": folder}
            done = subprocess.run(
                [sys.executable, "-c", program], capture_output=True, text=True, check=True, env=surroundings
            )
        return done.stdout.split("\n")[:-1]

    def test_what_the_first_frame_and_the_plots_do_not_need_is_not_made(self):
        self.assertEqual(
            self.output_of(START), ["first False False False True", "whole False False False True"]
        )

    def test_the_plotting_library_finds_all_of_qt_without_having_copied_it(self):
        self.assertEqual(self.output_of(LIBRARY), ["False True", "True True", "True False"])

    def test_what_no_plot_needs_of_it_is_unread_and_nothing_of_ours_leads_there(self):
        self.assertEqual(
            self.output_of(UNREAD), ["ColorMapMenu GroupBox RemoteGraphicsView ViewBoxMenu", "PlotItem"]
        )
        named = set()
        for path in Path(scutcher.__file__).parent.rglob("*.py"):
            named |= set(re.findall(r"\bpg\.(\w+)", path.read_text()))
        self.assertGreater(len(named), 10)
        for name in named:
            with self.subTest(name=name):
                self.assertIsNot(getattr(plotting_library.pg, name), plotting_library.Unread)


if __name__ == "__main__":
    unittest.main()
