"""Class figures against loops; regions of classes; the robust fit on planted outliers."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.distances.outliers import robust_fit
from scutcher.core.errors import ModelError
from scutcher.core.groups import score_ellipses
from scutcher.core.groups.class_separation import (
    between_within,
    neighbour_accuracy,
    no_information_rate,
    noise_share,
    replicate_share,
)
from scutcher.core.groups.score_ellipses import class_ellipse, deviation_ellipse, hull, joint_ellipse


class Figures(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(0)
        self.codes = np.repeat([0, 1, 2], 8)
        self.x = rng.normal(size=(24, 5)) + 0.8 * self.codes[:, np.newaxis]

    def test_ratio_is_that_of_an_analysis_of_variance(self):
        from scipy.stats import f_oneway

        found = between_within(self.x, self.codes)
        for column in range(5):
            wanted = f_oneway(*(self.x[self.codes == c, column] for c in range(3))).statistic
            self.assertAlmostEqual(found[column], wanted)

    def test_unknown_classes_are_passed_over(self):
        codes = self.codes.copy()
        codes[[3, 15]] = -1
        kept = codes >= 0
        np.testing.assert_allclose(between_within(self.x, codes), between_within(self.x[kept], codes[kept]))
        self.assertTrue(np.isnan(between_within(self.x, np.zeros(24, int))).all())

    def test_neighbours_against_a_loop_and_without_replicates(self):
        groups = np.arange(24) // 2
        right = 0
        for i in range(24):
            others = [j for j in range(24) if groups[j] != groups[i]]
            nearest = min(others, key=lambda j, i=i: np.linalg.norm(self.x[i] - self.x[j]))
            right += self.codes[nearest] == self.codes[i]
        self.assertAlmostEqual(neighbour_accuracy(self.x, self.codes, groups), right / 24)

    def test_replicates_that_are_copies_do_not_vouch(self):
        rng = np.random.default_rng(1)
        noise = np.repeat(rng.normal(size=(60, 4)), 2, axis=0)
        codes, groups = np.repeat(rng.integers(0, 2, 60), 2), np.repeat(np.arange(60), 2)
        self.assertEqual(neighbour_accuracy(noise, codes, np.arange(120)), 1.0)
        self.assertLess(neighbour_accuracy(noise, codes, groups), 0.7)
        self.assertGreaterEqual(no_information_rate(codes), 0.5)

    def test_more_neighbours_than_there_are_are_all_of_them(self):
        x, codes = np.array([[0.0], [0.1], [1.0], [1.1]]), np.array([0, 0, 1, 1])
        for many in (3, 4, 50):  # one of its class against two: with itself it would be a tie
            self.assertEqual(neighbour_accuracy(x, codes, np.arange(4), neighbours=many), 0.0)

    def test_replicate_share(self):
        groups = np.repeat(np.arange(8), 3)
        within = sum(((self.x[groups == g] - self.x[groups == g].mean(0)) ** 2).sum() for g in range(8))
        total = ((self.x - self.x.mean(0)) ** 2).sum()
        self.assertAlmostEqual(replicate_share(self.x, groups), np.sqrt((within / 16) / (total / 23)))
        self.assertTrue(np.isnan(replicate_share(self.x, np.arange(24))))

    def test_noise_share_of_known_noise(self):
        rng = np.random.default_rng(2)
        smooth = rng.normal(size=(200, 1)) * np.sin(np.linspace(0, 6, 300))
        noise = rng.normal(size=(200, 300))
        for size in (0.05, 0.3):
            x = smooth + size * noise
            self.assertAlmostEqual(noise_share(x) / (size**2 / x.var(axis=0).mean()), 1.0, delta=0.03)


class Outlines(unittest.TestCase):
    def setUp(self):
        self.points = np.random.default_rng(3).normal(size=(4000, 2)) @ np.array([[2.0, 0.5], [0.0, 1.0]])

    def share_inside(self, outline):
        from matplotlib.path import Path

        return Path(outline).contains_points(self.points).mean()

    def test_ellipses_cover_what_they_say(self):
        self.assertAlmostEqual(self.share_inside(class_ellipse(self.points, 0.9)), 0.9, delta=0.015)
        for width, share in ((1, 0.393), (2, 0.865), (3, 0.989)):
            self.assertAlmostEqual(
                self.share_inside(deviation_ellipse(self.points, width)), share, delta=0.02
            )

    def test_joint_ellipse_is_the_limit_of_t2(self):
        outline = joint_ellipse(np.array([4.0, 1.0]), 50, 0.95)
        t2 = outline[:, 0] ** 2 / 4.0 + outline[:, 1] ** 2
        from scipy import stats

        np.testing.assert_allclose(t2, 49**2 / 50 * stats.beta.ppf(0.95, 1, 23.5))

    def test_too_few_samples_have_none(self):
        self.assertEqual(len(class_ellipse(self.points[:3], 0.95)), 0)
        self.assertEqual(len(class_ellipse(np.column_stack([np.arange(9.0)] * 2), 0.95)), 0)

    def test_hull_against_scipy(self):
        from scipy.spatial import ConvexHull

        found = hull(self.points[:200])
        wanted = ConvexHull(self.points[:200])
        self.assertEqual(len(found) - 1, len(wanted.vertices))
        x, y = found.T
        area = 0.5 * abs(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1]))
        self.assertAlmostEqual(area, wanted.volume)

    def test_hull_of_many_points_is_that_of_all_of_them(self):
        rng = np.random.default_rng(4)
        turn = 7.0 * rng.random(900)
        crowds = {
            "round": rng.normal(size=(900, 2)),
            "thin": rng.normal(size=(900, 2)) @ np.array([[1.0, 0.999], [0.0, 0.001]]),
            "far from the origin": 1e6 + 1e-3 * rng.normal(size=(900, 2)),
            "ties": np.round(rng.normal(size=(900, 2)), 1),
            "all on the hull": np.column_stack([np.cos(turn), np.sin(turn)]),
            "a line": np.column_stack([np.arange(900.0), 2.0 * np.arange(900.0)]),
            "one place": np.ones((900, 2)),
        }
        for name, points in crowds.items():
            with self.subTest(name), mock.patch.object(score_ellipses, "MANY", len(points)):
                wanted = hull(points)
            with self.subTest(name), mock.patch.object(score_ellipses, "MANY", 10):
                np.testing.assert_array_equal(hull(points), wanted)
        self.assertLess(len(score_ellipses._outer(crowds["round"])), 90)


class Robust(unittest.TestCase):
    def planted(self, seed=0):
        rng = np.random.default_rng(seed)
        basis = np.linalg.qr(rng.normal(size=(40, 3)))[0]
        z = rng.normal(size=(100, 2)) * [3.0, 2.0] @ basis[:, :2].T + 0.1 * rng.normal(size=(100, 40))
        z[:20] += 6.0 * basis[:, 2]  # a crowd that pulls an ordinary component towards itself
        return z - z.mean(axis=0)

    def test_outliers_that_mask_each_other_are_found(self):
        from scutcher.core.models.pca.component_model import keep
        from scutcher.core.models.pca.engines.choice import decompose
        from scutcher.core.recipes.recipe import LimitSettings

        z = self.planted()
        ordinary = keep(decompose(z, True), 2, LimitSettings())
        hidden = ordinary.q[:20] > ordinary.q_limit.value
        self.assertLess(hidden.mean(), 0.5)
        found = robust_fit(z, 2, 1).outlying()
        self.assertTrue(found[:20].all())
        self.assertLess(found[20:].mean(), 0.15)

    def test_clean_data_lose_few(self):
        rng = np.random.default_rng(5)
        z = rng.normal(size=(200, 3)) @ rng.normal(size=(3, 30)) + 0.2 * rng.normal(size=(200, 30))
        fit = robust_fit(z - z.mean(axis=0), 3, 1)
        self.assertLess(fit.outlying().mean(), 0.12)
        self.assertAlmostEqual(np.median(fit.score_distances**2), 2.366, delta=0.5)

    def test_too_few_samples(self):
        with self.assertRaises(ModelError):
            robust_fit(np.eye(6), 2, 1)
