"""The Series page, driven by hand: a and b dragged, shapes kept, pairs clicked, amounts as columns."""

import tempfile
import threading
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from scutcher.charts import colours
from scutcher.core.data.layouts import NoLayout, SeriesLayout
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.series.rebuilding import series_components
from scutcher.core.treatments import treatment
from scutcher.core.unmixing.saved_mixture import amounts_in
from scutcher.demo.sets import demo_set
from scutcher.desk import context
from scutcher.desk.pages.series import right
from scutcher.desk.pages.series import work as series_work
from scutcher.files.class_models_json import read_any_model
from scutcher.study.document.commands.data import AddDataSet
from scutcher.study.document.commands.recipe import AddStep
from scutcher.study.document.commands.series import LieAs, UnmixBy
from scutcher.study.document.study import Study
from scutcher.study.evaluation import series as evaluation_series
from tests.desk.driving import LEFT, PATIENCE, SHIFT, WindowCase, pixels, settle


class OnSeries(WindowCase):
    first_page = "Series"

    def setUp(self):
        super().setUp()
        self.until(lambda: self.desk.moment.found is not None)
        settle()
        self.page = self.window.view("Series")
        self.quiet()

    def quiet(self):
        """Nothing is still to come."""
        page, work = self.page, self.page.work
        self.until(lambda: self.desk.moment.found is not None and not self.desk.live.busy)
        self.until(lambda: page._of[:1] == (self.desk.moment.found,))
        self.until(lambda: work.windows is not None and work.pairs is not None)
        settle()

    def finding(self):
        return self.page.finding.toolTip()


