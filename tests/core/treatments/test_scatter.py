"""Scatter corrections against a line or a full least-squares problem for each spectrum."""

import unittest

import numpy as np

from scutcher.core.errors import TableError
from tests.core.making import classes_of, ordered_table, random_spectra
from tests.core.treatments.doing import treated, values


class SnvInRegions(unittest.TestCase):
    def test_mean_and_deviation_of_the_region_only(self):
        x = random_spectra(5, 30)
        found = values(ordered_table(x), "snv", regions=[[1010, 1030]])
        part = x[:, 5:16]
        want = (x - part.mean(1, keepdims=True)) / part.std(1, ddof=1, keepdims=True)
        np.testing.assert_allclose(found, want, rtol=1e-12, atol=1e-12)

    def test_a_region_off_the_axis_says_where_the_axis_is(self):
        with self.assertRaises(TableError) as caught:
            values(ordered_table(random_spectra(5, 30)), "snv", regions=[[2000, 2100]])
        self.assertEqual(
            str(caught.exception),
            "The region 2000–2100 nm holds no channel; the axis runs from 1000 to 1058. "
            "Move the region onto the axis.",
        )


class Msc(unittest.TestCase):
    def test_against_polyfit(self):
        x = random_spectra(8, 30)
        found = values(ordered_table(x), "msc")
        for row, got in zip(x, found, strict=True):
            slope, offset = np.polyfit(x.mean(0), row, 1)
            np.testing.assert_allclose(got, (row - offset) / slope, rtol=1e-10)

    def test_references(self):
        x = random_spectra(9, 30)
        table = ordered_table(x, classes=(classes_of(9),))
        wanted = {
            ("median",): np.median(x, axis=0),
            ("class", "level", "y"): x[1::2].mean(0),
            ("sample", "sample", "s4"): x[3],
        }
        for (kind, *more), reference in wanted.items():
            found = values(table, "msc", reference=kind, **dict(zip(more[::2], more[1::2], strict=True)))
            slope, offset = np.polyfit(reference, x[0], 1)
            np.testing.assert_allclose(found[0], (x[0] - offset) / slope, rtol=1e-9)

    def test_takes_away_offset_and_size(self):
        reference = random_spectra(1, 40)[0]
        x = np.outer([0.5, 1.0, 2.0], reference) + np.array([[0.3], [0.0], [-0.2]])
        found = values(ordered_table(x), "msc", reference="sample", sample="s2")
        np.testing.assert_allclose(found, np.tile(reference, (3, 1)), rtol=1e-10)

    def test_regions_fit_the_line_there_only(self):
        x = random_spectra(6, 30)
        found = values(ordered_table(x), "msc", regions=[[1000, 1020]])
        slope, offset = np.polyfit(x.mean(0)[:11], x[2, :11], 1)
        np.testing.assert_allclose(found[2], (x[2] - offset) / slope, rtol=1e-9)

    def test_unknown_class_is_named(self):
        table = ordered_table(random_spectra(4, 20), classes=(classes_of(4),))
        with self.assertRaises(TableError) as caught:
            values(table, "msc", reference="class", level="z")
        self.assertEqual(
            str(caught.exception), "No sample in the set is of class 'z' of kind. Choose one of: x, y."
        )


class ExtendedMsc(unittest.TestCase):
    def test_against_lstsq(self):
        x = random_spectra(10, 40)
        u = np.linspace(-1, 1, 40)
        interferent = x[4] - x.mean(0)
        found = values(ordered_table(x), "extended-msc", degree=2, interferents=["s5"])
        for row, got in zip(x, found, strict=True):
            parts = np.column_stack([x.mean(0), np.ones(40), u, u**2, interferent])
            b, *rest = np.linalg.lstsq(parts, row, rcond=None)[0]
            np.testing.assert_allclose(got, (row - parts[:, 1:] @ rest) / b, rtol=1e-6, atol=1e-8)

    def test_planted_baseline_and_size_are_taken_away(self):
        reference = random_spectra(1, 60)[0]
        u = np.linspace(-1, 1, 60)
        x = np.array([0.7 * reference + 0.2 - 0.4 * u + 0.1 * u**2, reference])
        found = values(ordered_table(x), "extended-msc", reference="sample", sample="s2")
        np.testing.assert_allclose(found[0], found[1], rtol=1e-9)

    def test_parts_that_cannot_be_told_apart(self):
        x = random_spectra(4, 30)
        with self.assertRaises(TableError) as caught:
            values(ordered_table(x), "extended-msc", interferents=["s2", "s2"])
        self.assertIn("cannot be told apart", str(caught.exception))

    def test_signal_is_named(self):
        self.assertIn("extended MSC", treated(ordered_table(random_spectra(5, 30)), "extended-msc").signal)
