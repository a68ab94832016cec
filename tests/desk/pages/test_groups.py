"""The Groups page: table, tree, plane, strips, held-out share, line; clicked, dragged and read."""

import threading
import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from scipy.stats import f_oneway

from scutcher.charts import colours
from scutcher.charts.class_table import SquareLook, class_square
from scutcher.charts.held_out_groups import along_words, held_out_run
from scutcher.core.data.columns import ClassColumn
from scutcher.core.groups.dip import dip_test
from scutcher.core.validation.held_out_assignment import held_out_directions
from scutcher.desk.pages.groups.plane_panel import CLEAREST, DIRECTIONS
from scutcher.desk.widgets.shown_tables import numbers_of, source_of
from scutcher.study.document.commands.classes import ColourBy, RenameClass
from scutcher.study.document.commands.recipe import AddStep, KeepComponents
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation import grouping as grouping_module
from tests.core.validation.test_held_out_assignment import lots
from tests.desk.driving import LEFT, QUICK, WindowCase, count_colour, settle


class Wood(WindowCase):
    first_page, validates = "Groups", True
    kinds = ("ash", "birch", "cedar")

    def study(self):
        table, codes = lots(n=60, apart=1.5)
        codes = codes.copy()
        codes[12:15] = (codes[12:15] + 1) % 3  # a wrong label
        self.codes = codes
        names = tuple(self.kinds[code] for code in codes)
        return Study(State.of("wood", replace(table, classes=(ClassColumn("wood", names),)), QUICK))

    def setUp(self):
        super().setUp()
        self.view = self.window.view("Groups")
        self.labelled = self.view.labelled
        self.until(
            lambda: self.labelled.judging.held is not None and self.labelled.judging.held.p_value is not None
        )
        self.until(lambda: np.isfinite(self.band()).all())
        settle()

    def band(self):
        """The low end of the band between the two classes."""
        panels = self.labelled.differences
        return panels._difference(self.labelled.grouping, self.labelled.two).low

    @property
    def held(self):
        return self.labelled.judging.held

    def place(self, one, two):
        codes = self.labelled.classes.table.square.codes.tolist()
        return codes.index(one), codes.index(two)

    def click_cell(self, one, two):
        table = self.labelled.classes.table
        QTest.mouseClick(
            table,
            LEFT,
            Qt.KeyboardModifier.NoModifier,
            table.cell_rect(*self.place(one, two)).center().toPoint(),
        )
        settle()


