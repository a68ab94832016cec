"""Axes, bands and limits of a plot: where they are drawn, and that nothing is drawn again in vain."""

import unittest
from unittest import mock

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QFontMetricsF
from PySide6.QtWidgets import QApplication, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart, Lines, Ribbon, Rule
from scutcher.desk.painting.area import RULES
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.quiet_axis import REMEMBERED, SLANT, QuietAxis
from scutcher.desk.painting.setup import tick_font
from scutcher.desk.painting.strip import StripView
from scutcher.desk.painting.strip_lines import band_item
from scutcher.desk.shell.start import application
from tests.desk.driving import pixels, settle


def lines(low, high, rows=1):
    x = np.arange(0.0, 101.0)
    ys = np.linspace(low, high, 101)[np.newaxis].repeat(rows, axis=0)
    return Lines(x, ys[:rows], np.arange(rows), np.full(rows, -1), tuple(map(str, range(rows))))


class OnStrip(unittest.TestCase):
    def setUp(self):
        application()
        self.view = StripView()
        self.addCleanup(self.view.deleteLater)
        self.view.resize(640, 240)
        self.view.show()
        self.show(Chart("one", lines=lines(0.0, 10.0)))

    def show(self, chart):
        count = 0 if chart.lines is None else len(chart.lines.keys)
        self.view.show_chart(chart, np.zeros(count, dtype=int))
        self.view.settle()
        settle()

    def ink(self, colour, within=12):
        """Where a colour is in the picture, (rows, columns)."""
        wanted = np.array(colours.rgb(colour))
        near = np.abs(pixels(self.view.viewport())[..., :3].astype(int) - wanted).max(axis=2) <= within
        return near

    def down(self, x, y):
        """The place of data in the picture."""
        place = self.view.mapFromScene(self.view.ground.mapViewToScene(QPointF(x, y)))
        return place.y(), place.x()


