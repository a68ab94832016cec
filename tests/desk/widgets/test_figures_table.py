"""A table that is read: words left, figures right, headers likewise, sorted by value."""

import unittest

from PySide6.QtCore import Qt

from scutcher.charts.words import significant, with_minus
from scutcher.desk.shell.start import application
from scutcher.desk.widgets.figures_table import FiguresTable, fitted
from scutcher.desk.widgets.shown_tables import numbers_of
from tests.desk.driving import comes, settle


class Table(unittest.TestCase):
    def setUp(self):
        application()
        self.table = FiguresTable(["variable", "loading", "note"], figures=(1,))
        self.addCleanup(self.table.deleteLater)
        self.table.show_rows([("wax", -0.5, "a"), ("ash", 10.25, "b-c"), ("lignin", float("nan"), "")])

    def column(self, place):
        return [self.table.item(row, place).text() for row in range(self.table.rowCount())]

    def test_figures_are_written_alike_and_words_as_they_are(self):
        self.assertEqual(self.column(1), ["−0.5000", "10.25", ""])
        self.assertEqual(self.column(2), ["a", "b-c", ""])

    def test_headers_stand_as_their_columns(self):
        for column, side in enumerate((Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight)):
            for item in (self.table.horizontalHeaderItem(column), self.table.item(0, column)):
                self.assertTrue(item.textAlignment() & side)

    def test_where_a_little_room_is_missing_words_are_cut_and_no_figure(self):
        words = "a note that is much longer than all others here"
        self.table.name_columns(["variable", "note", "loading"], figures=(2,))
        self.table.show_rows([("wax", words, -0.5), ("ash", "b-c", 10.25)])
        wide = [self.table.columnWidth(column) for column in range(3)]
        self.table.show()
        self.addCleanup(self.table.hide)

        def widths(room):
            self.table.resize(room + self.table.width() - self.table.viewport().width(), 200)
            settle()
            return [self.table.columnWidth(column) for column in range(3)]

        natural = widths(900)
        self.assertGreaterEqual(natural[1], wide[1])
        room = sum(natural) - 60
        self.assertEqual(widths(room), [natural[0], natural[1] - 60, natural[2]])
        self.assertEqual(self.table.horizontalScrollBar().maximum(), 0)
        self.assertEqual(self.table.item(0, 1).toolTip(), words)
        self.assertEqual(widths(90), natural)  # there is no good cut: it scrolls
        self.assertGreater(self.table.horizontalScrollBar().maximum(), 0)
        self.assertEqual(widths(900), natural)

    def test_a_last_column_that_takes_what_is_left_cuts_no_other(self):
        self.table.show()
        self.addCleanup(self.table.hide)
        frame = self.table.width() - self.table.viewport().width()
        self.table.resize(900, 200)
        settle()
        self.table.show_rows([("wax", -0.5, "a"), ("a longer name of a variable", 10.25, "b-c")])
        self.table.resize(880, 200)
        settle()
        natural = [self.table.columnWidth(column) for column in range(2)]
        self.assertGreater(self.table.columnWidth(2), 400)
        self.table.resize(sum(natural) + 80 + frame, 200)
        settle()
        self.assertEqual([self.table.columnWidth(column) for column in range(2)], natural)

    def test_names_are_not_cut_until_useless(self):
        self.table.name_columns(["", "C1"], figures=(1,))
        self.table.show_rows([("moisture after drying / %", 0.5), ("wax", 0.25)])
        self.table.show()
        self.addCleanup(self.table.hide)
        frame = self.table.width() - self.table.viewport().width()
        name, figure = (self.table.columnWidth(column) for column in range(2))
        for share, is_cut in ((0.8, True), (0.6, False)):
            self.table.resize(int(share * name) + figure + frame, 200)
            settle()
            self.assertEqual(self.table.columnWidth(0) < name, is_cut)

    def test_widths_that_fit(self):
        self.assertEqual(fitted([50, 90, 40], [20, 20, 40], 200), [50, 90, 40])
        self.assertEqual(fitted([50, 90, 40], [20, 20, 40], 160), [50, 70, 40])
        self.assertEqual(fitted([50, 90, 40], [20, 20, 40], 121), [40, 40, 40])
        self.assertEqual(fitted([50, 90, 40], [45, 20, 40], 125), [45, 40, 40])
        self.assertEqual(fitted([50, 90, 40], [20, 20, 40], 79), [50, 90, 40])
        self.assertEqual(fitted([], [], 10), [])

    def test_sorted_by_value(self):
        self.table.show_rows([("a", -3.0, ""), ("b", 100.0, ""), ("c", 20.0, ""), ("d", -0.001, "")])
        self.table.sortItems(1)
        self.assertEqual(self.column(0), ["a", "d", "c", "b"])
        self.table.sortItems(0, Qt.SortOrder.DescendingOrder)
        self.assertEqual(self.column(0), ["d", "c", "b", "a"])

    def test_other_rows_and_columns_take_the_place_of_those_before(self):
        self.table.name_columns(["only"], ())
        self.table.show_rows([("x",)])
        self.assertEqual((self.table.columnCount(), self.column(0)), (1, ["x"]))

    def test_of_thousands_of_rows_the_first_come_at_once_and_the_others_by_and_by(self):
        self.table.show_rows([(f"s{row}", float(row), "") for row in range(1000)])
        self.assertEqual((self.table.rowCount(), self.table.item(199, 0).text()), (1000, "s199"))
        self.assertIsNone(self.table.item(999, 0))
        self.assertTrue(comes(lambda: self.table.item(999, 0) is not None))
        self.assertEqual(self.column(0), [f"s{row}" for row in range(1000)])
        self.table.show_rows([(f"t{row}", float(row), "") for row in range(600)])  # nothing of before is left
        self.assertIsNone(self.table.item(599, 0))
        self.assertEqual(len(numbers_of(self.table)[1]), 600)  # whoever copies them gets all
        self.assertEqual(self.column(0)[-1], "t599")
        self.table.show_rows([("x", 1.0, "")])
        self.assertTrue(comes(lambda: not self.table._later.isActive()))
        self.assertEqual(self.column(0), ["x"])

    def test_rows_that_still_come_do_not_come_under_other_columns(self):
        self.table.show_rows([(f"s{row}", float(row), "") for row in range(1000)])
        self.table.name_columns(["only"], ())
        self.assertTrue(comes(lambda: not self.table._later.isActive()))
        self.assertEqual(len(numbers_of(self.table)[1]), 1000)
        self.assertIsNone(self.table.item(999, 0))

    def test_a_table_that_can_be_sorted_has_all_of_them_at_once(self):
        self.table.setSortingEnabled(True)
        self.table.sortItems(1)
        self.table.show_rows([(f"s{row:03}", float(row), "") for row in reversed(range(500))])
        self.assertEqual(self.column(0)[:2], ["s000", "s001"])
        self.assertFalse(self.table._later.isActive())
        self.table.sortItems(1, Qt.SortOrder.DescendingOrder)
        self.assertEqual(self.column(0)[:2], ["s499", "s498"])

    def test_it_cannot_be_edited(self):
        self.table.editItem(self.table.item(0, 0))
        self.assertFalse(self.table.isPersistentEditorOpen(self.table.item(0, 0)))
        self.assertEqual(self.table.editTriggers(), FiguresTable.EditTrigger.NoEditTriggers)


class Words(unittest.TestCase):
    def test_significant(self):
        for value, digits, wanted in (
            (0.0852, 4, "0.08520"),
            (0.224, 4, "0.2240"),
            (5000.0, 4, "5000"),
            (0.0, 4, "0.000"),
            (-3.4, 3, "−3.40"),
            (123456.0, 4, "1.235e+05"),
            (float("nan"), 4, ""),
        ):
            with self.subTest(value):
                self.assertEqual(significant(value, digits), wanted)

    def test_minus(self):
        self.assertEqual(with_minus("-1 to -2"), "−1 to −2")


if __name__ == "__main__":
    unittest.main()
