"""The painters against slow versions: coverage of lines, lasso, markers; fonts, search, garbage."""

import gc
import os
import subprocess
import sys
import time
import unittest
import warnings
from collections import Counter
from dataclasses import replace
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QFontInfo, QPainterPath
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from scutcher.charts import colours
from scutcher.charts.description import Chart, Lines, Marks
from scutcher.charts.emphasis import FADED, FRONT, HIDDEN, PLAIN
from scutcher.desk.painting import busy, line_raster, marks_item, raster_item
from scutcher.desk.painting.line_raster import blend, column_runs, coverage
from scutcher.desk.painting.mark_finding import inside_polygon
from scutcher.desk.painting.mark_names import DEPTH
from scutcher.desk.painting.markers import marker
from scutcher.desk.painting.marks_item import MarksItem
from scutcher.desk.painting.painters import line_path
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.shell.finder import Entry, best, few, rank
from scutcher.desk.shell.start import application
from scutcher.desk.shell.theme import base_font
from tests.desk.driving import PATIENCE, pixels


class LineRaster(unittest.TestCase):
    def test_runs_against_dense_sampling(self):
        rng = np.random.default_rng(3)
        for p, width in ((700, 90), (40, 300), (3000, 90)):
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

    def test_many_places_to_a_column_break_lines_as_few_do(self):
        rng = np.random.default_rng(4)
        ys = rng.normal(size=(4, 900))
        ys[0, 300:340] = ys[1, ::50] = ys[2] = np.nan
        for x in (np.linspace(0.0, 1.0, 900), np.linspace(1.0, 0.0, 900)):
            for left, right in ((0.0, 1.0), (-0.2, 1.3), (0.31, 0.52), (2.0, 3.0)):
                found = column_runs(x, ys, left, right, 30)
                with mock.patch.object(line_raster, "FEW", 10**9):
                    slow = column_runs(x, ys, left, right, 30)
                for one, other in zip(found, slow, strict=True):
                    np.testing.assert_allclose(one, other, atol=1e-12)

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

    def test_only_what_is_touched_is_looked_at_where_that_is_little(self):
        rng = np.random.default_rng(7)
        for lines in (1, 2, 5):
            low = rng.uniform(-0.3, 1.2, (lines, 50))
            high = low + rng.uniform(0.0, 0.05, (lines, 50))
            low[0, 3:6] = high[0, 3:6] = np.nan
            with mock.patch.object(line_raster, "_of_few", wraps=line_raster._of_few) as few_seen:
                got = coverage(low, high, 0.0, 1.0, 200, 1.5)
            self.assertEqual(few_seen.call_count, 1)
            layers = [(got, (200, 30, 90)), (got[:, ::-1], (0, 90, 40))]
            pictures = [blend(layers[:count], 0.4) for count in (1, 2)]
            with mock.patch.multiple(line_raster, SPARSE=-1.0, FULL=-1.0):
                np.testing.assert_allclose(got, coverage(low, high, 0.0, 1.0, 200, 1.5), atol=1e-5)
                for count, picture in zip((1, 2), pictures, strict=True):
                    np.testing.assert_array_equal(picture, blend(layers[:count], 0.4))

    def test_opaque_lines_cover_and_what_no_line_covers_stays_clear(self):
        """What the monkey found: a logarithm of nothing, times nothing."""
        cover = np.array([[0.0, 0.4, 1.0, 7.0]])
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            for layers in ([(cover, (255, 0, 0))], [(cover, (255, 0, 0)), (0.0 * cover, (0, 0, 255))]):
                alpha = blend(layers, 1.0)[0] >> 24
                np.testing.assert_array_equal(alpha, [0, 255, 255, 255])

    def test_blend_of_one_line_and_of_two_colours(self):
        full, none = np.ones((1, 1)), np.zeros((1, 1))
        pixel = int(blend([(full, (255, 0, 0)), (none, (0, 0, 255))], 0.5)[0, 0])
        self.assertEqual((pixel >> 24, (pixel >> 16) & 255, pixel & 255), (128, 128, 0))
        pixel = int(blend([(full, (255, 0, 0)), (full, (0, 0, 255))], 0.5)[0, 0])
        self.assertEqual((pixel >> 24, (pixel >> 16) & 255, pixel & 255), (191, 96, 96))


