"""Stability on screen: bands and pale pieces of loadings, tails, planes, and who turns the model."""

import unittest

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from scutcher.charts import colours
from scutcher.charts.figure import Figure
from scutcher.charts.loadings import loadings
from scutcher.charts.printing import svg_text
from scutcher.core.validation.limit_coverage import Simulated
from scutcher.desk.pages.inspect.why import Why
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.stability import degrees_of, stability_of
from tests.core.validation.test_held_out_limits import table_of
from tests.desk.driving import WindowCase, count_colour, settle


class Stable(WindowCase):
    validates = True
    size = (42, 60)

    def study(self):
        n, p = self.size
        values, groups = Simulated(p, replicates=3).draw(n, np.random.default_rng(4))
        values[:3] += 0.3 * np.exp(-0.5 * ((np.arange(p) - 8) / 2.0) ** 2)  # one lot that the model leans on
        return Study(State.of("simulated", table_of(values, tuple(f"g{g}" for g in groups))))

    def setUp(self):
        super().setUp()
        self.until(lambda: self.desk.moment.checked is not None and self.desk.moment.checked.influence)
        settle()

    @property
    def stable(self):
        return stability_of(self.desk.moment.found, self.desk.moment.checked)

    def test_bands_and_pale_pieces(self):
        chart = self.page.strips.loadings_view.chart
        self.assertEqual(len(chart.spreads), 2)
        band = chart.spreads[1]
        np.testing.assert_allclose(band.high - band.low, 4 * self.stable.errors[:, 1])
        faint = np.abs(self.model.loadings[:, :2]) < 2 * self.stable.errors[:, :2]
        np.testing.assert_array_equal(chart.lines.faint, faint.T)
        self.assertTrue(faint.any() and not faint.all())
        header, rows = chart.numbers()
        self.assertEqual(header[-2:], ["component 2 from", "component 2 to"])
        self.assertEqual(rows[3][-1], band.high[3])

    def test_pale_pieces_are_pale_in_the_picture(self):
        view = self.page.strips.loadings_view
        pale = count_colour(view, colours.pale(colours.OCHRE), 6)
        plain = loadings(self.desk.moment.found, (0, 1))
        view.show_chart(plain, np.ones(2, dtype=np.intp))
        settle()
        without = count_colour(view, colours.pale(colours.OCHRE), 6)  # edges of lines are pale too
        self.assertGreater(pale, 2 * without)

    def test_tails_lead_to_held_out_places(self):
        tail = next(c for c in self.page.scores_view.chart.curves if len(c.x) == 3 * 42)
        np.testing.assert_allclose(tail.x[1::3], self.stable.places[:, 0])
        np.testing.assert_allclose(tail.y[0::3], self.model.scores[:, 1])
        self.page.score_menu.turn("places", True)
        settle()
        self.assertEqual(self.page.scores_view.chart.curves, ())

    def test_the_handle_moves_it_all(self):
        self.desk.do(KeepComponents(2))
        settle()
        self.assertEqual(self.stable.errors.shape, (60, 2))
        band = self.page.strips.loadings_view.chart.spreads[0]
        np.testing.assert_allclose(band.high - band.low, 4 * self.stable.errors[:, 0])

    def test_the_roster_sorts_by_who_turns_the_model(self):
        self.window.show_page("Samples")
        settle()
        roster = self.window.view("Samples").roster
        names = [column.header for column in roster.source.columns]
        place = names.index("turns / °")
        roster.sortByColumn(place, Qt.SortOrder.DescendingOrder)
        settle()
        self.assertEqual(set(roster.source.rows[:3]), {0, 1, 2})
        degrees = degrees_of(self.desk.moment.found, self.desk.moment.checked)
        self.assertEqual(len(set(degrees[:3])), 1)
        tip = roster.source.headerData(place, Qt.Orientation.Horizontal, Qt.ItemDataRole.ToolTipRole)
        self.assertIn("turns", tip)

    def test_why_says_it(self):
        self.desk.selection.pick([1])
        QTest.keyClick(self.window, Qt.Key.Key_Y)
        settle()
        (paper,) = self.window.findChildren(Why)
        self.assertIn("the most of 14.", paper.note.text())
        self.assertIn(f"Without {self.state.table.replicates[1]} the model turns by", paper.note.text())

    def test_the_paper_covers_none_of_the_strips(self):
        self.desk.selection.pick([1])
        QTest.keyClick(self.window, Qt.Key.Key_Y)
        settle()
        (paper,) = self.window.findChildren(Why)
        view = self.page.strips.leftover_view
        left = view.mapTo(self.window, self.data_place(view, 1.0, 0.0)).x()
        self.assertLessEqual(paper.geometry().right(), left)

    def test_a_pick_of_many_is_a_mean_with_its_spread(self):
        rows = list(range(3, 18))
        self.desk.selection.pick(rows)
        settle()
        chart = self.page.strips.leftover_view.chart
        z = self.desk.moment.found.z[rows]
        away = z - z @ self.model.loadings @ self.model.loadings.T
        np.testing.assert_allclose(chart.lines.ys[0], away.mean(axis=0), atol=1e-12)
        low, high = np.quantile(away, (1 / 6, 5 / 6), axis=0)
        np.testing.assert_allclose(chart.spreads[0].low, low)
        np.testing.assert_allclose(chart.spreads[0].high, high)
        self.desk.selection.pick([3])
        settle()
        single = self.page.strips.leftover_view.chart.ribbon
        of_many = (chart.ribbon.high - chart.ribbon.low).mean()
        self.assertGreater((single.high - single.low).mean(), 1.5 * of_many)


class OfATable(Stable):
    """Bars with whiskers in place of lines."""

    def study(self):
        study = super().study()
        table = study.state.table
        from scutcher.core.data.axis import Axis
        from scutcher.core.data.table import Table

        names = Axis(tuple(f"v{c}" for c in range(self.size[1])))
        return Study(State.of("bars", Table(table.values, names, table.ids, replicates=table.replicates)))

    def test_the_paper_covers_none_of_the_strips(self):
        self.assertTrue(self.page.strips.loadings_view.chart.bars)


class Words(WindowCase):
    validates = True

    def study(self):
        rng = np.random.default_rng(4)
        around = np.linalg.qr(rng.normal(size=(30, 2)))[0] * 30**0.5
        values = np.hstack([around - around.mean(axis=0), 0.05 * rng.normal(size=(30, 12))])
        return Study(State.of("round", table_of(values)))

    def test_components_that_are_one_plane_are_said_to_be(self):
        self.desk.do(KeepComponents(2))
        self.until(lambda: self.desk.moment.checked is not None)
        settle()
        self.assertEqual(self.page.scores_view.chart.note, "1 × 2 · 1 and 2 are not told apart")


class Printed(unittest.TestCase):
    def test_the_print_has_pale_lines_and_whiskers(self):
        from scutcher.charts.description import Chart, Lines, Ribbon

        x, y = np.arange(1.0, 6.0), np.array([[1.0, 2.0, 0.1, -0.1, -2.0]])
        faint = np.abs(y) < 0.5
        lines = Lines(x, y, np.array([0]), np.array([0]), ("component 1",), "component", faint)
        spread = (Ribbon(x, y[0] - 0.5, y[0] + 0.5),)
        for bars in (False, True):
            text = svg_text(Chart("Loadings", lines=lines, spreads=spread, bars=bars), Figure())
            self.assertIn(colours.pale(colours.ACCENT).lower(), text)
            self.assertIn(colours.ACCENT.lower(), text)


if __name__ == "__main__":
    unittest.main()
