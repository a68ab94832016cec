"""Trees against joining by hand, the dip against a linear programme."""

import unittest

import numpy as np
from scipy.optimize import linprog

from scutcher.core.groups.dip import along_line, dip_statistic, dip_test
from scutcher.core.groups.tree import tree


def distances_of(points):
    return np.sqrt(((points[:, None] - points) ** 2).sum(axis=2))


def joined_by_hand(points, linkage):
    """Heights and the groups at each number of them, joining sets of things one by one."""

    def squares(rows):
        return ((points[rows] - points[rows].mean(axis=0)) ** 2).sum()

    def away(one, two):
        pairs = [np.linalg.norm(points[a] - points[b]) for a in one for b in two]
        if linkage == "ward":
            return np.sqrt(2 * (squares(one + two) - squares(one) - squares(two)))
        return max(pairs) if linkage == "complete" else np.mean(pairs)

    sets, heights, cuts = [[row] for row in range(len(points))], [], {}
    while len(sets) > 1:
        cuts[len(sets)] = {frozenset(one) for one in sets}
        pairs = ((a, b) for a in range(len(sets)) for b in range(a))
        a, b = min(pairs, key=lambda pair: away(sets[pair[0]], sets[pair[1]]))
        heights.append(away(sets[a], sets[b]))
        sets = [one for place, one in enumerate(sets) if place not in (a, b)] + [sets[a] + sets[b]]
    return heights, cuts


class Trees(unittest.TestCase):
    def test_three_points(self):
        """0 and 3 are joined at 3; then 10 at their mean distance, their farthest, or by Ward."""
        away = distances_of(np.array([[0.0], [3.0], [10.0]]))
        for linkage, top in (("average", 8.5), ("complete", 10.0), ("ward", np.sqrt(4 / 3) * 8.5)):
            found = tree(away, linkage)
            np.testing.assert_allclose(found.heights, [3.0, top])
            self.assertEqual(set(found.pairs[0]), {0, 1})
            self.assertEqual(set(found.pairs[1]), {2, 3})

    def test_against_joining_by_hand(self):
        for seed, linkage in enumerate(("average", "complete", "ward") * 2):
            points = np.random.default_rng(seed).normal(size=(17, 3))
            found = tree(distances_of(points), linkage)
            heights, cuts = joined_by_hand(points, linkage)
            np.testing.assert_allclose(found.heights, heights, rtol=1e-9)
            for count, wanted in cuts.items():
                groups = found.cut(count)
                cut = {frozenset(np.flatnonzero(groups == g).tolist()) for g in range(count)}
                self.assertEqual(cut, wanted)
            self.assertEqual(set(found.cut(1)), {0})

    def test_branches_do_not_cross_and_near_things_stand_together(self):
        points = np.random.default_rng(1).permutation(np.arange(12.0))[:, None] ** 1.3
        found = tree(distances_of(points), "average")
        along = points[found.order, 0]
        self.assertTrue((np.diff(along) > 0).all() or (np.diff(along) < 0).all())
        for count in range(1, 12):
            groups = found.cut(count)[found.order]
            self.assertEqual(groups.tolist(), sorted(groups.tolist()))

    def test_equal_distances_and_one_thing(self):
        found = tree(np.ones((5, 5)) - np.eye(5), "average")
        np.testing.assert_allclose(found.heights, 1.0)
        self.assertEqual(sorted(found.order), list(range(5)))
        self.assertEqual(tree(np.zeros((1, 1))).cut(1).tolist(), [0])


def dip_by_programme(values):
    """The least largest distance to a distribution that is convex before some value and concave after it."""
    x = np.sort(values)
    n, best = len(x), np.inf
    for mode in range(n):
        rows, bounds = [], []

        def place(i, left, mode=mode):
            return n if i == mode and not left else i

        def add(terms, bound, rows=rows, bounds=bounds):
            row = np.zeros(n + 2)
            for at, weight in terms:
                row[at] += weight
            rows.append(row)
            bounds.append(bound)

        for i in range(n):
            add([(place(i, False), -1), (n + 1, -1)], -(i + 1) / n)
            add([(i, 1), (n + 1, -1)], i / n)
        add([(mode, 1), (n, -1)], 0)
        for i in range(n - 1):
            left = i + 1 <= mode
            add([(place(i, left), 1), (place(i + 1, left), -1)], 0)
        for i in range(n - 2):
            if i + 2 > mode and i < mode:
                continue
            left, sign = i + 2 <= mode, 1 if i + 2 <= mode else -1
            one, two = 1 / (x[i + 1] - x[i]), 1 / (x[i + 2] - x[i + 1])
            places = [place(i + step, left) for step in range(3)]
            add(list(zip(places, (-sign * one, sign * (one + two), -sign * two), strict=True)), 0)
        cost = np.eye(n + 2)[-1]
        found = linprog(cost, np.array(rows), bounds, bounds=[(0, 1)] * (n + 1) + [(0, None)])
        best = min(best, found.fun if found.success else np.inf)
    return best


class Dips(unittest.TestCase):
    def test_against_a_linear_programme(self):
        rng = np.random.default_rng(0)
        for turn in range(12):
            n = int(rng.integers(5, 14))
            values = rng.normal(size=n) + (turn % 2) * 3.0 * (np.arange(n) % 2)
            self.assertAlmostEqual(dip_statistic(values), dip_by_programme(values), places=7)

    def test_published_quantiles(self):
        """Hartigan & Hartigan 1985, table 1, n = 50: 0.0642 (90 %) and 0.0702 (95 %) of uniform values."""
        rng = np.random.default_rng(1)
        dips = [dip_statistic(row) for row in rng.random((1500, 50))]
        np.testing.assert_allclose(np.quantile(dips, [0.9, 0.95]), [0.0642, 0.0702], atol=0.0025)

    def test_equal_steps_have_the_least_dip(self):
        self.assertAlmostEqual(dip_statistic(np.arange(20.0)), 1 / 40)
        self.assertAlmostEqual(dip_statistic(np.ones(10)), 1 / 20)

    def test_one_hump_or_two(self):
        rng = np.random.default_rng(3)
        one = rng.normal(size=60)
        two = np.where(np.arange(60) % 2, one + 5, one)
        self.assertGreater(dip_test(one, 199).p_value, 0.2)
        self.assertLess(dip_test(two, 199).p_value, 0.02)
        self.assertAlmostEqual(dip_statistic(two), dip_statistic(7 - 2 * two), places=12)

    def test_along_the_line_of_two_centres(self):
        scores = np.array([[0.0, 0], [2, 0], [10, 0], [12, 0], [6, 5]])
        found = along_line(scores, np.array([0, 0, 1, 1, -1]), 0, 1)
        np.testing.assert_allclose(found, [-0.1, 0.1, 0.9, 1.1, 0.5])


if __name__ == "__main__":
    unittest.main()
