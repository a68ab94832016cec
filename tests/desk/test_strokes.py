"""What is drawn over a plot stands where its data say, in its colour, and goes when others come."""

import itertools
import unittest
from unittest import mock

import numpy as np
from PySide6.QtCore import QBuffer, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF, QTransform
from PySide6.QtSvg import QSvgGenerator

from scutcher.charts import colours
from scutcher.desk.painting import strokes
from scutcher.desk.painting.area import PlotArea
from scutcher.desk.painting.labels import Label
from scutcher.desk.painting.setup import pen
from scutcher.desk.painting.strokes import Across, Bars, Line, Outline, Signs, Whiskers
from scutcher.desk.painting.to_pixels import ToPixels
from scutcher.desk.shell.start import application
from tests.desk.driving import pixels, settle

RED, BLUE = "#ff0000", "#0000ff"
INKS = RED, BLUE, "#00ff00"


class OnPlot(unittest.TestCase):
    def setUp(self):
        application()
        self.plot = PlotArea()
        self.addCleanup(self.plot.deleteLater)
        self.plot.resize(640, 440)
        self.plot.show()
        self.plot.ground.setRange(xRange=(0.0, 10.0), yRange=(0.0, 10.0), padding=0.0)
        self.plot.settle()
        settle()

    def draw(self, *strokes, depth=1.0):
        self.plot.layers.show(depth, strokes)
        settle()

    def near(self, x, y, colour=RED, within=2):
        """How many pixels around a place have a colour."""
        place = self.plot.mapFromScene(self.plot.ground.mapViewToScene(QPointF(x, y)))
        found = pixels(self.plot.viewport())
        part = found[place.y() - within : place.y() + within + 1, place.x() - within : place.x() + within + 1]
        away = np.abs(part.astype(int) - np.array(colours.rgb(colour))).max(axis=2)
        return int((away < 90).sum())


