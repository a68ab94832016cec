"""Maps as data: colours and ranges, outlines, what is strange, and the section of a report."""

import tempfile
import unittest
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np

from scutcher.charts import colours
from scutcher.charts.map_files import outline
from scutcher.charts.map_finding import finding, peaks, strange_objects
from scutcher.charts.maps import PictureMap, robust_range
from scutcher.charts.report.contents import document_of, write_report
from scutcher.charts.report.document import Paragraph, Picture
from scutcher.charts.report.material import Report
from scutcher.core.data.columns import PropertyColumn
from scutcher.core.images.masking import areas
from scutcher.demo.belt_scan import TWINE_AT
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.evaluation.checks import check, checks_key
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.pixels import pixel_grid
from tests.few_sections import only_sections


def area(ring):
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in pairwise(ring)) / 2


class Colours(unittest.TestCase):
    def a_map(self, tone, values=((-4.0, 0.0), (4.0, np.nan))):
        return PictureMap("k", "a map", np.array(values), tone, -4.0, 4.0, names=("a", "b"))

    def test_two_sided_has_paper_at_zero(self):
        rgb = self.a_map("two-sided").coloured()
        self.assertEqual(tuple(rgb[0, 0]), colours.rgb(colours.ALARM))
        self.assertEqual(tuple(rgb[1, 0]), colours.rgb(colours.ACCENT))
        np.testing.assert_allclose(rgb[0, 1].astype(int), colours.rgb(colours.PAPER), atol=3)
        self.assertEqual(tuple(rgb[1, 1]), colours.rgb(colours.LINEN))  # does not count

    def test_one_sided_darkens_all_the_way(self):
        """No map of colours lies about order, also not for eyes that see no colour."""
        for tone in ("one-sided",):
            ramp = self.a_map(tone, (np.linspace(-4, 4, 40),)).coloured()[0].astype(float)
            grey = ramp @ [0.2126, 0.7152, 0.0722]
            self.assertTrue((np.diff(grey) <= 0).all())
        both = self.a_map("two-sided", (np.linspace(-4, 4, 41),)).coloured()[0].astype(float)
        grey = both @ [0.2126, 0.7152, 0.0722]
        self.assertTrue((np.diff(grey[:21]) >= 0).all() and (np.diff(grey[20:]) <= 0).all())

    def test_categories_have_the_colours_of_classes(self):
        rgb = self.a_map("categories", ((0.0, 1.0), (-1.0, np.nan))).coloured()
        self.assertEqual(tuple(rgb[0, 1]), colours.rgb(colours.class_colour(1)))
        self.assertEqual(tuple(rgb[1, 0]), colours.rgb(colours.class_colour(-1)))

    def test_a_part_has_the_same_colours(self):
        values = np.random.default_rng(1).normal(size=(9, 8))
        one = PictureMap("k", "a map", values, "two-sided", -2.0, 2.0)
        part = (slice(2, 8, 2), slice(1, 7, 3))
        np.testing.assert_array_equal(one.coloured(part), one.coloured()[part])

    def test_the_range_is_not_decided_by_a_few(self):
        values = np.random.default_rng(2).normal(size=5000)
        values[:20] = 1000.0
        low, high = robust_range(values, "two-sided")
        self.assertEqual(low, -high)
        self.assertLess(high, 4.0)
        self.assertEqual(robust_range(np.full(5, 3.0), "one-sided"), (3.0, 4.0))
        self.assertEqual(robust_range(np.full(5, np.nan), "one-sided"), (0.0, 1.0))


class Outlines(unittest.TestCase):
    def test_areas_of_rings_are_the_pixels(self):
        rng = np.random.default_rng(3)
        for _ in range(100):
            inside = rng.random((9, 11)) < 0.5
            polygons = outline(inside)
            self.assertEqual(sum(area(ring) for polygon in polygons for ring in polygon), inside.sum())
            for polygon in polygons:
                self.assertGreater(area(polygon[0]), 0)
                self.assertTrue(all(area(hole) < 0 for hole in polygon[1:]))

    def test_a_hole_belongs_to_what_is_around_it(self):
        inside = np.zeros((5, 5), dtype=bool)
        inside[1:4, 1:4] = True
        inside[2, 2] = False
        polygons = outline(inside)
        self.assertEqual(len(polygons), 1)
        self.assertEqual([abs(area(ring)) for ring in polygons[0]], [9, 1])

    def test_areas_touch_at_corners_and_the_largest_is_first(self):
        flagged = np.zeros((6, 6), dtype=bool)
        flagged[0, 0] = flagged[1, 1] = flagged[2, 2] = True
        flagged[5, 0:2] = True
        self.assertEqual([len(part) for part in areas(flagged)], [3, 2])
        self.assertEqual(len(areas(flagged, 3)), 1)