class Page(Wood):
    def test_a_model_that_arrives_draws_the_plane_once(self):
        view = self.labelled.plane.view
        with mock.patch.object(view, "show_chart", wraps=view.show_chart) as drawn:
            before = self.held
            self.desk.do(AddStep("snv"))
            self.until(lambda: self.held is not None and self.held is not before)
            self.until(lambda: self.held.p_value is not None)
            self.until(lambda: np.isfinite(self.band()).all())
            settle()
        self.assertEqual(drawn.call_count, 1)

    def test_each_way_to_look_is_made_when_it_is_looked_at(self):
        self.assertEqual(self.view.stack.count(), 1)
        for count, mode in enumerate(("models", "found"), start=2):
            QTest.mouseClick(self.view.modes[mode], LEFT)
            self.assertEqual(self.view.stack.count(), count)
            self.assertTrue(getattr(self.view, mode).isVisible())
        QTest.mouseClick(self.view.modes["labelled"], LEFT)
        self.assertTrue(self.labelled.isVisible())

    def test_the_finding_and_its_numbers(self):
        assignment = self.held.assignment
        right = round(assignment.right()[assignment.k - 1].sum())
        text = self.view.finding.text()
        self.assertIn(f"{right} of 60 held-out samples find their class", text)
        self.assertIn("(p 0.05)", text)
        self.view.finding.linkActivated.emit("0")
        settle()
        self.assertEqual(len(self.look.picked), right)

        self.says_what_was_found()
        self.opens_where_the_classes_lie_farthest_apart()
        self.copies_the_table_and_the_curve()
        self.draws_the_curve_and_its_handle()

    def copies_the_table_and_the_curve(self):
        header, rows = numbers_of(source_of(self.labelled.classes.table))
        self.assertEqual((header[0], len(rows)), ("class", 3))
        header, rows = numbers_of(source_of(self.labelled.held_out.curve.viewport()))
        self.assertEqual(rows[0][1], self.held.assignment.share_right[0])

    def says_what_was_found(self):
        square = self.labelled.classes.table.square
        grouping = self.labelled.grouping
        mixed = self.held.assignment.mixups(self.held.assignment.k, 3)
        for row, one in enumerate(square.codes):
            for column, two in enumerate(square.codes):
                cell = square.cells[row][column]
                if row == column:
                    self.assertEqual(cell.figure, f"{mixed[one, one]:.0f} of {mixed[one].sum():.0f}")
                elif row > column:
                    self.assertEqual(cell.figure, f"{mixed[one, two] + mixed[two, one]:.0f}")
                else:
                    self.assertEqual(cell.figure, f"{grouping.distances[one, two]:.1f}")
        header, rows = square.rows()
        self.assertEqual(header, ["class", *square.names])
        self.assertEqual(len(rows), 3)

    def test_a_click_on_a_cell_picks_and_looks_at_the_two(self):
        self.click_cell(1, 1)
        self.assertEqual(self.look.picked, tuple(np.flatnonzero(self.codes == 1)))
        square = self.labelled.classes.table.square
        lower = [(int(a), int(b)) for i, a in enumerate(square.codes) for b in square.codes[:i]]
        one, two = max(lower, key=lambda pair: self.held.assignment.mixups(self.held.assignment.k, 3)[pair])
        self.click_cell(one, two)
        self.assertEqual(self.labelled.two, (one, two))
        given = self.held.assignment.assigned[0, self.held.assignment.k - 1]
        mixed = [row for row in range(60) if {self.codes[row], given[row]} == {one, two}]
        self.assertEqual(sorted(self.look.picked), mixed)
        names = [self.kinds[code] for code in (one, two)]
        self.assertEqual(self.labelled.differences.view.chart.title, f"{names[0]} less {names[1]}")
        self.assertEqual(self.labelled.differences.means_view.chart.lines.names, tuple(names))

        self.moves_by_arrow_keys()
        self.cuts_the_tree_by_a_drag()

    def moves_by_arrow_keys(self):
        self.click_cell(1, 1)
        table = self.labelled.classes.table
        table.setFocus()
        before = table.at
        QTest.keyClick(table, Qt.Key.Key_Down if before[0] < 2 else Qt.Key.Key_Up)
        settle()
        self.assertNotEqual(table.at, before)
        self.assertEqual(len(set(self.labelled.two)), 2)

    def cuts_the_tree_by_a_drag(self):
        table = self.labelled.classes.table
        heights = table.square.tree.heights
        middle = table.tree.x_of(float(heights.mean()))
        y = int(table.cell_rect(1, 0).center().y())
        for kind, x in (
            (QEvent.Type.MouseButtonPress, table.tree.x_of(0.0) + 2),
            (QEvent.Type.MouseMove, middle),
        ):
            self.send(table, kind, QPoint(int(x), y), Qt.KeyboardModifier.NoModifier)
        self.send(
            table, QEvent.Type.MouseButtonRelease, QPoint(int(middle), y), Qt.KeyboardModifier.NoModifier
        )
        self.assertEqual(table.groups_at_cut(), 2)
        self.assertAlmostEqual(table.tree.cut, float(heights.mean()), delta=0.05 * heights[-1])

    def opens_where_the_classes_lie_farthest_apart(self):
        plane = self.labelled.plane
        up = self.labelled.grouping.pair[1]
        marks = plane.view.chart.marks
        np.testing.assert_array_equal(marks.y, self.model.scores[:, up])
        self.assertEqual(len(plane.view.chart.areas), 3)
        self.assertGreater(count_colour(plane.view, colours.class_colour(0)), 20)
        plane.pair_menu.choose("as on Inspect")
        self.desk.selection.change(pair=(1, 2))
        settle()
        np.testing.assert_array_equal(plane.view.chart.marks.x, self.model.scores[:, 1])

    def test_regions_flags_and_lines_are_switched(self):
        plane = self.labelled.plane
        regions = self.labelled.grouping.regions
        several, none = int((regions.counts > 1).sum()), int((regions.counts == 0).sum())
        note = plane.view.chart.note
        self.assertIn(f"○ {several} in several regions, × {none} in none", note)
        plane.look_menu.choose("hull of each class")
        self.assertEqual(len(plane.view.chart.areas), 3)
        plane.look_menu.choose("where each class is dense")
        self.assertGreaterEqual(len(plane.view.chart.areas), 3)
        plane.look_menu.choose("no regions")
        plane.look_menu.choose("in several regions or in none")
        plane.look_menu.choose("centres joined")
        chart = plane.view.chart
        self.assertEqual((chart.areas, chart.flags, chart.curves), ((), (), ()))
        plane.look_menu.choose("replicates joined")
        self.assertEqual(len(plane.view.chart.curves), 1)
        plane.look_menu.choose("regions at 50 %")
        settle()
        self.assertEqual(self.state.recipe.groups.level, 0.5)

    def test_the_directions_that_separate_best_are_held_out(self):
        plane = self.labelled.plane
        plane.pair_menu.choose(DIRECTIONS)
        settle()
        full = self.labelled.grouping.directions
        places = held_out_directions(self.held.scores, self.held.assignment.codes, 4, full)
        marks = plane.view.chart.marks
        np.testing.assert_allclose(np.column_stack([marks.x, marks.y]), places)
        self.assertIn("held out", plane.view.chart.note)
        plane.pair_menu.choose(CLEAREST)
        np.testing.assert_array_equal(
            plane.view.chart.marks.x, self.model.scores[:, self.labelled.grouping.pair[0]]
        )

    def test_means_difference_and_list(self):
        panels = self.labelled.differences
        one, two = self.labelled.two
        values = self.state.table.values
        wanted = values[self.codes == one].mean(axis=0) - values[self.codes == two].mean(axis=0)
        chart = panels.view.chart
        np.testing.assert_allclose(chart.lines.ys[0], wanted, atol=1e-12)
        band = chart.spreads[0]
        np.testing.assert_array_equal(chart.shade.strength > 0, (band.low > 0) | (band.high < 0))
        QTest.mouseClick(panels.mean_switch, LEFT)
        np.testing.assert_allclose(
            panels.means_view.chart.lines.ys[0], values[self.codes == one].mean(axis=0)
        )
        QTest.mouseClick(panels.kinds["deviations"], LEFT)
        self.assertEqual(panels.view.chart.y_title, "SD within")
        QTest.mouseClick(panels.kinds["ratio"], LEFT)
        self.assertEqual(panels.view.chart.y_title, "F")
        QTest.mouseClick(panels.kinds["list"], LEFT)
        settle()
        within = panels._difference(self.labelled.grouping, self.labelled.two).in_deviations
        axis = self.state.table.axis
        self.assertEqual(panels.table.item(0, 0).text(), axis.name(int(np.abs(within).argmax())))
        panels.table.selectRow(0)
        settle()
        self.assertEqual(self.look.channel, float(axis.places()[int(np.abs(within).argmax())]))

    def draws_the_curve_and_its_handle(self):
        run = held_out_run(self.labelled.grouping, self.held)
        np.testing.assert_allclose(run.lines[0].y, self.held.assignment.share_right)
        header, rows = run.rows()
        self.assertEqual(header[:3], ["components", "share right", "SE of share right"])
        self.assertEqual(run.best, int(self.held.assignment.share_right.argmax()) + 1)
        self.assertEqual(rows[0][0], 1)
        curve = self.labelled.held_out.curve
        curve.handle.setValue(2.5)
        curve.handle.sigPositionChangeFinished.emit(curve.handle)
        settle()
        self.assertEqual(self.state.recipe.model.components, 2)

    def test_another_method_is_a_command_and_changes_the_metric(self):
        before = self.labelled.grouping.metric
        self.labelled.held_out.methods.choose("nearest neighbours")
        settle()
        self.until(lambda: self.held is not None)  # the answer to the former method is gone by now
        settle()
        self.assertEqual((before, self.labelled.grouping.metric), ("within", "scores"))
        self.assertEqual(self.held.assignment.method, "nearest-neighbours")
        self.assertIn("neighbours", self.labelled.held_out.methods.text())
        self.assertIn("Groups", self.window.desk.study.undo_label)

    def test_worth_a_look_and_its_key_the_line_and_the_segments_scores(self):
        self.assertIn("Worth a look: lot4, called", self.labelled.classes.worth.text())
        self.key(Qt.Key.Key_D, Qt.KeyboardModifier.ShiftModifier)
        self.assertTrue({12, 13, 14} <= set(self.look.picked))

        self.shows_the_line_of_two_centres()
        scores = self.held.scores
        self.desk.do(KeepComponents(2))
        self.until(lambda: self.held is not None and self.held.assignment.k == 2)
        self.assertIs(self.held.scores, scores)

    def shows_the_line_of_two_centres(self):
        panel = self.labelled.held_out
        QTest.mouseClick(panel.along, LEFT)
        settle()
        chart = panel.view.chart
        self.assertEqual(chart.y_title, "run order")
        self.assertIn("hump", chart.note)
        own = self.codes[chart.marks.keys]
        one, two = self.labelled.two
        self.assertEqual(set(own), {one, two})
        self.assertLess(np.median(chart.marks.x[own == one]), np.median(chart.marks.x[own == two]))


