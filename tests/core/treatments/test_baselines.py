"""Baselines against loops, dense systems, and a planted baseline under peaks."""

import unittest

import numpy as np

from scutcher.core.errors import RecipeError, TableError
from tests.core.making import ordered_table, random_spectra
from tests.core.treatments.doing import values

P = 80
PENALTY = np.diff(np.eye(P), 2, axis=0).T @ np.diff(np.eye(P), 2, axis=0)


def peaks_on_a_curve(n=4, noise=0.0):
    """Sharp peaks on a parabola. Answers spectra, baseline."""
    rng = np.random.default_rng(4)
    u = np.linspace(-1, 1, P)
    baseline = rng.uniform(0.5, 1.0, (n, 1)) + rng.uniform(0.1, 0.3, (n, 1)) * u**2
    peaks = sum(2.0 * np.exp(-0.5 * ((np.arange(P) - c) / 1.5) ** 2) for c in (15, 40, 62))
    return baseline + peaks + noise * rng.normal(size=(n, P)), baseline


class Simple(unittest.TestCase):
    def test_offset(self):
        x = random_spectra(4, 20)
        np.testing.assert_allclose(values(ordered_table(x), "baseline-offset"), x - x.min(1, keepdims=True))
        found = values(ordered_table(x), "baseline-offset", regions=[[1000, 1006]])
        np.testing.assert_allclose(found, x - x[:, :4].mean(1, keepdims=True))

    def test_line_through_two_regions(self):
        x = random_spectra(4, 20)
        found = values(ordered_table(x), "baseline-line", regions=[[1000, 1004], [1030, 1038]])
        for row, got in zip(x, found, strict=True):
            slope, offset = np.polyfit([1002.0, 1034.0], [row[:3].mean(), row[15:].mean()], 1)
            np.testing.assert_allclose(got, row - offset - slope * (1000 + 2.0 * np.arange(20)), atol=1e-9)

    def test_line_through_the_ends(self):
        x = random_spectra(2, 20)
        found = values(ordered_table(x), "baseline-line")
        np.testing.assert_allclose(found[:, [0, -1]], 0.0, atol=1e-12)

    def test_line_needs_two_regions(self):
        with self.assertRaises(RecipeError) as caught:
            values(ordered_table(random_spectra(2, 20)), "baseline-line", regions=[[1000, 1010]])
        self.assertEqual(
            str(caught.exception),
            "The straight baseline has 1 regions; it goes through two. Give two, or none.",
        )

    def test_polynomial_against_polyfit_outside_the_bands(self):
        x = random_spectra(3, 40)
        places = 1000 + 2.0 * np.arange(40)
        kept = (places < 1020) | (places > 1050)
        found = values(ordered_table(x), "baseline-polynomial", degree=3, exclude=[[1020, 1050]])
        for row, got in zip(x, found, strict=True):
            fitted = np.polynomial.Polynomial.fit(places[kept], row[kept], 3)
            np.testing.assert_allclose(got, row - fitted(places), atol=1e-9)


class Penalised(unittest.TestCase):
    def test_asymmetric_against_the_dense_iteration(self):
        x, _ = peaks_on_a_curve(noise=0.01)
        found = values(
            ordered_table(x), "asymmetric-least-squares", smoothness=1e3, asymmetry=0.02, rounds=30
        )
        for row, got in zip(x, found, strict=True):
            w = np.ones(P)
            for _ in range(30):
                curve = np.linalg.solve(np.diag(w) + 1e3 * PENALTY, w * row)
                w = np.where(row > curve, 0.02, 0.98)
            np.testing.assert_allclose(got, row - curve, atol=1e-8)

    def test_arpls_against_the_dense_iteration(self):
        x, _ = peaks_on_a_curve(noise=0.01)
        found = values(ordered_table(x), "arpls", smoothness=1e3, tolerance=1e-3, rounds=50)
        for row, got in zip(x, found, strict=True):
            w = np.ones(P)
            for _ in range(50):
                curve = np.linalg.solve(np.diag(w) + 1e3 * PENALTY, w * row)
                d = row - curve
                m, s = d[d < 0].mean(), d[d < 0].std(ddof=1)
                fresh = np.where(d < 0, 1.0, 1 / (1 + np.exp(np.clip(2 * (d - (2 * s - m)) / s, -500, 500))))
                change, w = np.linalg.norm(w - fresh) / np.linalg.norm(w), fresh
                if change < 1e-3:
                    break
            np.testing.assert_allclose(got, d, atol=1e-7)

    def test_a_planted_baseline_is_found(self):
        x, baseline = peaks_on_a_curve(noise=0.005)
        for method, parameters, within in (
            ("arpls", {"smoothness": 100.0}, 0.02),
            ("asymmetric-least-squares", {"smoothness": 1e3, "asymmetry": 0.005}, 0.08),
        ):
            away = x - values(ordered_table(x), method, **parameters) - baseline
            self.assertLess(np.abs(away).max(), within, method)


class Snip(unittest.TestCase):
    def test_against_a_loop(self):
        x = random_spectra(3, 30)
        found = values(ordered_table(x), "snip", half_width=6, compress=False)
        for row, got in zip(x, found, strict=True):
            curve = row.copy()
            for reach in range(1, 7):
                old = curve.copy()
                for i in range(reach, 30 - reach):
                    curve[i] = min(old[i], (old[i - reach] + old[i + reach]) / 2)
            np.testing.assert_allclose(got, row - curve, atol=1e-12)

    def test_compressed_is_the_same_on_the_compressed_scale(self):
        counts = 1000.0 * random_spectra(3, 30)
        squeezed = np.log(np.log(np.sqrt(counts + 1) + 1) + 1)
        clipped = squeezed - values(ordered_table(squeezed), "snip", half_width=5, compress=False)
        want = counts - ((np.exp(np.exp(clipped) - 1) - 1) ** 2 - 1)
        found = values(ordered_table(counts), "snip", half_width=5)
        np.testing.assert_allclose(found, want, rtol=1e-8, atol=1e-6)

    def test_values_that_cannot_be_compressed(self):
        x = random_spectra(3, 30)
        x[1, 4] = -2.0
        with self.assertRaises(TableError) as caught:
            values(ordered_table(x), "snip", half_width=5)
        self.assertEqual(
            str(caught.exception),
            "SNIP compresses values above −1: sample s2 has -2 at 1008 nm. Switch compress off.",
        )