class Strokes(OnPlot):
    def test_a_line_is_broken_where_nothing_is_known(self):
        x, y = np.arange(1.0, 10.0), np.arange(1.0, 10.0)
        y[4] = np.nan
        self.draw(Line(x, y, pen(RED, 2.0)))
        self.assertTrue(self.near(2.5, 2.5))
        self.assertTrue(self.near(8.5, 8.5))
        self.assertFalse(self.near(5.0, 5.0))
        self.assertFalse(self.near(8.0, 2.0))

    def test_pieces_of_a_line_look_as_one_path(self):
        """On screen a wide line is drawn piece by piece, on paper and with other pens as a path."""
        x = np.linspace(0.5, 9.5, 40)
        y = 5.0 + 4.0 * np.sin(7.0 * x)
        line = Line(x, y, pen(RED, 2.0))
        self.draw(line)
        pieces = pixels(self.plot.viewport()).astype(int)
        with mock.patch.object(strokes, "is_rugged", return_value=False):
            self.plot.viewport().update()
            settle()
            path = pixels(self.plot.viewport()).astype(int)
        ink = (np.abs(path - 255).max(axis=2) > 60).sum()
        other = (np.abs(pieces - path).max(axis=2) > 60).sum()
        self.assertGreater(ink, 2000)
        self.assertLess(other, 0.06 * ink)
        self.assertLess(abs((pieces[..., 1] - path[..., 1]).mean()), 0.1)

    def test_lines_whose_pieces_would_show_stay_paths(self):
        thin, seen_through, broken = pen(RED, 1.0), pen(RED, 2.0), pen(RED, 2.0)
        seen_through.setColor(QColor(255, 0, 0, 120))
        broken.setStyle(Qt.PenStyle.DashLine)
        x = np.linspace(1.0, 9.0, 40)
        rugged, smooth = 5.0 + 4.0 * np.sin(9.0 * x), 5.0 + np.sin(x)
        rugged[7] = np.nan
        wanted = [(pen(RED, 1.5), rugged, True), (pen(RED, 1.5), smooth, False), (thin, rugged, False)]
        wanted += [(seen_through, rugged, False), (broken, rugged, False)]
        for one, y, pieces in wanted:
            with mock.patch.object(strokes, "_draw_pieces") as drawn:
                self.draw(Line(x, y, one))
                self.assertEqual(drawn.called, pieces)
        svg = QSvgGenerator()
        svg.setOutputDevice(kept := QBuffer())
        painter = QPainter(svg)
        Line(x, np.tile([1.0, 9.0], 20), pen(RED, 2.0)).draw(
            painter, ToPixels(painter.worldTransform(), 640, 440)
        )
        painter.end()
        self.assertEqual(bytes(kept.data()).count(b"<polyline") + bytes(kept.data()).count(b"<path"), 1)

    def test_words_that_yield_are_left_out_over_others(self):
        for yields in (False, True):
            kept = Label("MMMM", 5.0, 5.0, BLUE, (0.0, 0.5))
            over = Label("MMMM", 5.1, 5.1, RED, (0.0, 0.5), yields=yields)
            free = Label("MMMM", 5.0, 8.0, RED, (0.0, 0.5), yields=yields)
            self.draw(over, free, kept)
            with self.subTest(yields=yields):
                self.assertTrue(self.near(5.3, 5.0, BLUE, within=12))
                self.assertEqual(self.near(5.3, 5.0, RED, within=12) > 0, not yields)
                self.assertTrue(self.near(5.3, 8.0, RED, within=12))

    def test_an_outline_is_filled(self):
        corners = np.array([2.0, 8.0, 8.0, 2.0]), np.array([2.0, 2.0, 8.0, 8.0])
        self.draw(Outline(*corners, pen(BLUE, 3.0), QColor(RED)))
        self.assertEqual(self.near(5.0, 5.0), 25)
        self.assertTrue(self.near(8.0, 5.0, BLUE))
        self.assertFalse(self.near(9.0, 5.0))

    def test_corners_that_are_no_numbers_are_passed_over(self):
        """One of them kept the painter busy for a minute and a half."""
        turn = np.linspace(0.0, 2.0 * np.pi, 200)
        x, y = 5.0 + 3.0 * np.cos(turn), 5.0 + 3.0 * np.sin(turn)
        x[5], y[100] = np.nan, np.inf
        outline = Outline(x, y, pen(BLUE, 3.0), QColor(RED))
        drawn = []
        with mock.patch.object(
            strokes, "QPolygonF", lambda corners: drawn.append(corners) or QPolygonF(corners)
        ):
            self.draw(outline)
        self.assertEqual(self.near(5.0, 5.0), 25)
        self.assertEqual([len(corners) for corners in drawn], [199])

    def test_nobody_zooms_to_where_every_line_is_rounding(self):
        """A wheel that is turned on and on: outlines were jagged there, and took a fifth of a second each."""
        ground = self.plot.ground
        for factor in (0.5, 2.0):
            ground.setRange(xRange=(999.0, 1001.0), yRange=(-1.0, 1.0), padding=0.0)
            for _ in range(600):
                ground.scaleBy((factor, factor), QPointF(1000.0, 0.25))
            (left, right), (bottom, top) = ground.viewRange()
            with self.subTest(factor=factor):
                if factor < 1.0:
                    self.assertAlmostEqual(left, 1000.0, 5)
                    self.assertGreaterEqual(right - left, 1e-6)
                    self.assertLess(right - left, 2.1e-6)
                self.assertTrue(0.0 < top - bottom < np.inf)

    def test_rules_go_all_the_way_across(self):
        self.draw(Across(4.0, True, pen(RED)), Across(7.0, False, pen(BLUE)))
        for along in (0.2, 5.0, 9.8):
            self.assertGreaterEqual(self.near(4.0, along), 5)
            self.assertGreaterEqual(self.near(along, 7.0, BLUE), 4)

    def test_a_line_of_very_many_points_looks_as_all_of_them_do(self):
        rng = np.random.default_rng(5)
        x = np.linspace(0.5, 9.5, 30_000)
        y = 5.0 + np.sin(3.0 * x) + rng.normal(size=30_000) * 0.3
        for along in (x, x[::-1]):
            pictures = []
            for dense in (1e9, 4.0):
                with mock.patch.object(strokes, "DENSE", dense):
                    self.draw(Line(along, y, pen(RED, 1.5)))
                    pictures.append(pixels(self.plot.viewport()).astype(int))
            self.assertLess((np.abs(pictures[0] - pictures[1]).max(axis=2) > 60).mean(), 0.01)
        to = ToPixels(QTransform.fromScale(60.0, 40.0), 600.0, 400.0)
        kept, _ = strokes._outermost(to.x(x), to.y(y))
        self.assertLess(len(kept), 4 * 542)
        broken = np.where(x > 5.0, np.nan, y)
        for one, other in ((x, broken), (np.sin(x), y)):
            self.assertIs(strokes._outermost(one, other)[0], one)

    def test_bars_stand_on_zero_and_hang_from_it(self):
        self.plot.ground.setYRange(-5.0, 5.0, padding=0.0)
        self.draw(Bars(np.array([2.0, 6.0]), np.array([4.0, -4.0]), 1.0, (RED, BLUE)))
        self.assertEqual(self.near(2.0, 2.0), 25)
        self.assertEqual(self.near(6.0, -2.0, BLUE), 25)
        self.assertFalse(self.near(2.0, -2.0) or self.near(6.0, 2.0, BLUE) or self.near(3.0, 2.0))

    def test_very_many_bars_show_their_extremes_in_each_column_of_pixels(self):
        self.plot.ground.setYRange(-5.0, 5.0, padding=0.0)
        rng = np.random.default_rng(2)
        x, heights = np.linspace(0.0, 10.0, 40_000), rng.uniform(-0.5, 0.5, 40_000)
        heights[8_000], heights[24_000] = 4.0, -4.0
        bars = Bars(x, heights, 0.8 * 10.0 / 40_000, (RED,))
        with mock.patch.object(QPainter, "fillRect") as filled:
            self.draw(bars)
        self.assertLess(filled.call_count, 2_000)
        self.draw(bars)
        self.assertTrue(self.near(2.0, 3.8) and self.near(6.0, -3.8) and self.near(4.0, 0.2))
        self.assertFalse(self.near(2.2, 3.8) or self.near(6.0, 3.8) or self.near(4.0, 0.9))
        ranges = Whiskers(x, heights - 0.1, heights + 0.1, pen(BLUE, 2.0))
        self.draw(bars, ranges)
        self.assertFalse(self.near(2.0, 4.0, BLUE))  # they would hide the bars
        self.plot.ground.setXRange(1.999, 2.001, padding=0.0)  # so near that each has its own width
        self.draw(bars, ranges)
        self.assertTrue(self.near(x[8_000], 3.7) and self.near(x[8_000], 4.0, BLUE))

    def test_series_of_very_many_bars_do_not_hide_each_other(self):
        self.plot.ground.setYRange(-5.0, 5.0, padding=0.0)
        x, heights = np.linspace(0.0, 10.0, 40_000), np.full(40_000, 4.0)
        both = [Bars(x, heights, 1e-4, (ink,), place, 2) for place, ink in enumerate((RED, BLUE))]
        self.draw(*both)
        self.assertEqual(self.near(5.0, 2.0) + self.near(5.0, 2.0, BLUE), 25)
        self.assertIn(self.near(5.0, 2.0), (10, 15))

    def test_whiskers_reach_from_low_to_high(self):
        nan = np.array([2.0, np.nan, 6.0]), np.array([1.0, 1.0, 3.0]), np.array([8.0, 2.0, 5.0])
        self.draw(Whiskers(*nan, pen(RED, 2.0), 1.0))
        self.assertTrue(self.near(2.0, 4.0) and self.near(6.0, 4.0))
        self.assertTrue(self.near(2.4, 8.0))  # its end
        self.assertFalse(self.near(6.0, 7.0))

    def test_signs_have_their_size_in_pixels_at_any_zoom(self):
        at = np.array([3.0, 7.0]), np.array([3.0, 7.0])
        for high in (10.0, 20.0):
            self.plot.ground.setYRange(0.0, high, padding=0.0)
            for sign, least, most in (("square", 80, 125), ("circle", 55, 100), ("down", 30, 75)):
                with self.subTest(sign=sign, high=high):
                    self.draw(Signs(*at, sign, 10.0, fill=RED))
                    self.assertGreaterEqual(self.near(3.0, 3.0, within=10), least)
                    self.assertLessEqual(self.near(3.0, 3.0, within=10), most)
                    self.assertTrue(self.near(7.0, 7.0))
        self.draw(Signs(*at, "circle", 12.0, pen(RED, 1.6)))
        self.assertFalse(self.near(3.0, 3.0))
        self.assertTrue(self.near(3.0, 3.0, within=8))
        self.draw(Signs(*at, "cross", 12.0, pen(RED, 1.6)))
        self.assertTrue(self.near(3.0, 3.0))

    def test_words_stand_at_their_anchor(self):
        self.draw(Label("HHHH", 5.0, 5.0, RED, (0.0, 0.5), 20))
        self.assertTrue(self.near(5.5, 5.0, within=9))
        self.assertFalse(self.near(4.5, 5.0, within=9))
        self.draw(Label("HHHH", 5.0, 5.0, RED, (1.0, 0.5), 20))
        self.assertTrue(self.near(4.5, 5.0, within=9))
        self.assertFalse(self.near(5.5, 5.0, within=9))

    def test_words_over_marks_have_a_rim_of_paper_and_lie_over_the_lines(self):
        line = Line(np.array([0.0, 10.0]), np.array([5.0, 5.0]), pen(BLUE, 30.0))
        for rim in (False, True):
            self.draw(Label("HHHH", 5.0, 5.0, RED, (0.0, 0.5), 20, rim=rim), line)
            with self.subTest(rim=rim):
                self.assertTrue(self.near(5.5, 5.0, RED, within=9))
                self.assertEqual(self.near(5.5, 5.0, colours.PAPER, within=9) > 5, rim)

    def test_words_that_would_cover_others_stand_on_other_lines_inside_the_plot(self):
        names = [
            Label("HHHHHH", 9.9, 5.0 + 0.01 * place, color, (0.0, 0.5)) for place, color in enumerate(INKS)
        ]
        self.draw(*names)
        found = pixels(self.plot.viewport()).astype(int)
        edge = self.plot.mapFromScene(self.plot.ground.mapViewToScene(QPointF(10.0, 5.0))).x()
        rows = []
        for colour in INKS:
            seen = np.abs(found - np.array(colours.rgb(colour))).max(axis=2) < 120
            down, across = np.nonzero(seen)
            self.assertGreater(len(down), 20)
            self.assertLessEqual(across.max(), edge)
            self.assertGreater(np.ptp(across), 25)  # all letters
            rows.append((down.min(), down.max()))
        for (_, above), (below, _) in itertools.pairwise(sorted(rows)):
            self.assertLess(above, below)
        zoomed = Label("HHHH", 20.0, 5.0, RED, (0.0, 0.5))  # of what is not seen nothing is pulled in
        self.draw(zoomed)
        self.assertEqual(self.near(9.5, 5.0, within=20), 0)


