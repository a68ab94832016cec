"""The Inspect page by hand: pick, fade, hover, zoom, other components; state and picture agree."""

import sys
import unittest
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from scutcher.charts import colours
from scutcher.charts.emphasis import FADED, FRONT, HIDDEN
from scutcher.desk.actions.class_menu import class_menu
from tests.desk.driving import CTRL, LEFT, SHIFT, WindowCase, count_colour, settle


class Picking(WindowCase):
    def test_click_on_the_plane_brings_the_spectrum_forward(self):
        row = self.row("L17-1")
        green = colours.class_colour(0)
        before = count_colour(self.page.strips.signals_view, colours.FADED)
        self.click(self.page.scores_view, self.mark_place(self.page.scores_view, row))
        self.assertEqual(self.look.picked, (row,))
        strength = self.page.strips.signals_view.strength
        keys = self.page.strips.signals_view.chart.lines.keys
        self.assertEqual(strength[keys == row], FRONT)
        self.assertTrue((strength[keys != row] == FADED).all())
        self.assertGreater(count_colour(self.page.strips.signals_view, colours.FADED), before + 1000)
        self.assertGreater(count_colour(self.page.strips.signals_view, green, 60), 300)
        self.assertIn("L17-1", self.window.bottom.pick.text())
        self.assertIn("L17-1", self.page.strips.leftover_panel.title.text())

    def test_shift_adds_ctrl_toggles_esc_clears(self):
        view = self.page.scores_view
        first, second = self.row("L17-1"), self.row("L17-2")
        self.click(view, self.mark_place(view, first))
        self.click(view, self.mark_place(view, second), SHIFT)
        self.assertEqual(self.look.picked, (first, second))
        self.click(view, self.mark_place(view, first), CTRL)
        self.assertEqual(self.look.picked, (second,))
        self.key(Qt.Key.Key_Escape)
        self.assertEqual(self.look.picked, ())

    def test_click_on_nothing_clears(self):
        self.desk.selection.pick([3])
        view = self.page.scores_view
        (left, right), (bottom, top) = view.ground.viewRange()
        self.click(view, self.data_place(view, right - 0.02 * (right - left), bottom + 0.02 * (top - bottom)))
        self.assertEqual(self.look.picked, ())

    def test_rectangle_picks_what_is_inside(self):
        view = self.page.scores_view
        marks = view.chart.marks
        chosen = marks.x > 5.0  # the wet lot, far from all others
        self.assertEqual(int(chosen.sum()), 3)
        corner = self.data_place(view, marks.x[chosen].min() - 0.4, marks.y[chosen].max() + 0.4)
        opposite = self.data_place(view, marks.x[chosen].max() + 0.4, marks.y[chosen].min() - 0.4)
        self.drag(view.viewport(), [corner, (corner + opposite) / 2, opposite])
        self.assertEqual(set(self.look.picked), set(marks.keys[chosen].tolist()))

    def test_lasso_takes_a_free_shape(self):
        view = self.page.scores_view
        self.page._set_lasso("lasso")
        middle = self.mark_place(view, self.row("L02-1"))
        turns = np.linspace(0.0, 2.0 * np.pi, 36)
        ring = [middle + QPoint(round(30 * np.cos(turn)), round(30 * np.sin(turn))) for turn in turns]
        self.drag(view.viewport(), ring)
        away = {}
        for row in view.chart.marks.keys.tolist():
            place = self.mark_place(view, row) - middle
            away[row] = np.hypot(place.x(), place.y())
        self.assertTrue({row for row, pixels in away.items() if pixels < 28} <= set(self.look.picked))
        self.assertTrue(set(self.look.picked) <= {row for row, pixels in away.items() if pixels < 32})
        self.assertLess(len(self.look.picked), len(away))

    def test_click_on_a_spectrum_picks_it_everywhere(self):
        view = self.page.strips.signals_view
        row = self.row("L42-3")  # the spiked one stands alone at its channel
        lines = view.chart.lines
        value = lines.ys[np.flatnonzero(lines.keys == row)[0], np.searchsorted(lines.x, 1606.0)]
        self.click(view, self.data_place(view, 1606.0, float(value)))
        self.assertEqual(self.look.picked, (row,))
        for plane in self.page.planes:
            self.assertEqual(plane.strength[plane.chart.marks.keys == row], FRONT)
            self.assertEqual(plane.chart.marks.keys[plane.item.ringed()].tolist(), [row])

    def test_what_is_left_out_of_ordinary_samples_is_seen_over_the_ribbon(self):
        view = self.page.strips.leftover_view
        colour = colours.class_colour(0)
        self.desk.selection.pick([self.row("L25-1")])
        settle()
        self.assertIsNotNone(view.chart.ribbon)
        line, ribbon = view.chart.lines.ys[0], view.chart.ribbon
        self.assertGreater(((line < ribbon.high) & (line > ribbon.low)).mean(), 0.7)
        self.assertGreater(count_colour(view, colour, 60), 400)

    def test_leftover_shows_where_the_oily_lot_differs(self):
        self.desk.selection.pick([self.row("L30-1")])
        settle()
        lines = self.page.strips.leftover_view.chart.lines
        worst = lines.x[np.abs(lines.ys[0]).argmax()]
        self.assertAlmostEqual(worst, 2012.0, delta=10.0)  # the oil's strongest band

    def test_shares_instead_of_residuals(self):
        row = self.row("L30-1")
        self.desk.selection.pick([row])
        self.page.strips._set_share("q")
        lines = self.page.strips.leftover_view.chart.lines
        place = int(np.flatnonzero(self.desk.moment.found.usable.rows == row)[0])
        self.assertAlmostEqual(np.abs(lines.ys[0]).sum(), self.model.q[place], places=9)


