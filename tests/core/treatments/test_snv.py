"""SNV against a loop, and on spectra that have nothing to scale."""

import statistics
import unittest

import numpy as np

from scutcher.core.errors import TableError
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import Step
from scutcher.core.treatments.snv import SnvParameters, snv
from tests.core.making import ordered_table, random_spectra


class Snv(unittest.TestCase):
    def test_against_a_loop(self):
        x = random_spectra(6, 20)
        for row, treated in zip(x, snv(x), strict=True):
            mean, deviation = statistics.fmean(row), statistics.stdev(row)
            np.testing.assert_allclose(treated, [(value - mean) / deviation for value in row], rtol=1e-12)

    def test_hand_worked(self):
        np.testing.assert_allclose(snv(np.array([[1.0, 2.0, 3.0]])), [[-1.0, 0.0, 1.0]])

    def test_takes_away_offset_and_size(self):
        x = random_spectra(4, 20)
        np.testing.assert_allclose(snv(3.7 * x + 12.0), snv(x), atol=1e-10)

    def test_flat_spectrum_names_the_sample(self):
        x = random_spectra(4, 20)
        x[2] = 0.1  # its standard deviation is not exactly zero in binary
        with self.assertRaises(TableError) as caught:
            run_step(ordered_table(x), Step("snv", SnvParameters()))
        self.assertEqual(
            str(caught.exception),
            "SNV: sample s3 is flat, it has no standard deviation to scale by. "
            "Set it aside or switch SNV off.",
        )
