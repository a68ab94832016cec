"""Channels kept, bins, thinning, alignment and rebuilding against loops and planted shifts."""

import unittest

import numpy as np

from scutcher.core.errors import RecipeError, TableError
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.recipes.work import most_channels, work_of
from scutcher.core.treatments.bin_valleys import valley_starts
from tests.core.making import ordered_table, random_spectra
from tests.core.treatments.doing import treated, values


def shifted_peaks(n=8, p=120, seed=3):
    """A sharp peak and a broad one, each spectrum shifted by a part of a channel. Answers table, shifts."""
    rng = np.random.default_rng(seed)
    shifts = rng.uniform(-3.0, 3.0, n)
    channels = np.arange(p) - shifts[:, np.newaxis]
    spectra = (
        np.exp(-0.5 * ((channels - 40) / 3.0) ** 2)
        + rng.uniform(0.5, 1.5, (n, 1)) * np.exp(-0.5 * ((channels - 80) / 12.0) ** 2)
        + 0.1
        + 0.002 * channels
    )
    return ordered_table(spectra + 0.001 * rng.normal(size=(n, p))), shifts


class Channels(unittest.TestCase):
    def test_keep_and_leave_out(self):
        table = ordered_table(random_spectra(3, 20))
        kept = treated(table, "channels", regions=[[1004, 1010], [1030, 1026]])
        self.assertEqual(kept.axis.labels, ("1004", "1006", "1008", "1010", "1026", "1028", "1030"))
        np.testing.assert_array_equal(kept.values, table.values[:, [2, 3, 4, 5, 13, 14, 15]])
        rest = treated(table, "channels", mode="leave-out", regions=[[1004, 1010], [1030, 1026]])
        self.assertEqual(set(rest.axis.labels) | set(kept.axis.labels), set(table.axis.labels))
        self.assertEqual(rest.shape[1] + kept.shape[1], 20)

    def test_too_few_left(self):
        with self.assertRaises(RecipeError) as caught:
            treated(ordered_table(random_spectra(3, 20)), "channels", regions=[[1004, 1005]])
        self.assertIn("1 of 20 channels would be kept", str(caught.exception))

    def test_thin(self):
        table = ordered_table(random_spectra(3, 20))
        np.testing.assert_array_equal(values(table, "thin", every=3), table.values[:, ::3])


class Bins(unittest.TestCase):
    def test_equal_width_against_a_loop(self):
        table = ordered_table(random_spectra(3, 23))
        found = treated(table, "bin-equal", width=10.0, by="sum")
        places = table.axis.places()
        for place in range(5):
            within = (places >= 1000 + 10 * place) & (places < 1010 + 10 * place)
            np.testing.assert_allclose(found.values[:, place], table.values[:, within].sum(axis=1))
            self.assertAlmostEqual(found.axis.places()[place], places[within].mean())
        mean = treated(table, "bin-equal", width=10.0)
        np.testing.assert_allclose(mean.values[:, -1], table.values[:, 20:].mean(axis=1))

    def test_valleys_keep_a_peak_whole(self):
        peak = np.exp(-0.5 * ((np.arange(40) - 10) / 2.0) ** 2)
        table = ordered_table(np.tile(peak, (3, 1)))
        self.assertLess(values(table, "bin-valleys", width=20.0, tolerance=0.0).max(), 0.7 * peak.sum())
        self.assertGreater(values(table, "bin-valleys", width=20.0).max(), 0.98 * peak.sum())

    def test_valleys_against_a_loop(self):
        x = random_spectra(6, 50)
        step = recipe_from_plain(
            {"treat": [{"method": "bin-valleys", "width": 12.0, "tolerance": 0.3}]}
        ).treat[0]
        starts = run_step(ordered_table(x), step).learned["starts"]
        mean, want = x.mean(axis=0), [0]
        for edge in np.arange(12.0, 98.0, 12.0):
            reach = [c for c in range(50) if abs(2.0 * c - edge) <= 3.6]
            best = min(reach, key=lambda c: mean[c])
            if best > want[-1]:
                want.append(best)
        np.testing.assert_array_equal(starts, want)

    def test_valleys_of_any_width_on_any_axis(self):
        rng = np.random.default_rng(3)
        for turn in range(300):
            p = int(rng.integers(2, 40))
            steps = np.ones(p) if turn % 2 else rng.random(p) ** 3 + 0.01
            places = np.cumsum(steps)[:: -1 if turn % 3 == 0 else 1]
            mean, width = rng.normal(size=p), float(rng.choice([0.1, 0.3, 0.5, 0.77, 1.0, 2.0, 9.0]))
            tolerance = float(rng.choice([0.0, 0.1, 0.5]))
            away, want = np.abs(places - places[0]), [0]
            for edge in np.arange(width, away[-1], width):
                near = np.flatnonzero(np.abs(away - edge) <= (tolerance + 1e-9) * width)
                near = near if near.size else [int(np.abs(away - edge).argmin())]
                best = int(near[np.argmin(mean[near])])
                want += [best] if best > want[-1] else []
            np.testing.assert_array_equal(valley_starts(mean, places, width, tolerance), want)

    def test_bins_narrower_than_channels_are_the_channels(self):
        table = ordered_table(random_spectra(3, 23))
        for method in ("bin-equal", "bin-valleys"):
            for width in (1e-99, 1e-9, 0.1):
                np.testing.assert_array_equal(values(table, method, width=width), table.values)


