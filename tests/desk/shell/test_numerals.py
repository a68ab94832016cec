"""Numbers on the screen with a decimal comma; data, recipes, the log, figures and reports keep the point."""

import re
import tempfile
import unittest
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QApplication, QLabel, QLineEdit

from scutcher.charts.definitions import DEFINITIONS
from scutcher.core.words import decimal_mark, write_numbers_with
from scutcher.desk.actions.clipboard import copy_table
from scutcher.desk.actions.numerals import take_numerals
from scutcher.desk.painting.quiet_axis import QuietAxis
from scutcher.study.document.commands.recipe import EvidenceBy, UseRecipe
from scutcher.study.storage.settings import settings
from tests.desk.driving import QUICK, WindowCase, application, settle
from tests.desk.shell.test_preferences import WithWindows
from tests.few_sections import only_sections

POINT = re.compile(r"(?<![\w.])[−-]?\d+\.\d+(?![\w.])")
"""A number with a decimal point: not a version, nor a part of a name."""

COMMA = re.compile(r"\d,\d")


class WithCommas(WindowCase):
    validates = True

    def setUp(self):
        application()  # which begins with the mark of the desktop
        write_numbers_with(",")
        self.addCleanup(write_numbers_with, ".")
        super().setUp()

    def texts(self):
        """All that can be read in the window now."""
        for widget in (*self.window.findChildren(QLabel), *self.window.findChildren(QLineEdit)):
            yield widget.text()
            yield widget.toolTip()
        for view in self.window.findChildren(QAbstractItemView):
            yield from _cells(view)

    def check(self, page):
        self.window.show_page(page)
        settle(10)
        self.until(lambda: not self.desk.live.busy)
        self.desk.selection.pick((2, 3))
        settle(10)
        fixed = _in_definitions()
        texts = list(self.texts())
        wrong = [text for text in texts if set(POINT.findall(text)) - fixed]
        self.assertEqual(wrong, [], page)
        return sum(bool(COMMA.search(text)) for text in texts)


class OnOneTable(WithCommas):
    def test_every_page(self):
        self.add("savitzky-golay", window=15)
        self.add("gaussian-smooth", sd=1.5)
        for page in ("Samples", "Treat", "Rank", "Inspect", "Groups"):
            with self.subTest(page):
                self.assertGreater(self.check(page), 0)
        axis = QuietAxis("left")
        self.assertEqual(axis.tickStrings([-0.5, 0.0, 0.5], 1.0, 0.5), ["−0,5", "0", "0,5"])

    def test_both_marks_can_be_typed_and_thousands_are_refused(self):
        self.add("gaussian-smooth", sd=1.5)
        self.window.show_page("Treat")
        settle(10)
        form = self.window.view("Treat").form
        edit = form.editors["sd"]
        self.assertEqual(edit.text(), "1,5")
        for typed, wanted in (("2,5", 2.5), ("3.5", 3.5), ("1.250", 3.5)):
            with self.subTest(typed):
                edit.selectAll()
                QTest.keyClicks(edit, typed)
                QTest.keyClick(edit, Qt.Key.Key_Return)
                settle(10)
                self.assertEqual(self.state.recipe.treat[-1].parameters.sd, wanted)
        self.assertEqual(edit.text(), "3,5")
        self.assertIn("3.5", self.desk.study.undo_label)

    def test_copied_numbers_come_back_with_the_same_mark(self):
        copy_table([["sample", "value"], ["L01.2", 1.234], ["L02", -0.5]])
        self.assertEqual(QApplication.clipboard().text(), "sample\tvalue\nL01.2\t1,234\nL02\t-0,5")
        self.window.show_page("Samples")
        settle(10)
        roster = self.window.view("Samples").roster
        source = roster.source
        place = next(
            k for k, column in enumerate(source.columns) if column.kind == "property" and column.editable
        )
        self.assertTrue(source.setData(source.index(0, place), "1,234"))
        row = int(source.rows[0])
        named = next(
            c for c in self.state.table.properties if source.columns[place].name in (c.name, c.header)
        )
        self.assertEqual(named.values[row], 1.234)
        self.assertFalse(source.setData(source.index(0, place), "1.234"))
        self.assertIn("not a number", self.window.message.label.text())

    def test_report_and_log_keep_the_point(self):
        self.desk.do(UseRecipe(QUICK, "quick"))
        self.desk.do(only_sections("model", "evidence", "distances", "recipe"))
        self.desk.do(EvidenceBy(0.955))
        self.assertIn("95.5 %", self.desk.study.undo_label)
        self.window.show_page("Report")
        report = self.window.view("Report")
        self.until(lambda: report.work.made is not None)
        path = Path(tempfile.mkdtemp()) / "report.html"
        report.write(path)
        self.until(path.exists)
        words = re.sub(r"<(script|style).*?</\1>", "", path.read_text(encoding="utf-8"), flags=re.S)
        self.assertRegex(words, r"\d\.\d")
        self.assertNotRegex(re.sub(r"<[^>]*>", " ", words), r"\b0,\d")


class OnSeveralTables(WithCommas):
    demo = "three-tables"
    first_page = "Blocks"

    def test_blocks(self):
        page = self.window.view("Blocks")
        self.until(lambda: None not in (page.fitted, page.checked))
        self.assertGreater(self.check("Blocks"), 0)


class OnASeries(WithCommas):
    demo = "drying"
    first_page = "Series"

    def test_series(self):
        self.assertGreater(self.check("Series"), 0)


class OnAnImage(WithCommas):
    demo = "belt-scan"
    first_page = "Maps"

    def test_maps(self):
        self.assertGreater(self.check("Maps"), 0)


class Chosen(WithWindows):
    def test_at_once_and_from_the_next_start(self):
        self.addCleanup(write_numbers_with, ".")
        window = self.opened(data="intake-nir")
        window.show_page("Samples")
        self.act(window, "Numbers: 0,62")
        (fresh,) = self.windows.all
        self.assertIsNot(fresh, window)
        texts = " ".join(label.text() for label in fresh.findChildren(QLabel))
        self.assertNotRegex(texts, POINT)
        self.assertEqual(settings().numbers, "comma")
        write_numbers_with(".")
        take_numerals()
        self.assertEqual(decimal_mark(), ",")
        self.act(fresh, "Numbers: as the desktop")
        self.assertEqual(settings().numbers, "desktop")


def _in_definitions():
    """Numbers in words that are the same everywhere: quantiles of a ribbon, a factor of the robust scale."""
    said = (*DEFINITIONS.values(), "by MAD × 1.4826")
    return {number for words in said for number in POINT.findall(words)}


def _cells(view):
    model = view.model()
    if model is None:
        return
    for row in range(min(model.rowCount(), 60)):
        for column in range(min(model.columnCount(), 30)):
            for role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
                text = model.index(row, column).data(role)
                if isinstance(text, str):
                    yield text


if __name__ == "__main__":
    unittest.main()
