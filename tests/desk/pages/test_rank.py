"""The Rank page by hand: the handle, the evidence, the held-out check, what is below."""

from functools import partial
from unittest import mock

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from scutcher.charts import colours
from scutcher.charts.rank import EVIDENCE, EvidenceRow, evidence_rows
from scutcher.core.validation.evidence import KEYS
from scutcher.desk.pages.known_answer import page as answer
from scutcher.desk.pages.known_answer.page import AnswerPage
from scutcher.desk.pages.rank.evidence import EvidenceChart
from tests.desk.driving import LEFT, WindowCase, count_colour, pixels, settle


class RankCase(WindowCase):
    validates = True
    demo, first_page = "practice", "Rank"

    @property
    def rank(self):
        return self.window.view("Rank")

    def checked(self):
        """Wait until every line of evidence is there."""
        self.until(
            lambda: self.desk.moment.checked is not None and len(self.desk.moment.checked.lines) == len(KEYS)
        )
        settle()


class Evidence(RankCase):
    def test_the_known_number_is_suggested_and_one_click_keeps_it(self):
        self.checked()
        rows = {row.key: row.suggested for row in self.rank.evidence.rows}
        for key in ("lowest-press", "one-standard-error", "indicator", "loading-structure", "permutation"):
            self.assertEqual(rows[key], 3, key)
        self.window.bottom.step(1)
        settle()
        self.assertEqual(self.model.k, 4)
        place = [row.key for row in self.rank.evidence.rows].index("indicator")
        QTest.mouseClick(self.rank.evidence, LEFT, pos=self.rank.evidence.dot(place).toPoint())
        settle()
        self.assertEqual(self.state.recipe.model.components, 3)

    def test_pointing_at_a_line_tells_what_it_means(self):
        self.checked()
        self.rank.evidence.pointed.emit(self.rank.evidence.rows[2])
        self.assertIn("broken stick: Shares larger", self.rank.meaning.text())
        self.assertEqual(set(EVIDENCE), set(KEYS))

    def test_words_are_not_crossed_by_the_handle(self):
        chart = EvidenceChart()
        self.addCleanup(chart.deleteLater)
        chart.resize(620, 120)
        row = partial(EvidenceRow, "indicator", "indicator", "", up_to=None)
        rows = [row(suggested=3, reason=""), row(suggested=None, reason="only along ordered axes " * 3)]
        chart.show_rows(rows, 3, 15)
        seen, x = pixels(chart), round(chart.x_at(3.5))
        ink = (np.abs(seen.astype(int) - np.array(colours.rgb(colours.INK))).max(axis=2) < 40)[
            :, x - 2 : x + 3
        ]
        tops = [round(chart.row_top(place)) for place in (0, 1)]
        self.assertGreater(ink[tops[0] : tops[1]].any(axis=1).mean(), 0.9)  # the handle
        words = ink[tops[1] + 4 : 2 * tops[1] - tops[0] - 4]
        self.assertEqual(int(words.sum()), 0)

    def test_none_and_more_than_there_is_room_for_have_their_own_places(self):
        chart = EvidenceChart()
        self.addCleanup(chart.deleteLater)
        chart.resize(600, 120)
        row = partial(EvidenceRow, "indicator", "indicator", "", up_to=None, reason="")
        chart.show_rows([row(suggested=0), row(suggested=15), row(suggested=20)], 4, 15)
        places = [chart.dot(place).x() for place in range(3)]
        self.assertEqual(places[:2], [chart.x_at(0), chart.x_at(15)])
        self.assertLess(chart.x_at(-0.5), places[0])
        self.assertTrue(places[1] < places[2] < chart.width())
        seen = pixels(chart)
        for place, number in enumerate((0, 15, 20)):  # its dot, and beside it the number that has no place
            middle = chart.dot(place).toPoint()
            beside = seen[middle.y() - 6 : middle.y() + 6, middle.x() - 26 : middle.x() - 9]
            inked = int((np.abs(beside.astype(int) - colours.rgb(colours.INK)).max(axis=2) < 40).sum())
            self.assertEqual(inked > 10, number == 20, number)

    def test_another_share(self):
        edit = self.rank.share
        edit.setFocus()
        edit.selectAll()
        self.type("60", edit)
        QTest.keyClick(edit, Qt.Key.Key_Return)
        settle()
        self.assertAlmostEqual(self.state.recipe.evidence.share, 0.6)
        self.until(lambda: self.desk.moment.checked is not None and "share" in self.desk.moment.checked.lines)
        self.assertEqual(self.desk.moment.checked.lines["share"].suggested, 1)
        edit.setFocus()
        edit.selectAll()
        self.type("150", edit)
        QTest.keyClick(edit, Qt.Key.Key_Return)
        self.assertIn("is not a share", self.window.message.label.text())

    def test_lines_under_way_say_so(self):
        rows = evidence_rows(None, 0.95)
        self.assertTrue(all(row.suggested is None and "under way" in row.reason for row in rows))


