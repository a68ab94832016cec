"""Alignment: how sure a fitted peak is, and shifts taken from a column."""

import unittest

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import PropertyColumn
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError, TableError
from scutcher.core.numeric.peak_fit import fit_peaks
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import Step
from scutcher.core.treatments import treatment

AXIS = np.arange(1300.0, 1400.0, 0.5)


def shifted_table(shifts, noise=0.0, seed=1):
    away = np.asarray(shifts)[:, np.newaxis]
    values = np.exp(-0.5 * ((AXIS - 1340.0 - away) / 4.0) ** 2) + 0.002 * (AXIS - 1300.0)
    values = values + noise * np.random.default_rng(seed).normal(size=values.shape)
    axis = Axis(tuple(f"{place:g}" for place in AXIS), AXIS, "wavelength", "nm")
    ids = tuple(f"s{row}" for row in range(len(values)))
    return Table(values, axis, ids, properties=(PropertyColumn("shift", np.asarray(shifts, float), "nm"),))


class PeakErrors(unittest.TestCase):
    def test_95_of_100_bands_hold_the_truth(self):
        shifts = np.linspace(-2.0, 2.0, 400)
        table = shifted_table(shifts, noise=0.03)
        window = np.abs(AXIS - 1340.0) <= 15.0
        fit = fit_peaks(AXIS[window], table.values[:, window])
        away = np.abs(fit.centre - 1340.0 - shifts)
        self.assertAlmostEqual(np.mean(away <= 1.96 * fit.centre_error), 0.95, delta=0.035)

    def test_it_is_the_spread_of_repeats(self):
        table = shifted_table(np.zeros(300), noise=0.02)
        window = np.abs(AXIS - 1340.0) <= 12.0
        fit = fit_peaks(AXIS[window], table.values[:, window])
        self.assertAlmostEqual(fit.centre_error.mean() / fit.centre.std(), 1.0, delta=0.12)


class ByColumn(unittest.TestCase):
    def test_as_a_peak_would(self):
        shifts = np.array([-1.5, 0.0, 0.7, 2.0])
        table = shifted_table(shifts)
        column = treatment("shift-by-column")
        found = run_step(table, Step(column.key, column.parameters(column="shift", most=6))).table
        peak = treatment("shift-to-peak")
        other = run_step(
            table, Step(peak.key, peak.parameters(position=1340.0, half_width=12.0, most=6))
        ).table
        np.testing.assert_allclose(found.values, other.values, atol=2e-6)
        self.assertEqual(found.shape[1], len(AXIS) - 12)
        self.assertEqual(column.suggest(table).column, "shift")
        self.assertEqual(column.suggest(table).most, 4)

    def test_bins_after_it_are_common_whoever_was_moved_by_how_much(self):
        """Nobody has to think of them: they are channels of before, the same for all, none of them empty."""
        shifts = np.array([-2.25, -0.6, 0.0, 0.37, 2.9])
        table = shifted_table(shifts)
        ways = {
            "shift-by-column": {"column": "shift", "most": 8},
            "shift-to-peak": {"position": 1340.0, "half_width": 12.0, "most": 8},
            "shift-by-correlation": {"most": 8},
        }
        bins = treatment("bin-equal")
        for key, settings in ways.items():
            with self.subTest(key):
                found = run_step(table, Step(key, treatment(key).parameters(**settings))).table
                np.testing.assert_array_equal(found.axis.positions, AXIS[8:-8])
                self.assertTrue(np.isfinite(found.values).all())
                binned = run_step(found, Step(bins.key, bins.parameters())).table
                self.assertTrue(np.isfinite(binned.values).all())
                apart = np.ptp(binned.values, axis=0).max() / np.ptp(binned.values)
                raw = run_step(
                    table.take(np.arange(5), np.arange(8, len(AXIS) - 8)), Step(bins.key, bins.parameters())
                )
                self.assertLess(
                    apart, 0.1 * np.ptp(raw.table.values, axis=0).max() / np.ptp(raw.table.values)
                )

    def test_what_is_refused(self):
        column = treatment("shift-by-column")
        table = shifted_table([0.0, 9.0])
        with self.assertRaisesRegex(TableError, r"The shift of sample s1 is \+18.0 channels; 5 are allowed"):
            run_step(table, Step(column.key, column.parameters(column="shift")))
        with self.assertRaisesRegex(RecipeError, "leaves nothing"):
            run_step(table, Step(column.key, column.parameters(column="shift", most=150)))
        with self.assertRaisesRegex(TableError, "no property 'drift'"):
            run_step(table, Step(column.key, column.parameters(column="drift")))


if __name__ == "__main__":
    unittest.main()
