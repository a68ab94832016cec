"""The Rank page with mouse and keyboard: the handle, the evidence, what is typed and pointed at."""

import unittest

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QRect, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QToolButton

from scutcher.core.validation.evidence import KEYS
from scutcher.desk.pages.rank.validation_form import SCHEMES
from scutcher.desk.widgets.model_form import GAPS
from tests.desk.driving import CTRL, LEFT, WindowCase, settle


class RankByHand(WindowCase):
    demo, first_page = "practice", "Rank"

    @property
    def rank(self):
        return self.window.view("Rank")

    def press(self, text):
        button = next(b for b in self.rank.findChildren(QToolButton) if b.text() == text and b.isVisible())
        QTest.mouseClick(button, LEFT)
        settle()


class Handle(RankByHand):
    def places(self, *kept):
        view = self.rank.shares_view
        middle = float(np.mean(view.ground.viewRange()[1]))
        return [self.data_place(view, k + 0.5, middle) for k in kept]

    def test_it_is_dragged_with_the_mouse_and_every_view_follows(self):
        view, undo = self.rank.shares_view, len(self.desk.study._undo)
        self.drag(view.viewport(), self.places(3, 4, 5, 6), release=False)
        self.assertEqual(self.model.k, 6)
        self.assertEqual(self.window.bottom.bars.ladder.kept, 6)
        self.assertEqual(self.rank.evidence.kept, 6)
        self.assertEqual(self.state.recipe.model.components, 3)
        self.send(view.viewport(), QEvent.Type.MouseButtonRelease, self.places(6)[0])
        settle()
        self.assertEqual(self.state.recipe.model.components, 6)
        self.assertEqual(len(self.desk.study._undo), undo + 1)

    def test_dragged_back_to_where_it_was_nothing_has_happened(self):
        undo = len(self.desk.study._undo)
        self.drag(self.rank.shares_view.viewport(), self.places(3, 5, 3))
        self.assertEqual((self.model.k, self.state.recipe.model.components), (3, 3))
        self.assertEqual(len(self.desk.study._undo), undo)

    def test_keys_remove_components_and_bring_them_back(self):
        self.press("variables")
        explained = {}
        for key, kept in ((Qt.Key.Key_Left, 2), (Qt.Key.Key_Left, 1), (Qt.Key.Key_Right, 2)):
            self.key(key, Qt.KeyboardModifier.AltModifier)
            self.assertEqual(self.model.k, kept)
            explained[kept] = self.rank.variable_view.chart.lines.ys[0]
        self.assertTrue((explained[2] >= explained[1]).all())
        self.key("z", CTRL)
        self.assertEqual(self.model.k, 1)
        np.testing.assert_allclose(self.rank.variable_view.chart.lines.ys[0], explained[1])


class Evidence(RankByHand):
    validates = True

    def test_the_row_under_the_pointer_is_lit_and_told(self):
        self.until(lambda: self.desk.moment.checked and len(self.desk.moment.checked.lines) == len(KEYS))
        chart = self.rank.evidence
        QApplication.sendEvent(chart, QEvent(QEvent.Type.Leave))  # the pointer may be there from before
        settle()
        where = QRect(chart.mapTo(self.rank, QPoint(0, 0)), chart.size())
        quiet, before = self.rank.meaning.text(), self.rank.grab(where).toImage()
        for place in (2, 5):
            middle = QPoint(300, round(chart.row_top(place) + 8))
            QTest.mouseMove(chart, middle - QPoint(2, 0))
            QTest.mouseMove(chart, middle)
            settle()
            self.assertEqual(chart.toolTip(), chart.rows[place].meaning)
            self.assertIn(chart.rows[place].name, self.rank.meaning.text())
        self.assertNotEqual(self.rank.grab(where).toImage(), before)
        QApplication.sendEvent(chart, QEvent(QEvent.Type.Leave))
        settle()
        self.assertEqual(self.rank.meaning.text(), quiet)
        self.assertEqual(self.rank.grab(where).toImage(), before)

    def test_a_click_where_nothing_is_suggested_keeps_what_is(self):
        self.until(lambda: self.desk.moment.checked and len(self.desk.moment.checked.lines) == len(KEYS))
        chart = self.rank.evidence
        silent = [place for place, row in enumerate(chart.rows) if not row.suggested]
        for place in silent:
            QTest.mouseClick(chart, LEFT, pos=QPoint(300, round(chart.row_top(place) + 8)))
        QTest.mouseClick(chart, LEFT, pos=QPoint(300, chart.height() - 4))
        settle()
        self.assertEqual(self.state.recipe.model.components, 3)
        self.assertFalse(self.window.message.isVisible())


