"""Copying and saving by a right click: the menu of each chart, the clipboard in every form."""

import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication

from scutcher.desk.actions.clipboard import html_table
from scutcher.desk.widgets.panel import ChartPanel
from tests.desk.driving import WindowCase, settle


class RightClicks(WindowCase):
    def panels(self):
        shown = self.window.stack.over or self.window.stack.shown
        return [panel for panel in shown.findChildren(ChartPanel) if panel.isVisible()]

    def right_click(self, widget):
        middle = widget.rect().center()
        where = widget.mapToGlobal(middle)
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, self.window.mapFromGlobal(where), where)
        QApplication.sendEvent(self.window, event)
        settle()
        return [action.text() for menu in self.menus() for action in menu.actions() if action.text()]

    def menus(self):
        return [w for w in QApplication.topLevelWidgets() if w.inherits("QMenu") and w.isVisible()]


class Copying(RightClicks):
    def test_a_right_click_on_each_chart_says_the_same_as_the_finder(self):
        for page in ("Samples", "Treat", "Inspect"):
            self.window.show_page(page)
            settle()
            for panel in self.panels():
                chart = panel.view.chart
                if chart is None or chart.is_blank:
                    continue
                with self.subTest(page, chart=chart.title):
                    words = self.right_click(panel.view)
                    title = chart.title.lower()
                    self.assertIn(f"Copy the numbers of {title}", words)
                    self.assertIn(f"Save the figure of {title}…", words)
                    self.assertIn("Write the data of this knot…", words)
                    found = {entry.words for entry in self.window.finder.entries()}
                    self.assertLessEqual(set(words) - {"Write the data of this knot…"}, found)
                    for menu in self.menus():
                        menu.close()

    def test_views_over_the_page_can_be_copied_too(self):
        self.window.papers.show_space("loadings")
        settle()
        titles = {chart.title for chart in self.window.charts()}
        self.assertEqual(titles, {"Loadings"})

    def test_numbers_go_as_tabs_and_as_html(self):
        chart = self.page.scores_view.chart
        self.window.charts_out.copy_numbers(chart)
        data = QApplication.clipboard().mimeData()
        lines = data.text().split("\n")
        self.assertEqual(len(lines), len(chart.marks.names) + 1)
        self.assertEqual(data.html().count("<tr>"), len(lines))
        self.assertIn(f"<td>{chart.marks.names[0]}</td>", data.html())
        self.assertEqual(
            html_table([["<b>"], ["a & b"]]),
            "<table><tr><th>&lt;b&gt;</th></tr><tr><td>a &amp; b</td></tr></table>",
        )

    def test_a_picture_goes_as_dots_and_as_drawings(self):
        QApplication.clipboard().clear()
        self.window.charts_out.copy_picture(self.page.scores_view.chart)
        self.until(lambda: "The picture of scores is on the clipboard." in self.window.message.label.text())
        data = QApplication.clipboard().mimeData()
        self.assertTrue(data.hasImage())
        self.assertTrue(bytes(data.data("image/svg+xml").data()).startswith(b"<svg"))
        self.assertTrue(bytes(data.data("application/pdf").data()).startswith(b"%PDF"))

    def test_very_many_lines_go_as_dots_in_the_drawings_too(self):
        """What the monkey found: 24 MB of paths, and half a minute until a window closed."""
        chart = self.page.strips.signals_view.chart
        sizes = []
        for heavy in (10**9, 1000):
            QApplication.clipboard().clear()
            with mock.patch("scutcher.desk.actions.charts_out.HEAVY", heavy):
                self.window.charts_out.copy_picture(chart)
            self.until(lambda: (data := QApplication.clipboard().mimeData()) is not None and data.hasImage())
            sizes.append(bytes(QApplication.clipboard().mimeData().data("image/svg+xml").data()))
        paths, dots = (svg.count(b"<path") for svg in sizes)
        self.assertGreater(paths, len(chart.lines.keys))
        self.assertLess(dots, 60)
        self.assertEqual([b"<image" in svg for svg in sizes], [False, True])