class Handle(RankCase):
    def test_dragging_the_handle_previews_and_one_command_on_release(self):
        view = self.rank.shares_view
        self.assertEqual(view.found.kept, 3)
        undo = len(self.desk.study._undo)
        view.handle.setValue(5.5)
        view.handle.sigDragged.emit(view.handle)
        settle()
        self.assertEqual(self.model.k, 5)
        self.assertEqual(self.state.recipe.model.components, 3)
        view.handle.sigPositionChangeFinished.emit(view.handle)
        settle()
        self.assertEqual(self.state.recipe.model.components, 5)
        self.assertEqual(len(self.desk.study._undo), undo + 1)

    def test_held_out_curve_is_drawn_and_in_the_ladder(self):
        self.checked()
        self.assertGreater(count_colour(self.rank.shares_view, colours.ALARM, 60), 150)
        q2 = self.desk.moment.checked.validation.q2
        self.assertIn(f"Q² {q2[2]:.3f}", self.window.bottom.figures.text())
        np.testing.assert_allclose(self.rank.shares_view.found.held_out[:10], q2[:10])

    def test_eigenvalues_log_and_table(self):
        for kind in ("eigenvalues", "log"):
            self.rank._set_kind(kind)
            settle()
        self.rank._set_kind("table")
        table = self.rank.shares_table
        self.assertEqual(table.columnCount(), 7)
        value = float(table.item(0, 1).text())
        self.assertAlmostEqual(value / self.model.decomposition.eigenvalues[0], 1.0, places=3)


class HeldOut(RankCase):
    def test_another_scheme_validates_anew(self):
        self.checked()
        before = self.desk.moment.checked.validation
        form = self.rank.check
        form.scheme.activated.emit(2)
        settle()
        self.assertEqual(self.state.recipe.validate.scheme, "blocks")
        self.until(
            lambda: (
                self.desk.moment.checked is not None
                and self.desk.moment.checked.validation.settings.scheme == "blocks"
            )
        )
        self.assertNotEqual(self.desk.moment.checked.validation.press[0], before.press[0])

    def test_more_parts_than_samples_is_said(self):
        form = self.rank.check
        edit = form.numbers["segments"]
        edit.setFocus()
        self.type("500", edit)
        QTest.keyClick(edit, Qt.Key.Key_Return)
        settle()
        self.until(lambda: self.desk.moment.checked is not None)
        self.assertIn("500 segments were asked for", form.note.text())
        self.assertTrue(np.isnan(self.rank.shares_view.found.held_out).all())

    def test_validation_can_be_stopped(self):
        self.desk.live.stop_checking()
        settle()
        self.assertIsNone(self.desk.live.checking)

    def test_engines_and_iterations(self):
        settings = self.window.trail.open_model_settings()
        settings.engine.activated.emit(3)
        self.until(lambda: self.model.decomposition.engine == "nipals")  # it goes in rounds, behind
        settle()
        self.assertIn("NIPALS iterations:", self.rank.check.note.text())


class Below(RankCase):
    def test_gallery_variables_and_fitted(self):
        pictures = self.rank.portraits.pictures
        self.assertGreaterEqual(len(pictures), 15)
        self.assertLess(pictures[0].noise, 0.05)
        self.assertGreater(pictures[8].noise, 0.3)
        self.rank._set_below("variance")
        settle()
        shares = self.rank.variable_view.chart.lines.ys[0]
        residual = self.desk.moment.found.z - self.model.reconstruction()
        total = (self.desk.moment.found.z**2).sum(axis=0)
        np.testing.assert_allclose(shares, 1 - (residual**2).sum(axis=0) / total, atol=1e-9)
        self.rank._set_below("importance")
        self.rank._set_below("fitted")
        settle()
        marks = self.rank.fitted_view.chart.marks
        self.assertEqual(len(marks.x), 120)
        self.assertGreater(np.corrcoef(marks.x, marks.y)[0, 1], 0.9)
        self.desk.selection.pick([4])
        settle()
        self.assertEqual(len(self.rank.fitted_view.chart.marks.x), 200)

    def test_a_component_is_shown_on_the_planes(self):
        place = QPointF(60, 52 * 2 + 20).toPoint()
        QTest.mouseClick(self.rank.portraits, LEFT, pos=place)
        self.assertEqual(self.look.pair[0], 2)


class Answer(RankCase):
    def test_the_known_answer_beside_the_one_found(self):
        fewer = mock.patch.object(answer, "SETS", 30)
        fewer.start()
        self.addCleanup(fewer.stop)
        self.window.papers.show_answer()
        page = self.window.stack.over
        self.assertIsInstance(page, AnswerPage)
        self.assertLess(float(page.components.item(0, 1).text().rstrip("°")), 8.0)
        self.until(lambda: page.covered.item(0, 2).text() != "…")
        self.assertAlmostEqual(float(page.covered.item(0, 2).text().rstrip(" %")), 95.0, delta=2.0)
        self.window.stack.hide_over()