class Typed(RankByHand):
    def enter(self, name, text):
        edit = self.rank.check.numbers[name]
        edit.setFocus()
        edit.selectAll()
        QTest.keyClick(edit, Qt.Key.Key_Delete)
        self.type(text, edit)
        QTest.keyClick(edit, Qt.Key.Key_Return)
        settle()
        return edit

    def test_what_cannot_be_used_is_said_and_the_former_value_stands_again(self):
        for name, bad, former in (
            ("segments", "1", ""),
            ("segments", "many", ""),
            ("repeats", "0", "1"),
            ("seed", "-3", "1"),
        ):
            with self.subTest(name=name, bad=bad):
                edit = self.enter(name, bad)
                self.assertIn(f"'{bad}' cannot be used here.", self.window.message.label.text())
                self.assertEqual(edit.text(), former)
        self.assertEqual(self.state.recipe.validate, type(self.state.recipe.validate)())

    def test_numbers_are_taken_and_an_empty_field_is_the_default(self):
        self.enter("segments", "5")
        self.enter("seed", "7")
        self.enter("block", "4")
        settings = self.state.recipe.validate
        self.assertEqual((settings.segments, settings.seed, settings.block), (5, 7, 4))
        self.enter("segments", "")
        self.assertIsNone(self.state.recipe.validate.segments)

    def test_parts_by_the_levels_of_a_class(self):
        form = self.rank.check
        self.assertFalse(form.column.isVisible())
        form.scheme.activated.emit(list(SCHEMES).index("class"))
        settle()
        self.assertEqual(self.state.recipe.validate.scheme, "class")
        self.assertTrue(form.column.isVisible())

    def test_another_way_with_gaps(self):
        form = self.window.trail.open_model_settings()
        form.gaps.activated.emit(list(GAPS).index("fill-mean"))
        settle()
        self.assertEqual(self.state.recipe.model.gaps, "fill-mean")
        self.assertEqual(form.gaps.currentText(), GAPS["fill-mean"])


class Below(RankByHand):
    def test_a_click_on_a_sample_of_fitted_against_measured_picks_it(self):
        self.press("fitted")
        view = self.rank.fitted_view
        row = int(view.chart.marks.keys[np.argmax(view.chart.marks.x)])
        self.click(view, self.mark_place(view, row))
        self.assertEqual(self.look.picked, (row,))

    def test_the_channel_cursor_is_on_the_variables_too(self):
        self.press("variables")
        axis = self.desk.moment.found.treated.axis.places()
        self.desk.selection.change(channel=float(axis[10]))
        settle()
        self.assertIsNotNone(self.rank.variable_view.cursor)
        self.assertEqual(self.rank.variable_view.cursor, axis[10])

    def test_eigenvalues_as_a_table_have_minus_signs(self):
        self.press("table")
        table = self.rank.shares_table
        texts = [
            table.item(row, column).text()
            for row in range(table.rowCount())
            for column in range(table.columnCount())
        ]
        self.assertFalse(any(text.startswith("-") for text in texts))
        self.assertGreater(len(texts), 60)


if __name__ == "__main__":
    unittest.main()