class Tables(RightClicks):
    """What is no chart is copied too, numbers to the last digit."""

    def copied(self, widget):
        words = self.right_click(widget)
        self.assertIn("Copy the table", words)
        menu = self.menus()[-1]
        next(action for action in menu.actions() if action.text() == "Copy the table").trigger()
        menu.close()
        settle()
        return [line.split("\t") for line in QApplication.clipboard().text().split("\n")]

    def test_roster_and_variables(self):
        self.window.show_page("Samples")
        settle()
        page = self.window.view("Samples")
        page.roster.sortByColumn(1, Qt.SortOrder.DescendingOrder)
        rows = self.copied(page.roster.viewport())
        self.assertEqual(rows[0][:3], ["order", "sample", "retting"])
        names = [row[1] for row in rows[1:]]
        self.assertEqual(names, sorted(self.state.table.ids, reverse=True))
        place = rows[0].index("moisture / %")
        row = self.state.table.ids.index(names[0])
        self.assertEqual(float(rows[1][place]), self.state.table.properties[0].values[row])
        rows = self.copied(page.side.variables.viewport())
        self.assertEqual(len(rows), 701)
        self.assertEqual(float(rows[1][1]), np.nanmin(self.state.table.values[:, 0]))
        self.desk.selection.pick([3, 5])
        settle()
        self.assertIn("Copy the selected rows", self.right_click(page.roster.viewport()))
        for menu in self.menus():
            menu.close()

    def test_the_charts_and_tables_of_rank(self):
        self.window.show_page("Rank")
        settle()
        page = self.window.view("Rank")
        rows = self.copied(page.shares_view.viewport())
        self.assertEqual(rows[0][:3], ["component", "eigenvalue", "share"])
        self.assertEqual(float(rows[1][1]), self.model.eigenvalues[0])
        rows = self.copied(page.evidence)
        self.assertEqual(rows[0], ["line of evidence", "components", "note"])
        self.assertEqual(len(rows), 10)
        page._set_kind("table")
        settle()
        self.assertEqual(
            len(self.copied(page.shares_table.viewport())), len(page.shares_view.numbers()[1]) + 1
        )
        page._set_below("variance")
        settle()
        self.assertIn("Copy the numbers of explained variance", self.right_click(page.variable_view))
        for menu in self.menus():
            menu.close()

    def test_all_components_not_only_the_two_on_screen(self):
        words = self.right_click(self.page.scores_view)
        menu = self.menus()[-1]
        self.assertIn("Write all components of scores…", words)
        next(a for a in menu.actions() if a.text() == "Copy all components of scores").trigger()
        menu.close()
        lines = [line.split("\t") for line in QApplication.clipboard().text().split("\n")]
        self.assertEqual(lines[0][-4:], ["PC1", "PC2", "PC3", "PC4"])
        self.assertEqual([float(cell) for cell in lines[1][-4:]], self.model.scores[0].tolist())
        self.assertIn("Copy all components of loadings", self.right_click(self.page.strips.loadings_view))
        self.menus()[-1].close()
        for kind in ("pairs", "space"):
            self.window.papers.show_space(kind)
            settle()
            over = self.window.stack.over
            view = over.pairs_view if kind == "pairs" else over.turn_view
            rows = self.copied(view)
            self.assertEqual((len(rows), rows[0][-1]), (144, "PC4"))

    def test_rebuilt_samples_and_loadings_as_points(self):
        self.desk.selection.pick([5])
        self.window.papers.show_space("rebuilds")
        settle()
        rows = self.copied(self.window.stack.over.rebuild_view)
        found, grid = self.desk.moment.found, self.window.stack.over.rebuild_view.grid
        self.assertEqual(rows[0][:2], ["variable", f"{self.state.table.ids[5]} measured"])
        self.assertEqual(rows[0][-1], f"{self.state.table.ids[5]} by {grid.steps[-1]}")
        row = found.places()[5]
        measured = [float(line[1]) for line in rows[1:]]
        np.testing.assert_allclose(measured, found.treated.values[row], atol=1e-9)
        self.window.papers.show_space("loadings")
        settle()
        view = self.window.stack.over.loading_view
        words = self.right_click(view)
        self.assertIn("Copy the numbers of loadings", words)
        self.menus()[-1].close()
        self.assertTrue(any(chart is view.chart for chart in self.window.charts()))

    def test_a_table_is_written(self):
        self.window.show_page("Samples")
        settle()
        roster = self.window.view("Samples").roster
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "roster.csv"
            self.assertTrue(self.window.charts_out.write_shown(roster, path))
            self.until(lambda: "The table is in roster.csv." in self.window.message.label.text())
            lines = path.read_text().splitlines()
        self.assertEqual(len(lines), 145)
        self.assertTrue(lines[0].startswith("order,sample,retting"))


class PicturesToo(RightClicks):
    demo = "liquor-landscapes"

    def test_pictures_are_copied_as_numbers(self):
        self.window.papers.show_space("pictures")
        settle()
        view = self.window.stack.over.pictures_view
        header, rows = view.numbers()
        self.assertEqual(len(rows), 24 * 60)
        at = header.index("mean")
        one = {(line[0], line[1]): line[at] for line in rows}
        mean = next(picture for picture in view.pictures if picture.title == "mean")
        self.assertEqual(one[view.axes.columns[7], view.axes.rows[3]], mean.values[3, 7])
        self.assertIn("Write the table…", self.right_click(view))
        self.menus()[-1].close()


if __name__ == "__main__":
    unittest.main()