class WhatIsStrange(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        study = demo_study("belt-scan")
        cls.whole = Evaluator().evaluate(study.state.table, study.state.recipe)
        cls.codes = study.state.table.classes[0].codes()
        study.do(SetAside(tuple(np.flatnonzero(cls.codes == 0).tolist()), "masked: belt"))
        cls.state = study.state
        cls.found = Evaluator().evaluate(cls.state.table, cls.state.recipe)
        cls.checked = check(cls.found)

    def test_the_twine_is_one_object_within_a_pixel(self):
        objects = strange_objects(self.found, pixel_grid(self.state.table))
        (x1, y1), (x2, y2) = TWINE_AT
        np.testing.assert_allclose(objects[0].x, (x1, x2), atol=1)
        np.testing.assert_allclose(objects[0].y, (y1, y2), atol=1)
        self.assertEqual({self.codes[row] for row in objects[0].rows}, {4})
        kinds = [{self.codes[row] for row in one.rows} for one in objects]
        self.assertTrue(all(len(kind) == 1 for kind in kinds), kinds)  # what touches and is unlike is two

    def test_the_sentence_claims_no_more(self):
        grid = pixel_grid(self.state.table)
        objects = strange_objects(self.found, grid)
        words = "".join(text for text, _ in finding(self.found, grid, objects))
        self.assertIn(f"{len(objects) - 1} more past the limit", words)
        alone = "".join(text for text, _ in finding(self.found, grid, objects[:1]))
        self.assertTrue(alone.startswith("One object unlike the rest: 43 pixels"))
        none = "".join(text for text, _ in finding(self.found, grid, []))
        self.assertIn("No object past the limit; components 1, 2, 3 of 4 show structure", none)

    def test_peaks(self):
        self.assertEqual(peaks(np.array([0, 1, 0, 3, 0, -1, 2, 1.0]), 2), [3, 6])
        self.assertEqual(peaks(np.array([1.0, 2.0, 3.0]), 2), [2])

    def test_evidence_looks_at_the_picture(self):
        line = self.checked.lines["loading-structure"]
        self.assertIn("over the picture 3 of", line.note)

    def test_the_ladder_tells_structure_from_noise(self):
        from scutcher.charts.ladder import ladder

        found = ladder(self.found, self.checked)
        self.assertEqual([found.is_noise(a) for a in range(4)], [False, False, False, True])
        self.assertIn("1: 0.68, 2: 0.72, 3: 0.74, 4: ", found.told)
        self.assertEqual(ladder(self.found).told, "")

    def test_squares_left_out_depend_on_the_places(self):
        key = checks_key(self.whole)
        table = self.whole.table
        moved = tuple(
            PropertyColumn(c.name, c.values[::-1] if c.name == "x" else c.values, c.unit)
            for c in table.properties
        )
        other = replace(
            self.whole, stages=(replace(self.whole.part, properties=moved), *self.whole.stages[1:])
        )
        self.assertNotEqual(key, checks_key(other))
        self.assertEqual(self.checked.validation.settings.scheme, "tiles")

    def test_the_report_has_maps(self):
        report = Report(only_sections("maps").apply(self.state), self.found, self.checked, ())
        parts = next(one for one in document_of(report).sections if one.title == "Maps").parts
        self.assertIsInstance(parts[0], Paragraph)
        self.assertIn("43 pixels", parts[0].words)
        pictures = [part for part in parts if isinstance(part, Picture)]
        self.assertEqual(len(pictures), 4)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "report.html"
            write_report(report, path)
            text = path.read_text()
        self.assertIn("1729.56 nm, 2310.06 nm", text)
        self.assertLess(len(text), 6_000_000)  # thousands of pixels are no thousands of lines

    def test_without_pixels_no_maps(self):
        study = demo_study("practice")
        found = Evaluator().evaluate(study.state.table, study.state.recipe)
        sections = document_of(Report(study.state, found, check(found), ())).sections
        self.assertNotIn("Maps", [one.title for one in sections])


if __name__ == "__main__":
    unittest.main()
