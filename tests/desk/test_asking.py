"""What the window asks: files, names, menus; keys on the shelf and the ladder; the report of a bug."""

import sys
import unittest
from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu, QMessageBox
from shiboken6 import isValid

from scutcher.core.errors import InputError
from scutcher.demo.sets import write_demo_sets
from scutcher.desk.shell import error_report as report
from scutcher.desk.shell.windows import show_report
from scutcher.desk.widgets.popover import Popover
from scutcher.files.recipe_toml import read_recipe
from scutcher.study.document.commands.recipe import AddStep, KeepComponents
from scutcher.study.document.study import Study
from tests.desk.driving import LEFT, WindowCase, settle
from tests.folder import InFolder


class Files(InFolder, WindowCase):
    def answering(self, kind, answer):
        """The person answers a file dialog; an empty answer is Cancel."""
        name = {"open": "getOpenFileName", "opens": "getOpenFileNames", "save": "getSaveFileName"}[kind]
        given = [str(path) for path in answer] if kind == "opens" else str(answer)
        return mock.patch.object(QFileDialog, name, return_value=(given, ""))

    def message(self):
        return self.window.message.label.text()

    def test_a_recipe_goes_out_and_comes_back(self):
        path = self.folder / "mine.toml"
        with self.answering("save", path.with_suffix("")):
            self.window.recipes.ask_save()
        self.assertEqual(read_recipe(self.written(path)), self.state.recipe)
        wanted = self.state.recipe
        self.desk.do(AddStep("savitzky-golay"))
        with self.answering("open", path):
            self.window.recipes.ask_open()
        self.assertEqual(self.state.recipe, wanted)
        self.assertIn("mine.toml", self.desk.study.undo_label or "")

    def test_a_bad_recipe_is_said_and_nothing_changes(self):
        path = self.folder / "bad.toml"
        path.write_text("[[treat]]\nmethod = 'snw'\n")
        before = self.state
        with self.answering("open", path):
            self.window.recipes.ask_open()
        self.assertIn("There is no treatment 'snw'.", self.message())
        self.assertIs(self.state, before)

    def test_a_model_is_written_for_new_samples(self):
        path = self.folder / "model.json"
        with self.answering("save", path):
            self.window.recipes.ask_save_model()
        self.assertIn('"loadings"', self.written(path).read_text())
        with self.answering("save", self.folder / "nowhere" / "model.json"):
            self.window.recipes.ask_save_model()
        self.until(lambda: "nowhere" in self.message())

    def test_a_model_that_runs_elsewhere_is_proven_and_said(self):
        for name, written in (("there", "there.onnx"), ("here.py", "here.npz")):
            with self.subTest(name), self.answering("save", self.folder / name):
                self.window.recipes.ask_export_model()
                said = (
                    f"in {written.partition('.')[0]}.{name.partition('.')[2] or 'onnx'}, which runs without"
                )
                self.until(lambda said=said: said in self.message())
                self.assertIn("differs from Scutcher by at most", self.message())
                self.assertTrue((self.folder / written).exists())
        self.desk.do(AddStep("arpls"))
        self.until(lambda: self.desk.moment.found.recipe == self.state.recipe)
        with self.answering("save", self.folder / "no.onnx"):
            self.window.recipes.ask_export_model()
        self.until(lambda: "has no form outside Scutcher" in self.message())
        self.assertFalse((self.folder / "no.onnx").exists())
        with self.answering("save", self.folder / "no.pdf"):
            self.window.recipes.ask_export_model()
        self.assertEqual(
            self.message(), "<b>no.pdf is none of .onnx, .py, .pmml.</b> Give it one of these endings."
        )

    def test_cancel_does_nothing(self):
        before, files = self.state, sorted(self.folder.iterdir())
        asks = (
            ("save", self.window.recipes.ask_save),
            ("save", self.window.recipes.ask_save_model),
            ("save", self.window.recipes.ask_export_model),
            ("open", self.window.recipes.ask_open),
            ("opens", self.window.opening.ask_for_file),
            ("opens", self.window.papers.ask_new),
            ("save", self.window.filing.ask_name),
            ("save", self.window.filing.ask_copy),
            ("save", self.window.filing.ask_log),
            ("save", self.window.filing.ask_data),
        )
        for kind, ask in asks:
            with self.subTest(ask.__name__), self.answering(kind, [] if kind == "opens" else ""):
                ask()
        self.assertIs(self.state, before)
        self.assertEqual(sorted(self.folder.iterdir()), files)

    def test_data_log_and_copy_are_written_where_one_says(self):
        with self.answering("save", self.folder / "mine"):
            self.window.filing.ask_name()
        self.assertTrue((self.folder / "mine.scutch").exists())
        for name, ask in (
            ("log.csv", self.window.filing.ask_log),
            ("data.csv", self.window.filing.ask_data),
            ("copy.scutch", self.window.filing.ask_copy),
        ):
            with self.subTest(name), self.answering("save", self.folder / name):
                ask()
                path = self.folder / name
                self.until(lambda path=path: path.exists() and path.stat().st_size > 50)
        self.assertEqual(Study.open(self.folder / "copy.scutch").state.table.shape, self.state.table.shape)

    def test_files_and_new_samples_are_asked_for(self):
        write_demo_sets(self.folder, ["bench", "new-lots"])
        with self.answering("opens", [self.folder / "new-lots.csv"]):
            self.window.papers.ask_new()
        self.until(lambda: self.desk.live.brought is not None)
        self.assertEqual(len(self.desk.live.brought[0].ids), 20)
        with self.answering("opens", [self.folder / "bench.csv"]):
            self.window.opening.ask_for_file()
        self.wait_for_reading()
        self.assertEqual(self.state.table.name, "bench")

    def test_numbers_of_a_view_are_asked_for(self):
        chart = self.page.scores_view.chart
        path = self.folder / "scores.csv"
        menu = self.window.charts_out.menu_of(chart, self.window)
        (write,) = (act for act in menu.actions() if act.text().startswith("Write the numbers"))
        with self.answering("save", path):
            write.trigger()
        self.until(lambda: "The table is in scores.csv." in self.window.message.label.text())
        lines = path.read_text().splitlines()
        self.assertEqual(len(lines), 1 + len(chart.marks.x))
        self.assertEqual(lines[0].split(",")[0], "name")


