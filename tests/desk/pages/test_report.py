"""The Report page: its pages, every choice a decision, what is written and signed."""

import subprocess
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from scutcher.charts.report import typesetting
from scutcher.charts.report.paper import page_pictures
from scutcher.desk.pages.report import page as report_page
from scutcher.desk.pages.report import printing
from scutcher.files.report_seal import seal_holds
from scutcher.files.signing import can_sign
from scutcher.study.document.commands.recipe import UseRecipe
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study
from scutcher.study.verification import verified
from tests.desk.driving import CTRL, LEFT, QUICK, WindowCase, demo_state, pixels, settle
from tests.few_sections import only_sections

CHECKED, UNCHECKED = Qt.CheckState.Checked, Qt.CheckState.Unchecked


class OnReport(WindowCase):
    demo = "practice"
    sections = ("loadings", "recipe")
    first_page = "Report"
    validates = True

    def study(self):
        study = Study(demo_state(self.demo))
        study.do(UseRecipe(QUICK, "quick"))
        study.do(only_sections(*self.sections))
        return study

    def setUp(self):
        soon = mock.patch.object(report_page, "AFTER", 100)  # what is typed at once is set at once
        soon.start()
        self.addCleanup(soon.stop)
        super().setUp()
        self.page = self.window.view("Report")
        self.choices = self.page.choices
        self.pages()

    def pages(self):
        """The pages of the state of now are there."""
        self.until(
            lambda: (
                not self.page.work.busy
                and not self.page._later.isActive()
                and self.page.work.made is not None
                and self.page.work.made.report.state.report == self.state.report
            )
        )
        settle()
        return self.page.work.made.document

    def row(self, listing, words):
        return next(
            listing.item(place) for place in range(listing.count()) if listing.item(place).text() == words
        )


class Pages(OnReport):
    def test_pages_of_paper_with_ink_on_them(self):
        self.assertEqual(len(self.page.sheets), len(self.page.work.made.pages))
        shown = pixels(self.page.sheets[0])
        self.assertGreater((shown < 200).all(axis=2).sum(), 500)
        self.assertAlmostEqual(shown.shape[0] / shown.shape[1], 297 / 210, 1)
        self.assertIn("sections on", self.page.finding.sentence)
        self.assertIn("no question and no author", self.page.finding.sentence)

    def test_nobody_who_closes_the_window_waits_for_pages(self):
        """What the monkey found: twelve seconds of a window that stood still while pages were set."""
        process, waiting = typesetting.typesetter()._process, threading.Event()

        def nothing_comes(*of):
            waiting.set()
            time.sleep(0.01)
            return False

        with mock.patch.object(typesetting, "comes", nothing_comes):
            self.row(self.choices.sections, "Loadings").setCheckState(UNCHECKED)
            self.until(waiting.is_set)
            self.window.close()
        self.assertIsNotNone(process.poll())
        self.assertFalse([one for one in threading.enumerate() if one.name == "scutcher-work"])

    def test_a_section_is_switched_off_and_undone(self):
        titles = [one.title for one in self.pages().sections]
        self.assertIn("Loadings", titles)
        self.row(self.choices.sections, "Loadings").setCheckState(UNCHECKED)
        settle()
        self.assertEqual(self.desk.study.undo_label, "Report: without loadings")
        self.assertNotIn("Loadings", [one.title for one in self.pages().sections])
        self.assertEqual(self.row(self.choices.sections, "Loadings").checkState(), UNCHECKED)
        self.window.undo()
        settle()
        self.assertEqual([one.title for one in self.pages().sections], titles)


class Chosen(OnReport):
    sections = ("question", "loadings", "recipe")

    def test_title_author_and_question_are_typed(self):
        self.choices.title.setFocus()
        self.type("Wet lots", self.choices.title)
        QTest.keyClick(self.choices.title, Qt.Key.Key_Return)
        self.choices.author.setFocus()
        self.type("M. Aster", self.choices.author)
        self.choices.question.setFocus()
        settle()
        self.type("Is it wet?", self.choices.question)
        self.choices.title.setFocus()
        settle()
        report = self.state.report
        self.assertEqual(
            (report.title, report.author, report.question), ("Wet lots", "M. Aster", "Is it wet?")
        )
        document = self.pages()
        self.assertEqual(document.title, "Wet lots")
        self.assertEqual(document.sections[0].parts[0].words, "Is it wet?")
        self.assertNotIn("names no", self.page.finding.sentence)

    def test_a_remark_and_a_caption(self):
        listing = self.choices.sections
        listing.setCurrentItem(self.row(listing, "Loadings"))
        self.choices.remark.setFocus()
        self.type("As last year.", self.choices.remark)
        listing.setFocus()
        settle()
        document = self.pages()
        loadings = next(one for one in document.sections if one.key == "loadings")
        self.assertEqual(loadings.parts[0].words, "As last year.")
        figures = self.choices.figures
        figures.setCurrentRow(0)
        key = figures.key
        self.choices.caption.setPlainText("Mine.")
        self.choices.caption.setFocus()
        figures.setFocus()
        settle()
        self.assertEqual(self.state.report.captions, ((key, "Mine."),))
        figures.item(1).setCheckState(UNCHECKED)
        settle()
        self.assertEqual(len(self.state.report.hidden), 1)
        self.pages()
        self.assertEqual(figures.item(1).checkState(), UNCHECKED)  # it stays, to be taken in again

    def test_rows_that_are_dragged_are_another_order(self):
        listing = self.choices.sections
        item = listing.takeItem(0)
        place = listing.row(self.row(listing, "Loadings"))
        listing.insertItem(place + 1, item)
        listing.moved.emit()
        settle()
        keys = [one.key for one in self.pages().sections]
        self.assertEqual(keys, ["loadings", "question", "recipe"])

    def test_a_click_on_a_section_goes_to_its_page(self):
        listing = self.choices.sections
        listing.setCurrentItem(self.row(listing, "Recipe"))
        settle()
        self.assertGreater(self.page.sheets_area.verticalScrollBar().value(), 500)


