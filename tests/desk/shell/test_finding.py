"""Finding: the search field by other names, the menu of everything, the guide, keys, the model's settings."""

import unittest
from pathlib import Path
from unittest import mock

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from scutcher.charts.definitions import DEFINITIONS
from scutcher.core.recipes.recipe import SECTIONS
from scutcher.core.treatments import all_treatments
from scutcher.desk.pages.guide import CHAPTERS, GuidePage, chapter_words
from scutcher.desk.screenshots.guide import guide_text
from scutcher.desk.widgets.popover import Choice
from scutcher.study.document.commands.recipe import UseRecipe
from tests.desk.driving import CTRL, LEFT, QUICK, WindowCase, settle
from tests.few_sections import only_sections

LEADS_TO = {
    "nipals": "Settings of the model",
    "engine": "Settings of the model",
    "gaps": "Settings of the model",
    "ellipse": "Ellipse of",
    "hull": "Hull of each class",
    "biplot": "Variables as arrows",
    "arrow": "Variables as arrows",
    "limits": "Limits of T² and Q",
    "report": "Write a report",
    "spectra": "Open a file",
    "export": "Write the data",
    "save": "Name this study",
    "copy": "Copy the",
    "autoscale": "Centre and scale",
    "scale": "Centre and scale",
    "derivative": "Add",
    "msc": "Add Multiplicative scatter correction",
    "snv": "Add Standard normal variate",
    "delimiter": "How the file was read",
    "outlier": "Propose outliers",
    "exclude": "Set aside",
    "help": "Guide",
    "version": "About",
    "predict": "Project new samples",
}
"""What somebody may type, and how the first or second answer begins."""


