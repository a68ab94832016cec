"""The trail and the Treat page with menu, keys and mouse: what else a hand can do there."""

import unittest

import numpy as np
from PySide6.QtCore import QEvent, QItemSelectionModel, QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu
from shiboken6 import isValid

from scutcher.charts.emphasis import colouring_of
from scutcher.core.groups.class_separation import between_within
from scutcher.desk.actions.add_treatment import AddTreatment
from scutcher.study.document.commands.recipe import SwitchStep
from tests.desk.driving import LEFT, WindowCase, pixels, settle


class TreatByHand(WindowCase):
    first_page = "Treat"

    @property
    def treat(self):
        return self.window.view("Treat")

    @property
    def methods(self):
        return [step.method for step in self.state.recipe.treat]


class Trail(TreatByHand):
    def menu(self, knot):
        place = QPoint(60, 12)
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, knot.mapToGlobal(place))
        QApplication.sendEvent(knot, event)
        menu = QApplication.activePopupWidget()
        self.assertIsInstance(menu, QMenu)
        self.addCleanup(lambda: menu.close() if isValid(menu) else None)
        return {action.text(): action for action in menu.actions()}

    def choose(self, knot, word):
        entries = self.menu(knot)
        self.assertTrue(entries[word].isEnabled())
        entries[word].trigger()
        QApplication.activePopupWidget().close()
        settle()

    def test_the_menu_of_a_step_duplicates_moves_and_deletes_it_each_with_undo(self):
        self.add("savitzky-golay", window=11)
        self.choose(self.window.trail.knots[1], "Duplicate")
        self.assertEqual(self.methods, ["snv", "snv", "savitzky-golay"])
        self.choose(self.window.trail.knots[3], "Move up")
        self.assertEqual(self.methods, ["snv", "savitzky-golay", "snv"])
        self.choose(self.window.trail.knots[1], "Move down")
        self.assertEqual(self.methods, ["savitzky-golay", "snv", "snv"])
        self.choose(self.window.trail.knots[2], "Delete")
        self.assertEqual(self.methods, ["savitzky-golay", "snv"])
        for wanted in (3, 3, 3, 2):
            self.window.undo()
            self.assertEqual(len(self.methods), wanted)
        self.assertEqual(self.methods, ["snv", "savitzky-golay"])

    def test_what_is_switched_off_is_pale_and_the_undo_says_so(self):
        name, bar = self.window.trail.knots[1].name, self.window.topbar

        def darkest():
            return int(pixels(name).max(axis=2).min())

        ink = darkest()
        self.desk.do(SwitchStep(0, False))
        settle()
        self.assertGreater(darkest(), ink + 40)
        self.assertTrue(bar.undo.isEnabled())
        self.assertIn("off", bar.undo.toolTip())
        self.window.undo()
        settle()
        self.assertEqual(darkest(), ink)
        self.assertFalse(bar.undo.isEnabled())
        self.assertIn("off", bar.redo.toolTip())

    def test_the_ends_of_the_trail_cannot_be_moved_beyond(self):
        self.add("savitzky-golay", window=11)
        first = self.menu(self.window.trail.knots[1])
        self.assertEqual((first["Move up"].isEnabled(), first["Move down"].isEnabled()), (False, True))
        QApplication.activePopupWidget().close()
        last = self.menu(self.window.trail.knots[2])
        self.assertEqual((last["Move up"].isEnabled(), last["Move down"].isEnabled()), (True, False))

    def test_the_menu_puts_the_model_by_and_adds_before_a_step(self):
        self.choose(self.window.trail.knots[1], "Put the model by as it is now")
        self.assertEqual([model.name for model in self.state.shelf], ["SNV"])
        self.add("savitzky-golay", window=11)
        self.choose(self.window.trail.knots[2], "Add a treatment before it…")
        (paper,) = (one for one in self.window.findChildren(AddTreatment) if one.isVisible())
        self.type("offset", paper.search)
        QTest.keyClick(paper.search, Qt.Key.Key_Return)
        settle()
        self.assertEqual(len(self.methods), 3)
        self.assertEqual((self.methods[0], self.methods[2]), ("snv", "savitzky-golay"))

    def test_keys_choose_a_knot(self):
        knot = self.window.trail.knots[1]
        for key in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self.desk.selection.change(stage=0)
            settle()
            knot.setFocus()
            QTest.keyClick(knot, key)
            settle()
            self.assertEqual(self.look.stage, 1)
        self.assertEqual(self.treat.form_title.text(), "Standard normal variate")

    def test_arrows_go_through_what_the_search_left(self):
        paper = self.window.papers.add_treatment()
        self.type("baseline", paper.search)
        shown = [r for r in range(paper.list.count()) if not paper.list.item(r).isHidden()]
        self.assertGreater(len(shown), 2)
        for wanted in (*shown[1:], shown[-1]):  # at the end it stays
            QTest.keyClick(paper.search, Qt.Key.Key_Down)
            self.assertEqual(paper.list.currentRow(), wanted)
        QTest.keyClick(paper.search, Qt.Key.Key_Up)
        self.assertEqual(paper.list.currentRow(), shown[-2])


