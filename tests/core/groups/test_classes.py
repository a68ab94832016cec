"""Centres, distances, assignments, regions and differences of classes, against slow versions by hand."""

import unittest
from itertools import combinations
from unittest import mock

import numpy as np
from matplotlib.path import Path as Polygon
from scipy import linalg, stats

from scutcher.charts.density import density_outlines
from scutcher.core.groups import assigning, mean_differences
from scutcher.core.groups.assigning import assigned, winners
from scutcher.core.groups.class_regions import class_regions, hull_gap, overlap
from scutcher.core.groups.class_scores import centre_distances, class_scores, clearest_pair, to_centres
from scutcher.core.groups.directions import directions, turned_places
from scutcher.core.groups.mean_differences import mean_difference
from scutcher.core.groups.score_ellipses import hull


def drawn(n=60, k=4, classes=3, seed=3):
    rng = np.random.default_rng(seed)
    codes = rng.permutation(np.arange(n) % classes)
    centres = 3 * rng.normal(size=(classes, k)) * np.arange(1, k + 1)
    return centres[codes] + rng.normal(size=(n, k)) * np.arange(1, k + 1), codes


def pooled(x, codes):
    """Within-class covariance, divisor n − c."""
    away = np.vstack([x[codes == c] - x[codes == c].mean(axis=0) for c in np.unique(codes)])
    return away.T @ away / (len(x) - len(np.unique(codes)))


class Distances(unittest.TestCase):
    def test_mahalanobis_for_every_number_of_scores(self):
        x, codes = drawn()
        found = to_centres(class_scores(x, codes), x)
        for k in range(1, 5):
            inverse = np.linalg.inv(pooled(x[:, :k], codes))
            for c in range(3):
                away = x[:, :k] - x[codes == c, :k].mean(axis=0)
                wanted = np.einsum("ij,jk,ik->i", away, inverse, away)
                np.testing.assert_allclose(found[k - 1, :, c], wanted, rtol=1e-9)

    def test_between_centres(self):
        x, codes = drawn()
        of = class_scores(x, codes)
        middles = np.array([x[codes == c].mean(axis=0) for c in range(3)])
        inverse = np.linalg.inv(pooled(x[:, :3], codes))
        for a, b in combinations(range(3), 2):
            way = (middles[a] - middles[b])[:3]
            self.assertAlmostEqual(centre_distances(of, 3, "scores")[a, b], np.sqrt(way @ way))
            self.assertAlmostEqual(centre_distances(of, 3, "within")[b, a], np.sqrt(way @ inverse @ way))

    def test_no_freedom_is_no_distance(self):
        x = np.random.default_rng(1).normal(size=(5, 4))
        of = class_scores(x, np.array([0, 0, 1, 1, 1]))  # freedom 3
        self.assertEqual(of.usable, 3)
        self.assertTrue(np.isnan(to_centres(of, x)[3]).all())
        self.assertEqual(class_scores(x[:2], np.array([0, 1])).usable, 0)

    def test_unknown_classes_are_passed_over(self):
        x, codes = drawn()
        some = np.where(np.arange(60) < 10, -1, codes)
        np.testing.assert_allclose(class_scores(x, some).centres, class_scores(x[10:], codes[10:]).centres)

    def test_the_clearest_pair(self):
        rng = np.random.default_rng(2)
        codes = np.arange(60) % 3
        x = rng.normal(size=(60, 6)) * [10, 5, 3, 1, 1, 0.1]
        x[:, 4] += 4 * (codes == 1)
        x[:, 5] += 0.4 * (codes == 2)
        self.assertEqual(clearest_pair(x, codes), (4, 5))
        self.assertEqual(clearest_pair(x[:, :1], codes), (0, 0))


