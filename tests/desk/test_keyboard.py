"""Everything without a mouse: F6 between the areas, arrows between the marks, Space picks."""

import unittest

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.emphasis import FRONT, HIDDEN, PLAIN
from scutcher.desk.painting.mark_finding import next_mark, way_of
from scutcher.desk.trail.knot import Knot
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.item_keys import ItemKeys
from tests.desk.driving import CTRL, SHIFT, WindowCase, settle

Key = Qt.Key


class NextMark(unittest.TestCase):
    def setUp(self):
        self.across = np.array([0.0, 10.0, 20.0, 10.0, 10.0])
        self.down = np.array([0.0, 0.0, 1.0, 10.0, -10.0])
        self.plain = np.full(5, PLAIN)

    def go(self, at, key, strength=None):
        strength = self.plain if strength is None else strength
        return next_mark(self.across, self.down, strength, at, way_of(key))

    def test_four_ways_from_the_middle(self):
        keys = (Key.Key_Left, Key.Key_Right, Key.Key_Down, Key.Key_Up)
        self.assertEqual([self.go(1, key) for key in keys], [0, 2, 3, 4])

    def test_where_nothing_is_that_way_one_stays(self):
        self.assertEqual(self.go(0, Key.Key_Left), 0)

    def test_what_is_hidden_or_has_no_place_is_passed_over(self):
        hidden = self.plain.copy()
        hidden[1] = HIDDEN
        self.assertEqual(self.go(0, Key.Key_Right, hidden), 2)
        self.across[1] = np.nan
        self.assertEqual(self.go(0, Key.Key_Right), 2)
        self.assertIsNone(self.go(None, Key.Key_Right, np.full(5, HIDDEN)))

    def test_pages_go_through_all_and_round(self):
        seen = [0]
        for _ in range(5):
            seen.append(self.go(seen[-1], Key.Key_PageDown))
        self.assertEqual(seen, [0, 1, 2, 3, 4, 0])
        self.assertEqual(self.go(0, Key.Key_PageUp), 4)

    def test_it_begins_at_what_is_picked_or_in_the_middle(self):
        picked = self.plain.copy()
        picked[4] = FRONT
        self.assertEqual(self.go(None, Key.Key_Left, picked), 4)
        self.assertEqual(self.go(None, Key.Key_Left), 1)

    def test_every_mark_of_a_cloud_is_reached_by_arrows(self):
        rng = np.random.default_rng(4)
        across, down = rng.normal(size=(2, 200)) * 100.0
        strength, reached, ahead = np.full(200, PLAIN), {0}, [0]
        ways = [way_of(key) for key in (Key.Key_Left, Key.Key_Right, Key.Key_Up, Key.Key_Down)]
        while ahead:
            at = ahead.pop()
            new = {next_mark(across, down, strength, at, way) for way in ways} - reached
            reached |= new
            ahead += new
        self.assertGreaterEqual(len(reached), 196)


