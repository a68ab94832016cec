"""The painters against slow versions: coverage of lines, lasso, markers; fonts, search, garbage."""

import gc
import os
import subprocess
import sys
import unittest

import numpy as np
from PySide6.QtGui import QFontInfo

from scutcher.charts import colours
from scutcher.charts.description import Chart, Lines
from scutcher.charts.emphasis import PLAIN
from scutcher.desk.painting.line_raster import blend, column_runs, coverage
from scutcher.desk.painting.markers import marker
from scutcher.desk.painting.plane import inside_polygon
from scutcher.desk.painting.strip import StripView
from scutcher.desk.palette import Entry, best, rank
from scutcher.desk.start import application
from scutcher.desk.theme import base_font
from tests.desk.driving import pixels


class LineRaster(unittest.TestCase):
    def test_runs_against_dense_sampling(self):
        rng = np.random.default_rng(3)
        for p, width in ((700, 90), (40, 300)):
            for falling in (False, True):
                with self.subTest(p=p, width=width, falling=falling):
                    x = np.linspace(2500.0, 1100.0, p) if falling else np.linspace(1100.0, 2500.0, p)
                    ys = rng.normal(size=(3, p)).cumsum(axis=1)
                    low, high = column_runs(x, ys, 1300.0, 2100.0, width)
                    edges = np.linspace(1300.0, 2100.0, width + 1)
                    order = np.argsort(x)
                    for line in range(3):
                        for column in range(0, width, 7):
                            dense = np.union1d(np.linspace(edges[column], edges[column + 1], 50), x)
                            dense = dense[(dense >= edges[column]) & (dense <= edges[column + 1])]
                            values = np.interp(dense, x[order], ys[line][order])
                            self.assertAlmostEqual(low[line, column], values.min(), places=9)
                            self.assertAlmostEqual(high[line, column], values.max(), places=9)

    def test_gaps_break_the_line(self):
        x = np.arange(10.0)
        ys = np.ones((1, 10))
        ys[0, 4:6] = np.nan
        low, _ = column_runs(x, ys, 0.0, 9.0, 9)
        self.assertTrue(np.isnan(low[0, 4]))
        self.assertFalse(np.isnan(low[0, [0, 1, 7, 8]]).any())

    def test_coverage_against_supersampling(self):
        rng = np.random.default_rng(5)
        low = rng.uniform(-0.2, 0.9, (4, 6))
        high = low + rng.uniform(0.0, 0.4, (4, 6))
        got = coverage(low, high, 0.0, 1.0, 20, 1.5)
        fine = np.zeros((20 * 400, 6))
        heights = (np.arange(20 * 400) + 0.5) / 400.0
        for line in range(4):
            for column in range(6):
                start, end = low[line, column] * 20 - 0.75, high[line, column] * 20 + 0.75
                fine[:, column] += (heights > start) & (heights < end)
        np.testing.assert_allclose(got, fine.reshape(20, 400, 6).mean(axis=1), atol=0.02)

    def test_blend_of_one_line_and_of_two_colours(self):
        full, none = np.ones((1, 1)), np.zeros((1, 1))
        pixel = int(blend([(full, (255, 0, 0)), (none, (0, 0, 255))], 0.5)[0, 0])
        self.assertEqual((pixel >> 24, (pixel >> 16) & 255, pixel & 255), (128, 128, 0))
        pixel = int(blend([(full, (255, 0, 0)), (full, (0, 0, 255))], 0.5)[0, 0])
        self.assertEqual((pixel >> 24, (pixel >> 16) & 255, pixel & 255), (191, 96, 96))


class ManyLines(unittest.TestCase):
    def setUp(self):
        application()
        self.view = StripView()
        self.addCleanup(self.view.deleteLater)
        self.view.resize(500, 300)
        self.view.show()
        rng = np.random.default_rng(1)
        x = np.linspace(1000.0, 2000.0, 60)
        ys = np.sin(x / 80.0) + rng.uniform(-0.05, 0.05, (2500, 1))
        self.lines = Lines(x, ys, np.arange(2500), np.zeros(2500, dtype=int), tuple(map(str, range(2500))))
        self.view.show_chart(Chart("many", lines=self.lines), np.full(2500, PLAIN))
        self.drawn()

    def drawn(self):
        self.view.settle()
        self.view.repaint()
        return count_columns(pixels(self.view.viewport()), colours.class_colour(0))

    def test_a_few_coarse_lines_while_it_moves_and_all_when_it_rests(self):
        raster = self.view.raster
        self.view.ground.translateBy(x=20.0)
        moving = self.drawn()
        coarse = raster._pictures[0].width()
        self.assertTrue(raster._refine.isActive())
        raster._refine.timeout.emit()
        resting = self.drawn()
        self.assertAlmostEqual(raster._pictures[0].width() / coarse, 2.0, delta=0.01)
        self.assertGreater(resting.sum(), 300)  # the lines cross nearly every column of pixels
        self.assertGreater((moving & resting).sum(), 0.95 * resting.sum())


def count_columns(picture, colour):
    """Which columns of pixels hold something near a colour."""
    away = np.abs(picture.astype(int) - np.array(colours.rgb(colour)))
    return (away.max(axis=2) < 60).any(axis=0)


class Shapes(unittest.TestCase):
    def test_lasso_against_walking_round(self):
        rng = np.random.default_rng(7)
        corners = rng.uniform(-1.0, 1.0, (9, 2))
        x, y = rng.uniform(-1.2, 1.2, (2, 300))
        got = inside_polygon(x, y, corners)
        for point in range(300):
            steps = corners - (x[point], y[point])
            turns = np.arctan2(steps[:, 1], steps[:, 0])
            change = np.diff(np.r_[turns, turns[0]])
            winding = round(((change + np.pi) % (2 * np.pi) - np.pi).sum() / (2 * np.pi))
            self.assertEqual(got[point], winding % 2 == 1)

    def test_every_class_shape_has_a_path_of_about_unit_size(self):
        application()
        for shape in colours.CLASS_SHAPES:
            box = marker(shape).boundingRect()
            self.assertGreater(max(box.width(), box.height()), 0.8)
            self.assertLess(max(box.width(), box.height()), 1.3)


class Searching(unittest.TestCase):
    def test_rank(self):
        self.assertEqual(rank("L3", "L30-2"), 0)
        self.assertEqual(rank("snv", "Switch SNV off"), 1)
        self.assertEqual(rank("itch", "Switch SNV off"), 2)
        self.assertEqual(rank("sso", "Switch SNV off"), 3)
        self.assertIsNone(rank("xyz", "Switch SNV off"))

    def test_best_first_and_stable(self):
        entries = [Entry(words, "", lambda: None) for words in ("beta one", "one", "alone", "none")]
        self.assertEqual([e.words for e in best("one", entries)], ["one", "beta one", "alone", "none"])


class Surroundings(unittest.TestCase):
    def test_the_shipped_face_is_used_without_any_installed_font(self):
        code = (
            "from scutcher.desk.start import application; application();"
            "from PySide6.QtGui import QFontInfo, QFont; from scutcher.desk.theme import base_font;"
            "print(QFontInfo(base_font()).family())"
        )
        environment = {**os.environ, "FONTCONFIG_FILE": os.devnull}
        done = subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("Inter", done.stdout)

    def test_sizes_and_collector(self):
        application()
        self.assertEqual(QFontInfo(base_font()).pixelSize(), 12)
        self.assertFalse(gc.isenabled())  # only the event loop collects