class Align(unittest.TestCase):
    def test_reference_peak_finds_planted_shifts(self):
        table, shifts = shifted_peaks()
        step = recipe_from_plain(
            {"treat": [{"method": "shift-to-peak", "position": 1080.0, "half_width": 20.0, "most": 6}]}
        ).treat[0]
        after = step.treatment.apply(table, step.parameters, None)
        found = step.treatment.inside(table, after, step.parameters, None).per_sample
        np.testing.assert_allclose(found, shifts, atol=0.1)
        aligned = run_step(table, step).table
        spread = aligned.values[:, 20:40].std(axis=0).max()
        self.assertLess(spread, 0.1 * table.values[:, 26:46].std(axis=0).max())
        self.assertEqual(aligned.axis.labels, table.axis.labels[6:-6])

    def test_a_peak_too_far_away_names_the_sample(self):
        table, _ = shifted_peaks()
        with self.assertRaises(TableError) as caught:
            values(table, "shift-to-peak", position=1080.0, half_width=20.0, most=1)
        self.assertRegex(
            str(caught.exception), r"^The reference peak of sample s\d is [+-]\d\.\d channels away"
        )

    def test_correlation_finds_planted_shifts(self):
        table, shifts = shifted_peaks()
        step = recipe_from_plain(
            {"treat": [{"method": "shift-by-correlation", "reference": "sample", "sample": "s1", "most": 8}]}
        ).treat[0]
        learned = step.treatment.fit(table, step.parameters)
        after = step.treatment.apply(table, step.parameters, learned)
        found = step.treatment.inside(table, after, step.parameters, learned).per_sample
        np.testing.assert_allclose(found, shifts - shifts[0], atol=0.3)

    def test_intervals_move_on_their_own(self):
        table, _ = shifted_peaks()
        found = values(
            table, "shift-by-correlation", regions=[[1050, 1110]], each=True, reference="sample", most=8
        )
        np.testing.assert_array_equal(found[:, :15], table.values[:, 8:23])
        before, after = table.values[:, 33:48].std(axis=0).max(), found[:, 25:40].std(axis=0).max()
        self.assertLess(after, 0.3 * before)

    def test_resample_reads_between_and_never_beyond(self):
        table = ordered_table(random_spectra(2, 20))
        found = treated(table, "resample", start=1001, stop=1021, step=5, kind="linear")
        np.testing.assert_allclose(found.values[:, 0], table.values[:, :2].mean(axis=1))
        np.testing.assert_allclose(found.axis.places(), [1001, 1006, 1011, 1016, 1021])
        for kind in ("monotone-cubic", "spline"):
            same = treated(table, "resample", kind=kind)
            np.testing.assert_allclose(same.values, table.values, rtol=1e-9)
        with self.assertRaises(RecipeError) as caught:
            treated(table, "resample", start=990, stop=1020, step=5)
        self.assertIn("measured is 1000 to 1038, and nothing is extrapolated", str(caught.exception))

    def test_resample_refuses_far_more_channels_than_were_measured(self):
        table = ordered_table(random_spectra(3, 20))  # 1000 to 1038
        for step in (1e-99, 1e-50, 1e-6, 0.0037):
            with self.assertRaisesRegex(RecipeError, "more than 10,000; 20 were measured.*at least 0.004"):
                treated(table, "resample", step=step)
        self.assertEqual(treated(table, "resample", step=0.004).shape, (3, 9501))
        many = ordered_table(np.zeros((11_000, 4)) + np.arange(4.0))
        with self.assertRaisesRegex(RecipeError, "11,000 samples of 9,501 channels are more than"):
            treated(many, "resample", step=6.0 / 9500.0)

    def test_channels_that_are_made_are_work(self):
        table = ordered_table(random_spectra(3, 20))
        steps = [{"method": "resample", "step": 0.01}, {"method": "snv"}]
        fine, snv = recipe_from_plain({"treat": steps}).treat
        self.assertEqual(most_channels(table, [snv]), 20)
        self.assertEqual(most_channels(table, [fine, snv]), 3801)
        self.assertEqual(work_of(table, fine), fine.treatment.cost * 3 * 3801)
        refused = recipe_from_plain({"treat": [{"method": "resample", "step": 1e-9}]}).treat[0]
        self.assertEqual(most_channels(table, [refused]), 20)


class Rebuild(unittest.TestCase):
    def test_against_svd(self):
        x = random_spectra(10, 20)
        found = values(ordered_table(x), "rebuild", components=2)
        mean = x.mean(axis=0)
        u, s, v = np.linalg.svd(x - mean, full_matrices=False)
        np.testing.assert_allclose(found, mean + (u[:, :2] * s[:2]) @ v[:2], rtol=1e-10)
