"""The report: figures of the model, the classes, names as they are written, both forms."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from scutcher.charts.report import Report, document_of, write_report
from scutcher.charts.report_document import html_of
from scutcher.charts.report_groups import groups_section
from scutcher.core.data.table import ClassColumn
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import check
from scutcher.study.evaluation.evaluator import Evaluator
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
        from scutcher.charts.report import charts_of

        loadings = next(chart for chart, _ in charts_of(self.report) if chart.title == "Loadings")
        self.assertEqual(len(loadings.spreads), 2)

    def test_without_classes_there_is_no_section(self):
        table = replace(self.report.found.table, classes=())
        found = Evaluator().evaluate(table, Recipe())
        self.assertIsNone(groups_section(State.of("bare", table), found))

    def test_both_forms_are_written(self):
        with tempfile.TemporaryDirectory() as folder:
            for name in ("r.html", "r.pdf"):
                write_report(self.report, Path(folder) / name)
                self.assertGreater((Path(folder) / name).stat().st_size, 20_000)


if __name__ == "__main__":
    unittest.main()