class Behind(Wood):
    """The same where all is made behind, as of very many samples."""

    def setUp(self):
        for place in ("difference_panels", "labelled"):
            many = mock.patch(f"scutcher.desk.pages.groups.{place}.AT_ONCE", 10)
            many.start()
            self.addCleanup(many.stop)
        super().setUp()

    def band(self):
        chart = self.labelled.differences.view.chart
        return np.array([np.nan]) if chart is None or not chart.spreads else chart.spreads[0].low

    def test_the_strips_arrive(self):
        panels = self.labelled.differences
        one, two = self.labelled.two
        values = self.state.table.values
        wanted = values[self.codes == one].mean(axis=0) - values[self.codes == two].mean(axis=0)
        np.testing.assert_allclose(panels.view.chart.lines.ys[0], wanted, atol=1e-12)
        self.desk.selection.pick([3])
        self.until(lambda: bool(panels.means_view.chart.curves))
        np.testing.assert_allclose(panels.means_view.chart.curves[0].y, values[3] - values.mean(axis=0))

    def test_the_ratio_of_variances_is_made_behind(self):
        panels, where = self.labelled.differences, []
        whole = grouping_module.between_within

        def watched(values, codes):
            where.append(threading.current_thread() is threading.main_thread())
            return whole(values, codes)

        with mock.patch.object(grouping_module, "between_within", watched):
            self.labelled.grouping.__dict__.pop("ratios", None)
            QTest.mouseClick(panels.kinds["ratio"], LEFT)
            self.until(lambda: panels.view.chart.y_title == "F")
        values, codes = self.state.table.values[:, 0], self.codes
        parts = [values[codes == code] for code in np.unique(codes[codes >= 0])]
        self.assertAlmostEqual(panels.view.chart.lines.ys[0][0], f_oneway(*parts).statistic, places=6)
        self.assertEqual(where, [False])