class Paths(unittest.TestCase):
    def point_by_point(self, across, down):
        path, joined = QPainterPath(), False
        for x, y in zip(across, down, strict=True):
            if y == y:
                path.lineTo(x, y) if joined else path.moveTo(x, y)
            joined = y == y
        return path

    def test_a_path_made_at_once_is_that_made_point_by_point(self):
        x = np.linspace(3.0, 90.0, 40)
        whole, broken = np.sin(x), np.sin(x)
        broken[[0, 7, 8, 20, 39]] = np.nan
        for y in (whole, broken, np.full(40, np.nan), whole[:1], whole[:0]):
            path, slow = line_path(x[: len(y)], y), self.point_by_point(x[: len(y)], y)
            self.assertEqual(path.elementCount(), slow.elementCount())
            for place in range(path.elementCount()):
                one, other = path.elementAt(place), slow.elementAt(place)
                self.assertEqual((one.type, one.x, one.y), (other.type, other.x, other.y))


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

    def wait_for_all(self):
        end = time.monotonic() + PATIENCE
        while self.view.raster.is_coarse and time.monotonic() < end:
            QApplication.processEvents()
        self.assertFalse(self.view.raster.is_coarse)

    def test_in_slices_it_is_the_picture_of_all_at_once(self):
        raster = self.view.raster
        raster._refine.timeout.emit()
        self.wait_for_all()
        self.drawn()
        sliced = [picture.copy() for picture in raster._pictures]
        with mock.patch.object(raster_item, "MANY", 10**6):  # as if they were few
            raster._made_for = None
            self.drawn()
        self.assertEqual(len(raster._pictures), len(sliced))
        for one, other in zip(raster._pictures, sliced, strict=True):
            a, b = (np.frombuffer(x.constBits(), np.uint8).astype(int) for x in (one, other))
            self.assertLessEqual(np.abs(a - b).max(), 1)

    def test_some_of_few_lines_with_very_many_values_too(self):
        x = np.linspace(0.0, 1.0, 3000)
        ys = np.sin(9.0 * x) + np.arange(200)[:, np.newaxis] / 100.0
        lines = Lines(x, ys, np.arange(200), np.zeros(200, dtype=int), tuple(map(str, range(200))))
        with mock.patch.multiple(raster_item, MUCH=500_000, SKETCH=120_000, PIECE=50_000):
            self.view.show_chart(Chart("wide", lines=lines), np.full(200, PLAIN))
            sketch = self.drawn()
            self.assertTrue(self.view.raster.is_coarse)
            self.assertEqual(len(self.view.raster._runs[1]), 40)
            self.view.raster._refine.timeout.emit()
            self.wait_for_all()
        whole = self.drawn()
        self.assertGreater((sketch & whole).sum(), 0.95 * whole.sum())

    def test_where_nobody_looks_nothing_is_drawn_and_it_goes_on_when_somebody_does(self):
        raster = self.view.raster
        raster._refine.timeout.emit()
        self.assertIsNotNone(raster._slices)
        self.view.hide()
        end = time.monotonic() + PATIENCE
        while raster._go_on.isActive() and time.monotonic() < end:
            QApplication.processEvents()
        self.assertIsNone(raster._slices)
        self.assertTrue(raster.is_coarse)
        self.view.show()
        self.wait_for_all()

    def test_a_view_that_moves_meanwhile_starts_anew_and_one_that_cannot_wait_has_all(self):
        raster = self.view.raster
        raster._refine.timeout.emit()
        self.assertIsNotNone(raster._slices)
        self.view.ground.translateBy(x=5.0)
        self.drawn()
        self.assertIsNone(raster._slices)
        self.assertTrue(raster.is_coarse and raster._refine.isActive())
        raster.finish()
        self.assertFalse(raster.is_coarse)

    def front(self, rows):
        """Where the picture of the picked lines has ink, row by row of pixels from above."""
        picked = np.full(2500, PLAIN)
        picked[rows] = FRONT
        self.view.emphasise(picked)
        self.drawn()
        raster = self.view.raster
        self.assertTrue(raster.is_coarse)
        picture = raster._pictures[-1]
        whole = np.frombuffer(picture.constBits(), np.uint32).reshape(picture.height(), picture.width())
        return (whole >> 24 > 0).any(axis=1)

    def test_the_next_pick_draws_its_own_line_while_few_are_drawn(self):
        """As many lines are drawn as for the pick before, and the last of them is the same."""
        level = np.where(np.arange(2500) == 1503, 1.0, np.where(np.arange(2500) == 501, 0.0, 0.5))
        ys = level[:, np.newaxis].repeat(60, axis=1)
        self.view.show_chart(Chart("levels", lines=replace(self.lines, ys=ys)), np.full(2500, PLAIN))
        self.drawn()
        low, high = np.flatnonzero(self.front([501])), np.flatnonzero(self.front([1503]))
        self.assertGreater(low.min(), high.max() + 200)

    def test_of_many_picked_lines_some_are_drawn_while_it_moves(self):
        ink = self.front(slice(1, None))
        drawn = len(self.view.raster._runs[1])
        self.assertLess(drawn, 4 * raster_item.SOME)
        self.view.raster.finish()
        self.drawn()
        every = self.view.raster._pictures[-1]
        whole = np.frombuffer(every.constBits(), np.uint32).reshape(every.height(), every.width()) >> 24 > 0
        self.assertGreater(ink.sum(), 0.9 * whole.any(axis=1).sum())

    def test_a_few_coarse_lines_while_it_moves_and_all_when_it_rests(self):
        raster = self.view.raster
        self.view.ground.translateBy(x=20.0)
        moving = self.drawn()
        coarse = raster._pictures[0].width()
        self.assertTrue(raster._refine.isActive())
        busy.mark(self, True)
        raster._refine.timeout.emit()
        self.drawn()
        self.assertEqual(raster._pictures[0].width(), coarse)  # a model under way comes first
        busy.mark(self, False)
        raster._refine.timeout.emit()
        self.assertTrue(raster.is_coarse)  # a few slices are done: the picture is still the one before
        self.wait_for_all()
        resting = self.drawn()
        self.assertAlmostEqual(raster._pictures[0].width() / coarse, 2.0, delta=0.01)
        self.assertGreater(resting.sum(), 300)  # the lines cross nearly every column of pixels
        self.assertGreater((moving & resting).sum(), 0.95 * resting.sum())