class Broken(WindowCase):
    def test_a_mistake_while_painting_is_reported_and_the_window_lives(self):
        raster = self.page.strips.signals_view.raster
        with mock.patch.object(sys, "excepthook") as reported:
            with mock.patch.object(raster, "_column_runs", side_effect=RuntimeError("broken")):
                raster._made_for = None
                self.page.strips.signals_view.viewport().repaint()
        self.assertEqual(reported.call_args[0][0], RuntimeError)
        raster._made_for = None
        self.page.strips.signals_view.viewport().repaint()
        self.assertEqual(len(raster._pictures), 1)


class Classes(WindowCase):
    def legend_place(self, level):
        return self.page.legend.cells()[level].center().toPoint()

    def test_click_fades_the_others_and_again_shows_all(self):
        legend = self.page.legend
        QTest.mouseClick(legend, LEFT, pos=self.legend_place("tank-retted"))
        settle()
        self.assertEqual((self.look.focus, self.look.alone), ("tank-retted", False))
        codes = self.page.scores_view.chart.marks.codes
        self.assertTrue((self.page.scores_view.strength[codes != 2] == FADED).all())
        QTest.qWait(QApplication.doubleClickInterval() + 30)
        QTest.mouseClick(legend, LEFT, pos=self.legend_place("tank-retted"))
        settle()
        self.assertIsNone(self.look.focus)

    def test_a_right_click_chooses_a_colour_that_is_seen_everywhere(self):
        legend, page = self.page.legend, self.page
        orange, violet = colours.class_colour(1), colours.class_colour(4)
        before = self.state.table.class_column("retting")
        level = before.names[1]
        self.assertGreater(count_colour(page.scores_view, orange), 50)
        self.assertEqual(count_colour(page.scores_view, violet), 0)
        menu = class_menu(self.desk, legend, level)
        words = [action.text() for action in menu.actions()]
        self.assertIn("its colour now", words)
        self.assertEqual(words.count("free"), 4)
        self.assertIn(f"swap with {before.names[0]}", words)
        menu.actions()[words.index("free")].trigger()
        settle()
        self.assertEqual(self.state.table.class_column("retting").levels[4], level)
        self.assertEqual(count_colour(page.scores_view, orange), 0)
        self.assertGreater(count_colour(page.scores_view, violet), 50)
        self.assertEqual(set(legend.cells()), set(before.names))
        self.assertGreater(count_colour(legend, violet), 10)
        menu.actions()[0].trigger()
        rows = [row for row, value in enumerate(before.values) if value == level]
        self.assertEqual(list(self.look.picked), rows)
        self.key("z", CTRL)
        self.assertEqual(self.state.table.class_column("retting").levels, before.levels)

    def test_the_menu_opens_where_the_class_is(self):
        legend = self.page.legend
        place = self.legend_place("tank-retted")
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, legend.mapToGlobal(place))
        QApplication.sendEvent(legend, event)
        menu = QApplication.activePopupWidget()
        self.assertIsInstance(menu, QMenu)
        self.assertIn("Rename…", [action.text() for action in menu.actions()])
        menu.close()

    def test_double_click_singles_out(self):
        legend = self.page.legend
        place = self.legend_place("enzyme-retted")
        QTest.mouseClick(legend, LEFT, pos=place)
        QTest.mouseDClick(legend, LEFT, pos=place)
        settle()
        self.assertEqual((self.look.focus, self.look.alone), ("enzyme-retted", True))
        view = self.page.scores_view
        self.assertTrue((view.strength[view.chart.marks.codes != 3] == HIDDEN).all())
        self.assertEqual(count_colour(view, colours.class_colour(1)), 0)
        self.assertGreater(count_colour(view, colours.class_colour(3)), 50)

    def test_another_column_colours_everything_and_undo_brings_it_back(self):
        action = next(a for a in self.page.chooser.menu().actions() if a.text() == "field")
        action.trigger()
        settle()
        self.assertEqual(self.state.colour_by, "field")
        self.assertEqual(tuple(self.page.legend.cells()), ("Aa", "Brede", "Moor", "Nordend"))
        self.key(Qt.Key.Key_Z, CTRL)
        self.assertEqual(next(iter(self.page.legend.cells())), "green straw")


