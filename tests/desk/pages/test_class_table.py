"""Names over the columns of the table of classes: whole enough to be read, or marks alone."""

import unittest

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from scutcher.charts import colours
from scutcher.charts.class_table import Cell, ClassSquare
from scutcher.desk.pages.groups.class_table import HEAD, ClassTable
from scutcher.desk.shell.start import application
from tests.desk.driving import NO, count_colour, pixels, settle


class Heads(unittest.TestCase):
    def setUp(self):
        application()
        self.table = ClassTable()
        self.addCleanup(self.table.deleteLater)
        self.table.show()

    def put(self, *names, width, height=260):
        """Show a table of these classes; how much of its head is written in ink, in pixels."""
        cells = tuple(tuple(Cell("1", "", 0.5, "apart") for _ in names) for _ in names)
        of = np.arange(len(names)), names, ("9 samples",) * len(names)
        self.table.show_square(ClassSquare(*of, cells, None, "SD apart"))
        self.table.resize(width, height)
        settle()
        self.head = pixels(self.table)[2 : int(HEAD) - 2, int(self.table.cell_rect(0, 0).left()) :]
        return int((self.head.max(axis=2) < 90).sum())

    def test_names_where_there_is_room(self):
        self.assertGreater(self.put("dew-retted", "tank-retted", width=600), 80)
        self.assertGreater(self.put("A", "B", "C", width=100), 10)

    def test_marks_alone_where_a_name_would_be_cut_until_useless(self):
        names = "enzyme-retted", "tank-retted", "dew-retted", "straw"
        self.assertLess(self.put(*names, width=400), 5)
        for code, name in enumerate(names):
            cell = self.table.cell_rect(0, code)
            left = round(cell.left() - self.table.cell_rect(0, 0).left())
            column = np.abs(self.head[:, left : left + int(cell.width())].astype(int))
            paper = column[0, 0]
            marked = np.flatnonzero((np.abs(column - paper).max(axis=2) > 60).any(axis=0))
            self.assertAlmostEqual(marked.mean(), cell.width() / 2.0, delta=2.0)
            over = QPointF(cell.center().x(), 8.0)
            none = Qt.MouseButton.NoButton
            moved = QMouseEvent(QEvent.Type.MouseMove, over, self.table.mapToGlobal(over), none, none, NO)
            QApplication.sendEvent(self.table, moved)
            self.assertEqual(self.table.toolTip(), name)
        self.assertGreater(count_colour(self.table, colours.class_colour(0)), 20)

    def test_a_low_window_has_all_rows_without_the_small_words(self):
        names = "ash", "birch", "cedar", "dogwood"
        self.put(*names, width=600)
        below = [self.written_under(row) for row in range(4)]
        self.assertGreater(min(below), 20)  # sizes, under the names
        self.put(*names, width=600, height=150)
        self.assertLessEqual(self.table.cell_rect(3, 3).bottom(), 150)
        self.assertEqual([self.written_under(row) for row in range(4)], [0] * 4)

    def written_under(self, row):
        """Dark pixels in the lower part of a row, left of the cells."""
        cell = self.table.cell_rect(row, 0)
        lower = pixels(self.table)[int(cell.top()) + 22 : int(cell.bottom()) + 1, 20:130]
        return int((lower.max(axis=2) < 160).sum())


if __name__ == "__main__":
    unittest.main()