class Written(OnReport):
    def test_it_follows_the_study(self):
        self.desk.do(SetAside((3,), "wet"))
        self.until(lambda: 3 in self.desk.moment.found.table.set_aside)
        self.until(
            lambda: self.page.work.made.report.found is self.desk.moment.found and not self.page.work.busy
        )
        settle()
        self.assertIn("1 sample not in the model", self.page.finding.sentence)

    def test_it_is_written_and_signed(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        path = folder / "r.pdf"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.page.ask_path()
        self.until(path.exists)
        self.assertTrue(seal_holds(path.read_bytes()))
        self.until(lambda: "r.pdf" in self.window.message.label.text())
        if not can_sign():
            return
        key = folder / "key"
        subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", str(key)], check=True)
        self.page.write(folder / "s.html", key)
        self.until((folder / "s.html.sig").exists)
        self.assertEqual([one.holds for one in verified(folder / "s.html")], [True, True])
        self.page.write(folder / "t.html", folder / "nobody")
        self.until(lambda: "nobody" in self.window.message.label.text())

    def test_it_is_printed_as_it_is_shown(self):
        path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "printed.pdf"

        def chosen(printer, pages, parent):
            self.assertEqual(pages, len(self.page.sheets))
            printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
            printer.setOutputFileName(str(path))
            return True

        with mock.patch.object(printing, "chosen_by_hand", chosen):
            self.key(Qt.Key.Key_P, CTRL)
        self.until(lambda: "at the printer" in self.window.message.label.text())
        printed = page_pictures(path.read_bytes(), 400)
        shown = page_pictures(self.page.work.made.pdf, 400)
        self.assertEqual(len(printed), len(shown))
        for one, other in zip(printed, shown, strict=True):
            self.assertLessEqual(np.abs(np.subtract(one.shape, other.shape)).max(), 1)
            one, other = one[:565], other[:565]
            ink = np.array([(255.0 - page).mean() for page in (one, other)])
            self.assertLess(np.ptp(ink) / ink.mean(), 0.1)
            rows = [page.mean(axis=(1, 2)).reshape(-1, 5).mean(axis=1) for page in (one, other)]
            self.assertGreater(np.corrcoef(*rows)[0, 1], 0.9)

    def test_a_range_of_pages_and_a_printer_that_refuses(self):
        path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "second.pdf"
        made = self.page.work.made
        printer = printing.printer_for("a4")
        printer.setOutputFileName(str(path))
        printer.setPrintRange(QPrinter.PrintRange.PageRange)
        printer.setFromTo(2, 2)
        self.assertEqual(printing.print_pages(made.pdf, len(made.pages), printer), 1)
        self.assertEqual(len(page_pictures(path.read_bytes(), 200)), 1)
        printer = printing.printer_for("a4")
        printer.setOutputFileName(str(path / "no folder" / "x.pdf"))
        self.page.print_on(printer)
        self.until(lambda: "did not take" in self.window.message.label.text())

    def test_nothing_is_made_while_nobody_looks(self):
        self.window.show_page("Inspect")
        settle()
        before = self.page.work.made
        self.desk.do(SetAside((3,), "wet"))
        settle()
        self.assertFalse(self.page.work.busy)
        self.assertIs(self.page.work.made, before)
        self.window.show_page("Report")
        self.until(lambda: self.page.work.made is not before)

    def test_a_smaller_window_has_smaller_paper(self):
        before = self.page.sheets[0].width()
        self.window.resize(1024, 640)
        self.until(lambda: self.page.sheets[0].width() < before)
        self.assertTrue(np.all(pixels(self.page.sheets[0])[0, 0] >= 0))

    def test_choosing_paper(self):
        self.choices.paper.activated.emit(1)
        self.assertEqual(self.pages().paper, "letter")
        height, width = self.page.work.made.pages[0].shape[:2]
        self.assertAlmostEqual(height / width, 11 / 8.5, 1)
        QTest.mouseClick(self.choices, LEFT)


if __name__ == "__main__":
    unittest.main()
