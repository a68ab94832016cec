"""The Samples page by hand: roster, filter, edit, fill, paste, variables, stacking, other colourings."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from scutcher.charts import colours, palettes, variables
from scutcher.charts.emphasis import FRONT
from scutcher.desk import kept_behind
from scutcher.desk.kept_behind import AT_ONCE, KeptBehind
from scutcher.desk.pages.samples import roster_model
from scutcher.desk.pages.samples.roster import WIDEST, telling
from scutcher.desk.pages.samples.roster_model import figure
from scutcher.desk.pages.samples.variables import GAPS, LOW, STATE
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.core.making import mixed_table, ordered_table, random_spectra
from tests.desk.driving import CTRL, LEFT, WindowCase, count_colour, pixels, settle


class OnSamples(WindowCase):
    def setUp(self):
        super().setUp()
        QTest.mouseClick(self.window.topbar.pages["Samples"], LEFT)
        settle()
        self.samples = self.window.view("Samples")
        self.roster = self.samples.roster

    def column(self, name):
        return next(n for n, c in enumerate(self.roster.source.columns) if c.name == name)

    def click_row(self, row, column=1, modifiers=Qt.KeyboardModifier.NoModifier):
        index = self.roster.source.index(row, column)
        self.roster.scrollTo(index)
        QTest.mouseClick(self.roster.viewport(), LEFT, modifiers, self.roster.visualRect(index).center())
        settle()


class Selected(OnSamples):
    def test_the_headings_do_not_ask_each_selected_row(self):
        """Qt asks each in every column whenever they are drawn: of 3,000 that took a quarter of a second."""
        for view in (self.roster, self.samples.side.variables):
            self.assertIsNot(view.horizontalHeader().selectionModel(), view.selectionModel())
            self.assertIs(view.horizontalHeader().selectionModel().model(), view.model())

    def test_a_range_is_selected_in_one_go_and_told_once(self):
        """Row by row, each looked at all that were selected before: 7 s for 700 channels."""
        side = self.samples.side
        places = self.state.table.axis.places()
        told = []
        side.variables.selectionModel().selectionChanged.connect(lambda *change: told.append(change))
        side.choose_range(float(places.min()), float(places.max()))
        self.assertEqual(len(told), 1)
        self.assertEqual(side.variables.selected_columns(), list(range(len(places))))
        self.assertEqual(self.look.channels, tuple(places.tolist()))
        some = [0, 1, 2, 7, 9, 10, len(places) - 1]
        side.variables.choose(some)
        self.assertEqual(len(told), 2)
        self.assertEqual(side.variables.selected_columns(), some)
        side.variables.choose([])
        self.assertEqual(side.variables.selected_columns(), [])
        self.assertEqual(self.look.channels, ())


class Fitted(OnSamples):
    def test_the_longest_figure_counts_wherever_it_stands(self):
        rng = np.random.default_rng(2)
        for far in (-1.234e-5, 4.321e-7, -98_760.0, np.nan):
            with self.subTest(far):
                values = np.round(rng.uniform(1.0, 9.0, 1000), 1)
                values[700] = far
                longest = max(len(figure(value)) for value in values)
                self.assertEqual(max(len(figure(value)) for value in telling(values)), longest)
        self.assertEqual(telling(np.full(3, np.nan)), [])

    def test_markers_are_as_fine_as_the_screen(self):
        made = roster_model._chip(0, palettes.now(), 1.5)
        self.assertEqual((made.width(), made.devicePixelRatio()), (18, 1.5))

    def test_no_cell_and_no_heading_is_cut_off(self):
        """Once the letters of the table were known, "Nordend" was "No…nd" and "year" was "y…r"."""
        self.roster.refresh()
        settle()
        headings = self.roster.horizontalHeader().fontMetrics()
        for place, column in enumerate(self.roster.source.columns):
            with self.subTest(column.header):
                width = self.roster.columnWidth(place)
                self.assertGreaterEqual(width, min(self.roster.sizeHintForColumn(place), WIDEST))
                self.assertGreaterEqual(width, min(headings.horizontalAdvance(column.header) + 12, WIDEST))


class RosterByHand(OnSamples):
    def test_a_row_picked_here_is_picked_everywhere(self):
        self.click_row(3)
        self.assertEqual(self.look.picked, (3,))
        self.assertEqual(self.samples.view.strength[3], FRONT)
        self.key("4", CTRL)
        self.assertTrue(self.page.isVisible())
        self.assertEqual(
            self.page.scores_view.chart.marks.keys[self.page.scores_view.item.ringed()].tolist(), [3]
        )

    def test_picked_elsewhere_is_selected_here(self):
        self.desk.selection.pick([7, 100])
        settle()
        self.assertEqual(self.roster.selected_rows(), [7, 100])

    def test_sorting_by_a_number_keeps_the_pick(self):
        self.desk.selection.pick([5])
        self.roster.sortByColumn(self.column("moisture"), Qt.SortOrder.DescendingOrder)
        settle()
        top = self.roster.source.index(0, 1).data()
        self.assertTrue(top.startswith("L17"))
        self.assertEqual(self.look.picked, (5,))

    def test_filter_by_typing(self):
        self.type("tank moor", self.samples.filter)
        rows = [int(row)
                for row in self.roster.source.rows]  # fmt: skip
        self.assertGreater(len(rows), 3)
        for row in rows:
            self.assertEqual(self.state.table.classes[0].values[row], "tank-retted")
            self.assertEqual(self.state.table.classes[1].values[row], "Moor")

    def test_edit_in_place_is_a_command(self):
        index = self.roster.source.index(0, self.column("retting"))
        self.roster.setCurrentIndex(index)
        self.roster.edit(index)
        editor = self.window.focusWidget()
        editor.clear()
        QTest.keyClicks(editor, "frosted")
        QTest.keyClick(editor, Qt.Key.Key_Return)
        settle()
        self.assertEqual(self.state.table.classes[0].values[0], "frosted")
        self.key("4", CTRL)
        self.assertIn("frosted", self.page.legend.cells())
        self.key("z", CTRL)
        self.assertEqual(self.state.table.classes[0].values[0], "green straw")

    def test_fill_down_and_paste(self):
        column = self.column("field")
        self.desk.selection.pick([0, 1, 2])
        settle()
        self.roster.selectionModel().setCurrentIndex(
            self.roster.source.index(0, column), self.roster.selectionModel().SelectionFlag.NoUpdate
        )
        self.assertTrue(self.roster.fill_down())
        first = self.state.table.classes[1].values[0]
        self.assertEqual(self.state.table.classes[1].values[:3], (first,) * 3)
        settle()
        self.roster.setCurrentIndex(self.roster.source.index(0, self.column("moisture")))
        QApplication.clipboard().setText("1,5\n\n2.5\n")
        self.key("v", CTRL, self.roster)
        moisture = self.state.table.properties[0].values
        self.assertEqual(moisture[[0, 2]].tolist(), [1.5, 2.5])
        self.assertTrue(np.isnan(moisture[1]))
        QApplication.clipboard().setText("wet\n")
        self.roster.setCurrentIndex(self.roster.source.index(4, self.column("moisture")))
        self.key("v", CTRL, self.roster)
        self.assertIn("'wet' is not a number for moisture / %", self.window.message.label.text())

    def test_a_pick_goes_by_name_when_samples_change(self):
        self.desk.selection.pick([140, 3])
        QTest.mouseClick(self.samples.average, LEFT)
        settle()
        self.assertEqual(self.look.picked, ())
        self.desk.selection.pick([40])
        self.key("z", CTRL)
        self.assertEqual(self.look.picked, ())
        self.assertEqual(self.window.bottom.pick.text(), "nothing picked")

    def test_average_replicates_and_undo(self):
        spread = self.roster.source.cells[self.column("spread")]
        self.assertTrue(np.nanmax(spread) > 0)
        QTest.mouseClick(self.samples.average, LEFT)
        settle()
        self.assertEqual(self.state.table.shape[0], 48)
        self.assertFalse(self.samples.average.isVisible())
        self.assertEqual(len(self.model.t2), 48)
        self.key("z", CTRL)
        self.assertEqual(self.state.table.shape[0], 144)


class Hidden(OnSamples):
    def test_a_page_that_nobody_sees_is_drawn_when_it_is_looked_at(self):
        before = self.page.distances.view.chart
        self.desk.selection.pick([7])
        self.key(Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.model.k, 3)
        self.assertIs(self.page.distances.view.chart, before)
        self.key("4", CTRL)
        self.assertIsNot(self.page.distances.view.chart, before)
        np.testing.assert_array_equal(
            self.page.distances.view.chart.marks.y, self.model.q / self.model.q_limit.value
        )
        marks = self.page.scores_view.chart.marks
        self.assertEqual(marks.keys[self.page.scores_view.item.ringed()].tolist(), [7])


class DrawnTooEarly(OnSamples):
    def test_a_table_that_is_drawn_before_it_is_reloaded_shows_what_it_had(self):
        """An error in what Qt asks of a model ends the process."""
        variables, roster = self.samples.side.variables.source, self.roster.source
        wide, rows = variables.rowCount(), roster.rowCount()
        words = variables.data(variables.index(2, 2))
        for shape in ((3, 4), (400, 2000)):
            table = ordered_table(random_spectra(*shape))
            with mock.patch.object(self.desk.study, "_state", State.of("other", table)):
                self.assertEqual((variables.rowCount(), roster.rowCount()), (wide, rows))
                self.assertEqual(variables.data(variables.index(2, 2)), words)
                for model in (variables, roster):
                    for column in range(model.columnCount()):
                        model.data(model.index(model.rowCount() - 1, column))

    def test_figures_of_former_data_that_come_late_are_not_taken(self):
        asked = []
        kept = KeptBehind(self.desk, "some", lambda table: table.shape, lambda: self.fail("taken"))
        large, small = (ordered_table(random_spectra(*shape)) for shape in ((30, 40), (3, 4)))
        with mock.patch.object(self.desk.live, "ask", lambda *given: asked.append(given)):
            self.assertIsNone(kept.of(large, (large.values,), AT_ONCE + 1))
        self.assertEqual(kept.of(small, (small.values,), 12), (3, 4))
        asked[0][3]((30, 40))
        self.assertEqual(kept.of(small, (small.values,), 12), (3, 4))


class FiguresFromBehind(OnSamples):
    """Of much data the gaps of each sample come later: into their column, and nothing else moves."""

    def setUp(self):
        behind = mock.patch.object(kept_behind, "AT_ONCE", 0)
        behind.start()
        self.addCleanup(behind.stop)
        super().setUp()
        self.gaps = np.isnan(self.state.table.values[:, self.state.table.used_columns()]).sum(axis=1)

    def ask_again(self):
        """The figures are forgotten and asked for anew."""
        source, place = self.roster.source, self.column("gaps")
        self.until(self.arrived)
        source._figures._behind._inputs = ()
        source.cells[place] = source._values(self.state.table, source.columns[place])
        self.assertTrue(np.isnan(source.cells[place]).all())

    def arrived(self):
        return np.array_equal(self.roster.source.cells[self.column("gaps")], self.gaps)

    def test_only_their_columns_are_filled(self):
        source, resets, told = self.roster.source, [], []
        source.modelReset.connect(lambda: resets.append(1))
        source.dataChanged.connect(lambda first, last: told.append((first.column(), last.column())))
        self.assertEqual(self.gaps.sum(), 10)
        self.ask_again()
        self.until(self.arrived)
        self.assertEqual(resets, [])
        self.assertEqual(told, [(self.column("spread"), self.column("gaps"))])
        row = self.row("L06-1")
        self.assertEqual(source.index(source.line_of(row), self.column("gaps")).data(), "10")

    def test_the_order_by_gaps_is_made_anew(self):
        source = self.roster.source
        self.ask_again()
        self.roster.sortByColumn(self.column("gaps"), Qt.SortOrder.DescendingOrder)
        self.until(self.arrived)
        self.assertEqual(source.rows[0], self.row("L06-1"))


class VariablesByHand(OnSamples):
    def test_drag_over_the_picture_selects_channels_and_leaves_them_out(self):
        QTest.mouseClick(self.samples.range_switch, LEFT)
        view = self.samples.view
        places = [self.data_place(view, x, 0.5) for x in (1200.5, 1250.0, 1299.5)]
        self.drag(view.viewport(), places)
        self.assertIsNotNone(view._region)  # what is selected stays shaded
        chosen = self.samples.side.variables.selected_columns()
        wavelengths = self.state.table.axis.positions[chosen]
        self.assertAlmostEqual(wavelengths.min(), 1201.0, delta=3.0)
        self.assertAlmostEqual(wavelengths.max(), 1299.0, delta=3.0)
        QTest.mouseClick(self.samples.side.leave_out, LEFT)
        self.type("water", self.window.focusWidget())
        self.key(Qt.Key.Key_Return, widget=self.window.focusWidget())
        self.assertEqual(self.state.table.left_out[chosen[0]], "water")
        self.assertEqual(self.desk.moment.found.z.shape[1], 698 - len(chosen))
        self.samples.side.variables.choose(chosen)
        settle()
        QTest.mouseClick(self.samples.side.bring_back, LEFT)
        settle()
        self.assertEqual(len(self.state.table.left_out), 2)  # the dead channels stay out

    def test_a_row_is_the_channel_cursor(self):
        variables = self.samples.side.variables
        index = variables.source.index(312, 0)
        variables.scrollTo(index)
        QTest.mouseClick(variables.viewport(), LEFT, pos=variables.visualRect(index).center())
        settle()
        self.assertEqual(self.look.channel, 1724.0)
        self.assertEqual(
            variables.source.index(312, 4).data(), f"{np.nanmean(self.state.table.values[:, 312]):.4g}"
        )


class Units(OnSamples):
    def study(self):
        table = mixed_table(random_spectra(8, 3))
        axis = replace(table.axis, labels=("ash / %", "pH", "iron / mg/kg"))
        return Study(State.of("t", replace(table, axis=axis)))

    def test_each_variable_has_its_unit(self):
        variables = self.samples.side.variables
        self.assertFalse(variables.isColumnHidden(1))
        self.assertEqual(variables.horizontalScrollBar().maximum(), 0)  # every column is seen
        cells = [[variables.source.index(row, column).data() for column in (0, 1)] for row in range(3)]
        self.assertEqual(cells, [["ash", "%"], ["pH", ""], ["iron", "mg/kg"]])
        self.window.opening.open_demo("intake-nir")
        settle()
        self.assertTrue(variables.isColumnHidden(1))

    def test_no_figure_and_no_name_is_cut(self):
        variables = self.samples.side.variables
        source, metrics = variables.source, variables.fontMetrics()
        for name, left_out in (("drying", False), ("tank-log", False), ("intake-nir", True)):
            self.window.opening.open_demo(name)
            self.until(lambda: source.figures is not None)
            settle()
            with self.subTest(name):
                self.assertEqual(variables.horizontalScrollBar().maximum(), 0)
                self.assertEqual(not variables.isColumnHidden(STATE), left_out)
                has_gaps = bool(np.isnan(self.state.table.values).any())
                self.assertEqual(variables.isColumnHidden(GAPS), not has_gaps)
                for column in (0, *range(LOW, GAPS)):
                    texts = [source.index(row, column).data() for row in range(source.rowCount())]
                    widest = max(metrics.horizontalAdvance(text) for text in texts)
                    self.assertLess(widest + 8, variables.columnWidth(column), column)


class Pictures(OnSamples):
    def test_stacking(self):
        flat = np.ptp(self.samples.view.chart.lines.ys[np.isfinite(self.samples.view.chart.lines.ys)])
        self.samples.slider.setValue(40)
        settle()
        ys, values = self.samples.view.chart.lines.ys, self.state.table.values
        self.assertAlmostEqual(ys[1, 10] - ys[0, 10], values[1, 10] - values[0, 10] + 0.1 * flat)

    def test_two_variables_and_all_correlations(self):
        QTest.mouseClick(self.samples.side.all, LEFT)
        settle()
        view = self.samples.side.correlation_view
        grid = view.chart.grid
        self.assertEqual(grid.values.shape, (349, 349))  # every second of 698
        np.testing.assert_allclose(np.diag(grid.values), 1.0)
        self.click(view, self.data_place(view, 1452.0, 1934.0))
        self.assertIs(self.samples.side.currentWidget(), self.samples.side.scatter_panel)
        chart = self.samples.side.scatter_view.chart
        for title, place in ((chart.x_title, 1452.0), (chart.y_title, 1934.0)):
            self.assertAlmostEqual(float(title.removesuffix(" nm")), place, delta=4.0)
        marks = chart.marks
        self.assertAlmostEqual(
            float(chart.note.split()[2].rstrip(",")), np.corrcoef(marks.x, marks.y)[0, 1], places=3
        )
        self.click(
            self.samples.side.scatter_view, self.mark_place(self.samples.side.scatter_view, self.row("L17-1"))
        )
        self.assertEqual(self.look.picked, (self.row("L17-1"),))

    def test_image_of_all_samples(self):
        QTest.mouseClick(self.samples.lines_switch, LEFT)
        settle()
        view = self.samples.image_view
        self.assertTrue(view.isVisible())
        self.assertFalse(self.samples.view.isVisible())
        self.click(view, self.data_place(view, 1700.0, 93.0))
        self.assertEqual(self.look.picked, (92,))
        QTest.mouseClick(self.samples.image_switch, LEFT)
        settle()
        self.assertTrue(self.samples.view.isVisible())

    def test_image_of_more_samples_than_rows(self):
        with mock.patch.object(variables, "MOST_ROWS", 50), mock.patch.object(kept_behind, "AT_ONCE", 0):
            QTest.mouseClick(self.samples.lines_switch, LEFT)
            self.assertIn("being made", self.samples.image_panel.empty.text())
            self.until(lambda: self.samples.image_view.chart.grid is not None)
            settle()
            self.assertIn("each row the mean of 3 samples", self.samples.image_panel.note.text())
            self.assertGreater(pixels(self.samples.image_view)[40:-40, 80:-20].std(), 20.0)
            self.click(self.samples.image_view, self.data_place(self.samples.image_view, 1700.0, 92.0))
            self.assertEqual(self.look.picked, (90, 91, 92))
            QTest.mouseClick(self.samples.image_switch, LEFT)
            self.assertEqual(self.samples._picture._behind._inputs, ())  # the data are not held for it

    def test_colouring_by_a_property_is_seen_everywhere(self):
        action = next(a for a in self.samples.chooser.menu().actions() if a.text() == "moisture")
        action.trigger()
        settle()
        self.assertEqual(self.state.colour_by, "moisture")
        self.key("4", CTRL)
        wettest = int(self.state.table.properties[0].values.argmax())
        marks = self.page.scores_view.chart.marks
        code = int(marks.codes[np.flatnonzero(marks.keys == wettest)[0]])
        self.assertEqual(code, colours.CONTINUOUS + colours.STEPS - 1)
        self.assertGreater(count_colour(self.page.scores_view, colours.RAMP_HIGH), 20)
        self.assertGreater(count_colour(self.page.legend, colours.RAMP_HIGH), 20)

    def test_click_on_the_picture(self):
        view = self.samples.view
        lines = view.chart.lines
        row = self.row("L17-1")
        place = int(np.flatnonzero(lines.keys == row)[0])
        at = int(np.searchsorted(lines.x, 1934.0))
        self.click(view, self.data_place(view, 1934.0, float(lines.ys[place, at])) + QPoint(0, 0))
        self.assertEqual(self.look.picked, (row,))


if __name__ == "__main__":
    unittest.main()
