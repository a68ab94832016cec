"""The report: figures of the model, the classes, names as they are written, both forms."""

import re
import subprocess
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from msgspec.structs import replace as replace_struct
from pypdfium2 import PdfDocument

from scutcher.charts.report.contents import document_of, write_report
from scutcher.charts.report.document import Picture, Rows
from scutcher.charts.report.groups import groups_section
from scutcher.charts.report.material import Report
from scutcher.charts.report.writing import html_of, pdf_of
from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import FileError
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.treatments.base import fields_of
from scutcher.desk.shell.beginning import demo_study
from scutcher.files.report_seal import log_seal_of, seal_holds, sealed_html
from scutcher.files.signing import can_sign, sign
from scutcher.study.audit import audit_of, recipe_hash
from scutcher.study.document.commands.report import ReportBy
from scutcher.study.document.report_settings import ReportSettings, SectionSettings
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.checks import check
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.storage.study_file import StudyFile
from scutcher.study.verification import verified
from tests.core.validation.test_held_out_assignment import lots


class Reports(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        table, codes = lots(n=60)
        codes = codes.copy()
        codes[12:15] = (codes[12:15] + 1) % 3
        names = tuple(("ash", "<b>birch</b>", "cedar")[code] for code in codes)
        table = replace(table, classes=(ClassColumn("wood", names),))
        cls.state = State.of("lots & <i>more</i>", table)
        found = Evaluator().evaluate(table, Recipe())
        cls.report = Report(cls.state, found, check(found), ())
        cls.text = html_of(document_of(cls.report))

    def test_the_classes(self):
        section = self.report.groups
        self.assertEqual(section.column, "wood")
        self.assertIn("held-out samples find their class", section.sentence)
        self.assertIn("<h2>Groups by wood</h2>", self.text)
        self.assertEqual(len(section.table[1]), 3)
        self.assertTrue(section.doubtful[0].startswith("lot4, called"))
        self.assertEqual(section.figures[0][0].title, "Scores")
        self.assertEqual(self.text.count("<figure>"), 9)

    def test_names_are_written_as_they_are(self):
        self.assertNotIn("<b>birch</b>", self.text)
        self.assertIn("&lt;b&gt;birch&lt;/b&gt;", self.text)
        self.assertIn("lots &amp; &lt;i&gt;more&lt;/i&gt;", self.text)

    def test_the_loadings_have_their_bands(self):
        document = document_of(self.report)
        parts = next(one for one in document.sections if one.key == "loadings").parts
        self.assertEqual(len(parts[0].chart.spreads), 2)
        self.assertIn("Component 1 in blue. Component 2 in ochre.", parts[0].caption)

    def test_without_classes_there_is_no_section(self):
        table = replace(self.report.found.table, classes=())
        found = Evaluator().evaluate(table, Recipe())
        self.assertIsNone(groups_section(State.of("bare", table), found))

    def test_both_forms_are_written_and_bear_seals(self):
        with tempfile.TemporaryDirectory() as folder:
            for name in ("r.html", "r.pdf"):
                path = Path(folder) / name
                write_report(self.report, path)
                content = path.read_bytes()
                self.assertGreater(len(content), 20_000)
                self.assertTrue(seal_holds(content))
                at = content.index(b"lots") if name == "r.html" else 4000
                changed = content[:at] + bytes([content[at] ^ 1]) + content[at + 1 :]
                self.assertFalse(seal_holds(changed))
            with self.assertRaisesRegex(FileError, "HTML or PDF"):
                write_report(self.report, Path(folder) / "r.doc")

    def test_it_needs_no_network_and_runs_nothing_of_the_data(self):
        reached = re.findall(r'(?:src|href)="([^"#][^"]*)"', self.text)
        self.assertFalse([one for one in reached if not one.startswith("data:")])
        self.assertEqual(self.text.count("<script"), 1)
        self.assertIn("localeCompare", self.text)  # tables are sorted by a click

    def test_samples_past_limits_are_listed_with_channels(self):
        parts = next(one for one in document_of(self.report).sections if one.key == "distances").parts
        far = [part for part in parts if isinstance(part, Rows)][-1]
        model = self.report.found.model
        past = (model.t2 > model.t2_limit.value) | (model.q > model.q_limit.value)
        self.assertEqual(len(far.rows), int(past.sum()))
        worst = np.fmax(model.t2 / model.t2_limit.value, model.q / model.q_limit.value).argmax()
        self.assertEqual(far.rows[0][0], self.report.found.treated.ids[worst])
        self.assertRegex(far.rows[0][3], r"^(Q|T²): ")


class Chosen(unittest.TestCase):
    """What somebody chose of a report."""

    @classmethod
    def setUpClass(cls):
        cls.study = demo_study("practice")
        cls.found = Evaluator().evaluate(cls.study.state.table, cls.study.state.recipe)
        cls.checked = check(cls.found)

    def document(self, **chosen):
        state = replace(self.study.state, report=ReportSettings(**chosen))
        audit = audit_of(state.recipe, state.source)
        return document_of(Report(state, self.found, self.checked, (), audit, "ab12"))

    def keys(self, document):
        return [one.key for one in document.sections]

    def test_sections_in_another_order_switched_off_and_remarked_on(self):
        usual = self.keys(self.document())
        self.assertEqual(usual[:2], ["question", "found"])
        sections = (
            SectionSettings("scores", remark="Looks good.\nReally."),
            SectionSettings("question"),
            SectionSettings("loadings", on=False),
        )
        document = self.document(sections=sections)
        keys = self.keys(document)
        self.assertLess(keys.index("scores"), keys.index("question"))
        self.assertNotIn("loadings", keys)
        self.assertEqual(set(usual) - set(keys), {"loadings"})
        first = next(one for one in document.sections if one.key == "scores").parts[:2]
        self.assertEqual([part.words for part in first], ["Looks good.", "Really."])

    def test_those_that_nobody_moved_keep_their_places(self):
        settings = ReportSettings(sections=(SectionSettings("c"), SectionSettings("a")))
        self.assertEqual(settings.ordered(("a", "b", "c", "d")), ("c", "a", "b", "d"))
        self.assertEqual(ReportSettings().ordered(("a", "b")), ("a", "b"))

    def test_title_author_question_paper_and_figures(self):
        plain = self.document()
        pictures = [part for one in plain.sections for part in one.parts if isinstance(part, Picture)]
        document = self.document(
            title='Lots "A" \\ <b>', author="M. Aster", question="Is it wet?", paper="letter",
            hidden=(pictures[0].key,), captions=((pictures[1].key, "As I see it."),),
        )  # fmt: skip
        left = [part for one in document.sections for part in one.parts if isinstance(part, Picture)]
        self.assertEqual(len(left), len(pictures) - 1)
        self.assertEqual(left[0].caption, "As I see it.")
        text = html_of(document)
        for words in ("M. Aster", "Is it wet?", "As I see it.", "Lots &#34;A&#34; \\ &lt;b&gt;"):
            self.assertIn(words, text)
        self.assertEqual(log_seal_of(text.encode()), "ab12")
        pages = PdfDocument(pdf_of(document))
        self.assertEqual(tuple(map(round, pages[0].get_size())), (612, 792))
        words = pages[1].get_textpage().get_text_range()
        self.assertIn('Lots "A" \\ <b>', words)  # at the head of every page but the first
        self.assertIn(f"2 of {len(pages)}", words)
        marks = [mark.get_title() for mark in pages.get_toc()]
        self.assertTrue({one.title for one in document.sections} <= set(marks))
        contents = pages[0].get_textpage().get_text_range()
        for one in document.sections:
            self.assertIn(one.title, contents)

    def test_every_parameter_and_its_source(self):
        parts = next(one for one in self.document().sections if one.key == "treatments").parts
        steps = list(self.study.state.recipe.treat)
        self.assertEqual(len(parts[0].rows), len(steps) + 1)
        for step, row in zip(steps, parts[0].rows, strict=False):
            self.assertEqual(row[3], step.treatment.source)
            for field in fields_of(step.treatment.parameters):
                self.assertIn(f"{field.name} = ", row[2])

    def test_by_what_it_was_made(self):
        rows = next(one for one in self.document().sections if one.key == "versions").parts[0].rows
        facts = dict(rows)
        self.assertIn(f"numpy {np.__version__}", facts["libraries"])
        self.assertEqual(facts["recipe, SHA-256"], recipe_hash(self.study.state.recipe))
        other = replace_struct(self.study.state.recipe.model, components=9)
        self.assertNotEqual(
            recipe_hash(replace_struct(self.study.state.recipe, model=other)), facts["recipe, SHA-256"]
        )

    def test_settings_are_a_decision_that_is_stored(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "s.scutch"
            study = Study(self.study.state, StudyFile.create(path, self.study.state))
            chosen = ReportSettings(title="T", sections=(SectionSettings("recipe", on=False, remark="long"),))
            study.do(ReportBy(chosen))
            self.assertEqual(study.undo_label, "Report: title 'T', without recipe, a remark on recipe")
            study.file.close()
            file = StudyFile.open(path)
            self.assertEqual(file.state(file.history.place.now).report, chosen)
            file.close()


@unittest.skipUnless(can_sign(), "needs ssh-keygen")
class Signed(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.key = self.folder / "key"
        subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", str(self.key)], check=True)
        self.file = self.folder / "r.html"
        self.file.write_text(sealed_html('<meta name="scutcher-seal" content="">x'))

    def test_signed_changed_and_signed_by_a_key_that_asks(self):
        sign(self.file, self.key)
        said = verified(self.file)
        self.assertEqual([one.holds for one in said], [True, True])
        self.assertIn("SHA256:", said[1].words)
        self.file.write_text(self.file.read_text() + " ")
        self.assertEqual([one.holds for one in verified(self.file)], [False, False])
        asks = self.folder / "asks"
        subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "secret", "-f", str(asks)], check=True)
        with self.assertRaisesRegex(FileError, "could not be signed with asks"):
            sign(self.file, asks)
        with self.assertRaisesRegex(FileError, "no file nobody"):
            sign(self.file, self.folder / "nobody")


if __name__ == "__main__":
    unittest.main()
