"""The top bar holds the names of all pages that are to come."""

import unittest

from scutcher.desk.pages.declaration import Page, PageView
from scutcher.desk.shell.top_bar import TopBar
from scutcher.desk.trail.knot import Knot
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.core.making import ordered_table, random_spectra
from tests.desk.driving import WindowCase, settle

NAMES = ("Samples", "Treat", "Rank", "Inspect", "Groups", "Maps", "Series", "Blocks", "Report")


class Nine(WindowCase):
    def test_nine_page_names_at_1280(self):
        pages = tuple(Page(name, place, "", lambda desk: PageView()) for place, name in enumerate(NAMES))
        bar = TopBar(self.desk, self.window.finder, pages)
        self.addCleanup(bar.deleteLater)
        bar.resize(1280, 42)
        bar.show_page("Inspect")  # the one that is shown is bold, and wider
        bar.show()
        settle()
        right = 0
        for name in NAMES:
            button = bar.pages[name]
            self.assertGreaterEqual(button.width(), button.sizeHint().width(), name)
            self.assertGreaterEqual(button.x(), right, name)
            right = button.geometry().right()
        self.assertGreater(bar.menu.x(), right)
        self.assertGreaterEqual(bar.search.width(), 150)
        self.assertLessEqual(bar.search.geometry().right(), 1280)
        self.assertGreaterEqual(bar.study.width(), 100)  # enough of the study's name


class VeryMany(WindowCase):
    def study(self):
        return Study(State.of("long", ordered_table(random_spectra(12_000, 5))))

    def test_counts_are_read_the_same_everywhere(self):
        self.assertIn("12,000 samples × 5 channels", self.window.topbar.study.text())
        self.assertIn("12,000 × 5", self.window.trail.data_knot.small.text())
        self.until(lambda: self.desk.moment.found is not None)
        settle(8)
        said = [knot.small.text() for knot in self.window.trail.findChildren(Knot)]
        self.assertTrue([words for words in said if words.startswith("12,000 samples · ")], said)
        self.desk.do(SetAside(tuple(range(1200)), "the first hours"))
        settle(8)
        self.assertEqual(self.window.trail.data_knot.set_aside_link.text(), "1,200 set aside")


if __name__ == "__main__":
    unittest.main()