class Drying(OnSeries):
    demo = "drying"

    def study(self):
        study = super().study()
        how = treatment("shift-to-peak").parameters(position=1386.0, half_width=10.0)
        study.do(AddStep("shift-to-peak", how))
        return study

    def series(self):
        return self.page.work.series

    def drag_handle(self, which, position):
        view = self.page.left.picture
        x = float(np.median(self.series().places))
        start = self.data_place(view, x, float(view.handles[which].value()))
        self.drag(view.viewport(), [start, self.data_place(view, x, position)])
        settle()

    def test_b_is_dragged_and_everything_follows(self):
        before = self.page.work.mixture
        self.drag_handle(1, 76.0)
        self.assertEqual(self.page.hands.b.said(self.series()), "72–80 min")
        self.assertIsNot(self.page.work.mixture, before)
        self.assertIn("72–80 min", self.page.left.difference.chart.note)
        past = self.page.work.mixture
        late = np.flatnonzero(past.q > 2.0 * past.q_limit.value)
        self.assertEqual((4 * late).tolist(), list(range(84, 121, 4)))
        self.assertEqual(len(self.look.picked), 2)
        ends = self.page.left.difference.chart.lines.ys[0]
        values = self.series().values
        np.testing.assert_allclose(ends, values[:3].mean(axis=0) - values[18:21].mean(axis=0))

    def test_the_finding_says_when_half_is_gone_and_what_comes_later(self):
        words = self.finding()
        self.assertIn("half at 52", words)
        self.assertIn("by 84 min a third change shows", words)
        self.assertIn("another shape is needed", words)

    def test_the_picture_has_the_colours_of_the_spectra(self):
        view = self.page.left.picture
        shown, chart = pixels(view), view.chart.grid
        table = colours.unsigned_map()
        for row, column in ((10, 200), (20, 300), (28, 400)):
            place = self.data_place(view, float(chart.x[column]), float(chart.y[row]))
            share = (chart.values[row, column] - chart.low) / (chart.high - chart.low)
            wanted = table[int(np.clip(share, 0, 1) * 255)]
            np.testing.assert_allclose(shown[place.y(), place.x()].astype(int), wanted, atol=14)

    def test_a_pair_is_clicked_in_the_triangle(self):
        view = self.page.right.pairs
        QTest.mouseClick(view.viewport(), LEFT, pos=self.data_place(view, 100.0, 40.0))
        settle()
        hands = self.page.hands
        self.assertEqual(
            (hands.a.said(self.series()), hands.b.said(self.series())), ("36–44 min", "96–104 min")
        )
        ring = view.ring.getData()
        np.testing.assert_allclose((ring[0][0], ring[1][0]), (100.0, 40.0))

    def test_a_drawn_peak_finds_the_late_change(self):
        self.desk.selection.change(channel=1512.0)
        self.page.reference_menu.choose("the picked samples")  # none is picked: it is said
        self.page.reference_menu.choose("a peak at the channel cursor")
        self.until(lambda: "1512" in self.page.right.pairs.chart.note)
        pairs = self.page.work.pairs
        one, other = pairs.best(1)[0]
        self.assertGreater(4 * other, 100)
        self.assertGreaterEqual(4 * one, 72)
        self.page.go_to_best()
        self.assertEqual(self.page.hands.a.count, 3)

    def test_a_series_that_is_too_long_for_pairs_says_so(self):
        with mock.patch("scutcher.desk.pages.series.work.MOST_PAIRED", 10):
            self.page.references.set(degree=0)
            settle()
        self.assertIsNone(self.page.work.pairs)
        self.assertIn("Too long to compare every pair.", self.page.right.pairs.chart.empty)
        self.page.references.set(degree=1)
        self.quiet()
        self.assertEqual(self.page.right.pairs.chart.empty, "")

    def test_the_reference_peak_is_dragged_and_the_pairs_follow(self):
        self.desk.selection.change(channel=1450.0)
        self.page.reference_menu.choose("a peak at the channel cursor")
        settle()
        view = self.page.left.difference
        before, heard = self.page.work.pairs, []
        view.regions_moving.connect(heard.append)
        y = float(np.mean(view.ground.viewRange()[1]))
        places = [self.data_place(view, x, y) for x in (1450.0, 1470.0, 1490.0, 1512.0)]
        self.drag(view.viewport(), places)
        self.until(lambda: self.page.work.pairs is not before)
        self.assertGreater(len(heard), 1)
        self.assertAlmostEqual(self.page.hands.wanted.peak[0], 1512.0, delta=4.0)
        self.until(lambda: "1512" in self.page.right.pairs.chart.note or "151" in self.page.hands.wanted.name)

    def test_shapes_leave_as_a_model_and_new_spectra_have_amounts(self):
        self.page.shapes.keep_both()
        settle()
        table = self.state.table
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "shapes.json"
            self.assertTrue(self.window.recipes.save_shapes(path))
            model = read_any_model(self.written(path))
        amounts = amounts_in(model, table).sums.amounts
        np.testing.assert_allclose(amounts, self.page.work.mixture.amounts, atol=1e-9)
        self.desk.live.bring(replace(table, ids=tuple(f"new {name}" for name in table.ids)))
        self.window.show_page("Inspect")
        settle()
        newcomers = self.window.view("Inspect").newcomers
        self.until(lambda: newcomers.now() is not None)  # so many are projected behind
        header, rows = newcomers.now().rows()
        self.assertEqual(header[-3:], ["amount of 0–8 min", "amount of 112–120 min", "past noise"])
        np.testing.assert_allclose([row[-3] for row in rows], amounts[:, 0])

    def test_ways_of_comparing(self):
        for words in ("no background", "but for a curve", "means of 3 neighbours", "with its sign"):
            before = self.page.work.pairs
            self.page.reference_menu.choose(words)
            self.until(lambda before=before: self.page.work.pairs is not before)
        self.assertTrue(self.page.work.pairs.signed)
        self.page.reference_menu.choose("shifted by up to 1.6")
        self.until(lambda: self.page.hands.shift > 0 and np.any(self.page.work.pairs.shift))
        self.page.right.choose_top("list")
        self.assertGreater(self.page.right.best.rowCount(), 2)

    def test_shapes_are_kept_undone_and_stored(self):
        self.drag_handle(1, 76.0)
        self.key(Qt.Key.Key_K, SHIFT)
        names = [shape.name for shape in self.state.recipe.unmix.shapes]
        self.assertEqual(names, ["0–8 min", "72–80 min"])
        self.assertEqual(self.state.model.kind, "unmix")
        self.assertFalse(self.page.work.preview)
        self.assertTrue(self.window.trail.shapes_knot.isVisible())
        self.assertIn("2 shapes", self.window.trail.shapes_knot.name.text())
        self.page.shape_menu.choose("keep a − b as a shape")
        self.assertEqual(len(self.state.recipe.unmix.shapes), 3)
        self.desk.study.undo()
        settle()
        self.assertEqual(len(self.state.recipe.unmix.shapes), 2)
        self.page.shape_menu.choose("without 72–80 min")
        self.assertEqual(len(self.state.recipe.unmix.shapes), 1)
        self.desk.do(UnmixBy(UnmixSettings()))
        settle()
        self.assertEqual(self.state.model.kind, "pca")
        self.assertFalse(self.window.trail.shapes_knot.isVisible())

    def test_shapes_and_layout_are_there_when_opened_again(self):
        self.page.shapes.keep_both()
        self.desk.do(LieAs(SeriesLayout("water", "state")))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "kept.scutch"
            self.assertTrue(self.window.filing.name_study(path))
            self.until(lambda: path.exists())
            self.window.close()
            settle()
            study = Study.open(path)
            self.assertEqual(study.state.recipe.unmix, self.state.recipe.unmix)
            self.assertEqual(study.state.dataset.layout, SeriesLayout("water", "state"))
            self.assertEqual(study.state.model.kind, "unmix")

    def test_a_and_b_that_are_one_are_no_two_shapes(self):
        self.page.put_handle(1, 4.0)
        self.page.shapes.keep_both()
        self.assertEqual(self.state.recipe.unmix.shapes, ())

    def test_shifts_are_listed_and_become_a_column(self):
        self.page.right.choose_bottom("shifts")
        self.assertEqual(self.page.right.shifts.rowCount(), 31)
        self.page.order_menu.choose("shifts to the peak as a column")
        column = next(c for c in self.state.table.properties if c.name == "shift")
        self.assertEqual(column.unit, "nm")
        self.assertLess(np.abs(column.values).max(), 2.6)

    def test_amounts_become_columns_that_colour(self):
        self.page.shapes.keep_both()
        settle()
        self.page.shape_menu.choose("amounts as columns of the table")
        names = [column.name for column in self.state.table.properties]
        self.assertIn("amount of 0–8 min", names)
        column = next(c for c in self.state.table.properties if c.name == "amount of 0–8 min")
        np.testing.assert_allclose(column.values, self.page.work.mixture.amounts[:, 0])

    def test_shapes_are_written_and_read_back(self):
        self.page.shapes.keep_both()
        settle()
        found = self.page.work.mixture
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "shapes.csv"
            self.assertTrue(self.page.shapes.write_shapes(path))
            self.assertTrue(self.page.shapes.write_amounts(Path(folder) / "amounts.csv"))
            self.written(path)
            self.written(Path(folder) / "amounts.csv")
            self.desk.do(UnmixBy(UnmixSettings(rule="free")))
            settle()
            self.assertTrue(self.page.shapes.from_file(path))
            settle()
            self.assertTrue(self.page.references.from_file(path))
        np.testing.assert_allclose(self.page.work.mixture.amounts, found.amounts, atol=1e-9)
        self.assertEqual(self.page.hands.wanted.kind, "file")

    def test_shapes_are_found_without_references(self):
        self.page.shape_menu.choose("find 2 shapes")
        self.until(lambda: self.page.work.mixture is not None and self.page.work.mixture.found is not None)
        self.page.left.words["shapes"].click()
        settle()
        chart = self.page.left.shapes.chart
        self.assertEqual(len(chart.spreads), 2)
        self.assertIn("range", chart.note)
        self.page.left.words["plane"].click()
        settle()
        self.assertEqual(len(self.page.left.plane.chart.marks.x), 31)

    def test_what_cannot_be_unmixed_is_said_in_a_sentence(self):
        self.desk.do(AddStep("snv", treatment("snv").parameters()))
        self.page.shape_menu.choose("find 2 shapes")
        self.until(lambda: "negative" in self.page.left.amounts_panel.empty.text())
        self.assertFalse(self.page.left.amounts_panel.empty.isHidden())

    def test_rebuilt_and_taken_away(self):
        self.page.left.choose_kind("away")
        away = self.page.left.picture.chart.grid.values
        self.page.left.choose_kind("rebuilt")
        rebuilt = self.page.left.picture.chart.grid.values
        self.page.left.choose_kind("less")
        np.testing.assert_allclose(away + rebuilt, self.page.left.picture.chart.grid.values, atol=1e-12)
        self.page.rebuild()
        settle()
        self.assertEqual(self.state.recipe.treat[-1].method, "rebuild")
        self.assertEqual(self.state.recipe.treat[-1].parameters.components, 2)

    def test_waterfall_windows_and_verdicts(self):
        self.page.left.choose_kind("falls")
        self.assertEqual(len(self.page.left.falls.chart.lines.keys), 31)
        self.page.right.choose_bottom("components")
        table = self.page.right.verdicts
        self.assertEqual(table.item(0, 5).text(), "goes along")
        self.assertEqual(table.item(4, 5).text(), "noise")
        self.page.right.more.choose("moving window of 5")
        chart = self.page.right.windows.chart
        self.assertEqual(chart.title, "Moving window")
        self.assertTrue(np.isnan(chart.lines.ys[0, 1]))
        self.page.right.choose_bottom("windows")
        self.page.right.more.choose("join first in with first out (an assumption)")
        self.assertGreater(len(self.page.right.windows.chart.curves), 6)

    def test_of_much_data_views_come_in_turns_and_none_of_a_moment_that_is_gone(self):
        drawn = []
        self.page.right.show_windows = lambda: drawn.append(self.desk.moment)
        with mock.patch.object(context, "MUCH", 0):
            self.page.refresh()
            self.assertEqual(drawn, [])
            settle(12)
            self.assertEqual(drawn, [self.desk.moment])
            self.page.refresh()
            with mock.patch.object(self.page, "_is_of_now", return_value=False):
                settle(12)
        self.assertEqual(len(drawn), 1)

    def test_the_moving_window_of_a_long_series_comes_from_behind(self):
        side = self.page.right
        side.more.choose("moving window of 5")
        at_once = side.windows.chart.lines.ys
        with mock.patch.object(right, "AT_ONCE", 0):
            for width in (7, 5):
                side.more.choose(f"moving window of {width}")
                self.assertIn("being looked at", side.windows_panel.empty.text())
            self.until(lambda: not side.windows.chart.is_blank)
        np.testing.assert_array_equal(side.windows.chart.lines.ys, at_once)  # the newest wins

    def test_another_order_and_several_series(self):
        self.page.order_menu.choose("by water / %")
        settle()
        self.until(lambda: self.page.work.series.order.title == "water / %")
        self.assertTrue((np.diff(self.page.work.series.positions) >= 0).all())
        self.page.order_menu.choose("a series for each state")
        settle()
        self.assertEqual(self.page.work.series.order.names, ("wet", "drying", "dry"))
        first = len(self.page.work.series.rows)
        self.page.order_menu.choose("look at dry")
        settle()
        self.assertEqual(self.page.hands.code, 2)
        self.assertLess(first, 31)
        self.desk.study.undo()
        self.desk.study.undo()
        settle()
        self.assertEqual(self.state.dataset.layout, NoLayout())
        self.assertEqual(self.page.work.series.order.title, "time / min")

    def test_samples_set_aside_leave_the_series(self):
        from scutcher.study.document.commands.samples import SetAside

        self.desk.do(SetAside((0, 1), "spoilt"))
        self.until(lambda: len(self.page.work.series.rows) < 31)
        self.quiet()
        self.assertEqual(len(self.page.work.series.rows), 29)
        self.assertEqual(self.page.hands.a.said(self.series()), "8–16 min")