class BehindTheStudy(TreatByHand):
    def test_a_page_that_is_drawn_before_the_undone_moment_arrives(self):
        self.add("gaussian-smooth", sd=1.5)
        self.until(lambda: len(self.desk.moment.found.recipe.treat) == len(self.state.recipe.treat))
        page = self.window.view("Treat")
        page.refresh()
        before = page._shown
        self.desk.study.undo()
        settle(20)
        page._shown = before  # a moment that still has the step that the study has no more
        page._drop_form()
        page._show_form(len(before.found.recipe.treat) - 1)
        self.assertEqual(page.form.parameters.sd, 1.5)
        page.form.changed.emit(page.form.parameters)
        settle(20)
        self.assertNotIn("gaussian-smooth", [step.method for step in self.state.recipe.treat])


class Pictures(TreatByHand):
    def test_the_edge_of_a_region_is_dragged(self):
        self.add("channels", mode="leave-out", regions=[[1900.0, 2000.0]])
        view = self.treat.strips.before_view
        item = view._regions[0]
        start = self.data_place(view, 2000.0, np.mean(view.ground.viewRange()[1]))
        end = self.data_place(view, 2100.0, np.mean(view.ground.viewRange()[1]))
        self.drag(view.viewport(), [start, (start + end) / 2, end])
        self.assertTrue(item.scene() is None or item.getRegion()[1] > 2050)
        (low, high), *rest = self.state.recipe.treat[1].parameters.regions
        self.assertEqual(rest, [])
        self.assertAlmostEqual(low, 1900.0)
        self.assertAlmostEqual(high, 2100.0, delta=5.0)
        left = self.desk.moment.found.treated.axis.places()
        self.assertFalse(((left > 1902) & (left < 2090)).any())

    def test_the_pointer_on_one_strip_is_a_cursor_on_all(self):
        view = self.treat.strips.after_view
        place = self.data_place(view, 1700.3, np.mean(view.ground.viewRange()[1]))
        QTest.mouseMove(view.viewport(), place - QPoint(3, 0))
        QTest.mouseMove(view.viewport(), place)
        settle()
        for strip in self.treat.strips.views:
            self.assertIsNotNone(strip.cursor)
            self.assertAlmostEqual(strip.cursor, 1700.0, delta=2.1)
        QApplication.sendEvent(view, QEvent(QEvent.Type.Leave))
        settle()
        self.assertFalse(any(strip.cursor is not None for strip in self.treat.strips.views))

    def test_a_class_in_focus_stands_out_on_every_view(self):
        before = [view.grab().toImage() for view in self.treat.views()]
        self.desk.selection.change(focus=self.state.table.classes[0].levels[0])
        settle()
        after = [view.grab().toImage() for view in self.treat.views()]
        changed = [one != other for one, other in zip(before, after, strict=True)]
        self.assertEqual(changed, [True, True, False, True])  # the ratio has no classes

    def test_means_and_the_ratio_before(self):
        self.add("savitzky-golay", window=11)
        self.treat.strips.set_means(True)
        settle()
        self.assertEqual(len(self.treat.strips.after_view.chart.lines.keys), 4)
        self.assertEqual(self.treat.strips.ratio_view.chart.curves, ())
        self.treat.strips.set_before(True)
        settle()
        (before,) = self.treat.strips.ratio_view.chart.curves
        found = self.desk.moment.found
        codes = colouring_of(self.state).codes[found.usable.rows]
        np.testing.assert_allclose(before.y, between_within(found.stages[1].values, codes))


class Weights(TreatByHand):
    demo = "bench"

    def setUp(self):
        super().setUp()
        self.desk.selection.change(stage=len(self.methods) + 1)
        settle()
        self.panel = self.treat.scaling

    def choose_rows(self, *rows):
        selection = self.panel.table.selectionModel()
        selection.clear()
        for row in rows:
            flags = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
            selection.select(self.panel.model.index(row, 0), flags)

    def spread(self, *rows):
        return self.desk.moment.found.z[:, rows].std(axis=0, ddof=1)

    def test_rows_off_as_one_block_and_all_on_again(self):
        self.choose_rows(1, 2)
        QTest.mouseClick(self.panel.all_off, LEFT)
        settle()
        self.assertEqual(self.state.recipe.scale.off, self.panel.model.labels[1:3])
        self.assertGreater(abs(self.spread(1)[0] - 1.0), 0.1)
        self.choose_rows(3, 4, 5)
        QTest.mouseClick(self.panel.block, LEFT)
        settle()
        self.assertEqual(self.state.recipe.scale.blocks[0].variables, self.panel.model.labels[3:6])
        self.assertAlmostEqual(float((self.spread(3, 4, 5) ** 2).sum()), 1.0)
        self.assertEqual(self.panel.note.text(), "1 block.")
        QTest.mouseClick(self.panel.all_on, LEFT)
        settle()
        np.testing.assert_allclose(self.spread(*range(12)), 1.0)
        self.assertEqual(self.state.recipe.scale.blocks, ())

    def test_the_table_fits_its_paper(self):
        self.assertFalse(self.panel.table.horizontalScrollBar().isVisible())
        header = self.panel.table.horizontalHeader()
        self.assertEqual(header.length(), self.panel.table.viewport().width())

    def test_another_centre(self):
        self.panel.centre.activated.emit(1)
        settle()
        self.assertEqual(self.state.recipe.scale.centre, "median")
        np.testing.assert_allclose(np.median(self.desk.moment.found.z, axis=0), 0.0, atol=1e-12)


if __name__ == "__main__":
    unittest.main()
