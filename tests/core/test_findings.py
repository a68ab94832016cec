"""What is told of a table, in words."""

import unittest

import numpy as np

from scutcher.core.findings import findings
from scutcher.core.import_check import leave_out_unusable
from scutcher.core.table import ClassColumn
from tests.core.making import mixed_table, ordered_table, random_spectra


def texts(table):
    return [finding.text for finding in findings(leave_out_unusable(table))]


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
                "1 constant, left out: 1006 nm",
                "1 gaps in 1 sample (s5), left out of the model",
                "1 repeat another variable exactly: 1014 nm",
                "1 channels look saturated (many samples at exactly 99): 1018 nm",
                "kind is not filled in for 1 samples",
                "lot has 10 levels for 20 samples: replicates?",
            ],
        )

    def test_units_far_apart(self):
        values = random_spectra(10, 3) * np.array([1.0, 500.0, 3.0])
        self.assertRegex(
            texts(mixed_table(values))[0], r"b varies .* × as much as .*: each is scaled to SD 1"
        )

    def test_replicate_structure(self):
        table = ordered_table(random_spectra(6, 5), replicates=("a", "a", "b", "b", "c", "d"))
        self.assertIn("Replicates (samples × repeats): 2 × 1, 2 × 2", texts(table)[0])