class BestDirections(unittest.TestCase):
    def test_against_the_generalised_eigenproblem(self):
        x, codes = drawn(n=70, k=5, classes=4)
        found = directions(x, codes)
        within = pooled(x, codes)
        middles = np.array([x[codes == c].mean(axis=0) for c in range(4)])
        sizes = np.bincount(codes)
        away = middles - x.mean(axis=0)
        between = (away * sizes[:, None]).T @ away / 3
        values = linalg.eigh(between, within, eigvals_only=True)[::-1]
        np.testing.assert_allclose(found.ratios, values[:2], rtol=1e-9)
        places = found.places(x)
        spread = pooled(places, codes)
        np.testing.assert_allclose(spread, np.eye(2), atol=1e-9)
        np.testing.assert_allclose(found.centres.mean(axis=0), 0.0, atol=1e-9)

    def test_of_two_classes_the_second_lies_across(self):
        x, codes = drawn(n=40, k=3, classes=2)
        found = directions(x, codes)
        self.assertAlmostEqual(found.ratios[1], 0.0)
        np.testing.assert_allclose(pooled(found.places(x), codes), np.eye(2), atol=1e-9)
        self.assertIsNone(directions(x[:, :1], codes))

    def test_a_turned_segment_is_turned_back(self):
        x, codes = drawn(n=60, k=4)
        full = directions(x, codes)
        turn = np.linalg.qr(np.random.default_rng(1).normal(size=(4, 4)))[0]
        other = directions(x @ turn, codes)
        np.testing.assert_allclose(turned_places(other, full, x @ turn), full.places(x), atol=1e-8)

    def test_density_holds_its_share(self):
        points = np.random.default_rng(2).normal(size=(400, 2)) @ [[2.0, 0.5], [0.0, 1.0]]
        (outline,) = density_outlines(points, 0.8)
        inside = Polygon(outline).contains_points(points).mean()
        self.assertAlmostEqual(inside, 0.8, delta=0.03)
        two = np.vstack([points[:200], points[200:] + [40.0, 0.0]])
        self.assertEqual(len(density_outlines(two, 0.9)), 2)
        self.assertEqual(density_outlines(points[:3], 0.8), [])
        self.assertEqual(density_outlines(np.outer(np.arange(9.0), [1.0, 2.0]), 0.8), [])


class Assignments(unittest.TestCase):
    def test_centres_and_discriminant_by_hand(self):
        x, codes = drawn(n=45)
        codes = np.where(np.arange(45) < 20, 0, codes)  # unequal sizes
        new = drawn(n=30, seed=9)[0]
        for method in ("nearest-centre", "discriminant"):
            found = assigned(x, codes, new, method)
            for k in (1, 3, 4):
                inverse = np.linalg.inv(pooled(x[:, :k], codes))
                figures = []
                for c in range(3):
                    away = new[:, :k] - x[codes == c, :k].mean(axis=0)
                    prior = (codes == c).mean() if method == "discriminant" else 1.0
                    figures.append(np.einsum("ij,jk,ik->i", away, inverse, away) - 2 * np.log(prior))
                np.testing.assert_array_equal(found[k - 1], np.argmin(figures, axis=0))

    def test_neighbours_by_hand(self):
        x, codes = drawn(n=40)
        new = drawn(n=25, seed=8)[0]
        for count in (1, 3, 4, 99):
            found = assigned(x, codes, new, "nearest-neighbours", count)
            for k in (1, 4):
                for row in range(25):
                    near = np.argsort(((x[:, :k] - new[row, :k]) ** 2).sum(axis=1), kind="stable")[:count]
                    votes = codes[near].tolist()
                    most = max(votes.count(c) for c in set(votes))
                    wanted = next(c for c in votes if votes.count(c) == most)
                    self.assertEqual(found[k - 1, row], wanted)

    def test_of_very_many_candidates_every_so_many_th_is_looked_at(self):
        x, codes = drawn(n=90)
        new = drawn(n=20, seed=8)[0]
        with mock.patch.multiple(assigning, MOST_CANDIDATES=45, CELLS=100):
            found = assigned(x, codes, new, "nearest-neighbours", 3)
        np.testing.assert_array_equal(found, assigned(x[::2], codes[::2], new, "nearest-neighbours", 3))

    def test_what_is_no_candidate_has_no_vote(self):
        away = np.array([[1.0, np.inf, np.inf, 2.0]])
        self.assertEqual(winners(np.array([2, 1, 1, 0]), away, 4).tolist(), [2])

    def test_where_no_spread_is_known_nobody_is_assigned(self):
        x = np.random.default_rng(1).normal(size=(3, 3))
        found = assigned(x, np.array([0, 0, 1]), x, "nearest-centre")
        self.assertTrue((found[0] >= 0).all() and (found[1:] == -1).all())


