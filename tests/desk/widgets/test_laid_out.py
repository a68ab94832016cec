"""Words that change while a model is looked at: they are drawn anew, and nothing around them is laid out."""

import unittest

import numpy as np
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QApplication, QHBoxLayout, QLabel, QWidget

from scutcher.charts.description import Chart, Marks
from scutcher.desk.shell.start import application
from scutcher.desk.trail.knot import Knot
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.desk.words import Steady
from scutcher.study.document.commands.recipe import SwitchStep
from tests.desk.driving import WindowCase, pixels, settle


class LaidOut(QObject):
    """Notes which widgets are asked to lay themselves out."""

    def __init__(self):
        super().__init__()
        self.asked = []
        QApplication.instance().installEventFilter(self)

    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.LayoutRequest and isinstance(watched, QWidget):
            self.asked.append(watched)
        return False

    def done(self):
        QApplication.instance().removeEventFilter(self)
        return self.asked


def chart(**words):
    """One with something in it."""
    one = np.ones(1)
    return Chart(
        "Signals", marks=Marks(one, one, np.zeros(1, dtype=int), np.zeros(1, dtype=int), ("a",)), **words
    )


class Shown(unittest.TestCase):
    def setUp(self):
        application()
        self.place = QWidget()
        self.addCleanup(self.place.deleteLater)
        self.row = QHBoxLayout(self.place)

    def show(self, *widgets):
        for widget in widgets:
            self.row.addWidget(widget)
        self.place.resize(500, 160)
        self.place.show()
        settle(6)


class Panels(Shown):
    def setUp(self):
        super().setUp()
        self.panel = ChartPanel(QWidget(), "what it means")
        self.show(self.panel)
        self.panel.describe(chart(note="as brought in", x_title="nm", y_title="absorbance"))
        settle(6)

    def describe(self, key="", **words):
        laid_out = LaidOut()
        before = pixels(self.panel)
        self.panel.describe(chart(**words), key)
        settle(6)
        return laid_out.done(), int((pixels(self.panel) != before).any(axis=2).sum())

    def test_another_note_and_other_titles(self):
        asked, changed = self.describe(note="after SNV", x_title="cm⁻¹", y_title="absorbance, SNV")
        self.assertEqual(asked, [])
        self.assertGreater(changed, 100)
        note, across, up = self.panel.note, self.panel.x_title, self.panel.y_title
        for widget, words in ((note, "after SNV"), (across, "cm⁻¹"), (up, "absorbance, SNV")):
            self.assertEqual((widget.text(), widget.accessibleName()), (words, words))
        self.assertEqual(note.toolTip(), "after SNV")
        self.assertEqual(self.describe(note="after SNV", x_title="cm⁻¹", y_title="absorbance, SNV"), ([], 0))

    def test_a_legend_in_its_place_and_back(self):
        self.describe("<b>component 1</b>", x_title="nm", y_title="absorbance")
        note = self.panel.note
        self.assertEqual((note.text(), note.toolTip()), ("<b>component 1</b>", ""))
        asked, changed = self.describe("<b>component 1</b>", x_title="nm", y_title="absorbance")
        self.assertEqual((asked, changed), ([], 0))  # the same again
        _, changed = self.describe(note="as brought in", x_title="nm", y_title="absorbance")
        self.assertGreater(changed, 50)
        self.assertEqual(note.text(), "as brought in")
        self.assertEqual(QLabel.text(note), "")

    def test_the_note_looks_like_any_label(self):
        like = QLabel("as brought in", self.place)
        like.setObjectName("quiet")
        like.resize(self.panel.note.size())
        like.show()
        settle(4)
        np.testing.assert_array_equal(pixels(like), pixels(self.panel.note))


class Places(Shown):
    def test_a_place_grows_and_never_shrinks(self):
        words, beside = Steady(), QLabel("beside")
        self.show(words, beside)
        words.setText("R² 0.9")
        settle(4)
        narrow = words.width()
        words.setText("R² 0.997   Q² not validated yet")
        settle(4)
        wide, place = words.width(), beside.geometry()
        self.assertGreater(wide, narrow)
        laid_out = LaidOut()
        for text in ("R² 0.970   Q² not validated yet", "R² 0.8", ""):
            words.setText(text)
            settle(4)
            self.assertEqual((words.text(), words.width()), (text, wide))
        self.assertEqual(laid_out.done(), [])
        self.assertEqual(beside.geometry(), place)

    def test_a_switch_is_as_wide_on_as_off(self):
        knot = Knot()
        self.show(knot)
        knot.switch.show()
        knot.describe("Standard normal variate", "", None)
        settle(4)
        places = knot.name.geometry(), knot.switch.geometry()
        laid_out = LaidOut()
        knot.describe("Standard normal variate", "", None, on=False)
        settle(4)
        self.assertEqual(laid_out.done(), [])
        self.assertEqual((knot.name.geometry(), knot.switch.geometry()), places)
        self.assertEqual(knot.switch.text(), "off")
        self.assertGreaterEqual(knot.switch.width(), knot.switch.sizeHint().width())


class InTheWindow(WindowCase):
    def test_a_treatment_switched_lays_nothing_out(self):
        for _ in range(3):
            self.desk.do(SwitchStep(0, not self.state.recipe.treat[0].on))
            settle(12)
        laid_out = LaidOut()
        self.desk.do(SwitchStep(0, not self.state.recipe.treat[0].on))
        settle(12)
        asked = laid_out.done()
        self.assertNotIn(self.window, asked)
        self.assertFalse([widget for widget in asked if isinstance(widget, ChartPanel)])


if __name__ == "__main__":
    unittest.main()