class Axes(OnStrip):
    def labels(self, axis):
        """Places and words of the labels of an axis, as they are drawn."""
        axis.picture = None
        axis._before.clear()
        with mock.patch.object(axis, "_placed", wraps=axis._placed) as drawn:
            axis.update()
            self.view.viewport().repaint()
        return drawn.call_args.args[2]

    def test_a_label_stands_at_its_value(self):
        found = {words: at for at, words in self.labels(self.view.bottom_axis)}
        self.assertIn("20", found)
        left = self.view.bottom_axis.mapToScene(QPointF(found["20"], 0.0)).x()
        self.assertAlmostEqual(
            self.view.mapFromScene(QPointF(left, 0.0)).x(), self.down(20.0, 5.0)[1], delta=1
        )
        for at, words in self.labels(self.view.left_axis):
            top = self.view.left_axis.mapToScene(QPointF(0.0, at)).y()
            self.assertAlmostEqual(top, self.down(50.0, float(words))[0], delta=1)

    def test_its_words_are_in_the_picture_and_are_others_after_a_zoom(self):
        bottom = slice(self.down(0.0, 0.0)[0] + 6, None)
        before = pixels(self.view.viewport())[bottom]
        self.assertGreater(self.ink(colours.MUTED, 60)[bottom].sum(), 20)
        self.view.ground.setXRange(3.0, 7.0, padding=0.0)
        self.view.settle()
        settle()
        self.assertGreater(np.abs(pixels(self.view.viewport())[bottom].astype(int) - before).sum(), 0)
        self.assertIn("4", [words for _, words in self.labels(self.view.bottom_axis)])

    def test_of_a_full_axis_only_the_round_figures_are_named(self):
        axis = QuietAxis("bottom")
        few = [(10.0 * k, "100") for k in range(3)]
        more = [(10.0 * k + 5.0, "105") for k in range(3)]
        self.assertEqual(axis._with_room([], few, 40.0), few)  # always
        self.assertEqual(axis._with_room(few, more, 40.0), [])
        self.assertEqual(axis._with_room(few, more, 4000.0), more)

    def test_on_a_very_short_axis_no_figure_covers_another(self):
        """The difference of a series at 1024 × 640: 0.8 stood on 0."""
        few = [(20.0, "0"), (13.5, "0.4"), (7.0, "0.8")]
        self.assertEqual(QuietAxis("left")._with_room([], few, 24.0), [few[0], few[2]])
        self.view.resize(640, 70)
        settle()
        places = sorted(at for at, _ in self.labels(self.view.left_axis))
        self.assertTrue(all(np.diff(places) >= 9.0), places)

    def test_slanted_names_do_not_cover_each_other(self):
        axis = self.view.bottom_axis
        for count in (30, 46, 1440):
            names = tuple(f"{240 + place}/{280 + place}" for place in range(count))
            x = np.arange(1.0, count + 1.0)
            own = Lines(x, x[np.newaxis], np.arange(1), np.full(1, -1), ("a",))
            self.show(Chart("named", lines=own, tick_names=names))
            drawn = axis.picture
            self.assertTrue(drawn.slanted)
            across = np.array([place.x() for place, _ in drawn.words])
            lines_apart = np.diff(across).min() * np.sin(np.radians(SLANT))
            self.assertGreater(lines_apart, QFontMetricsF(tick_font()).tightBoundingRect("0/9").height())
            self.assertGreater(len(drawn.words), 10)

    def test_nothing_is_drawn_anew_for_the_same_range(self):
        picture = self.view.bottom_axis.picture
        self.assertIsNotNone(picture)
        self.show(Chart("two", lines=lines(3.0, 40.0)))
        self.assertIs(self.view.bottom_axis.picture, picture)
        self.assertIn("40", [words for _, words in self.labels(self.view.left_axis)])

    def test_what_was_seen_before_is_drawn_as_it_was(self):
        axis, viewport = self.view.left_axis, self.view.viewport()
        before, shown, ends = axis.picture, pixels(viewport), tuple(axis.range)
        self.up_to(0.0, 3.0)
        self.assertIsNot(axis.picture, before)
        with mock.patch.object(axis, "_drawn") as never:
            self.up_to(*ends)
        never.assert_not_called()
        np.testing.assert_array_equal(pixels(viewport), shown)
        self.view.resize(640, 200)  # in other room it is other
        settle()
        self.up_to(*ends)
        self.assertIsNot(axis.picture, before)
        for high in range(2, 20):
            self.up_to(0.0, float(high))
        self.assertEqual(len(axis._before), REMEMBERED)

    def up_to(self, low, high):
        self.view.ground.setYRange(low, high, padding=0.0)
        self.view.settle()
        self.view.viewport().repaint()

    def test_where_all_values_are_one_there_is_an_axis_still(self):
        axis = self.view.left_axis
        axis.setRange(2.0, 2.0)
        self.view.viewport().repaint()
        self.assertIsNotNone(axis.picture)

    def test_round_figures_are_those_of_the_library_on_any_range(self):
        random = np.random.default_rng(4)
        axis = QuietAxis("bottom")
        for _ in range(400):
            low = random.normal() * 10.0 ** random.integers(-6, 7)
            high = low + random.uniform(0.01, 9.0) * 10.0 ** random.integers(-6, 7)
            size = random.uniform(20.0, 1200.0)
            own, library = axis.tickValues(low, high, size), pg.AxisItem.tickValues(axis, low, high, size)
            self.assertEqual([step for step, _ in own], [step for step, _ in library])
            for (step, values), (_, expected) in zip(own, library, strict=True):
                np.testing.assert_allclose(values, expected, rtol=1e-14, atol=1e-6 * step)

    def test_a_plot_brings_no_menus_with_it(self):
        before = len(QApplication.allWidgets())
        view = StripView()
        self.addCleanup(view.deleteLater)
        inside = len(view.findChildren(QWidget)) + 1
        self.assertLess(len(QApplication.allWidgets()) - before, 2 * inside)  # theirs are some sixty


class Bands(OnStrip):
    def test_a_ribbon_is_filled_between_its_edges_and_broken_where_it_is_not_known(self):
        x = np.arange(0.0, 101.0)
        low, high = np.full(101, 2.0), np.full(101, 8.0)
        low[40:60] = np.nan
        self.show(Chart("band", lines=lines(0.0, 10.0, 0), ribbon=Ribbon(x, low, high)))
        filled = self.ink(colours.CHIP)
        for at, value, there in (
            (20, 5, True),
            (80, 5, True),
            (20, 7.5, True),
            (50, 5, False),
            (70, 7.5, True),
        ):
            with self.subTest((at, value)):
                self.assertEqual(bool(filled[self.down(at, value)]), there)
        self.show(Chart("band", lines=lines(0.0, 10.0), ribbon=Ribbon(x, np.full(101, 4.0), high)))
        filled = self.ink(colours.CHIP)
        self.assertFalse(filled[self.down(20.0, 3.0)])
        self.assertTrue(filled[self.down(20.0, 6.0)])

    def test_a_band_reaches_as_far_as_its_edges(self):
        x = np.arange(5.0)
        item = band_item(Ribbon(x, -x, 2.0 * x), QColor(colours.CHIP), self.view.left_axis.pen())
        box = item.path().boundingRect()
        self.assertEqual((box.left(), box.right(), box.top(), box.bottom()), (0.0, 4.0, -4.0, 8.0))
        nothing = band_item(Ribbon(x, np.full(5, np.nan), x), QColor(colours.CHIP), self.view.left_axis.pen())
        self.assertTrue(nothing.path().isEmpty())


