"""The import view by hand: roles are changed, the picture follows, findings act, it opens again later."""

import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from scutcher.demo.sets import write_demo_sets
from scutcher.desk.pages.import_view import reading
from scutcher.desk.pages.import_view.page import BringInPage
from scutcher.study.document.study import Study
from tests.desk.driving import CTRL, LEFT, WindowCase, settle


class BringIn(WindowCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        write_demo_sets(cls.folder, ["intake-nir"])

    def setUp(self):
        super().setUp()
        self.window.opening.open_files([self.folder / "intake-nir.csv"])
        self.wait_for_reading()
        self.rest()
        QTest.mouseClick(self.window.trail.data_knot.columns_link, LEFT)
        self.rest()
        self.view = self.window.stack.over

    def rest(self):
        """Until the file is read."""
        settle()
        view = self.window.stack.over
        if isinstance(view, BringInPage):
            self.until(lambda: not view.busy)
            settle()

    def texts(self):
        return [label.text() for label in self.view.findChildren(QLabel) if label.isVisible()]

    def choose(self, column, role):
        box = self.view.columns.boxes[column]
        box.setCurrentText(role)
        box.textActivated.emit(role)
        self.rest()

    def test_the_file_as_found_and_the_roles_that_were_guessed(self):
        self.assertTrue(self.view.isVisible())
        self.assertFalse(self.page.isVisible())
        cells = [self.view.as_found.item(0, column).text() for column in range(3)]
        self.assertEqual(cells, ["sample", "lot", "retting"])
        self.assertIn("commas, decimal point, header in row 1, utf-8", self.texts())
        roles = {name: box.currentText() for name, box in self.view.columns.boxes.items() if name}
        self.assertEqual(roles["sample"], "id")
        self.assertEqual((roles["lot"], roles["year"]), ("class", "property"))

    def test_findings_are_told_and_act(self):
        words = " ".join(self.texts())
        self.assertIn("2 constant, measured all the same: 1318, 1866. Dead channels?", words)
        self.assertIn("10 gaps in 1 sample (L06-1)", words)
        button = next(b for b in self.view.findChildren(QPushButton) if b.text() == "They are replicates")
        QTest.mouseClick(button, LEFT)
        self.rest()
        self.assertEqual(self.view.columns.boxes["lot"].currentText(), "replicate")
        self.assertEqual(len(set(self.view.table.replicates)), 48)
        self.assertIn("Replicates (samples × repeats): 48 × 3", " ".join(self.texts()))

    def test_roles_are_used_kept_and_can_be_changed_again(self):
        self.choose("lot", "replicate")
        self.choose("year", "class")
        self.choose("field", "ignore")
        self.choose("", "wavelength / nm")
        QTest.mouseClick(self.view.use, LEFT)
        self.rest()
        table = self.state.table
        self.assertEqual([column.name for column in table.classes], ["year", "retting"])
        self.assertEqual(table.axis.title, "wavelength / nm")
        self.assertTrue(self.page.isVisible())
        self.key("i")
        self.rest()
        self.assertEqual(self.window.stack.over.columns.boxes["field"].currentText(), "ignore")
        self.key("z", CTRL)
        self.assertEqual(len(self.state.table.classes), 3)

    def test_run_order_sorts_and_an_impossible_role_is_said(self):
        self.choose("moisture / %", "run order")
        ids = self.view.table.ids
        self.assertTrue(ids[-1].startswith("L17"))
        self.choose("retting", "property")
        self.assertIn("'green straw' in column 'retting', among numbers", self.view.words.text())
        self.assertFalse(self.view.use.isEnabled())
        self.choose("retting", "class")
        self.assertTrue(self.view.use.isEnabled())

    def test_leaving_changes_nothing(self):
        before = self.state
        self.choose("lot", "replicate")
        leave = next(b for b in self.view.findChildren(QPushButton) if b.text() == "Leave as it is")
        QTest.mouseClick(leave, LEFT)
        self.rest()
        self.assertIs(self.state, before)
        self.assertIsNone(self.window.stack.over)

    def test_another_sheet_or_matrix(self):
        path = self.folder / "two.npz"
        np.savez(path, large=np.arange(40.0).reshape(5, 8) ** 1.5, small=np.eye(3), wave=np.arange(8.0))
        self.window.opening.open_files([path])
        self.wait_for_reading()
        self.window.papers.show_columns()
        self.rest()
        view = self.window.stack.over
        self.assertEqual(view.table.shape, (5, 8))
        sheet = view.controls.sheet
        self.assertEqual([sheet.itemText(n) for n in range(2)], ["large", "small"])
        sheet.setCurrentText("small")
        sheet.textActivated.emit("small")
        self.rest()
        self.assertEqual(view.table.shape, (3, 3))
        QTest.mouseClick(view.use, LEFT)
        self.rest()
        self.assertEqual(self.state.source.sheet, "small")

    def test_samples_in_columns(self):
        path = self.folder / "turned.csv"
        path.write_text("band,a,b,c\n1000,1,2,3\n1002,2,3,5\n1004,4,4,1\n1006,0,1,1\n")
        self.window.opening.open_files([path])
        self.wait_for_reading()
        self.window.papers.show_columns()
        self.rest()
        view = self.window.stack.over
        self.assertEqual(view.table.shape, (4, 4))
        self.say(view.controls.samples, "in columns")
        QTest.mouseClick(view.use, LEFT)
        self.rest()
        table = self.state.table
        self.assertEqual((table.ids, table.axis.labels), (("a", "b", "c"), ("1000", "1002", "1004", "1006")))
        self.assertEqual(table.values[2].tolist(), [3.0, 5.0, 1.0, 1.0])
        self.assertTrue(table.axis.ordered)

    def say(self, box, words):
        box.setCurrentText(words)
        box.textActivated.emit(words)
        self.rest()

    def press(self, words):
        button = next(b for b in self.window.findChildren(QPushButton) if b.text() == words and b.isVisible())
        QTest.mouseClick(button, LEFT)
        self.rest()

    def test_a_file_that_is_refused_can_be_mended_in_view(self):
        path = self.folder / "rough.csv"
        path.write_text("id,1000,1002,1004\na,1,2,4\na,2,n.d.,3\nb,2,1,inf\nb,5,2,2\nc,3,2,1\n")
        before = self.state
        self.window.opening.open_files([path])
        self.wait_for_reading()
        self.assertIs(self.state, before)
        self.assertIn("'n.d.' in column '1002', among numbers", self.window.message.label.text())
        self.press("Look at the file")
        self.view = self.window.stack.over
        self.assertFalse(self.view.use.isEnabled())
        self.assertEqual(len(self.view.view.chart.lines.keys), 5)  # shown as it would become
        self.press("Take as gaps")
        self.assertIn("The id 'a' stands at samples 1 and 2", self.view.words.text())
        self.press("They are replicates")
        self.assertIn("is infinite", self.view.words.text())
        self.press("Take as gaps")
        self.assertTrue(self.view.use.isEnabled())
        told = " ".join(self.texts())
        self.assertIn("Text among numbers is taken as gaps.", told)
        self.assertIn("2 gaps in 2 samples (a (2), b)", told)
        QTest.mouseClick(self.view.use, LEFT)
        self.rest()
        table = self.state.table
        self.assertEqual(table.replicates, ("a", "a", "b", "b", "c"))
        self.assertEqual(len(self.state.source.mends), 3)
        self.window.papers.show_columns()
        self.rest()
        self.view = self.window.stack.over
        self.press("Take it back")
        self.assertFalse(self.view.use.isEnabled())

    def test_a_range_of_a_sheet(self):
        import openpyxl

        path = self.folder / "island.xlsx"
        book = openpyxl.Workbook()
        for row in (["id", 1, 2, 3], ["a", 1, 2, 3], ["b", 3, 5, 1], ["c", 2, 3.5, 2]):
            book.active.append(row)
        book.save(path)
        self.window.opening.open_files([path])
        self.wait_for_reading()
        self.window.papers.show_columns()
        self.rest()
        view = self.window.stack.over
        self.type("a1:c", view.controls.range)
        self.key(Qt.Key.Key_Return, widget=view.controls.range)
        self.assertIn("A1:C is no range of cells", view.words.text())
        self.type("3", view.controls.range)
        self.key(Qt.Key.Key_Return, widget=view.controls.range)
        self.rest()
        self.assertEqual(view.table.shape, (2, 2))
        QTest.mouseClick(view.use, LEFT)
        self.rest()
        self.assertEqual((self.state.table.ids, self.state.source.sheet), (("a", "b"), "Sheet!A1:C3"))
        self.window.papers.show_columns()
        self.rest()
        self.assertEqual(self.window.stack.over.controls.range.text(), "A1:C3")

    def test_a_file_that_is_gone_is_said(self):
        path = self.folder / "gone.csv"
        path.write_text("id,1,2\na,1,2\nb,2,1\n")
        self.window.opening.open_files([path])
        self.wait_for_reading()
        path.unlink()
        self.window.papers.show_columns()
        self.assertIn("There is no file gone.csv", self.window.message.label.text())


class WithoutFile(WindowCase):
    def study(self):
        return Study()

    def test_data_that_did_not_come_from_a_file(self):
        self.window.papers.show_columns()
        self.assertIn("These data did not come from a file.", self.window.message.label.text())


class Gaps(WindowCase):
    def test_a_mark_is_taken_for_a_gap_with_one_click(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "marks.csv"
            rows = "".join(f"s{r},{r}.5,{r * r % 7},{r % 3}\n" for r in range(9))
            path.write_text(f"id,1,2,3\n{rows}x,-999,2,1\n")
            self.window.opening.open_files([path], adding=True)
            self.wait_for_reading()
            settle()
            self.window.papers.show_columns()
            view = self.window.stack.over
            self.until(lambda: not view.busy)
            settle()
            button = next(b for b in view.findChildren(QPushButton) if b.text() == "Take them for gaps")
            QTest.mouseClick(button, LEFT)
            self.until(lambda: not view.busy)
            self.assertTrue(np.isnan(view.table.values[9, 0]))
            self.assertTrue(any("taken for a gap" in label.text() for label in view.findChildren(QLabel)))
            view.read()  # another look at the file keeps the answer
            self.until(lambda: not view.busy)
            QTest.mouseClick(view.use, LEFT)
            settle()
            self.assertTrue(np.isnan(self.state.table.values[9, 0]))

    def test_what_is_left_out_stays_out_however_often_it_is_read_and_nothing_is_looked_over_here(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "twice.csv"
            rows = "".join(f"s{r},{r}.5,{r * r % 7},{r}.5,{r % 5}\n" for r in range(9))
            path.write_text(f"id,a,b,c,d\n{rows}")
            self.window.opening.open_files([path], adding=True)
            self.wait_for_reading()
            settle()
            self.window.papers.show_columns()
            view, here = self.window.stack.over, []
            whole = reading.findings

            def watched(table):
                here.append(threading.current_thread() is threading.main_thread())
                return whole(table)

            self.until(lambda: not view.busy)
            with mock.patch.object(reading, "findings", watched):
                button = next(b for b in view.findChildren(QPushButton) if b.text() == "Leave out")
                QTest.mouseClick(button, LEFT)
                self.until(lambda: not view.busy)
                self.assertEqual(set(view.table.left_out), {2})
                view.read()
                self.until(lambda: not view.busy)
            self.assertEqual(set(view.table.left_out), {2})
            self.assertEqual(here, [False, False])


if __name__ == "__main__":
    unittest.main()
