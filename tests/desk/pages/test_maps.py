"""The Maps page, driven by hand: masked, picked, explained, outlined, written."""

import gc
import json
import tempfile
import unittest
import weakref
from functools import partial
from itertools import pairwise
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from scutcher.charts import colours
from scutcher.charts.pixels import Subject
from scutcher.core.models.kind import Prepared, kind_of
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.treatments import treatment
from scutcher.demo.belt_scan import TALL, TWINE_AT, WIDE
from scutcher.desk import context
from scutcher.desk.pages.maps import wall
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.window import Window
from scutcher.desk.trail.shelf import figures_text
from scutcher.desk.widgets.popover import Ask
from scutcher.study.cluster import Cluster
from scutcher.study.document.commands.recipe import AddStep
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.commands.shelf import OpenModel
from scutcher.study.document.study import Study
from scutcher.study.storage.settings import settings
from tests.desk.driving import CTRL, LEFT, SHIFT, WindowCase, pixels, settle


class Maps(WindowCase):
    demo = "belt-scan"
    first_page = "Maps"

    def setUp(self):
        super().setUp()
        self.page = self.window.view("Maps")
        self.until(lambda: self.desk.moment.found is not None)
        settle()
        self.one, self.other = self.page.wall.panels[0].view, self.page.wall.panels[1].view
        self.code = self.state.table.classes[0].codes()

    def at(self, column, row, view=None):
        """A point of the screen on a pixel."""
        return (view or self.one).point_of(column, row).toPoint()

    def picked_cells(self):
        return sorted((row % WIDE, row // WIDE) for row in self.look.picked)

    def choose(self, words, place=0):
        self.page.wall.panels[place].menu.choose(words)
        settle()

    def test_only_the_map_that_shows_something_else_is_made_anew(self):
        maps = self.page.wall
        before = self.pictures()
        with mock.patch.object(wall, "map_of", side_effect=wall.map_of) as made:
            with mock.patch.object(wall, "inks", side_effect=wall.inks) as printed:
                maps.choose_subject(0, Subject("t2", ()))
                settle()
        self.assertEqual([call.args[3].kind for call in made.call_args_list], ["t2"])
        self.assertEqual(printed.call_count, 0)
        after = self.pictures()
        self.assertFalse(np.array_equal(before[0], after[0]))
        np.testing.assert_array_equal(before[1], after[1])
        self.desk.do(SetAside(tuple(range(40)), "edge"))
        self.until(lambda: len(self.desk.moment.found.usable.rows) == len(self.state.table.ids) - 40)
        settle()
        self.assertTrue(np.isnan(maps.map_at(0).values.ravel()[:40]).all())
        maps.choose_subject(1, Subject("q", ()))
        self.desk.do(SetAside((41,), "edge"))
        self.until(lambda: len(self.desk.moment.found.usable.rows) == len(self.state.table.ids) - 41)
        settle(20)
        for memo in (maps._maps, maps._inks):  # models of before are not held
            self.assertTrue(all(made_of[0] is self.desk.moment.found for made_of, _ in memo._kept.values()))

    def test_of_very_many_pixels_the_parts_of_the_page_come_in_turns(self):
        self.page.wall.choose_subject(0, Subject("q", ()))
        settle()
        before = self.pictures()
        drawn = []
        with mock.patch.object(context, "MUCH", 0):
            for panel in self.page.wall.shown:
                panel.show_picture = partial(self.noting, drawn, panel.show_picture)
                panel.show_inks = partial(self.noting, drawn, panel.show_inks)
            self.page.refresh()
            self.assertLess(len(drawn), len(self.page.wall.shown))
            settle(12)
        self.assertEqual(len(drawn), len(self.page.wall.shown))
        for one, two in zip(before, self.pictures(), strict=True):
            np.testing.assert_array_equal(one, two)

    @staticmethod
    def noting(drawn, show, *args):
        drawn.append(show)
        show(*args)

    def pictures(self):
        return [pixels(panel.view) for panel in self.page.wall.shown]

    def mask_belt(self):
        """As a person does it: the channel as brought in, the upper end dragged down, masked."""
        self.desk.selection.change(channel=1300.0)
        self.choose(self.raw_words())
        view = self.page.wall.range
        y = view.height() // 2
        start = QPoint(round(view.place_of(view.one.high)), y)
        self.drag(view, [start, QPoint(round(view.place_of(0.455)), y)])
        low = QPoint(round(view.place_of(view.one.low)), y)
        self.drag(view, [low, QPoint(0, y)])
        self.page.view_menu.choose("mask pixels outside the range")
        self.until(lambda: len(self.desk.moment.found.usable.rows) < WIDE * TALL)
        settle()
        self.until(lambda: bool(self.page.objects))
        settle()

    def raw_words(self):
        menu = self.page.wall.panels[0].menu
        menu.refill()
        return next(a.text() for a in menu.choices.actions() if a.text().endswith("as brought in"))

    # Looking

    def test_the_picture_has_the_colours_of_the_map(self):
        one = self.page.map_at(0)
        colours, shown = one.coloured(), pixels(self.one)
        for column, row in ((2, 2), (40, 30), (80, 16), (95, 63)):
            place = self.at(column, row)
            np.testing.assert_allclose(
                shown[place.y(), place.x()].astype(int), colours[row, column].astype(int), atol=1
            )

    def test_a_table_without_places_has_no_maps(self):
        self.assertTrue(self.window.topbar.pages["Maps"].isVisible())
        self.window.opening.open_demo("practice")
        self.until(lambda: self.state.name == "practice" and self.desk.moment.found is not None)
        settle()
        self.assertNotEqual(self.window.stack.current, "Maps")
        self.assertFalse(self.window.topbar.pages["Maps"].isVisible())

    def test_the_cursor_is_one_on_all_maps_and_in_the_readings(self):
        QTest.mouseMove(self.one, self.at(21, 33))
        settle()
        self.assertEqual(self.look.hovered, 33 * WIDE + 21)
        self.assertEqual((self.one.cursor_cell, self.other.cursor_cell), ((21, 33), (21, 33)))
        score = self.model.scores[33 * WIDE + 21, 0]
        row = next(
            r
            for r in range(self.page.beside.table.rowCount())
            if self.page.beside.table.cell(r, 0).text() == "component 1"
        )
        shown = float(self.page.beside.table.cell(row, 1).text().replace("−", "-"))
        self.assertAlmostEqual(shown, score, delta=2e-3 * abs(score))
        line = self.page.beside.spectra.chart.lines
        np.testing.assert_allclose(
            line.ys[0],
            self.desk.moment.found.treated.values[33 * WIDE + 21]
            - self.desk.moment.found.treated.values.mean(axis=0),
        )

    def test_wheel_and_double_click_move_every_map(self):
        before = self.other.unit()
        place = QPointF(self.at(60, 30))
        event = QWheelEvent(
            place, QPointF(self.one.mapToGlobal(place.toPoint())), QPoint(), QPoint(0, 480),
            Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(self.one, event)
        settle()
        self.assertAlmostEqual(self.other.unit() / before, 1.25**4, places=5)
        self.assertEqual(self.one.cell_at(place), (60, 30))  # what is under the pointer stays there
        QTest.mouseDClick(self.other, LEFT, Qt.KeyboardModifier.NoModifier, self.at(50, 30, self.other))
        settle()
        self.assertAlmostEqual(self.one.unit(), before)

    def test_keys_move_the_cursor_and_pick(self):
        QTest.mouseMove(self.one, self.at(10, 10))
        self.one.setFocus()
        for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Down):
            self.key(key, widget=self.one)
        self.assertEqual(self.one.cursor_cell, (12, 11))
        self.key(Qt.Key.Key_Space, widget=self.one)
        self.assertEqual(self.picked_cells(), [(12, 11)])

    # Picking

    def go_to(self, column, row):
        """The cursor to a pixel by arrows, in tens and ones."""
        at = self.one.cursor_cell or (WIDE // 2, TALL // 2)
        for away, (less, more) in zip(
            (column - at[0], row - at[1]),
            ((Qt.Key.Key_Left, Qt.Key.Key_Right), (Qt.Key.Key_Up, Qt.Key.Key_Down)),
            strict=True,
        ):  # fmt: skip
            for _ in range(abs(away) // 10):
                self.key(more if away > 0 else less, SHIFT, widget=self.one)
            for _ in range(abs(away) % 10):
                self.key(more if away > 0 else less, widget=self.one)
        self.assertEqual(self.one.cursor_cell, (column, row))

    def corners(self, *cells):
        for cell in cells:
            self.go_to(*cell)
            self.key(Qt.Key.Key_Return, widget=self.one)

    def test_regions_are_drawn_by_keys(self):
        self.one.setFocus()
        self.key(Qt.Key.Key_Left, widget=self.one)
        self.corners((20, 10), (23, 12))
        self.assertEqual(len(self.picked_cells()), 12)
        self.assertEqual(self.picked_cells()[0], (20, 10))
        self.assertEqual(self.picked_cells()[-1], (23, 12))
        self.page.tools["polygon"].click()
        self.corners((30, 10), (40, 10), (40, 30), (35, 12))
        self.key(Qt.Key.Key_Backspace, widget=self.one)
        self.corners((40, 20), (40, 20))  # the last one again closes
        by_keys = self.picked_cells()
        self.assertFalse(self.one.hand.drawing)
        self.assertIn((38, 12), by_keys)
        self.assertNotIn((31, 18), by_keys)
        self.corners((5, 5), (9, 5))
        self.key(Qt.Key.Key_Escape, widget=self.one)
        self.assertFalse(self.one.hand.drawing)
        self.assertEqual(self.picked_cells(), by_keys)
        self.page.tools["brush"].click()
        self.corners((10, 40), (16, 40))
        self.assertIn((13, 40), self.picked_cells())
        self.page.tools["flood"].click()
        self.corners((2, 2))
        self.assertIn((2, 2), self.picked_cells())

    def test_corners_are_clicked_and_a_double_click_closes(self):
        self.page.tools["polygon"].click()
        for cell in ((30, 10), (40, 10), (40, 20)):
            QTest.mouseClick(self.one, LEFT, pos=self.at(*cell))
        settle()
        self.assertEqual(len(self.one.hand.points), 3)
        self.assertEqual(self.look.picked, ())
        QTest.mouseMove(self.one, self.at(30, 20))
        settle()
        shown = pixels(self.one)
        middle = self.at(35, 15)
        bare = self.page.map_at(0).coloured()[15, 35]
        self.assertGreater(abs(shown[middle.y(), middle.x()].astype(int) - bare.astype(int)).max(), 3)
        QTest.mouseClick(self.one, LEFT, pos=self.at(30, 10))
        settle()
        wanted = [(x, y) for y in range(10, 21) for x in range(30, 41) if x - 30 >= y - 10]
        away = set(wanted) ^ set(self.picked_cells())
        self.assertLessEqual(len(away), 22)  # along the edges half a pixel is in or out
        self.assertTrue(all(x == 40 or y in (10, 20) or x - 30 == y - 10 for x, y in away))
        for cell in ((10, 40), (20, 40), (20, 50)):
            QTest.mouseClick(self.one, LEFT, pos=self.at(*cell))
        QTest.mouseDClick(self.one, LEFT, pos=self.at(20, 50))
        settle()
        self.assertIn((18, 42), self.picked_cells())
        self.assertEqual(self.one.lens.scale, 1.0)

    def test_a_box_a_line_a_brush_and_what_is_alike(self):
        self.drag(self.one, [self.at(10, 30), self.at(12, 33)])
        box = [(x, y) for x in (10, 11, 12) for y in (30, 31, 32, 33)]
        inner = {(11, 31), (11, 32)}
        self.assertTrue(inner <= set(self.picked_cells()) <= set(box))
        first = set(self.picked_cells())
        QTest.mouseClick(self.one, LEFT, SHIFT, self.at(50, 5))
        settle()
        self.assertEqual(set(self.picked_cells()), first | {(50, 5)})
        self.page.tools["lasso"].click()
        self.drag(self.one, [self.at(x, y) for x, y in ((20, 20), (30, 20), (30, 30), (20, 30))])
        self.assertIn((25, 25), self.picked_cells())
        self.assertNotIn((35, 25), self.picked_cells())
        self.page.tools["brush"].click()
        self.drag(self.one, [self.at(40, 40), self.at(50, 40)])
        cells = self.picked_cells()
        self.assertTrue({(41, 40), (45, 40), (49, 40)} <= set(cells))
        self.assertTrue(all(abs(y - 40) <= 2 for _, y in cells))
        self.choose("class")
        self.page.tools["flood"].click()
        QTest.mouseClick(self.one, LEFT, Qt.KeyboardModifier.NoModifier, self.at(79, 16))
        settle()
        self.assertEqual({self.code[row] for row in self.look.picked}, {4})
        self.assertGreater(len(self.look.picked), 40)

    def test_regions_are_joined_cut_and_turned(self):
        self.drag(self.one, [self.at(10, 30), self.at(20, 40)])
        first = set(self.picked_cells())
        self.drag(self.one, [self.at(15, 35), self.at(30, 50)], SHIFT | CTRL)
        common = set(self.picked_cells())
        self.assertTrue(common < first)
        self.assertTrue(all(x >= 15 and y >= 35 for x, y in common))
        self.key("i", SHIFT)
        self.assertEqual(len(self.look.picked), WIDE * TALL - len(common))

    def test_picked_pixels_become_a_data_set_of_their_own(self):
        self.page.picked_apart()
        self.assertIn("Too few pixels", self.window.message.label.text())
        self.drag(self.one, [self.at(20, 20), self.at(45, 40)])
        cells = self.picked_cells()
        entry = next(e for e in self.window.finder.entries() if e.words.startswith("Picked pixels as a data"))
        entry.run()
        self.until(lambda: len(self.state.datasets) == 2 and self.desk.moment.found is not None)
        self.until(lambda: self.desk.moment.found.table is self.state.table)
        settle()
        self.assertEqual(len(self.state.table.ids), len(cells))
        self.assertEqual(self.state.recipe.treat[0].method, "snv")
        xs, ys = zip(*cells, strict=True)
        self.until(lambda: self.page.map_at(0).values.shape == (len(set(ys)), len(set(xs))))

    def test_the_difference_of_two_regions(self):
        self.page.beside.kinds["two"].click()
        settle()
        self.assertIn("Pick one region", self.page.beside.spectra.chart.empty)
        shive, twine = (np.flatnonzero(self.code == kind).tolist() for kind in (2, 4))
        self.desk.selection.pick(shive)
        self.desk.selection.pick(twine)
        settle()
        chart, values = self.page.beside.spectra.chart, self.desk.moment.found.treated.values
        np.testing.assert_allclose(chart.lines.ys[0], values[twine].mean(axis=0) - values[shive].mean(axis=0))
        pooled = np.sqrt(
            (values[twine].var(axis=0) * 43 + values[shive].var(axis=0) * len(shive)) / (41 + len(shive))
        )
        np.testing.assert_allclose(chart.spreads[0].high - chart.lines.ys[0], pooled)

    def test_a_pick_on_the_plane_is_outlined_on_the_map(self):
        rows = np.flatnonzero(self.code == 4).tolist()
        self.desk.selection.pick(rows)
        settle()
        box = self.one._outline.boundingRect()
        (x1, y1), (x2, y2) = TWINE_AT
        self.assertEqual((box.left(), box.top(), box.right(), box.bottom()), (x1, y1, x2 + 1, y2 + 1))

    def on_plane(self, row):
        return self.mark_place(self.page.beside.pixels.plane, row)

    def twine(self):
        return np.flatnonzero(self.code == 4).tolist()

    def test_the_tools_pick_on_the_plane_too(self):
        plane = self.page.beside.pixels.plane
        self.desk.selection.change(pair=(1, 2))
        settle()
        places = [self.on_plane(row) for row in self.twine()]
        left, right = min(at.x() for at in places) - 6, max(at.x() for at in places) + 6
        top, bottom = min(at.y() for at in places) - 6, max(at.y() for at in places) + 6
        corners = [QPoint(left, top), QPoint(right, top), QPoint(right, bottom), QPoint(left, bottom)]
        self.page.tools["polygon"].click()
        for corner in [*corners, corners[0]]:
            QTest.mouseMove(plane.viewport(), corner)
            QTest.mouseClick(plane.viewport(), LEFT, pos=corner)
            settle()
        picked = set(self.look.picked)
        self.assertLessEqual(set(self.twine()), picked)
        self.assertLess(len(picked), 200)
        self.desk.selection.pick([])
        self.page.tools["flood"].click()
        self.click(plane, self.on_plane(self.twine()[0]))
        self.assertGreater(len(set(self.look.picked) & set(self.twine())), 30)
        self.assertNotIn(int(np.flatnonzero(self.code == 0)[0]), self.look.picked)
        self.page.tools["brush"].click()
        start = self.on_plane(self.twine()[0])
        self.drag(plane.viewport(), [start - QPoint(30, 0), start, start + QPoint(30, 0)])
        self.assertIn(self.twine()[0], self.look.picked)

    def test_many_pixels_are_a_density_of_any_pair(self):
        pixels_plane = self.page.beside.pixels
        pixels_plane.menu.choose("2 × 3")
        settle()
        self.assertEqual(self.look.pair, (1, 2))
        self.assertEqual(pixels_plane.panel.note.text(), "2 × 3")
        marks = pixels_plane.plane.chart.marks
        shown = pixels(pixels_plane.plane)
        x, y = pixels_plane.plane.to_pixels(marks.x, marks.y)
        cells, counts = np.unique(np.c_[x // 2, y // 2], axis=0, return_counts=True)
        dense, sparse = cells[counts.argmax()], cells[counts.argmin()]
        ink = [int(shown[int(at[1]) * 2 + 1, int(at[0]) * 2 + 1].astype(int).sum()) for at in (dense, sparse)]
        self.assertLess(ink[0], ink[1])

    def test_three_components_are_turned_and_picked_in_space(self):
        pixels_plane = self.page.beside.pixels
        pixels_plane.menu.choose("in space, to be turned")
        settle()
        turn = pixels_plane.turn
        self.assertTrue(turn.isVisible())
        self.assertEqual(len(turn.points), len(self.desk.moment.found.usable.rows))
        before = pixels(turn)
        self.drag(turn, [QPoint(60, 60), QPoint(80, 70), QPoint(120, 90)])
        self.assertFalse(np.array_equal(before, pixels(turn)))
        turned = turn.turned
        self.key(Qt.Key.Key_Right, widget=turn)
        self.assertNotEqual(turned, turn.turned)
        x, y, _ = turn.seen(turn.points)
        place = int(np.flatnonzero(turn.rows == self.twine()[3])[0])
        QTest.mouseClick(turn, LEFT, pos=QPoint(round(x[place]), round(y[place])))
        settle()
        self.assertEqual(len(self.look.picked), 1)
        self.assertIn(self.look.picked[0], self.twine())
        pixels_plane.menu.choose("1 × 2")
        settle()
        self.assertTrue(pixels_plane.plane.isVisible())

    # The work: mask, find, explain, write

    def test_the_belt_is_masked_and_the_twine_found(self):
        self.until(lambda: "No object" in self.page.finding.text())
        self.mask_belt()
        aside = np.array(sorted(self.state.table.set_aside))
        self.assertEqual({self.code[row] for row in aside}, {0})
        self.assertEqual(len(aside), int((self.code == 0).sum()))
        self.assertIn("as brought in outside", self.state.table.set_aside[int(aside[0])])
        first = self.page.objects[0]
        (x1, y1), (x2, y2) = TWINE_AT
        self.assertLessEqual(max(abs(first.x[0] - x1), abs(first.x[1] - x2)), 1)
        self.assertLessEqual(max(abs(first.y[0] - y1), abs(first.y[1] - y2)), 1)
        self.assertEqual(sorted(first.rows.tolist()), np.flatnonzero(self.code == 4).tolist())
        self.assertEqual([round(float(name.split()[0]), -1) for name in first.channels], [1730, 2310])
        self.assertIn("43 pixels", self.page.finding.text())
        self.page.finding.linkActivated.emit("1")
        settle()
        self.assertEqual(len(self.look.picked), 43)
        line = self.page.beside.spectra.chart.lines
        self.assertIn("mean of 43", line.names[0])
        self.assertAlmostEqual(line.x[line.ys[0].argmax()], 1730, delta=10)
        self.key("z", Qt.KeyboardModifier.ControlModifier)
        self.until(lambda: len(self.desk.moment.found.usable.rows) == WIDE * TALL)
        self.assertFalse(self.state.table.set_aside)

    def test_the_mask_is_a_knot_with_its_picture(self):
        knot = self.window.trail.mask_knot
        self.assertFalse(knot.isVisible())
        self.mask_belt()
        self.assertTrue(knot.isVisible())
        aside = self.desk.study.state.model.use.set_aside
        self.assertIn(f"{len(aside):,} pixels left out", knot.small.text())
        self.assertIn("nm as brought in outside", knot.small.text())
        shown = pixels(knot.small_picture).astype(int)
        left = knot.small_picture.left
        self.assertEqual(int((~left).sum()), len(aside))
        unit = min((knot.small_picture.height() - 1) / TALL, (knot.small_picture.width() - 1) / WIDE)
        for row, column in ((2, 40), (32, 40), (TALL - 3, 50)):
            at = shown[int((row + 0.5) * unit), int((column + 0.5) * unit)]
            due = colours.rgb(colours.ACCENT if left[row, column] else colours.LINEN)
            np.testing.assert_allclose(at, due, atol=2)
        QTest.mouseClick(knot, LEFT, pos=QPoint(30, 8))
        settle()
        self.assertEqual(set(self.look.picked), set(aside))
        self.desk.selection.pick(self.twine())
        self.page.view_menu.choose("mask the picked pixels")
        settle()
        self.assertIn("a region that was drawn", knot.small.text())
        self.assertEqual(self.look.picked, ())
        QTest.mouseClick(knot.remove, LEFT)
        self.until(lambda: not self.desk.study.state.model.use.set_aside)
        settle()
        self.assertFalse(knot.isVisible())
        self.desk.study.undo()
        settle()
        self.assertTrue(knot.isVisible())

    def test_an_object_is_written_as_an_outline(self):
        rows = np.flatnonzero(self.code == 4)
        self.desk.selection.pick(rows.tolist())
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "twine.geojson"
            self.page.writer.write_regions(path, False)
            self.page.writer.write_regions(Path(folder) / "all.geojson", True)
            plain = json.loads(self.written(path).read_text())
            every = json.loads(self.written(Path(folder) / "all.geojson").read_text())
        feature = plain["features"][0]
        self.assertEqual(feature["properties"], {"name": "picked", "pixels": 43})
        area = sum(
            sum(a[0] * b[1] - b[0] * a[1] for a, b in pairwise(ring)) / 2
            for polygon in feature["geometry"]["coordinates"]
            for ring in polygon
        )
        self.assertEqual(area, 43)
        named = {f["properties"]["name"]: f["properties"]["pixels"] for f in every["features"]}
        self.assertEqual(named["twine"], 43)
        self.assertEqual(sum(named.values()), WIDE * TALL)

    def test_a_map_is_written_in_every_format(self):
        import h5py
        from PIL import Image as Picture

        one = self.page.map_at(0)
        with tempfile.TemporaryDirectory() as folder:
            paths = {end: Path(folder) / f"map.{end}" for end in ("npy", "csv", "tif", "h5", "png")}
            for path in paths.values():
                self.page.writer.write_map(one, path)
                self.written(path)
            np.testing.assert_array_equal(np.load(paths["npy"]), one.values)
            table = np.genfromtxt(paths["csv"], delimiter=",", skip_header=1)[:, 1:]
            np.testing.assert_array_equal(table, one.values)
            with Picture.open(paths["tif"]) as picture:
                np.testing.assert_array_equal(np.asarray(picture), one.values.astype(np.float32))
            with h5py.File(paths["h5"]) as file:
                np.testing.assert_array_equal(file["score-1"][()], one.values)
            with Picture.open(paths["png"]) as picture:
                np.testing.assert_array_equal(np.asarray(picture), one.coloured())
            self.page.writer.write_map(one, Path(folder) / "map.doc")
            self.until(lambda: "not written" in self.window.message.label.text())

    # What maps can show

    def test_what_is_computed_behind_arrives(self):
        self.choose("smooth component 1")
        self.until(lambda: self.page.map_at(0) is not None)
        settle()
        self.assertIn("above the limit of noise", self.page.wall.panels[0].panel.note.text())
        self.assertEqual(self.page.beside.loading.chart.title, "Pattern of the map")
        loading = self.page.beside.loading
        self.desk.do(AddStep("bin-equal", treatment("bin-equal").parameters(width=16.0)))
        self.until(lambda: not self.desk.live.busy)
        settle(20)  # the pattern of before is not drawn over other channels: what the monkey found
        channels = len(self.desk.moment.found.treated.axis)
        self.assertLess(channels, 160)
        self.assertTrue(loading.chart.is_blank or loading.chart.lines.ys.shape == (1, channels))
        self.until(lambda: not loading.chart.is_blank)
        self.assertEqual(loading.chart.lines.ys.shape, (1, channels))
        self.window.undo()
        self.choose("4 groups of pixels")
        self.until(lambda: self.page.map_at(0) is not None)
        settle()
        self.assertEqual(self.page.map_at(0).names, ("group 1", "group 2", "group 3", "group 4"))
        sizes = np.bincount(self.page.map_at(0).values.astype(int).ravel())
        self.assertEqual(sizes.tolist(), sorted(sizes.tolist(), reverse=True))
        self.assertIn("silhouette", self.page.wall.panels[0].panel.note.text())
        self.assertIn("found again", self.page.wall.panels[0].panel.note.text())

    def test_the_order_by_smoothness_is_a_kind_of_model_on_the_shelf(self):
        trail = self.window.trail
        self.page.view_menu.choose("order components by smoothness")
        self.until(lambda: self.page.wall.subjects[0].kind == "smooth" and self.page.map_at(0) is not None)
        settle()
        self.assertEqual(self.state.model.kind, "maf")
        self.assertEqual(self.page.wall.subjects[0], Subject("smooth", (0.0,)))
        self.assertIn("Components by smoothness", self.desk.study.undo_label)
        self.assertEqual(trail.model_knot.name.text(), "Smooth order · 4 components")
        smooth = self.page.map_at(0).values
        treated = self.desk.moment.found.treated
        kind = kind_of("maf")
        scaler = self.desk.moment.found.scaler
        fitted = kind.fit(Prepared(treated, scaler, Scaled(treated.values, scaler)), self.state.recipe, None)
        agreement = abs(np.corrcoef(fitted.scores[:, 0], smooth.ravel())[0, 1])
        self.assertGreater(agreement, 0.999)
        trail.shelf.put()
        self.until(lambda: len(self.state.shelf) == 1)
        settle()
        self.page.view_menu.choose("order components by smoothness")
        settle()
        self.assertEqual(self.state.model.kind, "pca")
        self.assertEqual(self.page.wall.subjects[0], Subject("score", (0.0,)))
        self.assertEqual(self.state.shelf[0].kind, "maf")
        self.assertIn("4 smooth", figures_text(self.state.shelf[0]))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "smooth.scutch"
            kept = Study(self.state)
            kept.keep_in(path)
            kept.close()
            again = Study.open(path)
            self.addCleanup(again.close)
            self.assertEqual([model.kind for model in again.state.shelf], ["maf"])
        self.desk.do(OpenModel(self.state.shelf[0].id, "model of before"))
        settle(10)
        self.assertEqual(self.page.wall.subjects[0], Subject("smooth", (0.0,)))

    def test_two_maps_of_different_numbers_of_groups_come_to_rest(self):
        self.choose("3 groups of pixels")
        self.choose("4 groups of pixels", 1)
        self.until(lambda: all(self.page.map_at(place) is not None for place in (0, 1)))
        self.until(lambda: not self.desk.live.busy)
        settle()
        shown = [self.page.map_at(place) for place in (0, 1)]
        self.assertEqual([len(one.names) for one in shown], [3, 4])
        with mock.patch.object(self.desk.live, "ask") as never:
            self.page.wall.show()
        never.assert_not_called()

    def test_likeness_to_the_pick(self):
        self.desk.selection.pick(np.flatnonzero(self.code == 4).tolist())
        self.choose("likeness to the pick (spectral angle)")
        angles = self.page.map_at(0).values.ravel()
        self.assertLess(angles[self.code == 4].max(), angles[self.code != 4].min())

    def test_channels_ratios_and_distances(self):
        self.desk.selection.pick_channels([1730.0, 2310.0])
        menu = self.page.wall.panels[0].menu
        menu.refill()
        words = [action.text() for action in menu.choices.actions()]
        ratio = next(text for text in words if " over " in text)
        self.choose(ratio)
        treated = self.desk.moment.found.treated
        across, down = (int(np.abs(treated.axis.places() - at).argmin()) for at in (1730.0, 2310.0))
        wanted = treated.values[:, across] / treated.values[:, down]
        np.testing.assert_allclose(self.page.map_at(0).values.ravel(), wanted)
        self.choose("Q")
        np.testing.assert_allclose(self.page.map_at(0).values.ravel(), self.model.q)
        self.assertIn("past the limit", self.page.wall.panels[0].panel.note.text())

    def test_pictures_are_turned_and_mirrored(self):
        coloured = self.page.map_at(0).coloured()
        lens = self.page.wall.lens
        for words, due in (
            ("turn to the right", np.rot90(coloured, -1)),
            ("turn to the right", np.rot90(coloured, -2)),
            ("exchange left and right", np.rot90(coloured, -2)[:, ::-1]),
            ("turn to the right", np.rot90(np.rot90(coloured, -2)[:, ::-1], -1)),
            ("exchange left and right", np.rot90(np.rot90(coloured, -2)[:, ::-1], -1)[:, ::-1]),
        ):
            with self.subTest(words):
                self.page.view_menu.choose(words)
                settle()
                frame, shown = self.one.frame(), pixels(self.one)
                rows, columns = due.shape[:2]
                for row, column in ((3, 5), (30, 40), (rows // 2, columns - 6)):
                    x = int(frame.left() + (column + 0.5) * frame.width() / columns)
                    y = int(frame.top() + (row + 0.5) * frame.height() / rows)
                    np.testing.assert_allclose(shown[y, x].astype(int), due[row, column].astype(int), atol=1)
        self.assertEqual((lens.turns, lens.mirrored), (1, False))
        QTest.mouseClick(self.one, LEFT, pos=self.at(50, 5))
        settle()
        self.assertEqual(self.picked_cells(), [(50, 5)])
        self.drag(self.one, [self.at(10, 30), self.at(12, 33)])
        self.assertIn((11, 31), self.picked_cells())
        self.assertNotIn((20, 31), self.picked_cells())
        self.one.setFocus()
        self.one.show_cursor((10, 10))
        self.key(Qt.Key.Key_Right, widget=self.one)
        self.assertEqual(self.one.cursor_cell, (10, 9))  # to the right is towards the first row now

    def test_one_to_four_maps(self):
        for count in (4, 3, 1, 2):
            self.page.view_menu.choose(f"{count} map{'s' * (count > 1)}")
            settle()
            self.assertEqual([p.isVisible() for p in self.page.wall.panels], [k < count for k in range(4)])
        self.page.wall.show_count(4)
        settle()
        widths = [panel.width() for panel in self.page.wall.panels]
        self.assertLessEqual(max(widths) - min(widths), 2)

    def test_inks_print_over_one_another(self):
        self.assertEqual(self.page.wall.panels[1].subject, Subject("inks", (0.0, 1.0, 2.0)))
        strong = int(self.model.scores[:, 1].argmax())
        place = self.other.point_of(strong % WIDE, strong // WIDE).toPoint()
        red, _, blue = (int(part) for part in pixels(self.other)[place.y(), place.x()])
        self.assertGreater(red, blue)


MEASURES = Cluster.measures


class ALargeImage(WindowCase):
    """Of an image that is too large every so-manieth pixel is read; the maps can go over all of them."""

    def study(self):
        return Study()

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        own = mock.patch.dict("os.environ", {"XDG_STATE_HOME": folder.name})
        own.start()
        self.addCleanup(own.stop)
        self.path = Path(folder.name) / "large.npy"
        rng = np.random.default_rng(2)
        y, x = np.mgrid[0:63, 0:82]
        shapes = np.array([[1.0, 3, 2, 0, 1, 0], [0, 1, 0, 3, 2, 1]])
        amounts = np.stack([np.sin(y / 9.0), np.cos(x / 7.0)], axis=-1)
        self.values = 5.0 + amounts @ shapes + 0.05 * rng.normal(size=(63, 82, 6))
        np.save(self.path, self.values)
        for name, value in (("LARGE", 1000), ("HELD", 63 * 82 * 6 // 9)):
            patched = mock.patch(f"scutcher.files.arrays.thinning.{name}", value)
            patched.start()
            self.addCleanup(patched.stop)
        super().setUp()

    def test_all_pixels_are_gone_over(self):
        self.window.opening.open_files([self.path])
        self.until(lambda: self.desk.moment.found is not None)
        table = self.state.table
        self.assertEqual(table.shape, (21 * 28, 6))
        np.testing.assert_array_equal(table.values[1], self.values[0, 3])
        self.assertIn("of every 3 × 3 pixels one was read", " ".join(table.origin.remarks))
        self.window.show_page("Maps")
        settle()
        page = self.window.view("Maps")
        page.wall.panels[1].menu.choose("Q")
        page.view_menu.choose("all pixels of the file")
        self.until(lambda: page.wall.behind.whole is not None and page.wall.behind.whole.done == 1.0)
        settle()
        read = self.values[::3, ::3].reshape(-1, 6)
        model = self.model
        z = self.values.reshape(-1, 6) - read.mean(axis=0)
        scores = z @ model.loadings
        np.testing.assert_allclose(page.map_at(0).values, scores[:, 0].reshape(63, 82), rtol=1e-4, atol=1e-4)
        q = ((z - scores @ model.loadings.T) ** 2).sum(axis=1).reshape(63, 82)
        np.testing.assert_allclose(page.map_at(1).values, q, rtol=1e-3, atol=1e-9)
        self.until(lambda: "all 5,166 pixels" in page.wall.panels[0].panel.note.text())
        view = page.wall.panels[0].view
        self.assertEqual(view.shown.pixels, (63, 82))
        self.assertEqual(view.cells, (21, 28))
        QTest.mouseMove(view, view.point_of(10, 7).toPoint())
        settle()
        self.assertEqual(self.look.hovered, 7 * 28 + 10)
        within = view.to_screen().map(QPointF(10.4, 7.8))  # two rows and a column further in the file
        QTest.mouseMove(view, within.toPoint())
        self.until(lambda: page.beside.here is not None and page.beside.here.row == 23)
        settle()
        here = page.beside.here
        self.assertEqual((here.column, here.row), (31, 23))
        np.testing.assert_allclose(here.spectrum, self.values[23, 31], atol=1e-12)
        line = page.beside.spectra.chart.lines.ys[0]
        usual = self.desk.moment.found.treated.values.mean(axis=0)
        np.testing.assert_allclose(line, self.values[23, 31] - usual, atol=1e-9)
        np.testing.assert_allclose(here.q, q[23, 31], rtol=1e-6, atol=1e-12)
        cells = [page.beside.table.item(row, 0).text() for row in range(page.beside.table.rowCount())]
        shown_score = page.beside.table.item(cells.index("component 1"), 1).text()
        self.assertAlmostEqual(float(shown_score.replace("−", "-")), here.scores[0], places=2)
        shown = pixels(view)
        colours = page.map_at(0).coloured()
        place = view.point_of(25, 18)  # between the dotted lines of the cursor
        unit = view.unit() / 3
        row = int((place.y() - view.frame().top()) / unit)
        column = int((place.x() - view.frame().left()) / unit)
        np.testing.assert_allclose(
            shown[int(place.y()), int(place.x())].astype(int), colours[row, column].astype(int), atol=2
        )
        page.view_menu.choose("all pixels of the file")
        settle()
        self.assertEqual(page.map_at(0).values.shape, (21, 28))

    def test_the_workers_of_a_cluster_go_over_it(self):
        from distributed import LocalCluster

        self.window.opening.open_files([self.path])
        self.until(lambda: self.desk.moment.found is not None)
        self.window.show_page("Maps")
        page = self.window.view("Maps")
        page.view_menu.choose("all pixels of the file")
        self.until(lambda: page.wall.behind.whole is not None and page.wall.behind.whole.done == 1.0)
        here = page.wall.behind.whole
        page.view_menu.choose("all pixels of the file")
        with (
            LocalCluster(
                n_workers=1, threads_per_worker=1, processes=True, dashboard_address=None, silence_logs=50
            ) as cluster,
            mock.patch.object(Cluster, "measures", autospec=True, side_effect=MEASURES) as asked,
        ):
            self.choose_cluster(cluster.scheduler_address)
            page.view_menu.choose("all pixels of the file")
            self.until(lambda: page.wall.behind.whole is not None and page.wall.behind.whole.done == 1.0)
        there = page.wall.behind.whole
        self.assertIsNot(here, there)
        asked.assert_called_once()
        for name in ("scores", "t2", "q"):
            np.testing.assert_allclose(getattr(there, name), getattr(here, name), rtol=1e-6, atol=1e-9)
        page.view_menu.choose("all pixels of the file")
        self.choose_cluster("tcp://127.0.0.1:1")
        with mock.patch("scutcher.study.cluster.PATIENCE", "0.3s"):
            page.view_menu.choose("all pixels of the file")
            self.until(lambda: "No dask scheduler answers" in self.window.message.label.text())

    def choose_cluster(self, address):
        named = {action.words: action for action in self.window.actions_list}
        named["A cluster for large images…"].run()
        settle()
        asked = self.window.findChild(Ask)
        line = asked.findChild(QLineEdit)
        line.selectAll()
        QTest.keyClicks(line, address)
        QTest.keyClick(line, Qt.Key.Key_Return)
        settle()
        self.assertEqual(settings().cluster, address)

    def looked_at_and_closed(self):
        window = Window(demo_study("belt-scan"), first="Maps")
        window.show()
        self.until(lambda: window.desk.moment.found is not None)
        settle()
        kept = weakref.ref(window.view("Maps").wall)
        dispose(window)
        return kept

    def test_nothing_of_the_page_stays_when_its_window_is_closed(self):
        kept = self.looked_at_and_closed()
        for _ in range(3):
            settle()
            gc.collect()
        self.assertIsNone(kept())

    def test_a_window_whose_first_data_are_pixels_begins_with_the_maps(self):
        for chosen, due in ((None, "Maps"), ("Samples", "Samples")):
            window = Window(Study())
            self.addCleanup(dispose, window)
            window.show()
            if chosen is not None:
                window.show_page(chosen)
            window.opening.open_files([self.path])
            self.until(lambda window=window: window.desk.moment.found is not None)
            settle()
            self.assertEqual(window.stack.current, due)
            self.assertTrue(window.view(due).isVisible())
            self.assertTrue(window.topbar.pages[due].isChecked())
        plain = Window(demo_study("practice"))
        self.addCleanup(dispose, plain)
        plain.show()
        self.assertEqual(plain.stack.current, "Inspect")

    def test_several_images_lie_side_by_side(self):
        folder = self.path.parent
        small = self.values[:20, :30]
        np.save(folder / "first.npy", small)
        np.save(folder / "second.npy", small[::-1])
        with mock.patch("scutcher.files.arrays.thinning.LARGE", 10**9):
            self.window.opening.open_files([folder / "first.npy", folder / "second.npy"])
            self.until(lambda: self.desk.moment.found is not None)
        self.window.show_page("Maps")
        settle()
        page = self.window.view("Maps")
        one = page.map_at(0)
        self.assertEqual(one.values.shape, (20, 61))
        self.assertTrue(np.isnan(one.values[:, 30]).all())
        np.testing.assert_allclose(one.values[:, :30], one.values[::-1, 31:], atol=1e-9)
        self.assertEqual(self.state.table.classes[0].levels, ("first", "second"))
        view = page.wall.panels[0].view
        QTest.mouseClick(view, LEFT, pos=view.point_of(31, 4).toPoint())
        settle()
        self.assertEqual(self.state.table.ids[self.look.picked[0]], "second row 5, column 1")

    def test_the_file_is_gone(self):
        self.window.opening.open_files([self.path])
        self.until(lambda: self.desk.moment.found is not None)
        self.window.show_page("Maps")
        settle()
        self.path.unlink()
        page = self.window.view("Maps")
        page.wall.behind.go_over(True)
        self.until(lambda: self.window.message.isVisible() and "no file" in self.window.message.label.text())


if __name__ == "__main__":
    unittest.main()
