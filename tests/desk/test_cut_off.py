"""Nothing is cut off, at 1280 × 800 and at 1024 × 640: all words of every page have room."""

import tempfile
import unittest
from pathlib import Path

from PySide6.QtCore import QEvent, QPoint
from PySide6.QtGui import QFont, QFontMetrics, QFontMetricsF, QHelpEvent, QTextDocument
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QToolTip,
    QWidget,
)

from scutcher.desk.pages.groups.class_table import BESIDE_NAME, LETTER
from scutcher.desk.painting.painters import lettered
from scutcher.desk.painting.quiet_axis import short_name
from scutcher.desk.shell.start import application
from scutcher.desk.widgets.axis_title import AxisTitle
from scutcher.desk.widgets.note import Note, Title
from scutcher.files.writing import write_table
from scutcher.study.document.parts import Source
from scutcher.study.document.study import Study
from tests.desk.driving import WindowCase, settle

ARROW, EDGES = 24, 8
"""Pixels of a combo box that its arrow takes, and of a field that its frame takes."""

OVERS = "pairs", "space", "pictures", "rebuilds", "loadings", "circle", "table"


def words_of(widget):
    """What a widget shows as words, in one line."""
    if isinstance(widget, AxisTitle):
        return widget.words()
    if isinstance(widget, QComboBox):
        return widget.currentText()
    if isinstance(widget, QLineEdit):
        return widget.text() or widget.placeholderText()
    return widget.text().replace("&", "") if isinstance(widget, QAbstractButton | QLabel) else ""


def width_of(words, font):
    """Pixels that words take, as plain text or as rich text."""
    if "<" in words:
        page = QTextDocument()
        page.setDefaultFont(font)
        page.setDocumentMargin(0)
        page.setHtml(words)
        return page.idealWidth()
    metrics = QFontMetricsF(font)
    return max(metrics.horizontalAdvance(line) for line in words.split("\n"))


def room_of(widget):
    """Pixels that a widget has for its words."""
    if isinstance(widget, AxisTitle):
        return max(widget.width(), widget.height())
    if isinstance(widget, QComboBox):
        return widget.width() - ARROW
    if isinstance(widget, QLineEdit):
        return widget.width() - EDGES
    return widget.contentsRect().width()


def cut_off(window):
    """The words of a window that have no room, with what they need and what they have."""
    found = []
    for widget in window.findChildren(QWidget):
        words = words_of(widget)
        if not words or widget.visibleRegion().isEmpty():
            continue
        if isinstance(widget, QLabel) and widget.wordWrap():
            needs, has = widget.heightForWidth(widget.width()), widget.height()
        elif isinstance(widget, Note) and not isinstance(widget, Title):  # its words are in the tooltip
            continue
        else:
            needs, has = width_of(words, widget.font()), room_of(widget)
        if needs > has + 1.5:
            found.append((words, needs, has))
    return found


class Roomy(WindowCase):
    def check(self, where):
        settle(8)
        with self.subTest(f"{self.demo}, {where}"):
            self.assertEqual(cut_off(self.window), [])

    def look_everywhere(self, size=(1280, 800)):
        self.window.resize(*size)
        self.until(lambda: not self.desk.live.busy)
        for page in ("Samples", "Treat", "Rank", "Groups", "Inspect"):
            self.window.show_page(page)
            self.check(page)
            self.inside()
        for over in OVERS:
            self.window.papers.show_space(over)
            self.check(over)
            self.window.stack.hide_over()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "data.csv"
            write_table(self.state.table, path)
            self.window.papers.show_import(Source((str(path),)))
            self.until(lambda: not self.window.stack.over.busy)
            self.check("columns")
            self.window.stack.hide_over()

    def inside(self):
        """Everything of the window is inside it, and no two parts of a bar lie over each other."""
        self.assertEqual(
            (self.window.centralWidget().width(), self.window.width()), (self.window.width(),) * 2
        )
        for bar in (self.window.topbar, self.window.bottom):
            parts = [w for w in bar.findChildren(QWidget) if w.parent() is bar and w.isVisible()]
            for place, part in enumerate(parts):
                self.assertLessEqual(part.geometry().right(), bar.width())
                for other in parts[:place]:
                    self.assertFalse(part.geometry().intersects(other.geometry()), (part, other))


class Spectra(Roomy):
    def test_every_page(self):
        self.look_everywhere()

    def test_every_page_of_a_small_screen(self):
        self.look_everywhere((1024, 640))

    def test_every_knot(self):
        self.window.show_page("Treat")
        for stage in range(4):
            self.desk.selection.change(stage=stage)
            self.check(f"Treat, knot {stage}")

    def test_words_that_have_no_room_are_noticed(self):
        self.window.bottom.tag.setFixedWidth(12)
        settle()
        self.assertEqual([words for words, *_ in cut_off(self.window)], ["Tag…"])


