"""Names in data that look like markup are shown as they are, on every page and in every tooltip."""

import unittest
from dataclasses import replace

from PySide6.QtGui import Qt
from PySide6.QtWidgets import QAbstractItemView, QLabel, QWidget

from scutcher.core.data.columns import ClassColumn
from scutcher.desk.words import Words, tip
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.desk.driving import WindowCase, settle

MARK = "<img src=x>"
PAGES = ("Samples", "Treat", "Rank", "Inspect", "Groups", "Maps", "Series", "Blocks")


class Names(WindowCase):
    demo = "intake-nir"
    first_page = "Samples"

    def study(self):
        state = super().study().state
        table = state.table
        classes = tuple(
            ClassColumn(f"<u>{column.name}</u>{MARK}", [f"<i>{value}</i>{MARK}" for value in column.values])
            for column in table.classes
        )
        properties = tuple(
            replace(column, name=f"<s>{column.name}</s>{MARK}", unit="<b>%</b>")
            for column in table.properties
        )
        ids = tuple(f"<b>{name}</b>{MARK}" for name in table.ids)
        odd = replace(table, name=f"<h1>t</h1>{MARK}", ids=ids, classes=classes, properties=properties)
        return Study(State.of(f"<h1>s</h1>{MARK}", odd, state.recipe, classes[0].name))

    def wrong(self):
        """What would be taken for markup, with the widget it stands on."""
        found = []
        for widget in [self.window, *self.window.findChildren(QWidget)]:
            if _taken(widget.toolTip()):
                found.append((type(widget).__name__, widget.objectName(), "tooltip", widget.toolTip()[:80]))
            if _shows_markup(widget):
                found.append((type(widget).__name__, widget.objectName(), "text", widget.text()[:80]))
            if isinstance(widget, QAbstractItemView) and widget.model() is not None:
                found += [
                    (type(widget).__name__, "tooltip of a cell", each[:80]) for each in _cell_tips(widget)
                ]
        return sorted(set(found))

    def test_on_every_page(self):
        seen = 0
        for page in PAGES:
            with self.subTest(page):
                self.window.show_page(page)
                settle(20)
                self.desk.selection.pick((2, 3))
                settle(20)
                self.assertEqual(self.wrong(), [])
                seen += sum(MARK in label.text() for label in self.window.findChildren(QLabel))
        self.assertGreater(seen, 3)  # the names are on screen somewhere

    def test_in_messages_and_lists(self):
        self.desk.do(SetAside((4,), f"<a href=x>why</a>{MARK}"))
        self.window.show_page("Samples")
        settle()
        listing = self.window.acting.show_set_aside(self.window)
        self.assertIn(
            f"<a href=x>why</a>{MARK}", " ".join(label.text() for label in listing.findChildren(QLabel))
        )
        self.assertEqual(self.wrong(), [])


class OneLabel(unittest.TestCase):
    def test_words_are_plain_until_they_are_said_to_be_rich(self):
        from tests.desk.driving import application

        application()
        label = Words("<b>x</b>")
        self.assertEqual(label.textFormat(), Qt.TextFormat.PlainText)
        label.show_rich("<b>x</b>")
        self.assertEqual(label.textFormat(), Qt.TextFormat.RichText)
        label.setText("a < b")
        self.assertEqual(label.textFormat(), Qt.TextFormat.PlainText)
        label.setToolTip("<b>x</b>\ny")
        self.assertEqual(label.toolTip(), "<qt>&lt;b&gt;x&lt;/b&gt;<br>y</qt>")
        self.assertEqual(tip("plain & simple"), "plain & simple")


def _taken(text):
    return bool(MARK in text and Qt.mightBeRichText(text))


def _shows_markup(widget):
    plain = isinstance(widget, QLabel) and widget.textFormat() == Qt.TextFormat.PlainText
    return isinstance(widget, QLabel) and not plain and MARK in widget.text()


def _cell_tips(view):
    model = view.model()
    for row in range(min(model.rowCount(), 60)):
        for column in range(min(model.columnCount(), 30)):
            text = model.index(row, column).data(Qt.ItemDataRole.ToolTipRole)
            if isinstance(text, str) and _taken(text):
                yield text
