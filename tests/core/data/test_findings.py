"""What is told of a table, in words."""

import unittest

import numpy as np

from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.findings import findings
from tests.core.making import mixed_table, ordered_table, random_spectra


def texts(table):
    return [finding.text for finding in findings(leave_out_empty(table))]


class Findings(unittest.TestCase):
    def test_a_sound_table_has_none(self):
        self.assertEqual(texts(ordered_table(random_spectra())), [])

    def test_each(self):
        values = random_spectra(20, 12)
        values[:, 3] = 0.0
        values[4, 5] = np.nan
        values[:, 7] = values[:, 6]
        values[:6, 9] = 99.0
        kinds = ("a", "", *"ab" * 9)
        lots = tuple(f"l{row // 2}" for row in range(20))
        table = ordered_table(values, classes=(ClassColumn("kind", kinds), ClassColumn("lot", lots)))
        self.assertEqual(
            texts(table),
            [
                "1 constant, measured all the same: 1006 nm. Dead channels?",
                "1 gap in 1 sample (s5), left out of the model",
                "1 copy of another variable, exactly: 1014 nm",
                "1 saturated channel, many samples at exactly 99: 1018 nm",
                "kind is not filled in for 1 sample",
                "lot has 10 levels for 20 samples: replicates?",
            ],
        )

    def test_a_ceiling_below_the_maximum_of_the_table(self):
        values = random_spectra(40, 8)
        values[:, 2] = np.minimum(values[:, 2], np.quantile(values[:, 2], 0.7))
        values[:, 3] = np.minimum(values[:, 3], np.quantile(values[:, 3], 0.8))
        values[3, 6] = values.max() + 5.0
        found = next(f for f in findings(ordered_table(values)) if f.reason == "saturated")
        self.assertEqual(found.columns, (2, 3))
        low, high = sorted((values[:, 2].max(), values[:, 3].max()))
        self.assertIn(f"2 saturated channels, many samples at exactly {low:.6g} or {high:.6g}", found.text)

    def test_counts_are_not_taken_for_saturation(self):
        counts = np.random.default_rng(0).integers(0, 6, (60, 5)).astype(float)
        self.assertFalse([text for text in texts(ordered_table(counts)) if "saturated" in text])

    def test_units_far_apart(self):
        values = random_spectra(10, 3) * np.array([1.0, 500.0, 3.0])
        self.assertRegex(
            texts(mixed_table(values))[0], r"b varies .* × as much as .*: each is scaled to SD 1"
        )

    def test_replicate_structure(self):
        table = ordered_table(random_spectra(6, 5), replicates=("a", "a", "b", "b", "c", "d"))
        self.assertIn("Replicates (samples × repeats): 2 × 1, 2 × 2", texts(table)[0])