class PickedNames(unittest.TestCase):
    """The names of picked marks that lie together stand apart."""

    def test_no_name_covers_another_even_in_a_low_view(self):
        application()
        view = PlaneView()
        self.addCleanup(view.deleteLater)
        view.resize(660, 110)
        view.show()
        QApplication.processEvents()
        x, y = np.r_[np.arange(140.0), 140.0, 140.5, 141.0], np.r_[np.full(139, 0.1), 9.0, 0.1, 0.1, 0.1]
        marks = Marks(x, y, np.arange(143), np.zeros(143, dtype=int), tuple(f"L{n}-1" for n in range(143)))
        strength = np.full(143, FADED)
        view.show_chart(Chart("order", marks=marks), strength)
        strength = strength.copy()
        strength[140:] = FRONT
        view.settle()
        view.emphasise(strength)
        shown = [label.mapRectToScene(label.boundingRect()) for label in view.names._labels]
        self.assertEqual(len(shown), 3)
        inside = view.ground.sceneBoundingRect()
        for place, one in enumerate(shown):
            core = one.adjusted(4, 4, -4, -4)  # without the air around the letters
            self.assertTrue(inside.adjusted(-1, -1, 1, 1).contains(core))
            for other in shown[:place]:
                self.assertFalse(core.intersects(other.adjusted(4, 4, -4, -4)))

    def test_a_name_that_stands_farther_off_has_a_line_to_its_mark(self):
        application()
        view = PlaneView()
        self.addCleanup(view.deleteLater)
        view.resize(400, 300)
        view.show()
        x, y = np.r_[0.0, 10.0, np.linspace(4.98, 5.02, 9)], np.r_[0.0, 10.0, np.linspace(5.02, 4.98, 9)]
        marks = Marks(x, y, np.arange(11), np.zeros(11, dtype=int), tuple(f"L{n}-1" for n in range(11)))
        strength = np.r_[FADED, FADED, np.full(9, FRONT)]
        view.show_chart(Chart("scores", marks=marks), strength)
        view.settle()
        view.emphasise(strength)
        leaders = view.layers.on(DEPTH)
        self.assertGreater(len(leaders), 2)
        self.assertLess(len(leaders), 9)
        areas = [label.mapRectToScene(label.boundingRect()) for label in view.names._labels]
        for leader in leaders:
            place = view.ground.mapViewToScene(QPointF(leader.x, leader.y))
            end = place + QPointF(leader.right, leader.below)
            self.assertTrue(any(area.adjusted(-1, -1, 1, 1).contains(end) for area in areas))
        view.emphasise(np.full(11, FADED))
        self.assertEqual(view.layers.on(DEPTH), ())