class Menus(WindowCase):
    def menu(self):
        menu = QApplication.activePopupWidget()
        self.assertIsInstance(menu, QMenu)
        self.addCleanup(lambda: menu.close() if isValid(menu) else None)
        return {action.text(): action for action in menu.actions()}

    def test_the_axis_is_named(self):
        self.page.strips._name_axis()
        self.menu()["wavenumber / cm⁻¹"].trigger()
        settle()
        self.assertEqual(self.state.table.axis.title, "wavenumber / cm⁻¹")
        self.assertEqual(self.page.strips.leftover_panel.x_title.text(), "wavenumber / cm⁻¹")

    def test_a_component_is_chosen_from_the_axis_title(self):
        self.page.questions._choose_component(1)
        words = self.menu()
        self.assertEqual(len(words), self.model.k)
        next(action for text, action in words.items() if text.startswith("component 4 ")).trigger()
        settle()
        self.assertEqual(self.look.pair, (0, 3))

    def test_keys_move_the_handle(self):
        bars = self.window.bottom.bars
        bars.setFocus()
        QTest.keyClick(bars, Qt.Key.Key_Right)
        settle()
        self.assertEqual(self.model.k, 5)
        for _ in range(8):
            QTest.keyClick(bars, Qt.Key.Key_Left)
        settle()
        self.assertEqual(self.model.k, 1)  # never below one

    def test_nothing_to_show_is_said(self):
        for ask, words in (
            (self.window.papers.show_new, "There are no new samples."),
            (self.window.papers.compare, "The shelf is empty."),
            (self.window.papers.show_answer, "Only the practice set has a known answer."),
        ):
            with self.subTest(words):
                ask()
                self.assertIn(words, self.window.message.label.text())


class OnTheShelf(WindowCase):
    def setUp(self):
        super().setUp()
        self.shelf = self.window.trail.shelf
        self.shelf.put()
        self.desk.do(KeepComponents(2))
        self.shelf.put()
        settle()

    def row(self, k):
        return next(row for row in self.shelf.rows if row.model.recipe.model.components == k)

    def test_keys(self):
        row = self.row(4)
        row.setFocus()
        QTest.keyClick(row, Qt.Key.Key_Return)
        settle()
        self.assertEqual(self.model.k, 4)
        self.assertEqual([model.recipe.model.components for model in self.state.shelf], [2])
        QTest.keyClick(self.row(2), Qt.Key.Key_F2)
        settle()
        asks = [paper for paper in self.window.findChildren(Popover) if paper.isVisible()]
        self.assertEqual(len(asks), 1)
        asks[0].dismiss()
        QTest.keyClick(self.row(2), Qt.Key.Key_Delete)
        settle()
        self.assertEqual(self.state.shelf, ())
        self.assertEqual(self.state.recipe.model.components, 4)
        self.window.undo()
        self.assertEqual(len(self.state.shelf), 1)

    def test_the_menu_of_a_model(self):
        row = self.row(4)
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, QPoint(5, 5), row.mapToGlobal(QPoint(5, 5)))
        QApplication.sendEvent(row, event)
        menu = QApplication.activePopupWidget()
        next(action for action in menu.actions() if action.text() == "Open").trigger()
        settle()
        self.assertEqual(self.model.k, 4)

    def test_two_models_are_compared_and_one_is_taken(self):
        table = self.window.papers.compare()
        settle()
        self.assertEqual(table.table.rowCount(), 2)
        flags = table.table.selectionModel().SelectionFlag
        for row in range(2):
            index = table.table.model().index(row, 0)
            table.table.selectionModel().select(index, flags.Select | flags.Rows)
        settle()
        words = table.text.toPlainText()
        self.assertIn("components = 4", words)
        self.assertIn("components = 2", words)
        table.table.clearSelection()
        wanted = self.state.shelf[0].recipe
        table.table.selectRow(0)
        settle()
        table._take()
        settle()
        self.assertEqual(self.state.recipe, wanted)
        self.assertFalse(table.isVisible())


class Bugs(WindowCase):
    def test_an_error_of_the_user_is_a_message_and_a_bug_is_a_report_to_copy(self):
        said, reports = [], []
        with mock.patch.object(sys, "excepthook", sys.excepthook):
            report.install(said.append, reports.append)
            error = InputError("The file is empty.", "Choose another.")
            sys.excepthook(type(error), error, None)
            self.assertEqual((said, reports), ([error], []))
            try:
                raise ZeroDivisionError("by hand")
            except ZeroDivisionError as bug:
                sys.excepthook(type(bug), bug, bug.__traceback__)
        self.assertIn("ZeroDivisionError: by hand", reports[0])
        self.assertTrue(reports[0].startswith("Scutcher "))
        show_report(self.window, reports[0])
        (box,) = self.window.findChildren(QMessageBox)
        self.assertIn("not in your data", box.text())
        copy = next(button for button in box.buttons() if button.text() == "Copy the report")
        QTest.mouseClick(copy, LEFT)
        self.assertEqual(QApplication.clipboard().text(), reports[0])
        box.close()


if __name__ == "__main__":
    unittest.main()