class Limits(OnStrip):
    def test_a_limit_moves(self):
        self.show(Chart("limit", lines=lines(0.0, 10.0), rules=(Rule(4.0, alarm=True),)))
        self.show(Chart("limit", lines=lines(0.0, 10.0), rules=(Rule(7.0, alarm=True),)))
        red = self.ink(colours.ALARM, 40)
        self.assertGreater(red[self.down(50.0, 7.0)[0]].sum(), 100)
        self.assertEqual(red[self.down(50.0, 4.0)[0]].sum(), 0)

    def test_others_are_made_anew_and_none_stays(self):
        self.show(Chart("limit", lines=lines(0.0, 10.0), rules=(Rule(4.0, alarm=True),)))
        self.show(Chart("limit", lines=lines(0.0, 10.0), rules=(Rule(30.0, vertical=True),)))
        self.assertEqual(self.ink(colours.ALARM, 40).sum(), 0)
        self.show(Chart("limit", lines=lines(0.0, 10.0)))
        self.assertEqual(self.view.layers.on(RULES), ())


class Linked(OnStrip):
    def test_linked_plots_have_one_range_wherever_they_stand(self):
        """The means of two classes lay 48 nm beside their difference: lined up before the layout."""
        whole, other = QWidget(), StripView()
        self.addCleanup(whole.deleteLater)
        self.view.setParent(whole)
        other.setParent(whole)
        other.ground.setXLink(self.view.ground)
        whole.resize(900, 500)
        whole.show()
        for place, width in ((0, 600), (70, 500), (20, 880)):
            other.setGeometry(place, 250, width, 240)
            self.view.setGeometry(40, 0, 640, 240)
            self.view.show()
            other.show()
            other.show_chart(Chart("two", lines=lines(0.0, 1.0)), np.zeros(1, dtype=int))
            for mover, span in ((self.view, (10.0, 60.0)), (other, (20.0, 50.0))):
                mover.ground.setXRange(*span, padding=0.0)
                settle()
                for view in (self.view, other):
                    np.testing.assert_allclose(view.ground.viewRange()[0], span)


class PaintedOnce(OnStrip):
    """The library draws a plot twice for a new range: the first time with the axes of now and the lines of
    before."""

    def setUp(self):
        super().setUp()
        self.other = StripView()
        self.addCleanup(self.other.deleteLater)
        self.other.resize(640, 200)
        self.other.show()
        self.other.ground.setXLink(self.view.ground)
        self.other.show_chart(Chart("two", lines=lines(0.0, 1.0)), np.zeros(1, dtype=int))
        self.until_still()
        self.painted = []
        for view in (self.view, self.other):
            paint = view.paintEvent
            view.paintEvent = lambda event, view=view, paint=paint: (self.painted.append(view), paint(event))

    def until_still(self):
        for _ in range(5):
            settle()

    def assert_painted(self, *views):
        self.until_still()
        self.assertEqual(sorted(map(id, self.painted)), sorted(map(id, views)))
        self.painted.clear()

    def test_for_a_new_range_and_each_that_is_linked(self):
        self.view.ground.setXRange(20.0, 30.0, padding=0.0)
        self.assert_painted(self.view, self.other)
        self.other.ground.scaleBy((0.9, 1.0))
        self.assert_painted(self.view, self.other)
        self.view.ground.translateBy(x=3.0)
        self.assert_painted(self.view, self.other)

    def test_for_another_size(self):
        self.view.resize(500, 300)
        self.assert_painted(self.view)

    def test_when_its_axes_come(self):
        self.view.show_chart(Chart("one"), np.empty(0, dtype=int))
        self.until_still()
        self.painted.clear()
        self.view.show_chart(Chart("one", lines=lines(0.0, 20.0)), np.zeros(1, dtype=int))
        self.assert_painted(self.view)


class NoLines(OnStrip):
    def test_an_axis_with_no_line_over_it(self):
        """What random actions found."""
        self.show(Chart("none", lines=lines(0.0, 10.0, 0)))
        x = np.arange(0.0, 101.0)
        self.show(Chart("none", lines=lines(0.0, 1.0, 0), ribbon=Ribbon(x, x, x + 1.0)))
        low, high = self.view.ground.viewRange()[1]
        self.assertTrue(low < 1.0 and high > 100.0)
        QApplication.processEvents()


if __name__ == "__main__":
    unittest.main()
