"""Limits against published figures, simulation and hand-worked numbers."""

import unittest

import numpy as np
from scipy import stats

from scutcher.core.distances.joint_distance import fit_joint_scale
from scutcher.core.distances.limits import q_limit, t2_limit_new, t2_limit_training


class HotellingLimits(unittest.TestCase):
    def test_new_sample_limit_from_f_table(self):
        # F(0.95; 2, 10) = 4.1028 in any table: k(n²−1)/(n(n−k)) F with k = 2, n = 12.
        limit = t2_limit_new(12, 2, 0.95)
        self.assertAlmostEqual(limit.value, 2 * 143 / (12 * 10) * 4.102821, places=4)

    def test_training_limit_holds_for_normal_scores(self):
        n, k, level = 12, 3, 0.9
        rng = np.random.default_rng(8)
        past = total = 0
        limit = t2_limit_training(n, k, level).value
        for _ in range(4000):
            x = rng.normal(size=(n, k))
            z = x - x.mean(axis=0)
            t2 = np.einsum("ij,jk,ik->i", z, np.linalg.inv(z.T @ z / (n - 1)), z)
            past += int((t2 > limit).sum())
            total += n
        self.assertAlmostEqual(1.0 - past / total, level, delta=0.006)

    def test_training_limit_against_another_route(self):
        # (n−1)²/n · Beta(k/2, (n−k−1)/2) by scipy.stats in place of scipy.special
        expected = 29**2 / 30 * stats.beta.ppf(0.99, 1.5, 13.0)
        self.assertAlmostEqual(t2_limit_training(30, 3, 0.99).value, expected, places=9)

    def test_undefined_where_the_formula_is(self):
        self.assertIsNone(t2_limit_training(5, 4, 0.95).value)
        self.assertIsNotNone(t2_limit_training(5, 3, 0.95).value)
        self.assertIsNone(t2_limit_new(5, 5, 0.95).value)
        self.assertIn("undefined", t2_limit_new(5, 5, 0.95).reason)


def thetas(eigenvalues):
    return tuple(float((eigenvalues**power).sum()) for power in (1, 2, 3))


