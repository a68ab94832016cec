"""Groups without labels: k-means, Ward, agreement, silhouettes and the number, against slow versions."""

import unittest
from itertools import combinations, product

import numpy as np

from scutcher.core.groups.clusters import adjusted_rand, how_many, k_means, nearest_centres, silhouette, ward


def clouds(count=3, each=20, apart=8.0, d=2, seed=1):
    rng = np.random.default_rng(seed)
    centres = apart * np.array(list(product((0.0, 1.0), repeat=d)))[:count]
    labels = np.repeat(np.arange(count), each)
    return centres[labels] + rng.normal(size=(count * each, d)), labels


class Finding(unittest.TestCase):
    def test_the_best_of_all_divisions_of_few_points(self):
        points = np.random.default_rng(3).normal(size=(8, 2))
        best = np.inf
        for labels in product(range(3), repeat=8):
            labels = np.array(labels)
            if len(set(labels)) == 3:
                spread = sum(
                    ((points[labels == g] - points[labels == g].mean(0)) ** 2).sum() for g in range(3)
                )
                best = min(best, spread)
        found = k_means(points, 3, np.random.default_rng(0))
        self.assertAlmostEqual(found.spread, best)
        self.assertEqual(len(found.centres), 3)

    def test_clouds_are_found_in_both_ways(self):
        points, labels = clouds()
        for found in (k_means(points, 3, np.random.default_rng(0)), ward(points, 3)):
            self.assertEqual(adjusted_rand(found.labels, labels), 1.0)
            self.assertTrue((np.diff(found.centres[:, 0]) >= 0).all())

    def test_as_many_groups_as_points_and_equal_points(self):
        points = np.random.default_rng(3).normal(size=(5, 2))
        self.assertAlmostEqual(k_means(points, 5, np.random.default_rng(0)).spread, 0.0)
        found = k_means(np.ones((6, 2)), 2, np.random.default_rng(0))
        self.assertEqual(found.spread, 0.0)

    def test_the_nearest_centre_is_the_first_of_equals(self):
        rng = np.random.default_rng(4)
        points, centres = (
            rng.integers(-2, 3, (200, 3)).astype(float),
            rng.integers(-2, 3, (4, 9, 3)).astype(float),
        )
        away = ((points[np.newaxis, :, np.newaxis] - centres[:, np.newaxis]) ** 2).sum(axis=3)
        nearest, least = nearest_centres(points, centres)
        np.testing.assert_array_equal(nearest, away.argmin(axis=2))
        np.testing.assert_allclose(least + (points**2).sum(axis=1), away.min(axis=2))

    def test_seeded(self):
        points, _ = clouds(apart=1.0)
        one, two = (k_means(points, 4, np.random.default_rng(5)) for _ in range(2))
        np.testing.assert_array_equal(one.labels, two.labels)


class Agreement(unittest.TestCase):
    def test_by_all_pairs(self):
        rng = np.random.default_rng(2)
        one, two = rng.integers(0, 3, 25), rng.integers(0, 4, 25)
        pairs = list(combinations(range(25), 2))
        same = [(one[a] == one[b], two[a] == two[b]) for a, b in pairs]
        both, first, second = sum(x and y for x, y in same), sum(x for x, _ in same), sum(y for _, y in same)
        chance = first * second / len(pairs)
        self.assertAlmostEqual(adjusted_rand(one, two), (both - chance) / ((first + second) / 2 - chance))

    def test_the_ends(self):
        labels = np.array([0, 0, 1, 1, 2])
        self.assertEqual(adjusted_rand(labels, labels[::-1][::-1] + 5), 1.0)
        self.assertEqual(adjusted_rand(np.zeros(5, int), np.zeros(5, int)), 1.0)
        rng = np.random.default_rng(0)
        chance = [adjusted_rand(rng.integers(0, 3, 60), rng.integers(0, 3, 60)) for _ in range(200)]
        self.assertAlmostEqual(np.mean(chance), 0.0, delta=0.01)

    def test_silhouettes_by_hand(self):
        points, labels = clouds(each=5, apart=2.0)
        away = np.sqrt(((points[:, None] - points) ** 2).sum(axis=2))
        wanted = []
        for row in range(15):
            own = [away[row, b] for b in range(15) if labels[b] == labels[row] and b != row]
            others = [away[row, labels == g].mean() for g in range(3) if g != labels[row]]
            wanted.append((min(others) - np.mean(own)) / max(min(others), np.mean(own)))
        np.testing.assert_allclose(silhouette(points, labels), wanted)
        lone = labels.copy()
        lone[0] = 3
        self.assertEqual(silhouette(points, lone)[0], 0.0)


class Number(unittest.TestCase):
    def test_clouds_and_one_cloud(self):
        for way in ("k-means", "ward"):
            with self.subTest(way):
                points, _ = clouds(count=4, apart=10.0)
                found = how_many(points, way, most=6)
                self.assertEqual((found.by_gap, found.by_silhouette, found.by_stability), (4, 4, 4))
                self.assertGreater(found.stability[3], 0.95)
                one = how_many(np.random.default_rng(4).normal(size=(80, 2)), way, most=6)
                self.assertEqual(one.by_gap, 1)
                self.assertLess(one.silhouettes[1], 0.5)

    def test_few_points(self):
        found = how_many(np.random.default_rng(4).normal(size=(5, 2)), "k-means")
        self.assertEqual(len(found.gap), 2)


if __name__ == "__main__":
    unittest.main()