class Finding(WindowCase):
    def found(self, words):
        field = self.window.topbar.search
        field.start()
        field.setText(words)
        field.look_up()
        return [entry.words for entry in field._found]

    def test_other_names_lead_to_where_a_thing_is(self):
        for words, wanted in LEADS_TO.items():
            with self.subTest(words):
                found = self.found(words)
                self.assertTrue(any(answer.startswith(wanted) for answer in found[:3]), found[:4])

    def test_an_abbreviation_comes_first(self):
        self.assertEqual(self.found("msc")[0], f"Add {all_treatments()['msc'].name}")
        self.assertEqual(self.found("snv")[0], f"Add {all_treatments()['snv'].name}")
        listing = self.window.papers.add_treatment()
        self.type("msc", listing.search)
        shown = listing.list.currentItem().data(Qt.ItemDataRole.UserRole)
        self.assertEqual(shown, "msc")
        listing.dismiss()

    def test_nonsense_is_said_to_be_unknown(self):
        for words in ("qzx", "sso", "snv banana"):
            self.assertEqual(self.found(words), [])
            self.assertIn("Nothing here is called", self.window.topbar.search.list.item(0).text())

    def test_a_treatment_is_added_from_the_field(self):
        before = len(self.state.recipe.treat)
        self.found("msc")
        QTest.keyClick(self.window.topbar.search, Qt.Key.Key_Return)
        settle()
        self.assertEqual(self.state.recipe.treat[before].method, "msc")
        self.assertEqual(self.desk.selection.look.stage, before + 1)

    def test_the_menu_has_every_action_with_its_key(self):
        self.window.reach.fill_menu()
        menu = self.window.topbar.choices
        words = [a.text() for part in menu.actions() if part.menu() for a in part.menu().actions()]
        for action in self.window.actions_list:
            self.assertIn(f"{action.words}\t{action.key}".rstrip("\t"), words)
        self.assertTrue(any(text.startswith("Copy the picture of") for text in words))
        self.assertGreaterEqual(
            {part.text() for part in menu.actions()}, {"Study", "Data", "Samples", "Help"}
        )
        run = {a.text().split("\t")[0]: a for part in menu.actions() for a in part.menu().actions()}
        run["Keep one component more"].trigger()
        settle()
        self.assertEqual(self.model.k, 5)

    def test_keys(self):
        self.key("z", CTRL)
        self.window.bottom.step(1)
        settle()
        kept = self.model.k
        self.key("z", CTRL)
        self.assertNotEqual(self.model.k, kept)
        self.key("y", CTRL)
        self.assertEqual(self.model.k, kept)
        before = self.window.windowState()
        self.key(Qt.Key.Key_F11)
        self.assertNotEqual(self.window.windowState(), before)
        self.key(Qt.Key.Key_F11)
        self.assertEqual(self.window.windowState(), before)

    def test_f1_opens_the_guide_at_the_page(self):
        for page in ("Rank", "Inspect"):
            self.window.show_page(page)
            settle()
            self.key(Qt.Key.Key_F1)
            guide = self.window.stack.over
            self.assertIsInstance(guide, GuidePage)
            self.assertEqual(guide.heading.text(), page)
            self.key(Qt.Key.Key_Escape)
            self.assertIsNone(self.window.stack.over)
        self.window.papers.show_guide()
        guide = self.window.stack.over
        for place, chapter in enumerate(CHAPTERS):
            guide.list.setCurrentRow(place)
            self.assertEqual(guide.heading.text(), chapter)
            self.assertGreater(len(guide.text.toPlainText()), 200)
        self.assertIn("Ctrl+Shift+O Project new samples onto the model…", guide.text.toPlainText())

    def test_nothing_is_missing_from_the_guide(self):
        keys = self.window.papers.keys()
        words = {chapter: " ".join(chapter_words(chapter, keys)) for chapter in CHAPTERS}
        for page in self.window.stack.pages:
            self.assertIn(page, CHAPTERS)
        for action in self.window.actions_list:
            self.assertIn(action.words, words["Keys"])
        for key in all_treatments():
            self.assertIn(f"`{key}`", words["Treatments"])
        for section, kind in SECTIONS.items():
            self.assertIn(f"`[{section}]`", words["Settings"])
            for field in msgspec.structs.fields(kind):
                line = next(
                    line
                    for line in words["Settings"].splitlines()
                    if line.startswith(f"- `{field.encode_name}`")
                )
                self.assertGreater(len(line.split(": ", 1)[-1]), 5, line)
                self.assertIn(": ", line)
        for text in DEFINITIONS.values():
            self.assertIn(text, words["What figures mean"])
        kept = Path(__file__).parents[3] / "docs" / "guide.md"
        self.assertEqual(kept.read_text(encoding="utf-8"), guide_text(), "run ./run screenshots")

    def test_a_word_is_looked_for_in_the_guide(self):
        self.window.papers.show_guide()
        guide = self.window.stack.over
        guide.search.setFocus()
        self.type("Procrustes", guide.search)
        self.assertEqual([guide.list.item(row).text() for row in range(guide.list.count())], ["Compare"])
        self.assertEqual(guide.text.textCursor().selectedText(), "Procrustes")
        guide.search.setText("zzzz")
        self.assertEqual(guide.list.count(), 0)
        self.assertIn("No chapter has these words", guide.text.toPlainText())
        guide.search.clear()
        self.assertEqual(guide.list.count(), len(CHAPTERS))

    def test_about(self):
        self.window.papers.show_about()
        settle()
        (about,) = self.window.findChildren(Choice)
        words = " ".join(label.text() for label in about.findChildren(QLabel))
        self.assertIn("Version ", words)
        self.assertIn("PySide6 (LGPL-3.0)", words)

    def test_the_settings_of_the_model_stand_on_its_knot_on_every_page(self):
        for page in ("Samples", "Treat", "Rank", "Inspect"):
            self.window.show_page(page)
            settle()
            QTest.mouseClick(self.window.trail.model_knot.link, LEFT)
            settle()
            self.assertEqual(self.window.stack.current, page)
        form = self.window.trail.open_model_settings()
        self.assertFalse(form.numbers["tolerance"].isEnabled())
        form.engine.activated.emit(3)
        settle()
        self.assertEqual(self.state.recipe.model.engine, "nipals")
        self.assertTrue(form.isVisible() and form.numbers["tolerance"].isEnabled())
        line = form.numbers["tolerance"]
        for text, kept, said in (
            ("1e-6", 1e-6, ""),
            ("2", 1e-6, "'2' cannot be used here."),
            ("x", 1e-6, "'x'"),
        ):
            line.selectAll()
            self.type(text, line)
            self.key(Qt.Key.Key_Return, widget=line)
            self.assertEqual(self.state.recipe.model.tolerance, kept)
            self.assertIn(said, self.window.message.label.text())
        self.assertEqual(float(line.text()), 1e-6)

    def test_a_report_of_another_ending_is_refused_before_it_is_made(self):
        with mock.patch("scutcher.charts.report.contents.write_report") as written:
            self.window.filing.write_report(Path("r.docx"))
            self.until(lambda: "r.docx" in self.window.message.label.text())
        written.assert_not_called()

    def test_a_report_from_the_window(self):
        import tempfile

        self.desk.do(UseRecipe(QUICK, "quick"))
        self.desk.do(only_sections("model"))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "r.html"
            self.assertTrue(self.window.filing.write_report(path))
            self.until(lambda: "The report is in r.html." in self.window.message.label.text())
            self.assertIn("<html", path.read_text())


if __name__ == "__main__":
    unittest.main()