class ResidualLimits(unittest.TestCase):
    def test_equal_eigenvalues_are_close_to_chi_square(self):
        # 40 residual eigenvalues of 1: Q is χ² with 40 degrees of freedom, and the formula is near it.
        limit = q_limit((40.0, 40.0, 40.0), np.ones(10), 0.95, "jackson-mudholkar")
        self.assertAlmostEqual(limit.value, stats.chi2.ppf(0.95, 40), delta=0.15)

    def test_formula_by_hand(self):
        # θ = (3.5, 5.25, 9.125); h0 = 1 − 2·3.5·9.125/(3·27.5625)
        eigenvalues = np.array([2.0, 1.0, 0.5])
        theta1, theta2, theta3 = 3.5, 5.25, 9.125
        h0 = 1 - 2 * theta1 * theta3 / (3 * theta2**2)
        base = 1.6448536269514722 * np.sqrt(2 * theta2 * h0**2) / theta1 + 1
        base += theta2 * h0 * (h0 - 1) / theta1**2
        limit = q_limit(thetas(eigenvalues), np.ones(10), 0.95, "jackson-mudholkar")
        self.assertAlmostEqual(limit.value, theta1 * base ** (1 / h0), places=9)

    def test_negative_h0_turns_the_quantile(self):
        eigenvalues = np.r_[1.0, np.full(100, 0.1)]
        limit = q_limit(thetas(eigenvalues), np.ones(10), 0.95, "jackson-mudholkar")
        theta = [float((eigenvalues**power).sum()) for power in (1, 2, 3)]
        self.assertLess(1 - 2 * theta[0] * theta[2] / (3 * theta[1] ** 2), 0.0)
        rng = np.random.default_rng(4)
        simulated = rng.normal(size=(40000, 101)) ** 2 @ eigenvalues
        self.assertAlmostEqual(
            float((simulated <= limit.value).mean()), 0.95, delta=0.035
        )  # without the sign: 0.3

    def test_a_limit_never_falls_as_the_level_rises(self):
        rng = np.random.default_rng(5)
        levels = (0.8, 0.9, 0.95, 0.99, 0.995, 0.999)
        for count, small in ((400, 0.02), (100, 0.1), (20, 0.05), (5, 0.3), (60, 0.5)):
            eigenvalues = np.r_[1.0, np.full(count, small)]
            q = rng.normal(size=(80, count + 1)) ** 2 @ eigenvalues
            limits = [q_limit(thetas(eigenvalues), q, level, "jackson-mudholkar") for level in levels]
            values = [limit.value for limit in limits]
            self.assertEqual(values, sorted(values))
            self.assertEqual(len({limit.method for limit in limits}), 1)
        self.assertEqual(
            q_limit(thetas(np.r_[1.0, np.full(400, 0.02)]), q, 0.95, "jackson-mudholkar").method, "box"
        )

    def test_rounding_that_is_left_over_has_no_limit(self):
        limit = q_limit((1e-14, 1e-29, 1e-44), np.full(9, 1e-14), 0.95, "jackson-mudholkar", total=1.0)
        self.assertIsNone(limit.value)

    def test_box_matches_mean_and_variance(self):
        q = np.array([1.0, 2.0, 3.0, 4.0])
        mean, variance = q.mean(), q.var(ddof=1)
        expected = variance / (2 * mean) * stats.chi2.ppf(0.95, 2 * mean**2 / variance)
        self.assertAlmostEqual(q_limit((3.0, 3.0, 3.0), q, 0.95, "box").value, expected, places=9)

    def test_nothing_left_over(self):
        limit = q_limit((0.0, 0.0, 0.0), np.zeros(5), 0.95, "jackson-mudholkar")
        self.assertIsNone(limit.value)
        self.assertIn("nothing is left over", limit.reason)


class JointDistance(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(11)
        self.h = 0.2 * rng.chisquare(3.0, 20000) / 3.0
        self.q = 5.0 * rng.chisquare(7.0, 20000) / 7.0

    def test_moments_by_hand(self):
        h, q = np.array([1.0, 2.0, 3.0]), np.array([2.0, 2.0, 5.0])
        scale = fit_joint_scale(h, q, "moments")
        self.assertAlmostEqual(scale.nh, 2 * 4.0 / 1.0)
        self.assertAlmostEqual(scale.nq, 2 * 9.0 / 3.0)
        np.testing.assert_allclose(scale.distance(h, q), 8 * h / 2 + 6 * q / 3)

    def test_both_methods_find_the_degrees_of_freedom(self):
        for method in ("moments", "robust"):
            with self.subTest(method):
                scale = fit_joint_scale(self.h, self.q, method)
                self.assertAlmostEqual(scale.nh, 3.0, delta=0.15)
                self.assertAlmostEqual(scale.nq, 7.0, delta=0.35)
                self.assertAlmostEqual(scale.h0, 0.2, delta=0.005)
                past = scale.distance(self.h, self.q) > scale.limit(0.95).value
                self.assertAlmostEqual(float(past.mean()), 0.05, delta=0.006)

    def test_robust_is_not_moved_by_a_few_strangers(self):
        q = self.q.copy()
        q[:200] *= 1000.0
        self.assertAlmostEqual(fit_joint_scale(self.h, q, "robust").q0, 5.0, delta=0.15)
        self.assertGreater(fit_joint_scale(self.h, q, "moments").q0, 20.0)

    def test_outlier_limit_allows_for_the_number_of_samples(self):
        scale = fit_joint_scale(self.h, self.q, "moments")
        self.assertAlmostEqual(
            scale.outlier_limit(0.05, 100).value, stats.chi2.ppf(0.95**0.01, scale.nh + scale.nq), places=6
        )

    def test_undefined_when_one_does_not_vary(self):
        self.assertIsNone(fit_joint_scale(self.h, np.zeros_like(self.q), "moments"))
