"""Normalisations and transforms against their definitions, value by value."""

import math
import unittest

import numpy as np

from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import TableError
from tests.core.making import classes_of, mixed_table, moisture_of, ordered_table, random_spectra
from tests.core.treatments.doing import treated, values


class Normalise(unittest.TestCase):
    def setUp(self):
        self.x = random_spectra(6, 30)
        self.table = ordered_table(self.x, classes=(classes_of(6),), properties=(moisture_of(6),))

    def test_sum_length_maximum(self):
        for row in range(6):
            x = self.x[row]
            np.testing.assert_allclose(values(self.table, "normalise-sum")[row], x / math.fsum(x))
            length = math.sqrt(math.fsum(v * v for v in x))
            np.testing.assert_allclose(values(self.table, "normalise-length")[row], x / length)
            np.testing.assert_allclose(values(self.table, "normalise-maximum")[row], x / max(x))

    def test_region(self):
        x = self.x
        height = values(self.table, "normalise-region", by="height", regions=[[1010, 1020]])
        np.testing.assert_allclose(height, x / x[:, 5:11].max(1, keepdims=True))
        area = values(self.table, "normalise-region", regions=[[1010, 1020]])
        by_hand = sum((x[:, i] + x[:, i + 1]) / 2 * 2.0 for i in range(5, 10))
        np.testing.assert_allclose(area, x / by_hand[:, np.newaxis])

    def test_property(self):
        found = values(self.table, "normalise-property", column="moisture")
        np.testing.assert_allclose(found, self.x / np.arange(1.0, 7.0)[:, np.newaxis])

    def test_quotient_against_a_loop(self):
        x = self.x.copy()
        x[:, 3] -= 5.0  # the reference is negative there: not asked
        found = values(ordered_table(x), "probabilistic-quotient")
        reference = np.median(x, axis=0)
        for row, got in zip(x, found, strict=True):
            quotient = np.median([v / r for v, r in zip(row, reference, strict=True) if r > 0])
            np.testing.assert_allclose(got, row / quotient)

    def test_quotient_of_a_class(self):
        found = values(self.table, "probabilistic-quotient", level="y")
        reference = np.median(self.x[1::2], axis=0)
        np.testing.assert_allclose(found[0], self.x[0] / np.median(self.x[0] / reference))

    def test_planted_dilutions_are_taken_away(self):
        x = np.outer([0.5, 1.0, 1.7, 1.0, 2.5], random_spectra(1, 40)[0])
        x[2, 10:14] *= 3.0
        found = values(ordered_table(x), "probabilistic-quotient")
        np.testing.assert_allclose(found[[0, 2, 4]][:, 20:], np.tile(found[1, 20:], (3, 1)))

    def test_class_mean(self):
        found = values(self.table, "normalise-class-mean", level="x")
        np.testing.assert_allclose(found[::2].mean(axis=0), 1.0)

    def test_divisors_must_be_positive(self):
        x = self.x.copy()
        x[2] -= 10.0
        with self.assertRaises(TableError) as caught:
            values(ordered_table(x), "normalise-sum")
        self.assertRegex(
            str(caught.exception), r"^The sum of sample s3 is -\d+\.?\d*; it must be positive to divide by\."
        )


class Transform(unittest.TestCase):
    def test_logarithm_root_power(self):
        x = random_spectra(3, 10)
        table = ordered_table(x)
        for method, parameters, function in (
            ("log10", {"offset": 0.5}, lambda v: math.log10(v + 0.5)),
            ("square-root", {}, math.sqrt),
            ("power", {"exponent": 1.5}, lambda v: v**1.5),
            ("generalised-log", {"bend": 2.0}, lambda v: math.log((v + math.sqrt(v * v + 2)) / 2)),
            ("absorbance-transmittance", {}, lambda v: -math.log10(v)),
            ("absorbance-transmittance", {"percent": True}, lambda v: 2 - math.log10(v)),
            ("absorbance-transmittance", {"to": "transmittance"}, lambda v: 10**-v),
            ("dead-time", {"dead_time": 1e6, "counting_time": 0.1}, lambda v: v / (1 - v * 1e-2)),
        ):
            with self.subTest(method, **parameters):
                want = [[function(v) for v in row] for row in x]
                np.testing.assert_allclose(values(table, method, **parameters), want, rtol=1e-12)

    def test_generalised_log_below_zero_does_not_cancel(self):
        x = np.array([[-1e9, 0.0, 1e9]])
        found = values(ordered_table(x), "generalised-log", bend=1.0)
        np.testing.assert_allclose(found, np.arcsinh(x) - math.log(2), rtol=1e-9)

    def test_refusals_name_sample_and_channel(self):
        x = random_spectra(3, 10)
        x[1, 2] = -0.25
        said = {
            "log10": "The logarithm needs values above 0: sample s2 has -0.25 at 1004 nm. "
            "Raise the offset, or leave that variable out.",
            "square-root": "The square root needs values of zero or more: sample s2 has -0.25 at 1004 nm. "
            "Take off the baseline first.",
            "absorbance-transmittance": "Absorbance needs a transmittance above zero: sample s2 has -0.25 at "
            "1004 nm. Leave that channel out.",
        }
        for method, words in said.items():
            with self.subTest(method), self.assertRaises(TableError) as caught:
                values(ordered_table(x), method)
            self.assertEqual(str(caught.exception), words)

    def test_axis_units_there_and_back(self):
        table = ordered_table(random_spectra(2, 10))
        there = treated(table, "axis-units")
        self.assertEqual((there.axis.unit, there.axis.quantity), ("cm⁻¹", "wavenumber"))
        self.assertAlmostEqual(there.axis.places()[0], 10000.0)
        back = treated(there, "axis-units", to="nm")
        np.testing.assert_allclose(back.axis.places(), table.axis.places())
        np.testing.assert_array_equal(back.values, table.values)
        with self.assertRaises(TableError) as caught:
            treated(table, "axis-units", to="nm")
        self.assertIn("The axis is in nm already.", str(caught.exception))

    def test_indicator_columns(self):
        table = mixed_table(random_spectra(3, 2), classes=(ClassColumn("kind", ("a", "", "b")),))
        found = treated(table, "indicator-columns")
        self.assertEqual(found.axis.labels, ("a", "b", "kind=a", "kind=b"))
        np.testing.assert_array_equal(found.values[:, 2:], [[1, 0], [np.nan, np.nan], [0, 1]])