class Crowd(unittest.TestCase):
    """Very many marks are a density; every one of them can still be picked."""

    def setUp(self):
        application()
        self.view = PlaneView()
        self.addCleanup(self.view.deleteLater)
        self.view.resize(400, 300)
        self.view.show()
        rng = np.random.default_rng(4)
        self.points = rng.normal(size=(30_000, 2))
        self.points[0] = 6.0, 6.0  # far from all others
        codes = (self.points[:, 0] > 0).astype(int)
        names = tuple(map(str, range(30_000)))
        self.marks = Marks(self.points[:, 0], self.points[:, 1], np.arange(30_000), codes, names)
        self.view.show_chart(Chart("many", marks=self.marks), np.full(30_000, PLAIN))
        self.view.settle()
        QApplication.processEvents()
        self.picked = []
        self.view.picked.connect(lambda rows, modifiers: self.picked.append(rows))

    def at(self, x, y):
        across, down = self.view.to_pixels(np.array([x]), np.array([y]))
        return QPoint(round(float(across[0])), round(float(down[0])))

    def test_the_commonest_class_colours_a_place_and_more_is_darker(self):
        picture = pixels(self.view.viewport())
        first, second, far = self.at(-0.7, 0.0), self.at(0.7, 0.0), self.at(3.4, -3.0)
        blue, red = (np.array(colours.rgb(colours.class_colour(code))) for code in (0, 1))

        def away(place, colour):
            part = picture[place.y() - 3 : place.y() + 4, place.x() - 3 : place.x() + 4].reshape(-1, 3)
            return float(np.abs(part.mean(axis=0) - colour).mean())

        self.assertLess(away(first, blue), away(first, red))
        self.assertLess(away(second, red), away(second, blue))
        self.assertGreater(away(far, red), away(second, red))

    def test_a_click_picks_the_nearest_and_a_rectangle_all_that_are_inside(self):
        QTest.mouseClick(self.view.viewport(), Qt.MouseButton.LeftButton, pos=self.at(6.0, 6.0))
        QApplication.processEvents()
        self.assertEqual(self.picked[-1], [0])
        corner = np.array(self.view.ground.viewRange()).mean(axis=1) * 0.0
        across, down = self.view.to_pixels(self.points[:, 0], self.points[:, 1])
        place = self.at(*corner)
        self.view.ground.on_drag(
            QPointF(place), QPointF(place.x() + 60.3, place.y() + 40.3), True, Qt.KeyboardModifier.NoModifier
        )
        inside = (across > place.x()) & (across < place.x() + 60.3)
        inside &= (down > place.y()) & (down < place.y() + 40.3)
        self.assertEqual(self.picked[-1], np.flatnonzero(inside).tolist())

    def test_against_counting_cell_by_cell(self):
        rng, item = np.random.default_rng(11), self.view.item
        for case in range(6):
            count = int(rng.integers(1, 400))
            across, down = rng.uniform(-9.0, 75.0, (2, count))
            codes, strength = rng.integers(-1, 4, count), rng.integers(HIDDEN, FRONT + 1, count)
            item.show_marks(Marks(across, down, np.arange(count), codes, ("",) * count), strength)
            image = item._crowded(64, 40, across, down)
            for row, column in np.ndindex(image.height(), image.width()):
                inside = (across.astype(int) // item.grain == column) & (strength != HIDDEN)
                inside &= down.astype(int) // item.grain == row
                found = image.pixelColor(column, row)
                kinds = [(int(code), level != FADED) for code, level in zip(codes, strength, strict=True)]
                there = Counter(kind for kind, here in zip(kinds, inside, strict=True) if here)
                self.assertEqual(found.alpha() > 0, bool(there), (case, row, column))
                if there:
                    code, plain = min(there, key=lambda kind: (-there[kind], kind))
                    colour = colours.class_colour(code) if plain else colours.FADED
                    self.assertEqual(found.getRgb()[:3], colours.rgb(colour))

    def test_the_density_is_counted_again_where_it_is_another(self):
        item, counted = self.view.item, []
        with mock.patch.object(item, "_crowded", wraps=item._crowded) as count:

            def after(change):
                change()
                self.view.settle()
                picture = pixels(self.view.viewport())
                counted.append(count.call_count)
                return picture

            before = after(lambda: None)
            np.testing.assert_array_equal(after(self.view.viewport().update), before)
            after(lambda: self.view.hover_mark(9))
            after(lambda: self.view.hover_mark(None))
            self.assertEqual(set(counted), {counted[0]})
            zoomed = after(lambda: self.view.ground.scaleBy((0.5, 0.5)))
            self.assertGreater((zoomed != before).mean(), 0.1)
            after(lambda: self.view.resize(420, 300))
            after(lambda: self.view.emphasise(np.full(30_000, FADED)))
        self.assertEqual(len(set(counted)), 4)

    def test_picked_ones_stand_out_of_the_crowd(self):
        before = count_near(self.view, colours.INK)
        strength = np.full(30_000, FADED)
        strength[:3] = FRONT
        self.view.emphasise(strength)
        QApplication.processEvents()
        self.assertGreater(count_near(self.view, colours.INK), before + 20)  # rings and names
        self.assertLess(count_near(self.view, colours.class_colour(1)), 200)


def count_near(view, colour):
    away = np.abs(pixels(view.viewport()).astype(int) - np.array(colours.rgb(colour)))
    return int((away.max(axis=2) <= 40).sum())


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
        self.assertEqual(rank("msc", "Add MSC"), rank("snv", "Switch SNV off"))
        self.assertEqual(rank("msc", "Add multiplicative scatter correction", "msc, scatter"), 0)
        self.assertEqual(rank("L3", "L30-2"), 1)
        self.assertEqual(rank("snv", "Switch SNV off"), 2)
        self.assertEqual(rank("itch", "Switch SNV off"), 3)
        self.assertEqual(rank("off snv", "Switch SNV off"), 4)
        for nonsense in ("sso", "xyz", "snx off"):
            self.assertIsNone(rank(nonsense, "Switch SNV off"))

    def test_best_first_and_stable(self):
        entries = [Entry(words, "", lambda: None) for words in ("beta one", "one", "alone", "none")]
        self.assertEqual([e.words for e in best("one", entries)], ["one", "beta one", "alone", "none"])


class SearchingMany(unittest.TestCase):
    def test_few_of_many_are_those_that_all_entries_would_give(self):
        rng = np.random.default_rng(4)
        syllables = ("ab", "B", "lot 1", " a", "x ", "10", "1")
        names = ["".join(rng.choice(syllables, 3)) for _ in range(300)]
        entries = [Entry(name, "sample", print) for name in names]
        for query in ("", "a", "AB", "1", "lot", "10 a", "b lot 1", "x x", "nothing", names[7], " "):
            with self.subTest(query):
                wanted = [entry.words for entry in best(query, entries)]
                some = [entries[place] for place in few(query, names)]
                self.assertEqual([entry.words for entry in best(query, some)], wanted)


class Surroundings(unittest.TestCase):
    def test_the_shipped_face_is_used_without_any_installed_font(self):
        code = (
            "from scutcher.desk.shell.start import application; application();"
            "from PySide6.QtGui import QFontInfo, QFont; from scutcher.desk.shell.theme import base_font;"
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


class MarksNowhere(unittest.TestCase):
    def test_those_without_a_place_have_no_bounds_and_no_warning(self):
        """What the monkey found: the score of a class that could not be judged."""
        application()
        item, gone = MarksItem(8.0), np.array([np.nan, np.nan, 3.0])
        marks = Marks(np.array([1.0, 2.0, np.inf]), gone, np.arange(3), np.zeros(3, int), ("a", "b", "c"))
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            item.show_marks(marks, np.full(3, PLAIN))
        self.assertTrue(item.boundingRect().isNull())


class ManyRings(unittest.TestCase):
    """Of very many picked marks those under others are not drawn."""

    def test_one_for_each_few_pixels_and_the_last_of_them(self):
        from scutcher.desk.painting.marks_item import APART, RINGS, apart

        rng = np.random.default_rng(1)
        across, down = rng.random((2, 5000)) * 60
        few = np.arange(RINGS)
        np.testing.assert_array_equal(apart(across, down, few), few)
        kept = apart(across, down, np.arange(5000))
        cells = {(round(x / APART), round(y / APART)) for x, y in zip(across, down, strict=True)}
        self.assertEqual(len(kept), len(cells))
        self.assertIn(4999, kept)  # what is in front stays in front
        self.assertTrue((np.diff(kept) > 0).all())

    def test_copies_of_one_ring_look_as_rings_do(self):
        application()
        view = PlaneView()
        self.addCleanup(view.deleteLater)
        view.resize(500, 400)
        view.show()
        x, y = (place.ravel().astype(float) for place in np.meshgrid(np.arange(16), np.arange(12)))
        codes, names = np.zeros(192, dtype=int), tuple(map(str, range(192)))
        pictures = []
        for most in (10**6, 10):
            with mock.patch.object(marks_item, "ONE_BY_ONE", most):
                view.show_chart(
                    Chart("marks", marks=Marks(x, y, np.arange(192), codes, names)), np.full(192, FRONT)
                )
                view.settle()
                QApplication.processEvents()
                pictures.append(pixels(view.viewport()).astype(int))
        ink = [np.abs(picture - picture[0, 0]).max(axis=2) > 90 for picture in pictures]
        self.assertGreater(ink[0].sum(), 10_000)
        self.assertGreater((ink[0] & ink[1]).sum(), 0.9 * ink[0].sum())
        self.assertLess(abs(int(ink[0].sum()) - int(ink[1].sum())), 0.1 * ink[0].sum())