class Tank(OnSeries):
    demo = "tank-log"

    def test_mixed_variables_have_no_amounts_but_distances_in_time(self):
        self.assertFalse(self.page.left.amounts_panel.isVisible())
        chart = self.page.left.leftover.chart
        self.assertEqual(chart.x_title, "time / h")
        self.assertEqual(chart.title, "Distance in time")
        self.page.right.choose_top("two")
        self.assertIn("temperature", self.page.right.two.chart.x_title)

    def test_what_comes_late_is_not_drawn_over_other_data(self):
        """What random actions found: pairs of one table arrived when another was open already."""
        self.page.right.choose_top("two")
        table, _ = demo_set("bench")
        self.desk.do(AddDataSet("bench", table, Recipe()))
        self.page._on_told("pairs")  # the page has not been drawn anew yet
        self.window.selection.change(channels=(1.0, 2.0))
        settle()
        self.assertEqual(len(self.state.table.ids), 48)

    def test_from_a_on_samples_are_watched(self):
        self.page.put_handle(0, 60.0)
        self.page.watch_from_a()
        self.until(lambda: len(self.desk.moment.found.usable.rows) < 130)
        settle()
        self.assertEqual(len(self.state.model.use.watched), 121)
        ghosts = self.page.left.leftover.chart.ghosts
        self.assertEqual(len(ghosts.x), 121)
        self.assertGreater(ghosts.x.min(), 59.0)
        self.assertEqual(self.page.hands.a.first, 0)

    def test_the_time_stands_on_inspect_too(self):
        self.window.show_page("Inspect")
        settle()
        inspect = self.window.view("Inspect")
        self.assertEqual(inspect.distances.run_panel.x_title.text(), "time / h")
        names = [curve.name.strip() for curve in inspect.distances.run_view.chart.curves if curve.name]
        self.assertEqual(names, ["calm", "watched"])
        self.desk.selection.change(along=False)
        settle()
        self.assertEqual(inspect.distances.run_panel.x_title.text(), "run order")
        inspect.distances.run_panel.x_title.click()
        settle()