class Regions(unittest.TestCase):
    def test_membership_by_hand(self):
        x, codes = drawn(n=50, k=3)
        found = class_regions(x, codes, 3, 0.9)
        for c in range(3):
            own = x[codes == c]
            n, k = own.shape
            inverse = np.linalg.inv(np.cov(own.T))
            limit = k * (n**2 - 1) / (n * (n - k)) * stats.f.ppf(0.9, k, n - k)
            away = x - own.mean(axis=0)
            np.testing.assert_array_equal(
                found.inside[:, c], np.einsum("ij,jk,ik->i", away, inverse, away) <= limit
            )

    def test_coverage_of_new_samples(self):
        rng = np.random.default_rng(0)
        held = []
        for _ in range(200):
            own, new = rng.normal(size=(12, 3)), rng.normal(size=(40, 3))
            codes = np.r_[np.zeros(12, int), np.full(40, -1)]
            held.append(class_regions(np.vstack([own, new]), codes, 1, 0.9).inside[12:].mean())
        self.assertAlmostEqual(np.mean(held), 0.9, delta=0.015)

    def test_too_few(self):
        x, _ = drawn(n=10, k=3)
        found = class_regions(x, np.array([0] * 6 + [1] * 4), 2, 0.9)
        self.assertEqual(found.too_few, (1,))
        self.assertFalse(found.inside[:, 1].any())

    def test_overlap(self):
        inside = np.array([[1, 1, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], dtype=bool)
        found = overlap(inside)
        self.assertEqual(found[0, 1], 0.5)
        self.assertEqual(found[0, 0], 0.0)
        self.assertEqual(found[0, 2], 1.0)
        self.assertTrue(np.isnan(found[2, 2]))

    def test_gap_between_hulls(self):
        square = np.array([[0.0, 0], [1, 0], [1, 1], [0, 1]])
        self.assertAlmostEqual(hull_gap(square, square + [3.0, 0.0]), 2.0)
        self.assertAlmostEqual(hull_gap(square, square + [2.0, 2.0]), np.sqrt(2.0))
        self.assertAlmostEqual(hull_gap(square, square + [0.75, 0.0]), -0.25)
        rng = np.random.default_rng(4)
        for _ in range(20):
            one, two = hull(rng.normal(size=(9, 2)))[:-1], hull(rng.normal(size=(9, 2)) + [6, 1])[:-1]
            fine = [np.vstack([h[i] + (np.roll(h, -1, 0)[i] - h[i]) * s for i in range(len(h))
                               for s in np.linspace(0, 1, 60)[:, None]]) for h in (one, two)]  # fmt: skip
            away = np.sqrt(((fine[0][:, None] - fine[1]) ** 2).sum(axis=2)).min()
            self.assertAlmostEqual(hull_gap(one, two), away, delta=0.01)


class Differences(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(5)
        self.groups = np.repeat(np.arange(24), 3)
        self.values = np.repeat(rng.normal(size=(24, 8)), 3, axis=0) + 0.05 * rng.normal(size=(72, 8))
        self.one, self.two = np.arange(36), np.arange(36, 72)

    def test_the_figure_and_its_unit(self):
        found = mean_difference(self.values, self.one, self.two, self.groups)
        wanted = self.values[:36].mean(axis=0) - self.values[36:].mean(axis=0)
        np.testing.assert_allclose(found.difference, wanted)
        variances = [35 * self.values[rows].var(axis=0, ddof=1) for rows in (self.one, self.two)]
        np.testing.assert_allclose(found.within, np.sqrt(sum(variances) / 70))
        np.testing.assert_allclose(found.in_deviations, wanted / found.within)

    def test_the_band_is_of_groups_not_of_replicates(self):
        found = mean_difference(self.values, self.one, self.two, self.groups, draws=4000)
        means = self.values.reshape(24, 3, 8).mean(axis=1)
        error = np.sqrt(means[:12].var(axis=0, ddof=1) / 12 + means[12:].var(axis=0, ddof=1) / 12)
        np.testing.assert_allclose(found.high - found.low, 2 * 1.96 * error, rtol=0.12)
        alone = mean_difference(self.values, self.one, self.two, np.arange(72), draws=4000)
        self.assertLess((alone.high - alone.low).mean(), 0.7 * (found.high - found.low).mean())

    def test_the_band_covers(self):
        rng = np.random.default_rng(6)
        held = []
        for turn in range(150):
            values = rng.normal(size=(24, 12))
            rows = np.arange(24)
            found = mean_difference(values, rows[:12], rows[12:], rows, 1000, seed=turn)
            held.append(~found.past)
        self.assertAlmostEqual(np.mean(held), 0.95, delta=0.03)

    def test_of_very_many_the_band_is_that_of_the_normal_distribution(self):
        rng = np.random.default_rng(7)
        values, groups = rng.normal(size=(4400, 3)), np.repeat(np.arange(2200), 2)
        rows = np.arange(4400)
        found = mean_difference(values, rows[:2200], rows[2200:], groups)
        with mock.patch.object(mean_differences, "MANY", 10_000):
            drawn = mean_difference(values, rows[:2200], rows[2200:], groups, 4000)
        np.testing.assert_allclose(found.high - found.low, drawn.high - drawn.low, rtol=0.06)
        self.assertTrue(np.isnan(mean_difference(values, rows[:9], rows[9:], groups, draws=0).low).all())

    def test_one_group_has_no_band(self):
        found = mean_difference(self.values, self.one, np.arange(36, 39), self.groups)
        self.assertTrue(np.isnan(found.low).all() and not found.past.any())
        self.assertTrue(np.isfinite(found.difference).all())


if __name__ == "__main__":
    unittest.main()