class Looking(WindowCase):
    def test_hovering_names_sample_and_channel(self):
        view = self.page.strips.signals_view
        row = self.row("L42-3")
        lines = view.chart.lines
        value = float(lines.ys[np.flatnonzero(lines.keys == row)[0], np.searchsorted(lines.x, 1606.0)])
        QTest.mouseMove(view.viewport(), self.data_place(view, 1606.0, value))
        settle()
        self.assertEqual(self.look.hovered, row)
        self.assertEqual(self.look.channel, 1606.0)
        self.assertTrue(self.page.strips.signals_panel.readout.text().startswith("1606 nm  L42-3"))
        for strip in self.page.strips.views:
            self.assertIsNotNone(strip.cursor)
            self.assertEqual(strip.cursor, 1606.0)

    def test_hovering_a_mark_shows_its_name(self):
        view = self.page.scores_view
        QTest.mouseMove(view.viewport(), self.mark_place(view, self.row("L17-3")))
        settle()
        self.assertTrue(view._hover_label.isVisible())
        self.assertEqual(view._hover_label.toPlainText(), "L17-3")

    def test_wheel_zooms_all_strips_and_double_click_shows_all(self):
        view = self.page.strips.signals_view
        place = QPointF(self.data_place(view, 1900.0, 0.0))
        for _ in range(8):
            event = QWheelEvent(
                place, view.viewport().mapToGlobal(place), QPoint(), QPoint(0, 120),
                Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            QApplication.sendEvent(view.viewport(), event)
        settle()
        spans = [np.round(strip.ground.viewRange()[0], 6).tolist() for strip in self.page.strips.views]
        self.assertEqual(spans[0], spans[1])
        self.assertEqual(spans[0], spans[2])
        self.assertLess(spans[0][1] - spans[0][0], 1000.0)
        self.window.whole()
        self.assertAlmostEqual(np.ptp(view.ground.viewRange()[0]), 1398.0, places=6)

    def test_axis_title_changes_the_component(self):
        menu = self.page.questions.component_menu(0)
        self.assertEqual(len(menu.actions()), 4)
        menu.actions()[2].trigger()
        settle()
        self.assertEqual(self.look.pair, (2, 1))
        self.assertTrue(self.page.scores_panel.x_title.text().startswith("component 3 ("))
        np.testing.assert_array_equal(self.page.scores_view.chart.marks.x, self.model.scores[:, 2])
        np.testing.assert_array_equal(
            self.page.strips.loadings_view.chart.lines.ys[0], self.model.loadings[:, 2]
        )

    def test_choosing_the_other_axis_component_swaps(self):
        self.page.questions.component_menu(0).actions()[1].trigger()
        self.assertEqual(self.look.pair, (1, 0))

    def test_class_means(self):
        self.key("m")
        lines = self.page.strips.signals_view.chart.lines
        self.assertEqual(lines.role, "class")
        self.assertEqual(len(lines.ys), 4)
        rows = np.flatnonzero(np.array(self.state.table.classes[0].values) == "green straw")
        treated = self.desk.moment.found.treated.values
        places = self.desk.moment.found.places()
        np.testing.assert_allclose(
            lines.ys[0], treated[[places[r] for r in rows if r in places]].mean(axis=0)
        )

    def test_knots_show_their_data(self):
        knot = self.window.trail.knots[0]
        QTest.mouseClick(knot.picture, LEFT)
        settle()
        self.assertEqual(self.page.strips.signals_panel.note.text(), "as brought in")
        self.assertEqual(self.page.strips.signals_view.chart.lines.ys.shape, (144, 700))
        QTest.mouseClick(self.window.trail.knots[-1].picture, LEFT)
        settle()
        self.assertEqual(self.page.strips.signals_panel.note.text(), "centred")
        np.testing.assert_array_equal(self.page.strips.signals_view.chart.lines.ys, self.desk.moment.found.z)


if __name__ == "__main__":
    unittest.main()
