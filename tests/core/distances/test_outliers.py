"""The robust start: few false alarms on clean data, masked outliers found, planes as decomposed in full."""

import unittest

import numpy as np

from scutcher.core.distances.clean_part import clean_part, plane_of
from scutcher.core.distances.outliers import robust_fit
from scutcher.core.errors import ModelError


def clean(n, p, seed, k=3):
    """k components over noise: samples of one kind."""
    rng = np.random.default_rng([seed, n, p])
    loadings = np.linalg.qr(rng.normal(size=(p, k)))[0] * np.sqrt(p)
    x = (rng.normal(size=(n, k)) * np.array([3.0, 2.0, 1.5])[:k]) @ loadings.T
    return x + 0.9 * rng.normal(size=(n, p)), loadings, rng


class FalseAlarms(unittest.TestCase):
    def rate(self, n, p, sets):
        found = [robust_fit(clean(n, p, seed)[0], 3, 1).outlying().mean() for seed in range(sets)]
        return float(np.mean(found))

    def test_of_clean_data(self):
        for n, p, sets in ((30, 10, 25), (30, 200, 25), (60, 300, 8), (150, 20, 6)):
            with self.subTest(f"{n} × {p}"):
                rate = self.rate(n, p, sets)
                spread = np.sqrt(0.05 * 0.95 / (n * sets))
                self.assertLess(rate, 0.075 + 2.0 * spread)
                self.assertGreater(rate, 0.02 - 2.0 * spread)


class Masked(unittest.TestCase):
    """A fifth of the samples hide each other."""

    def found(self, kind, n=50, p=80, seed=0):
        x, loadings, rng = clean(n, p, seed)
        m = n // 5
        away = rng.normal(size=p)
        away /= np.linalg.norm(away)
        if kind == "in the plane":
            x[:m] = (np.array([12.0, 10.0, -9.0]) + 0.3 * rng.normal(size=(m, 3))) @ loadings.T
            x[:m] += 0.9 * rng.normal(size=(m, p))
        elif kind == "off the plane":
            x[:m] += 12.0 * np.sqrt(p) * away
        elif kind == "one point":
            x[:m] = 8.0 * np.sqrt(p) * away + 0.01 * rng.normal(size=(m, p))
        else:
            x[:m] += 4.0 * rng.normal(size=(m, p))
        past = robust_fit(x - x.mean(axis=0), 3, 1).outlying()
        return past[:m].mean(), past[m:].mean()

    def test_each_kind(self):
        for kind in ("in the plane", "off the plane", "one point", "spread"):
            with self.subTest(kind):
                found = np.array([self.found(kind, seed=seed) for seed in range(6)]).mean(axis=0)
                self.assertGreaterEqual(found[0], 0.85 if kind == "spread" else 0.95)
                self.assertLess(found[1], 0.12)


class Parts(unittest.TestCase):
    def test_the_plane_of_many_is_that_of_the_decomposition(self):
        x, _, _ = clean(400, 350, 0)
        found = plane_of(x, 3)
        away = x - x.mean(axis=0)
        _, singular, right = np.linalg.svd(away, full_matrices=False)
        np.testing.assert_allclose(found.variances, singular[:3] ** 2 / 399, rtol=1e-6)
        self.assertGreater(np.linalg.svd(right[:3] @ found.basis)[1].min(), 1.0 - 1e-6)
        near = plane_of(x[:390], 3, found)
        right = np.linalg.svd(x[:390] - x[:390].mean(axis=0), full_matrices=False)[2]
        self.assertGreater(np.linalg.svd(right[:3] @ near.basis)[1].min(), 1.0 - 1e-6)

    def test_nobody_is_measured_against_a_plane_of_its_own(self):
        x, _, _ = clean(25, 60, 1)
        found = clean_part(x, np.ones(25, dtype=bool), 2, 3)
        members = np.flatnonzero(found.clean)
        places = np.random.default_rng(3).permutation(25) % 10
        for at in range(10):
            piece = members[places[members] == at]
            others = np.setdiff1d(members, piece)
            middle = x[others].mean(axis=0)
            basis = np.linalg.svd(x[others] - middle, full_matrices=False)[2][:2].T
            left = x[piece] - middle
            left = left - left @ basis @ basis.T
            np.testing.assert_allclose(found.q[piece], (left**2).sum(axis=1), rtol=1e-9)

    def test_repeats_are_left_out_together(self):
        """Three repeats of each: one by one they vouch for each other, and new samples seem far."""
        rates = {"apart": [], "together": []}
        for seed in range(8):
            x, _, rng = clean(20, 60, seed)
            x = np.repeat(x, 3, axis=0) + 0.1 * rng.normal(size=(60, 60))
            lots = np.repeat(np.arange(20), 3)
            for name, groups in (("apart", None), ("together", lots)):
                rates[name].append(robust_fit(x - x.mean(axis=0), 3, 1, groups=groups).outlying().mean())
        self.assertLess(np.mean(rates["together"]), 0.12)
        self.assertLess(np.mean(rates["together"]), 0.6 * np.mean(rates["apart"]))

    def test_residuals_that_are_rounding_are_no_distance(self):
        rng = np.random.default_rng(2)
        x = rng.normal(size=(40, 3)) @ rng.normal(size=(3, 12))
        found = robust_fit(x - x.mean(axis=0), 3, 1)
        self.assertEqual(found.orthogonal_limit, np.inf)
        self.assertLess(found.outlying().mean(), 0.2)

    def test_the_same_seed_gives_the_same_answer(self):
        x = clean(40, 30, 5)[0]
        first, second = (robust_fit(x, 2, 7) for _ in range(2))
        np.testing.assert_array_equal(first.orthogonal_distances, second.orthogonal_distances)

    def test_too_few_samples(self):
        with self.assertRaisesRegex(ModelError, "needs 11 samples; there are 10"):
            robust_fit(clean(10, 20, 0)[0], 3, 1)


if __name__ == "__main__":
    unittest.main()