class Driving(WindowCase):
    demo = "intake-nir"

    def test_marks_are_walked_and_picked(self):
        plane = self.page.scores_view
        plane.setFocus()
        self.key(Key.Key_Right, widget=plane)
        first = self.look.hovered
        self.assertIsNotNone(first)
        self.key(Key.Key_Right, widget=plane)
        second = self.look.hovered
        marks = plane.chart.marks
        at = {int(row): float(x) for row, x in zip(marks.keys, marks.x, strict=True)}
        self.assertGreater(at[second], at[first])
        self.key(Key.Key_Space, widget=plane)
        self.assertEqual(self.look.picked, (second,))
        self.key(Key.Key_Up, widget=plane)
        third = self.look.hovered
        self.key(Key.Key_Space, SHIFT, widget=plane)
        self.assertEqual(set(self.look.picked), {second, third})
        self.key(Key.Key_Space, CTRL, widget=plane)
        self.assertEqual(self.look.picked, (second,))

    def test_f6_visits_bar_trail_panels_and_bottom_and_comes_round(self):
        areas = self.window.areas.every()
        self.assertGreaterEqual(len(areas), 6)
        self.assertIs(areas[0], self.window.topbar)
        self.assertIs(areas[-1], self.window.bottom)
        for area in areas:
            self.key(Key.Key_F6)
            self.assertTrue(area.isAncestorOf(self.window.focusWidget()), area)
        self.key(Key.Key_F6)
        self.assertTrue(areas[0].isAncestorOf(self.window.focusWidget()))
        self.key(Key.Key_F6, SHIFT)
        self.assertTrue(areas[-1].isAncestorOf(self.window.focusWidget()))

    def test_it_comes_back_to_the_control_it_left(self):
        knot = self.window.trail.knots[1]
        knot.setFocus()
        self.key(Key.Key_F6)
        self.assertIsNot(self.window.focusWidget(), knot)
        self.key(Key.Key_F6, SHIFT)
        self.assertIs(self.window.focusWidget(), knot)

    def test_the_plot_that_has_the_keys_has_an_outline(self):
        plane = self.page.scores_view
        accent = colours.ACCENT.lower()

        def edge():
            image = plane.viewport().grab().toImage()
            return [image.pixelColor(image.width() // 2 + k, 0).name() for k in range(5)]

        self.assertNotIn(accent, edge())
        for _ in self.window.areas.every():
            if self.window.focusWidget() is plane:
                break
            self.key(Key.Key_F6)
        settle()
        self.assertIn(accent, edge())
        self.page.distances.view.setFocus(Qt.FocusReason.MouseFocusReason)
        settle()
        self.assertNotIn(accent, edge())

    def test_channels_are_walked_and_a_stretch_of_them_is_picked(self):
        strip = self.page.strips.loadings_view
        strip.setFocus()
        self.key(Key.Key_Home, widget=strip)
        first = self.look.channel
        places = np.sort(strip.chart.lines.x)
        self.assertEqual(first, places[0])
        self.key(Key.Key_Right, SHIFT, widget=strip)
        self.key(Key.Key_Left, widget=strip)
        self.assertEqual(self.look.channel, places[9])
        self.assertEqual(strip.cursor, places[9])
        self.key(Key.Key_Space, widget=strip)
        self.assertEqual(self.look.channels, (places[9],))
        self.key(Key.Key_Return, widget=strip)
        for _ in range(3):
            self.key(Key.Key_Right, widget=strip)
        self.key(Key.Key_Return, widget=strip)
        self.assertEqual(sorted(self.look.channels), places[9:13].tolist())
        self.key(Key.Key_Return, widget=strip)
        self.key(Key.Key_Right, widget=strip)
        self.key(Key.Key_Escape, widget=strip)
        self.assertEqual(sorted(self.look.channels), places[9:13].tolist())

    def test_lines_are_walked_and_picked(self):
        strip = self.page.strips.signals_view
        strip.setFocus()
        self.key(Key.Key_Home, widget=strip)
        self.key(Key.Key_Up, widget=strip)
        first = self.look.hovered
        self.key(Key.Key_Up, widget=strip)
        second = self.look.hovered
        lines = strip.chart.lines
        at = {int(row): float(y) for row, y in zip(lines.keys, lines.ys[:, 0], strict=True)}
        self.assertGreater(at[second], at[first])
        self.assertFalse(any(at[first] < y < at[second] for y in at.values()))
        self.key(Key.Key_Space, widget=strip)
        self.assertEqual(self.look.picked, (second,))
        self.key(Key.Key_Down, widget=strip)
        self.key(Key.Key_Space, SHIFT, widget=strip)
        self.assertEqual(set(self.look.picked), {first, second})

    def test_classes_are_walked_and_singled_out(self):
        legend = self.page.legend
        legend.setFocus()
        self.key(Key.Key_Right, widget=legend)
        self.key(Key.Key_Right, widget=legend)
        self.key(Key.Key_Space, widget=legend)
        settle()
        self.assertEqual(self.look.focus, list(legend.cells())[1])
        image = legend.grab().toImage()
        area = list(legend.cells().values())[1].toRect()
        self.assertEqual(image.pixelColor(area.center().x(), area.top()).name(), colours.ACCENT.lower())

    def test_lines_of_evidence_are_walked_and_taken(self):
        self.window.show_page("Rank")
        page = self.window.view("Rank")
        self.until(lambda: any(row.suggested for row in page.evidence.rows))
        chart = page.evidence
        chart.setFocus()
        wanted = next(place for place, row in enumerate(chart.rows) if row.suggested)
        for _ in range(wanted + 1):
            self.key(Key.Key_Down, widget=chart)
        self.assertEqual(chart.toolTip(), chart.rows[wanted].meaning)
        suggested = chart.rows[wanted].suggested
        self.key(Key.Key_Return, widget=chart)
        self.until(lambda: self.state.recipe.model.components == suggested)

    def test_whatever_takes_clicks_takes_keys(self):
        """Every painted widget of ours that the pointer can press, on every page."""
        for page in ("Samples", "Treat", "Rank", "Inspect", "Groups", "Report"):
            self.window.show_page(page)
            settle(10)
        deaf = set()
        for widget in self.window.findChildren(QWidget):
            owner = next((kind for kind in type(widget).__mro__ if "mousePressEvent" in vars(kind)), QWidget)
            if not owner.__module__.startswith("scutcher") or isinstance(widget, Knot):
                continue  # of the trail each has keys where a click does something
            if isinstance(widget, Finding) and "<a " not in widget.text():
                continue  # a sentence that has nothing to click
            by_itself = any(
                "keyPressEvent" in vars(kind) and kind.__module__.startswith("scutcher")
                for kind in type(widget).__mro__
            )
            helped = any(isinstance(child, ItemKeys) for child in widget.children())
            if not (by_itself or helped) or widget.focusPolicy() == Qt.FocusPolicy.NoFocus:
                deaf.add(type(widget).__name__)
        self.assertEqual(deaf, set())


if __name__ == "__main__":
    unittest.main()