class AxisTitles(unittest.TestCase):
    def test_the_first_words_stay_and_all_of_them_stand_in_a_tooltip(self):
        application()
        title = AxisTitle()
        self.addCleanup(title.deleteLater)
        title.setText("absorbance, after a derivative / per nm")
        title.resize(600, 16)
        title.show()
        asked = QHelpEvent(QEvent.Type.ToolTip, QPoint(3, 3), title.mapToGlobal(QPoint(3, 3)))
        self.assertEqual(title.words(), title.text())
        QApplication.sendEvent(title, asked)
        self.assertEqual(QToolTip.text(), "")
        title.resize(90, 16)
        self.assertEqual(title.words(), "absorbance")
        QApplication.sendEvent(title, asked)
        self.assertEqual(QToolTip.text(), title.text())
        QToolTip.hideText()


class Mixed(Roomy):
    """A table whose variables have names and units."""

    demo = "bench"

    def test_every_page(self):
        self.look_everywhere()

    def test_every_page_of_a_small_screen(self):
        self.look_everywhere((1024, 640))

    def test_every_variable_is_named_on_the_strips(self):
        self.window.resize(1024, 640)
        settle(8)
        axis = self.page.strips.leftover_view.bottom_axis
        (_, places), *_ = axis.tickValues(*self.page.strips.leftover_view.ground.viewRange()[0], 350)
        names = axis.tickStrings(places, 1.0, 1.0)
        self.assertEqual(len(names), 12)
        self.assertTrue(axis.slanted)
        self.assertEqual(len(set(names)), 12)
        self.assertIn("lignin / %", names)

    def test_names_are_shortened_in_the_middle(self):
        metrics = QFontMetrics(QFont("Inter", 8))
        names = [short_name(f"temperature {end}", metrics, 60) for end in ("top", "middle", "bottom")]
        self.assertEqual(len(set(names)), 3)
        self.assertTrue(all("…" in name for name in names))


class Known(Roomy):
    demo = "practice"

    def test_every_page_and_the_answer(self):
        self.look_everywhere()
        self.window.papers.show_answer()
        self.check("Is it right?")


class ClassModels(Roomy):
    def test_the_square_and_the_list_of_a_small_screen_go_nowhere_sideways(self):
        self.window.resize(1024, 600)
        self.window.show_page("Groups")
        page = self.window.view("Groups")
        page.modes["models"].click()
        self.until(lambda: page.models.found is not None and not self.desk.live.busy)
        self.check("one model per class")
        table, listing = page.models.table, page.models.listing.table
        for area in (table.parent().parent(), listing):
            self.assertGreater(area.width(), 300)
            self.assertEqual(area.horizontalScrollBar().maximum(), 0)
        self.assertEqual(table.parent().parent().verticalScrollBar().maximum(), 0)
        self.assertIn("over its limit", listing.horizontalHeaderItem(4).toolTip())  # "× limit"
        metrics = QFontMetricsF(lettered(table.font(), LETTER))
        ends = table.tree.left + metrics.horizontalAdvance(table.square.unit)
        self.assertLessEqual(ends, table.width())
        widest = max(metrics.horizontalAdvance(name) for name in table.square.names)
        self.assertGreaterEqual(table.cell_rect(0, 0).left() - BESIDE_NAME, int(widest))


class InTime(Roomy):
    demo = "drying"

    def series(self, *size):
        self.window.resize(*size)
        self.window.show_page("Series")
        page = self.window.view("Series")
        self.until(lambda: page.left.amounts.chart is not None and page.left.amounts.chart.lines is not None)
        settle(8)
        return page

    def test_headings_of_a_small_screen_are_whole(self):
        page = self.series(1024, 600)
        for kind in ("moving", "windows", "components", "shifts"):
            page.right.bottom_words[kind].click()
            self.check(kind)

    def test_a_key_without_room_has_fewer_words_and_all_of_them_in_its_tooltip(self):
        page = self.series(1280, 760)
        key = page.left.amounts_panel.note
        whole = key.text()
        self.assertIn("a (", whole)
        self.assertEqual(key.toolTip(), "")
        self.window.resize(1024, 600)
        settle(8)
        self.assertNotIn("(", key.text())
        self.assertIn("</span> a", key.text())
        self.assertLessEqual(width_of(key.text(), key.font()), key.width() + 1.5)
        self.assertIn(whole, key.toolTip())
        self.window.resize(1280, 760)
        settle(8)
        self.assertEqual((key.text(), key.toolTip()), (whole, ""))

    def test_amounts_have_the_axis_of_what_is_left_over_and_shapes_their_own(self):
        page = self.series(1024, 600)
        title = page.left.amounts_panel.x_title
        seen = []
        for kind in ("amounts", "shapes", "plane", "amounts"):
            page.left.words[kind].click()
            settle(8)
            seen.append(title.isVisible())
        self.assertEqual(seen, [False, True, True, False])
        self.assertTrue(page.left.leftover_panel.x_title.isVisible())


class Empty(Roomy):
    def study(self):
        return Study()

    def test_the_start_paper(self):
        self.check("start paper")


if __name__ == "__main__":
    unittest.main()
