"""A refresh in turns: in order, with the window's own work between, and whatever comes in between."""

import unittest
from dataclasses import replace
from functools import partial
from unittest import mock

import numpy as np
from PySide6.QtCore import QObject
from PySide6.QtWidgets import QApplication

from scutcher.desk import context
from scutcher.desk.deferred import InTurns
from scutcher.desk.pages.rank import component_gallery
from scutcher.desk.pages.treat import page as treat_page
from scutcher.desk.pages.treat import strips as treat_strips
from scutcher.desk.shell.start import application
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.commands.samples import SetAside
from tests.desk.driving import WindowCase, pixels, settle


class Turns(unittest.TestCase):
    def setUp(self):
        application()
        self.owner, self.done = QObject(), []
        self.turns = InTurns(self.owner)

    def parts(self, words):
        return [partial(self.done.append, word) for word in words]

    def test_all_at_once_or_one_after_the_other(self):
        self.turns.run(self.parts("abc"), apart=False)
        self.assertEqual(self.done, ["a", "b", "c"])
        self.turns.run(self.parts("def"), apart=True)
        self.assertEqual(self.done[3:], ["d"])
        settle()
        self.assertEqual(self.done[3:], ["d", "e", "f"])

    def test_the_next_refresh_takes_the_place_of_what_is_left(self):
        self.turns.run(self.parts("abc"), apart=True)
        self.turns.run(self.parts("de"), apart=True)
        settle()
        self.assertEqual(self.done, ["a", "d", "e"])

    def test_more_comes_after_what_is_left(self):
        self.turns.run(self.parts("abc"), apart=True)
        self.turns.also(self.parts("d"), apart=True)
        self.assertEqual(self.done, ["a"])
        settle()
        self.assertEqual(self.done, ["a", "b", "c", "d"])
        self.turns.also(self.parts("e"), apart=True)
        self.assertEqual(self.done[4:], ["e"])
        self.turns.run(self.parts("fg"), apart=True)
        self.turns.also(self.parts("h"), apart=False)
        self.assertEqual(self.done[5:], ["f", "g", "h"])
        settle()
        self.assertEqual(len(self.done), 8)

    def test_after_a_mistake_the_others_come_all_the_same(self):
        broken = mock.Mock(side_effect=ValueError)
        self.turns.run([*self.parts("a"), broken, *self.parts("b")], apart=True)
        with mock.patch("sys.excepthook") as told:
            settle()
        broken.assert_called_once()
        self.assertTrue(told.called)
        self.assertEqual(self.done, ["a", "b"])


class ViewByView(WindowCase):
    """The Inspect page as it is with very many numbers."""

    def setUp(self):
        super().setUp()
        much = mock.patch.object(context, "MUCH", 0)
        much.start()
        self.addCleanup(much.stop)
        self.view = self.window.view("Inspect")

    def charts(self):
        return [view.chart for view in self.view.views()]

    def test_every_view_comes_to_show_the_model_of_now(self):
        before = self.charts()
        self.desk.do(SetAside((3, 7), "wet"))
        turns = []
        while len(turns) < 20 and any(old is new for old, new in zip(before, self.charts(), strict=True)):
            QApplication.processEvents()
            turns.append(sum(old is not new for old, new in zip(before, self.charts(), strict=True)))
        self.assertGreater(len(set(turns)), 3)  # not all in one turn
        settle()
        rows = self.desk.moment.found.usable.rows
        np.testing.assert_array_equal(self.view.scores_view.chart.marks.keys[: len(rows)], rows)
        self.desk.study.undo()
        self.desk.do(KeepComponents(2))  # while the former is still being drawn
        for _ in range(20):
            QApplication.processEvents()
        shown = [chart.marks.x for chart in (self.view.distances.view.chart, self.view.scores_view.chart)]
        np.testing.assert_allclose(shown[1], self.model.scores[:, 0])
        self.assertEqual(len(shown[0]), 143)

    def test_a_pick_is_seen_on_all_of_them(self):
        self.desk.selection.pick([5, 9])
        for _ in range(10):
            QApplication.processEvents()
        for view in self.view.planes:
            keys = view.chart.marks.keys
            picked = np.isin(keys, (5, 9))
            self.assertEqual(len(set(view.strength[picked].tolist())), 1)
            self.assertNotIn(view.strength[picked][0], view.strength[~picked])


class AfterThePage(WindowCase):
    """Pages as they are made with very many numbers: they are there before what they show."""

    def test_treat(self):
        self.window.show_page("Treat")
        wanted = [view.chart for view in self.window.view("Treat").views()]
        with mock.patch.object(context, "MUCH", 0):
            page = treat_page.TreatPage(self.desk)
            self.addCleanup(page.deleteLater)
            list(page.build())
            page.refresh()
            page.resize(1000, 700)
            self.desk.live.announce({"checking"})  # before anything is drawn
            self.assertEqual({view.chart for view in page.views()}, {None})
            self.assertFalse(any(view.left_axis.isVisible() for view in page.views()))
            self.assertEqual(page.form_title.text(), "Standard normal variate")  # what stands where is known
            page.show()
            drawn = []
            while len(drawn) < 30 and (not drawn or drawn[-1] < len(wanted)):
                QApplication.processEvents()
                drawn.append(sum(view.chart is not None for view in page.views()))
        self.assertGreater(len(set(drawn)), 2)  # one after the other
        for chart, view in zip(wanted, page.views(), strict=True):
            self.assertEqual(view.chart.title, chart.title)
            for one, other in ((chart.lines, view.chart.lines), (chart.marks, view.chart.marks)):
                self.assertEqual(one is None, other is None)
        np.testing.assert_array_equal(wanted[1].lines.ys, page.views()[1].chart.lines.ys)

    def test_a_preview_that_comes_between_stays(self):
        self.window.show_page("Treat")
        page = self.window.view("Treat")
        with mock.patch.object(context, "MUCH", 0):
            page.refresh()  # the form; the strips are left for later turns
            page.strips.set_means(True)
            settle(12)
        levels = len(set(self.state.table.classes[0].values))
        for view in (page.strips.before_view, page.strips.after_view):
            self.assertEqual(len(view.chart.lines.keys), levels)
        newer = treat_strips.newest(self.desk, self.desk.moment, page._place)
        with mock.patch.object(context, "MUCH", 0):
            page.refresh()
            staged = replace(newer[0], name="newer"), newer[1]
            with mock.patch.object(treat_strips, "newest", return_value=staged) as asked:
                settle(12)
        self.assertEqual(asked.call_count, 3)  # each view asks when it is drawn

    def test_rows_of_components(self):
        self.window.show_page("Rank")
        settle(12)
        gallery = self.window.view("Rank").portraits
        whole, count = pixels(gallery), len(gallery._cards)
        self.assertGreater(count, 3)
        gallery._cards.clear()
        with mock.patch.multiple(component_gallery, SLOW=0, FRAME=0.0):
            gallery.repaint()
            self.assertEqual(len(gallery._cards), 1)
            settle(count + 2)
        np.testing.assert_array_equal(pixels(gallery), whole)


if __name__ == "__main__":
    unittest.main()
