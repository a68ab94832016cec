"""Pages made part by part: the page before stays until the new one is whole, and it is the same page."""

import unittest
from unittest import mock

import numpy as np
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from scutcher.desk import context
from scutcher.desk.pages import page_making
from scutcher.desk.pages.declaration import Page, PageView
from scutcher.desk.pages.samples import page as samples_page
from scutcher.desk.pages.samples.page import SamplesPage
from scutcher.desk.painting import busy
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study
from tests.desk.driving import WindowCase, pixels, settle


class MakingCase(WindowCase):
    """A window whose data count as very many."""

    def setUp(self):
        super().setUp()
        self.much = mock.patch.object(context, "MUCH", 0)
        self.much.start()
        self.addCleanup(self.much.stop)

    def turns(self, name, most=40):
        """How many turns it takes until a page is there."""
        for turn in range(most):
            if self.window.view(name) is not None:
                return turn
            QApplication.processEvents()
        self.fail(f"{name} was not made in {most} turns")

    def calm(self):
        self.until(lambda: not self.desk.live.busy and self.desk.live.checking is None)
        QTest.qWait(250)
        settle(8)


def far_apart(one, other):
    """The share of the pixels in which two views of one size differ."""
    QTest.qWait(100)
    pictures = [pixels(view).astype(int) for view in (one, other)]
    if pictures[0].shape != pictures[1].shape:
        return 1.0
    return float((np.abs(pictures[0] - pictures[1]).max(axis=2) > 40).mean())


class PartByPart(MakingCase):
    def test_the_page_before_stays_until_the_other_is_whole(self):
        before = self.window.view("Inspect")
        self.window.show_page("Samples")
        self.assertIsNone(self.window.view("Samples"))
        self.assertEqual(self.window.stack.current, "Samples")
        half = self.window.findChildren(SamplesPage)
        self.assertEqual(len(half), 1)  # it has its place in the window from the beginning
        seen = [before.isVisible() and not half[0].isVisible()]
        while self.window.view("Samples") is None:
            QApplication.processEvents()
            if self.window.view("Samples") is None:
                seen.append(before.isVisible() and not half[0].isVisible())
        self.assertGreater(len(seen), 3)
        self.assertEqual(set(seen), {True})
        self.assertTrue(half[0].isVisible())
        self.assertFalse(before.isVisible())

    def test_the_same_page_as_at_once(self):
        for name in ("Samples", "Treat", "Rank", "Groups"):
            with self.subTest(page=name):
                self.window.show_page(name)
                self.assertGreater(self.turns(name), 1)
                self.much.stop()
                other = Window(Study(self.state), first=name)
                self.addCleanup(dispose, other)
                other.resize(self.window.size())
                other.show()
                self.assertIsNotNone(other.view(name))
                views = self.window.view(name), other.view(name)
                self.until(lambda views=views: far_apart(*views) < 0.002)  # also what comes from behind
                self.much.start()

    def test_what_changes_meanwhile_is_on_it(self):
        self.window.show_page("Samples")
        QApplication.processEvents()
        self.assertIsNone(self.window.view("Samples"))
        self.desk.do(SetAside((4,), "a spill"))
        self.turns("Samples")
        self.calm()
        roster = self.window.view("Samples").roster.source
        self.assertIn("set aside: a spill", list(roster.cells[-1]))
        self.assertEqual(roster.rowCount(), len(self.state.table.ids))


class ElsewhereMeanwhile(MakingCase):
    def test_another_page_in_between(self):
        self.window.show_page("Samples")
        QApplication.processEvents()
        self.window.show_page("Rank")
        self.turns("Rank")
        settle(12)
        self.assertIsNone(self.window.view("Samples"))  # nobody waits for it
        self.assertTrue(self.window.view("Rank").isVisible())
        self.window.show_page("Samples")
        self.turns("Samples")
        self.assertEqual(len(self.window.findChildren(SamplesPage)), 1)
        self.assertTrue(self.window.view("Samples").isVisible())
        self.assertFalse(self.window.view("Rank").isVisible())

    def test_back_to_the_page_before(self):
        self.window.show_page("Samples")
        QApplication.processEvents()
        self.window.show_page("Inspect")
        settle(12)
        self.assertTrue(self.window.view("Inspect").isVisible())
        self.assertIsNone(self.window.view("Samples"))

    def test_whoever_needs_it_at_once_has_it(self):
        self.window.show_page("Samples")
        QApplication.processEvents()
        half = self.window.findChildren(SamplesPage)
        view = self.window.stack.show_page("Samples", at_once=True)
        self.assertEqual([view], half)
        self.assertTrue(view.isVisible())
        settle(6)
        self.assertEqual(self.window.findChildren(SamplesPage), half)

    def test_other_drawing_waits_and_a_window_that_goes_leaves_no_mark(self):
        busy.COMPUTING.clear()
        self.window.show_page("Samples")
        self.assertTrue(busy.COMPUTING)
        self.turns("Samples")
        self.assertFalse(busy.COMPUTING)
        self.window.show_page("Treat")
        self.assertTrue(busy.COMPUTING)
        dispose(self.window)
        self.assertFalse(busy.COMPUTING)


class Mistakes(MakingCase):
    def test_a_part_that_fails_leaves_no_half_page(self):
        with mock.patch.object(samples_page, "Roster", side_effect=ZeroDivisionError):
            with self.assertRaises(ZeroDivisionError):
                self.window.stack.show_page("Samples", at_once=True)
            self.assertIsNone(self.window.view("Samples"))
        settle()
        view = self.window.stack.show_page("Samples", at_once=True)
        self.assertTrue(view.isVisible())
        self.assertEqual([one for one in self.window.findChildren(SamplesPage) if one.isVisible()], [view])

    def test_a_page_without_parts(self):
        told = []
        pages = {"Toy": Page("Toy", 1, "", lambda desk: PageView())}
        making = page_making.PageMaking(
            self.desk, self.window.stack, pages, lambda *what: told.append((*what, busy.COMPUTING.copy()))
        )
        making.make("Toy", apart=False)
        self.assertEqual(told[0][0], "Toy")
        self.assertFalse(making.is_begun("Toy"))
        making.make("Toy", apart=True)
        self.assertTrue(making.is_begun("Toy"))
        settle()
        self.assertEqual([what[0] for what in told], ["Toy", "Toy"])
        self.assertIs(told[1][1].parentWidget(), self.window.stack)


if __name__ == "__main__":
    unittest.main()
