"""The import view as the way out of every file: it asks, each control acts at once, what was said is kept."""

import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from scutcher.desk.pages.import_view.page import BringInPage
from scutcher.study.document.study import Study
from scutcher.study.storage import settings
from scutcher.study.storage.settings import Settings
from tests.desk.driving import LEFT, WindowCase, settle
from tests.files.awkward import FOLDER


class Reading(WindowCase):
    def study(self):
        return Study()

    def setUp(self):
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    @property
    def view(self):
        return self.window.stack.over

    def open(self, path):
        self.window.opening.open_files([path])
        self.wait_for_reading()
        self.rest()

    def rest(self):
        settle()
        if isinstance(self.view, BringInPage):
            self.until(lambda: self.view is None or not self.view.busy)
            settle()

    def press(self, words):
        button = next(b for b in self.window.findChildren(QPushButton) if b.text() == words and b.isVisible())
        QTest.mouseClick(button, LEFT)
        self.rest()

    def say(self, box, words):
        box.setCurrentText(words)
        box.textActivated.emit(words)
        self.rest()

    def put(self, line, text):
        line.selectAll()
        self.type(text, line)
        self.key(Qt.Key.Key_Return, widget=line)
        self.rest()

    def file(self, text, name="t.csv"):
        path = self.folder / name
        path.write_text(text)
        return path

    def test_an_unclear_file_opens_it_with_the_question(self):
        self.open(self.file("id;a;b\n" + "".join(f"s{n};1,{200 + n};3,{100 + 7 * n}\n" for n in range(8))))
        self.assertIsInstance(self.view, BringInPage)
        self.assertIn("its comma may stand before decimals", self.view.words.text())
        self.assertFalse(self.view.use.isEnabled())
        self.assertEqual(self.view.controls.delimiter.currentText(), "semicolons")
        self.press("thousands (1200)")
        self.assertEqual(self.view.table.values[0].tolist(), [1200.0, 3100.0])
        self.press("Use this reading")
        self.assertIsNone(self.view)
        self.assertEqual(self.state.table.values[0, 0], 1200.0)

    def test_every_control_acts_at_once(self):
        self.open(self.file("made in spring\nid;1;2;3\na;1,5;2;3\nb;2;2,5;4\nc;3;1;1\nd;1;1;2\n"))
        self.window.papers.show_columns()
        self.rest()
        controls, view = self.view.controls, self.view
        self.assertEqual((controls.header.text(), view.table.shape), ("2", (4, 3)))
        self.put(controls.first, "4")
        self.assertEqual(tuple(view.table.ids), ("b", "c", "d"))
        self.put(controls.last, "5")
        self.assertEqual(tuple(view.table.ids), ("b", "c"))
        self.say(controls.samples, "in columns")
        self.assertEqual(view.table.shape, (3, 2))
        self.press("Find it again")
        self.assertEqual(view.table.shape, (4, 3))
        self.say(controls.delimiter, "commas")
        self.assertFalse(view.use.isEnabled())
        self.press("Find it again")
        self.assertTrue(view.use.isEnabled())
        self.put(controls.header, "x")
        self.assertIn("The header row is a number", view.words.text())
        self.put(controls.header, "0")
        self.assertIn("no header", view.layout_words.text())

    def test_a_click_on_a_row_says_what_it_is(self):
        self.open(self.file("id,1,2,3\nraw,7,8,9\na,1,2,3\nb,2,3,5\nc,3,1,1\n"))
        self.window.papers.show_columns()
        self.rest()
        shown = self.view.as_found
        self.assertEqual([shown.kind_of(number) for number in (1, 2)], ["header", "data"])
        actions = {action.text(): action for action in shown.menu_of(2).actions()}
        actions["The data begin in row 3"].trigger()
        self.rest()
        self.assertEqual(tuple(self.view.table.ids), ("a", "b", "c"))
        self.assertEqual([shown.kind_of(number) for number in (1, 2, 3)], ["header", "other", "data"])
        actions = {action.text(): action for action in shown.menu_of(4).actions()}
        actions["The data end in row 5"] = None
        self.assertIn("Row 5 is the header", actions)

    def test_sheets_and_how_they_are_joined(self):
        self.open(FOLDER / "sheet_per_class.xlsx")
        self.assertEqual(self.state.table.shape, (12, 25))
        self.window.papers.show_columns()
        self.rest()
        self.say(self.view.controls.sheet, "tank")
        self.assertEqual(self.view.table.shape, (4, 25))
        self.say(self.view.controls.sheet, "all that fit")
        self.assertEqual(self.view.table.shape, (12, 25))
        self.say(self.view.controls.join, "only this one")
        self.assertEqual(self.view.table.shape, (4, 25))
        self.assertIn("2 sheets not read: tank, green", " ".join(self.told()))

    def told(self):
        return [label.text() for label in self.view.findChildren(QLabel) if label.isVisible()]

    def test_every_error_leads_to_it(self):
        self.open(self.file("id,kind\na,x\nb,y\n"))
        self.assertIn("has no column of numbers", self.window.message.label.text())
        self.press("Look at the file")
        self.assertIn("has no column of numbers", self.view.words.text())
        self.assertEqual(self.view.as_found.item(1, 1).text(), "x")

    def test_what_was_not_read_is_said_and_stands_on_the_trail(self):
        self.open(FOLDER / "mean_and_sd_below.csv")
        words = "2 rows of mean, SD below the data: not read"
        self.assertIn(words, self.window.message.label.text())
        link = self.window.trail.data_knot.read_link
        self.assertTrue(link.isVisible())
        self.assertEqual(link.text(), "1 remark on reading it…")
        self.assertIn(words, link.toolTip())
        QTest.mouseClick(link, LEFT)
        self.rest()
        self.assertIn(f"· {words}.", self.told())
        self.assertFalse(self.window.message.isVisible())  # it would cover the controls
        self.open(FOLDER / "plain.csv")

    def test_another_file_is_read_in_the_same_way(self):
        self.open(self.file("a note\nid;1;2;3\na;1,5;2;3\nb;2;2,5;4\nc;3;1;1\n"))
        self.window.papers.show_columns()
        self.rest()
        self.put(self.view.controls.first, "4")
        self.press("Use this reading")
        following = self.file("a note\nid;1;2;3\nskip;9;9;9\ne;2;2,25;4\nf;3;1;1\ng;0;1;1\n", "next.csv")
        self.window.study.undo()  # nothing was done but reading: the next file takes its place
        self.window.study.redo()
        with mock.patch.object(self.window.opening, "_has_work", return_value=False):
            self.window.opening.open_like([following])
            self.wait_for_reading()
            self.rest()
        self.assertEqual(tuple(self.state.table.ids), ("e", "f", "g"))
        self.assertEqual(self.state.table.values[0, 1], 2.25)

    def test_files_can_be_looked_at_first(self):
        kept = [Settings()]
        with (
            mock.patch.object(settings, "keep"),
            mock.patch("scutcher.desk.actions.opening.settings", lambda: kept[0]),
            mock.patch("scutcher.desk.actions.preferences.settings", lambda: kept[0]),
            mock.patch("scutcher.desk.actions.preferences.keep", lambda chosen: kept.__setitem__(0, chosen)),
        ):
            self.window.preferences.switch_look_first()
            self.assertIn("Every file is shown before it is taken.", self.window.message.label.text())
            self.open(FOLDER / "plain.csv")
            self.assertIsInstance(self.view, BringInPage)
            self.assertIsNone(self.state.table)
            self.press("Use this reading")
            self.assertEqual(self.state.table.shape, (12, 25))
            self.window.preferences.switch_look_first()
        self.assertFalse(kept[0].look_first)

    def test_mere_numbers_are_asked_for_their_shape(self):
        values = np.random.default_rng(1).normal(size=(5, 4, 3))
        path = self.folder / "scan.raw"
        np.moveaxis(values, 2, 0).astype(">f4").tofile(path)
        self.open(path)
        self.assertIn("its shape is not known", self.window.message.label.text())
        self.press("Look at the file")
        self.put(self.view.controls.image, "5x4x9")
        self.assertTrue(any("has 240 bytes" in words for words in self.told()))
        self.put(self.view.controls.image, "5x4x3:float32-big:cyx")
        self.press("Use this reading")
        self.until(lambda: self.desk.moment.found is not None)
        np.testing.assert_array_equal(self.state.table.values, values.reshape(20, 3).astype(np.float32))
        self.assertEqual(dict(self.state.source.reading)["image"], "5x4x3:float32-big:cyx")
        self.window.show_page("Maps")
        settle()
        self.assertEqual(self.window.view("Maps").map_at(0).values.shape, (5, 4))

    def test_names_from_a_file_are_never_markup(self):
        self.open(self.file("id,<b>x</b>,2\na,1,2\nb,<img src=y>,3\nc,4,5\nd,2,6\n"))
        self.press("Look at the file")
        for label in self.view.findChildren(QLabel):
            if "img" in label.text() and label.textFormat() != Qt.TextFormat.PlainText:
                self.assertIn("&lt;img", label.text())


if __name__ == "__main__":
    unittest.main()
