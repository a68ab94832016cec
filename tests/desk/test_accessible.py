"""Everything that can be reached tells what it is: names for all controls, charts, knots and the ladder."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QComboBox,
    QGraphicsView,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QSlider,
    QWidget,
)

from scutcher.desk.pages.compare.page import ComparePage
from scutcher.desk.widgets.axis_title import AxisTitle
from scutcher.study.document.commands.recipe import KeepComponents
from tests.desk.driving import WindowCase, comes, settle

TELLING = (
    QAbstractButton, QAbstractItemView, QComboBox, QGraphicsView, QLineEdit, QPlainTextEdit, QSlider,
)  # fmt: skip


def nameless(window):
    """What can be reached by keys or looked at, and says nothing of itself."""
    found = []
    for widget in window.findChildren(QWidget):
        if not widget.isVisible() or isinstance(widget, QHeaderView):
            continue
        if isinstance(widget, AxisTitle) and not widget.text():
            continue
        own = type(widget).__module__.startswith("scutcher.desk")
        reached = own and widget.focusPolicy() != Qt.FocusPolicy.NoFocus
        if isinstance(widget, TELLING) or reached:
            told = QAccessible.queryAccessibleInterface(widget)
            if told is None or not told.text(QAccessible.Text.Name):
                found.append(f"{type(widget).__name__} {widget.objectName()}")
    return found


class Telling(WindowCase):
    demo = "three-tables"

    def look_at_every_page(self):
        for page in self.window.stack.pages:
            if self.window.stack.suits(page):
                self.window.show_page(page)
                settle(8)
                comes(lambda: not nameless(self.window))  # of very many pixels part by part
                with self.subTest(page):
                    self.assertEqual(nameless(self.window), [])

    def test_every_page(self):
        self.look_at_every_page()

    def test_a_chart_tells_what_is_on_it(self):
        plane = self.page.scores_view
        self.assertEqual(plane.accessibleName(), "Scores")
        marks = len(plane.chart.marks.x)
        self.assertIn(f"{marks} marks", plane.accessibleDescription())
        self.assertIn("component 2", plane.accessibleDescription())

    def test_knots_and_the_ladder(self):
        knots = self.window.trail.knots
        self.assertTrue(all(knot.accessibleName() for knot in knots))
        bars = self.window.bottom.bars
        self.assertIn(f"Components kept: {self.model.k} of", bars.accessibleName())
        self.desk.do(KeepComponents(2))
        settle()
        self.assertIn("Components kept: 2 of", bars.accessibleName())

    def test_a_view_over_the_page(self):
        self.window.trail.shelf.put()
        settle()
        self.window.papers.side_by_side()
        page = self.window.stack.over
        self.assertIsInstance(page, ComparePage)
        self.until(lambda: page.work.compared is not None)
        settle()
        self.assertEqual(nameless(self.window), [])


class OfSeries(Telling):
    demo, first_page = "drying", "Series"

    def test_a_chart_tells_what_is_on_it(self):
        view = self.window.view(self.first_page)
        self.assertTrue(view.finding.accessibleName() or view.finding.sentence)

    test_knots_and_the_ladder = test_a_view_over_the_page = None


class OfMaps(OfSeries):
    demo, first_page = "belt-scan", "Maps"


if __name__ == "__main__":
    unittest.main()
