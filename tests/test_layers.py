"""What may import what, seen in a fresh process."""

import subprocess
import sys
import unittest
from pathlib import Path

from bench.__main__ import BENCHES

import scutcher

ROOMS = (
    "scutcher.core.models.pca.component_model",
    "scutcher.study.current_model",
    "scutcher.charts.scores",
    "scutcher.demo.sets",
    "scutcher.cli",
)
LATE = ("scipy", "pandas", "pyqtgraph", "PySide6")


class Layers(unittest.TestCase):
    def told_by(self, code):
        return subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        ).stdout.split()

    def loaded_after(self, module):
        return self.told_by(f"import sys, {module}; print(' '.join(sys.modules))")

    def test_no_room_below_the_desk_loads_qt_or_anything_slow(self):
        for module in ROOMS:
            with self.subTest(module):
                loaded = self.loaded_after(module)
                for name in LATE:
                    self.assertNotIn(name, loaded)

    def test_the_window_does_not_load_what_its_first_frame_does_not_need(self):
        loaded = self.loaded_after("scutcher.desk.shell.window")
        self.assertIn("PySide6", loaded)
        for name in (
            "pandas",
            "pyqtgraph",
            "scipy",
            "scutcher.files.formats",
            "scutcher.core.unmixing.mixture",
        ):
            self.assertNotIn(name, loaded)

    def test_the_first_frame_does_not_load_the_plots(self):
        loaded = self.told_by(
            "import sys\n"
            "from scutcher.desk.shell.start import application; application()\n"
            "from scutcher.desk.shell.window import Window\n"
            "from scutcher.desk.shell.beginning import demo_study\n"
            "window = Window(demo_study('intake-nir'), filled=False); window.show(); window.repaint()\n"
            "print(*sys.modules)"
        )
        for name in ("pandas", "pyqtgraph", "scipy"):
            self.assertNotIn(name, loaded)

    def test_no_source_is_read_when_a_module_is_loaded(self):
        """PySide's import looks into the source of each, and keeps it."""
        code = "import scutcher.desk.shell.window, linecache; print(len(linecache.cache), end='')"
        self.assertLess(int(self.told_by(code)[0]), 40)

    def test_every_bench_can_be_loaded(self):
        names = ", ".join(f"bench.{name}" for name in BENCHES)
        self.assertEqual(self.told_by(f"import {names}"), [])


class Words(unittest.TestCase):
    def test_only_the_command_line_names_its_flags(self):
        root = Path(scutcher.__file__).parent
        manual = root / "core" / "treatments" / "support" / "manual.py"
        for path in sorted(root.rglob("*.py")):
            if root / "cli" not in path.parents and path != manual:
                with self.subTest(path.name):
                    self.assertNotRegex(path.read_text(encoding="utf-8"), r"--[a-z]{3,}")