class Long(WindowCase):
    """A series whose components take long: nothing of them is computed by the window's own thread."""

    first_page, demo = "Series", "drying"

    def setUp(self):
        self.go, self.threads = threading.Event(), []

        def slow(values):
            self.threads.append(threading.current_thread())
            self.go.wait(PATIENCE)
            return series_components(values)

        for patch in (
            mock.patch.object(series_work, "LIGHT", 0.0),
            mock.patch.object(evaluation_series, "series_components", slow),
        ):
            patch.start()
            self.addCleanup(patch.stop)
        self.addCleanup(self.go.set)
        super().setUp()
        self.page = self.window.view("Series")
        self.until(lambda: self.threads)

    def test_it_says_so_and_then_is_there_with_a_and_b_where_they_were(self):
        settle()
        self.assertIsNone(self.page.work.series)
        self.assertIn("are being computed", self.page.finding.toolTip())
        self.go.set()
        self.until(lambda: self.page.work.windows is not None and self.page.work.pairs is not None)
        settle()
        self.assertNotIn(threading.main_thread(), self.threads)
        self.assertIsNotNone(self.page.left.picture.chart.grid)
        self.until(lambda: "half" in self.page.finding.toolTip())
        self.page.put_handle(1, 76.0)
        before = self.page.hands
        self.desk.do(AddStep("snv"))
        self.until(lambda: len(self.threads) > 1)
        self.until(lambda: self.page.work.windows is not None)
        self.assertEqual((self.page.hands.a, self.page.hands.b), (before.a, before.b))
        self.assertNotIn(threading.main_thread(), self.threads)

    def test_what_comes_late_is_not_taken_for_what_is_asked_since(self):
        self.desk.do(AddStep("snv"))
        settle()
        self.go.set()
        self.until(lambda: self.page.work.series is not None)
        self.assertIs(self.page.work.series.found, self.desk.moment.found)
        settle()
        self.assertIs(self.page.work.series.found, self.desk.moment.found)


class NoSeries(WindowCase):
    demo = "practice"

    def test_there_is_no_page_without_an_order(self):
        self.until(lambda: self.desk.moment.found is not None)
        settle()
        self.assertFalse(self.window.topbar.pages["Series"].isVisible())
        self.desk.do(LieAs(SeriesLayout()))
        settle()
        self.assertTrue(self.window.topbar.pages["Series"].isVisible())


if __name__ == "__main__":
    unittest.main()