class TheLayers(OnPlot):
    def test_those_in_front_cover_the_others_and_others_replace_them(self):
        square = np.array([2.0, 8.0, 8.0, 2.0]), np.array([2.0, 2.0, 8.0, 8.0])
        self.draw(Outline(*square, pen(RED), QColor(RED)), depth=5.0)
        self.draw(Outline(*square, pen(BLUE), QColor(BLUE)), depth=2.0)
        self.assertEqual((self.near(5.0, 5.0), self.near(5.0, 5.0, BLUE)), (25, 0))
        self.assertEqual(len(self.plot.layers.every), 2)
        self.draw(depth=5.0)
        self.assertEqual(self.near(5.0, 5.0, BLUE), 25)
        self.assertEqual(self.plot.layers.on(5.0), ())

    def test_they_follow_the_view(self):
        self.draw(Across(4.0, True, pen(RED, 2.0)))
        self.plot.ground.setXRange(3.0, 5.0, padding=0.0)
        settle()
        self.assertTrue(self.near(4.0, 5.0))
        self.plot.ground.setXRange(30.0, 50.0, padding=0.0)
        settle()
        self.assertFalse(self.near(31.0, 5.0, within=9))

    def test_far_zoomed_in_a_line_is_where_it_was(self):
        self.draw(Line(np.array([0.0, 10.0]), np.array([0.0, 10.0]), pen(RED, 2.0, dashes=True)))
        self.plot.ground.setRange(xRange=(0.0, 1e-3), yRange=(0.0, 1e-3), padding=0.0)
        settle()
        self.assertTrue(self.near(5e-4, 5e-4, within=5))


if __name__ == "__main__":
    unittest.main()
