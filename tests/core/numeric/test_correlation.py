"""Correlations against the definition, pair by pair."""

import unittest

import numpy as np

from scutcher.core.numeric.correlation import correlations
from tests.core.making import random_spectra


class Correlations(unittest.TestCase):
    def test_pair_by_pair(self):
        x = random_spectra(15, 6)
        found = correlations(x)
        for i in range(6):
            for j in range(6):
                self.assertAlmostEqual(found[i, j], np.corrcoef(x[:, i], x[:, j])[0, 1])

    def test_gaps_and_constants(self):
        x = random_spectra(15, 4)
        x[3, 1] = np.nan
        x[:, 2] = 0.1
        found = correlations(x)
        rest = np.delete(x, 3, axis=0)
        self.assertAlmostEqual(found[0, 1], np.corrcoef(rest[:, 0], rest[:, 1])[0, 1])
        self.assertTrue(np.isnan(found[2]).all())
        self.assertTrue(np.isnan(correlations(x[:1])).all())
