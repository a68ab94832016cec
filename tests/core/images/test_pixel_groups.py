"""Groups of pixels: the same on all as by hand, numbered by size, and how many speak for themselves."""

import unittest

import numpy as np

from scutcher.core.images.pixel_groups import (
    how_many_groups,
    pixel_groups,
    settled,
    split_start,
)


def clouds(sizes=(400, 250, 100), away=8.0, seed=1):
    rng = np.random.default_rng(seed)
    centres = away * np.array([[0, 0], [1, 0], [0, 1], [1, 1]])[: len(sizes)]
    labels = np.repeat(np.arange(len(sizes)), sizes)
    return centres[labels] + rng.normal(size=(len(labels), 2)), labels


class Groups(unittest.TestCase):
    def test_clouds_are_found_and_numbered_by_size(self):
        points, labels = clouds()
        points[5] = np.nan
        found = pixel_groups(points, 3)
        self.assertEqual(found.labels[5], -1)
        known = np.arange(len(points)) != 5
        np.testing.assert_array_equal(found.labels[known], labels[known])
        by_hand = sum(
            ((points[known & (labels == g)] - points[known & (labels == g)].mean(axis=0)) ** 2).sum()
            for g in range(3)
        )
        self.assertAlmostEqual(found.spread, by_hand, places=6)

    def test_the_split_start_splits_the_widest(self):
        points, _ = clouds((300, 300, 300))
        centres = split_start(points, 3)
        _, settled_centres, spread = settled(points, centres)
        self.assertEqual(len(settled_centres), 3)
        self.assertLess(spread, 3 * 300 * 2.3)

    def test_an_emptied_group_takes_the_farthest(self):
        points = np.array([[0.0], [0.1], [0.2], [50.0]])
        labels, centres, _ = settled(points, np.array([[0.1], [0.1], [0.15]]))
        self.assertEqual(len(np.unique(labels)), 3)
        self.assertTrue(np.isfinite(centres).all())
        labels, _, _ = settled(points, np.array([[0.1], [0.1], [0.15]]), rounds=1)
        self.assertEqual(labels[3], 1)

    def test_how_many(self):
        judged = how_many_groups(clouds((500, 400, 300), 12.0)[0])
        self.assertEqual((judged.clearest, judged.most_found_again), (3, 3))
        noise = how_many_groups(np.random.default_rng(3).normal(size=(1200, 3)))
        self.assertLess(noise.silhouette.max(), 0.55)
        self.assertLess(noise.most_found_again, 4)

    def test_the_silhouette_by_hand(self):
        points, labels = clouds((40, 30), 10.0)
        judged = how_many_groups(points)
        centres = np.array([points[labels == g].mean(axis=0) for g in (0, 1)])
        away = np.linalg.norm(points[:, None] - centres, axis=2)
        a, b = away.min(axis=1), away.max(axis=1)
        self.assertAlmostEqual(judged.silhouette[0], ((b - a) / b).mean(), places=9)


if __name__ == "__main__":
    unittest.main()