class Tables(Wood):
    def test_overlap_gap_shares_and_linkage(self):
        grouping, held = self.labelled.grouping, self.held
        menu = self.labelled.classes.menu
        menu.choose("above: of regions")
        self.assertEqual(self.labelled.classes.table.square.cells[0][1].words, "shared")
        menu.choose("above: between hulls")
        self.assertIn(self.labelled.classes.table.square.cells[0][1].words, ("gap", "overlap"))
        menu.choose("mix-ups as shares")
        self.assertTrue(self.labelled.classes.table.square.cells[1][1].figure.endswith("%"))
        menu.choose("complete linkage")
        top = self.labelled.classes.table.square.tree.heights[-1]
        self.assertAlmostEqual(
            top, class_square(grouping, held, SquareLook(linkage="complete")).tree.heights[-1]
        )

        self.keeps_the_letters_of_names()

    def keeps_the_letters_of_names(self):
        """A class name that looks like markup is drawn as it is written."""
        for kind in self.kinds:
            self.desk.do(RenameClass("wood", kind, f"<b>{kind}</b>"))
        self.until(lambda: self.labelled.judging.held is not None)
        settle()
        self.assertIn("&lt;b&gt;", self.view.finding.text())


class Humps(unittest.TestCase):
    def test_words_on_humps(self):
        rng = np.random.default_rng(1)
        one = rng.normal(size=50)
        both = np.r_[one, one + 8]
        self.assertIn("two humps", along_words(both, np.r_[one, one], "", dip_test(both)))
        text = along_words(one, 2 * one, "moisture", dip_test(one))
        self.assertIn("one hump", text)
        self.assertIn("r 1.00 with moisture: rather a gradient cut in two", text)
        self.assertEqual(along_words(one[:4], one[:4], "", None), "too few samples to say")
        self.assertEqual(along_words(one, one, "", None), "one hump or two? …")  # not known yet


class Without(WindowCase):
    first_page, validates = "Groups", True

    def study(self):
        return Study(State.of("bare", lots(n=30)[0], QUICK))

    def test_no_class_column_says_what_to_do(self):
        settle()
        view = self.window.view("Groups")
        self.assertIn("No classes", view.finding.text())
        self.assertIn("Tag samples", view.labelled.classes.worth.text())
        self.assertIn("Tag samples", view.labelled.plane.panel.empty.text())


class Many(WindowCase):
    first_page, validates = "Groups", True

    def study(self):
        table, codes = lots(n=360, p=12, classes=60, apart=3.0)
        names = tuple(f"kind {code:02d}" for code in codes)
        return Study(State.of("many", replace(table, classes=(ClassColumn("kind", names),)), QUICK))

    def test_sixty_classes(self):
        view = self.window.view("Groups").labelled
        self.until(lambda: view.judging.held is not None)
        settle()
        table = view.classes.table
        self.assertEqual(len(table.square.codes), 60)
        self.assertGreaterEqual(table.height(), 60 * 24)
        self.assertEqual(table.place_at(QPointF(table.cell_rect(59, 0).center())), (59, 0))
        self.assertEqual(len([c for c in view.plane.view.chart.curves if c.role == "class"]), 60)

        self.desk.do(ColourBy("run order"))
        settle()
        self.assertEqual(view.grouping.column.name, "kind")


if __name__ == "__main__":
    unittest.main()
