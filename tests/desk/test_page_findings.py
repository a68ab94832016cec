"""The sentence at the top of the pages: it follows the study, its bold words pick, it can be copied."""

import unittest

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent, QFontMetricsF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.document.commands.recipe import KeepComponents, SwitchStep
from scutcher.study.document.commands.samples import SetAside
from tests.desk.driving import LEFT, WindowCase, pixels, settle


class Findings(WindowCase):
    def sentence(self, page):
        self.window.show_page(page)
        settle()
        return self.window.view(page).finding.sentence

    def test_inspect_follows_classes_and_samples(self):
        first = self.sentence("Inspect")
        self.assertIn("L30-2", first)
        self.desk.do(ColourBy(""))
        settle()
        self.assertNotIn("class", self.sentence("Inspect"))
        self.desk.do(SetAside(tuple(self.row(f"L30-{scan}") for scan in (1, 2, 3)), "oil"))
        settle()
        self.assertNotIn("L30-2", self.sentence("Inspect"))

    def test_bold_words_pick(self):
        self.sentence("Inspect")
        finding = self.window.view("Inspect").finding
        place = next(place for place, rows in enumerate(finding._rows) if self.row("L30-1") in rows)
        finding.linkActivated.emit(str(place))
        settle()
        self.assertIn(self.row("L30-1"), self.look.picked)

    def test_the_pointer_finds_what_can_be_clicked(self):
        self.sentence("Inspect")
        finding = self.window.view("Inspect").finding
        finding.show_pieces([("Look at ", ()), ("these three", (5, 6, 7)), (" of them.", ())])
        before = QFontMetricsF(finding.font()).horizontalAdvance(finding._words[0])
        inside = finding.contentsRect()
        bold = QPoint(round(inside.left() + before + 12), inside.center().y())
        shapes = []
        for place in (bold, inside.center() * 2, bold):
            QTest.mouseMove(finding, place)
            settle()
            shapes.append(finding.cursor().shape())
        hand, arrow = Qt.CursorShape.PointingHandCursor, Qt.CursorShape.ArrowCursor
        self.assertEqual(shapes, [hand, arrow, hand])
        QTest.mousePress(finding, LEFT, pos=bold)
        QTest.mouseRelease(finding, LEFT, pos=QPoint(1, 1))
        self.assertFalse(self.look.picked)
        QTest.mouseClick(finding, LEFT, pos=bold)
        settle()
        self.assertEqual(set(self.look.picked), {5, 6, 7})

    def test_keys_go_from_one_to_the_next(self):
        self.sentence("Inspect")
        finding = self.window.view("Inspect").finding
        finding.show_pieces([("Look at ", ()), ("these three", (5, 6, 7)), (" and ", ()), ("that", (9,))])
        settle()
        bare = pixels(finding)
        finding.setFocus()
        settle()
        self.assertTrue((pixels(finding) != bare).any())  # an outline says where the keys are
        self.key(Qt.Key.Key_Right, widget=finding)
        around = self.outline(finding, bare)
        start = QFontMetricsF(finding.font()).horizontalAdvance("Look at ") + finding.contentsRect().left()
        self.assertAlmostEqual(around[0], start, delta=4)
        self.key(Qt.Key.Key_Right, widget=finding)
        self.assertGreater(self.outline(finding, bare)[0], around[1])
        self.key(Qt.Key.Key_Return, widget=finding)
        self.assertEqual(self.look.picked, (9,))
        self.key(Qt.Key.Key_Left, widget=finding)
        self.key(Qt.Key.Key_Space, widget=finding)
        self.assertEqual(self.look.picked, (5, 6, 7))
        self.assertEqual(finding.accessibleName(), "Look at these three and that")

    def test_only_a_sentence_with_bold_words_is_one_of_the_stops_of_tab(self):
        self.sentence("Inspect")
        finding = self.window.view("Inspect").finding

        def stops():
            before, seen = QApplication.focusWidget(), []
            while before not in seen:
                seen.append(before)
                self.key(Qt.Key.Key_Tab)
                before = QApplication.focusWidget()
            return seen

        for pieces, picks in (
            ([("Look at ", ()), ("these", (5,))], True),
            ([("Nothing is far.", ())], False),
        ):
            finding.show_pieces(pieces)
            settle()
            self.assertEqual(finding in stops(), picks)
            self.assertEqual("Click what is bold" in finding.toolTip(), picks)

    def outline(self, finding, bare):
        """The first and the last column of pixels that are other than before."""
        other = np.flatnonzero((pixels(finding) != bare).any(axis=(0, 2)))
        return int(other[0]), int(other[-1])

    def test_its_words_are_drawn(self):
        self.sentence("Inspect")
        finding = self.window.view("Inspect").finding
        finding.show_pieces([("Look at these three of them, which lie where nothing else lies.", ())])
        settle()
        width = QFontMetricsF(finding.font()).horizontalAdvance(finding.sentence)
        dark = np.flatnonzero((pixels(finding).max(axis=2) < 128).any(axis=0))
        self.assertAlmostEqual(np.ptp(dark), width, delta=0.08 * width)
        finding.show_pieces([("Short", ())])
        settle()
        self.assertLess(np.ptp(np.flatnonzero((pixels(finding).max(axis=2) < 128).any(axis=0))), 60)

    def test_the_sentence_can_be_copied(self):
        self.sentence("Inspect")
        finding = self.window.view("Inspect").finding
        asked = QContextMenuEvent(
            QContextMenuEvent.Reason.Mouse, QPoint(5, 5), finding.mapToGlobal(QPoint(5, 5))
        )
        QApplication.sendEvent(finding, asked)
        menu = next(one for one in finding.findChildren(QMenu) if one.isVisible())
        menu.actions()[0].trigger()
        menu.close()
        self.assertEqual(QApplication.clipboard().text(), finding.sentence)

    def test_samples_and_rank(self):
        self.assertTrue(self.sentence("Samples").startswith("144 samples of 4 classes, 700 channels"))
        self.assertIn("4 components are kept", self.sentence("Rank"))
        self.desk.do(KeepComponents(6))
        settle()
        self.assertIn("6 components are kept", self.sentence("Rank"))

    def test_treat_speaks_of_the_chosen_knot(self):
        self.sentence("Treat")
        self.desk.selection.change(stage=1)
        self.assertTrue(self.sentence("Treat").startswith("Standard normal variate: it moves classes apart"))
        self.desk.selection.change(stage=0)
        self.assertIn("as they were brought in", self.sentence("Treat"))
        self.desk.do(SwitchStep(0, False))
        self.desk.selection.change(stage=2)
        self.assertIn("Centring and scaling", self.sentence("Treat"))

    def test_it_stays_while_the_handle_is_held(self):
        before = self.sentence("Inspect")
        bars = self.window.bottom.bars
        places = [QPoint(round(bars.handle_x(k)), 20) for k in (4, 3, 2)]
        self.drag(bars, places, release=False)
        self.assertEqual(self.window.view("Inspect").finding.sentence, before)
        self.drag(bars, places[-1:] * 2)
        self.assertEqual(self.window.view("Inspect").finding.textFormat(), Qt.TextFormat.RichText)


if __name__ == "__main__":
    unittest.main()
