"""Each line of evidence on data whose number of components is known, and against its formula."""

import unittest

import numpy as np

from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.recipes.recipe import EvidenceSettings, recipe_from_plain
from scutcher.core.validation.cross_validation import validate
from scutcher.core.validation.evidence import (
    _halves,
    broken_stick,
    from_validation,
    indicator,
    leading_true,
    loading_structure,
    mean_eigenvalue,
    permutation,
    share_of_variance,
    split_half,
)
from tests.core.making import ordered_table
from tests.core.waiting import longest_wait

KNOWN = 3


def known_spectra(n=60, p=80, noise=0.02, seed=1):
    """Three smooth components of falling size, and noise."""
    rng = np.random.default_rng(seed)
    u = np.linspace(0, 1, p)
    pure = np.array([np.sin((a + 1) * np.pi * u) for a in range(KNOWN)])
    return (rng.normal(size=(n, KNOWN)) * [1.0, 0.5, 0.3]) @ pure + noise * rng.normal(size=(n, p))


class KnownAnswer(unittest.TestCase):
    def setUp(self):
        self.x = known_spectra()
        self.z = self.x - self.x.mean(axis=0)
        self.found = decompose(self.z, True)
        self.table = ordered_table(self.x)

    def test_lines_that_look_for_structure_find_it(self):
        settings = EvidenceSettings()
        suggested = {
            "permutation": permutation(self.z, self.found, settings, 1).suggested,
            "indicator": indicator(self.found, 60, 80).suggested,
            "loading-structure": loading_structure(self.found, True).suggested,
            "split-half": split_half(self.table, self.z, self.found, settings, 1, None).suggested,
        }
        validation = validate(self.table, recipe_from_plain({}), 5)
        lowest, fewest = from_validation(validation)
        suggested |= {lowest.key: lowest.suggested, fewest.key: fewest.suggested}
        self.assertEqual(suggested, dict.fromkeys(suggested, KNOWN))
        self.assertEqual(fewest.up_to, lowest.suggested)

    def test_few_eigenvalues_and_all_give_the_same(self):
        few = decompose(self.z, True, 20, "gram")
        for line in (broken_stick, lambda f: indicator(f, 60, 80), lambda f: share_of_variance(f, 0.95)):
            self.assertEqual(line(few).suggested, line(self.found).suggested)


class SplitHalf(unittest.TestCase):
    def test_halves_are_those_of_one_group_after_the_other(self):
        rng = np.random.default_rng(3)
        for _ in range(20):
            count = int(rng.integers(4, 20))
            codes = np.append(np.arange(count), rng.integers(0, count, 30))
            order = rng.permutation(count)
            both = (order[: count // 2], order[count // 2 :])
            for rows, half in zip(_halves(codes, order), both, strict=True):
                wanted = np.concatenate([np.flatnonzero(codes == group) for group in half])
                np.testing.assert_array_equal(rows, wanted)

    def test_others_go_on_while_very_many_samples_are_halved(self):
        values = np.random.default_rng(1).normal(size=(120_000, 5)) * (5.0, 3.0, 1.0, 1.0, 1.0)
        z, table = values - values.mean(axis=0), ordered_table(values)
        found, settings = decompose(z, True, 2), EvidenceSettings(halves=6)

        def halve():
            split_half(table, z, found, settings, 1, None)

        self.assertTrue(any(longest_wait(halve) < 0.02 for _ in range(12)))  # a busy machine waits, too

    def test_two_of_one_size_are_one_plane(self):
        rng = np.random.default_rng(3)
        u = np.linspace(0, 1, 80)
        pure = np.array([np.sin((a + 1) * np.pi * u) for a in range(3)])
        x = (rng.normal(size=(80, 3)) * [2.0, 0.5, 0.5]) @ pure + 0.02 * rng.normal(size=(80, 80))
        z = x - x.mean(axis=0)
        line = split_half(ordered_table(x), z, decompose(z, True), EvidenceSettings(), 1, None)
        self.assertLess(line.figures[1], 0.9)
        self.assertGreater(line.figures[2], 0.99)
        self.assertEqual((line.suggested, line.note), (3, "2 and 3 are not told apart"))

    def test_figures_against_the_angles_themselves(self):
        from scipy.linalg import subspace_angles

        x = known_spectra(noise=0.3)
        z = x - x.mean(axis=0)
        line = split_half(ordered_table(x), z, decompose(z, True), EvidenceSettings(halves=1), 7, None)
        order = np.random.default_rng(7).permutation(60)
        halves = (z[order[:30]], z[order[30:]])
        sides = [decompose(half - half.mean(axis=0), True).loadings for half in halves]
        for k in range(1, len(line.figures) + 1):
            angle = subspace_angles(sides[0][:, :k], sides[1][:, :k]).max()
            self.assertAlmostEqual(line.figures[k - 1], np.cos(angle), places=6)

    def test_noise_has_no_stable_plane(self):
        for seed in range(4):
            z = np.random.default_rng(seed).normal(size=(60, 10))
            line = split_half(ordered_table(z), z, decompose(z, True), EvidenceSettings(), 1, None)
            self.assertEqual((line.suggested, line.note), (0, ""))


class NoComponent(unittest.TestCase):
    """Pure noise has no component, and no component at all is a candidate (Q² = 0)."""

    def test_noise_has_none(self):
        none = 0
        for seed in range(12):
            noise = np.random.default_rng(seed).normal(size=(40, 25))
            validation = validate(ordered_table(noise), recipe_from_plain({"validate": {"seed": seed}}), 5)
            lowest, fewest = from_validation(validation)
            self.assertLess(validation.q2[0], 0.02)
            none += (lowest.suggested, fewest.suggested) == (0, 0)
        self.assertGreaterEqual(none, 11)

    def test_standard_errors_do_not_shrink_with_repeats(self):
        table = ordered_table(known_spectra(n=40, noise=0.3))

        def error(repeats):
            plain = {"validate": {"segments": 5, "repeats": repeats}}
            return validate(table, recipe_from_plain(plain), 3).error[:3]

        few, many = error(6), error(60)  # were they samples of their own: √10 = 3.2 times less
        self.assertTrue((many > 0.6 * few).all() and (many < 1.6 * few).all())


class Formulas(unittest.TestCase):
    def setUp(self):
        self.z = np.random.default_rng(3).normal(size=(30, 8)) * np.r_[6.0, 4.0, np.ones(6)]
        self.z -= self.z.mean(axis=0)
        self.found = decompose(self.z, True)

    def test_broken_stick(self):
        r, shares = 8, self.found.eigenvalues / self.found.total_variance
        wanted = 0
        for a in range(1, r + 1):
            if shares[a - 1] <= sum(1 / i for i in range(a, r + 1)) / r:
                break
            wanted = a
        line = broken_stick(self.found)
        self.assertEqual(line.suggested, wanted)
        self.assertAlmostEqual(line.bound[0], sum(1 / i for i in range(1, 9)) / 8)

    def test_mean_eigenvalue_is_for_autoscaled_tables(self):
        self.assertEqual(mean_eigenvalue(self.found, True, 8).suggested, 2)
        self.assertIsNone(mean_eigenvalue(self.found, False, 8).suggested)

    def test_indicator(self):
        sums = self.found.eigenvalues * 29
        values = [np.sqrt(sums[k:].sum() / (30 * (8 - k))) / (8 - k) ** 2 for k in range(1, 8)]
        line = indicator(self.found, 30, 8)
        np.testing.assert_allclose(line.figures, values)
        self.assertEqual(line.suggested, int(np.argmin(values)) + 1)

    def test_indicator_of_fewer_samples_than_variables(self):
        z = np.random.default_rng(2).normal(size=(9, 20))
        found = decompose(z - z.mean(axis=0), True)
        sums = found.eigenvalues * 8
        line = indicator(found, 9, 20)
        self.assertEqual(len(line.figures), 7)  # with all eight nothing is left over: no minimum
        values = [np.sqrt(sums[k:].sum() / (20 * (9 - k))) / (9 - k) ** 2 for k in range(1, 8)]
        np.testing.assert_allclose(line.figures, values)

    def test_share(self):
        self.assertEqual(share_of_variance(self.found, 0.5).suggested, 1)
        reached = np.cumsum(self.found.eigenvalues) / self.found.total_variance
        self.assertEqual(share_of_variance(self.found, float(reached[3])).suggested, 4)

    def test_a_share_beyond_the_components_computed(self):
        z = np.random.default_rng(4).normal(size=(80, 60))
        z -= z.mean(axis=0)
        wanted = share_of_variance(decompose(z, True), 0.9).suggested
        self.assertGreater(wanted, 20)
        self.assertEqual(share_of_variance(decompose(z, True, 10, "gram"), 0.9).suggested, wanted)

    def test_permuted_eigenvalues_are_those_of_permuted_columns(self):
        line = permutation(self.z, self.found, EvidenceSettings(permutations=19), 7)
        rng, chance = np.random.default_rng(7), []
        for _ in range(19):
            shuffled = rng.permuted(self.z, axis=0)
            chance.append(np.linalg.svd(shuffled, compute_uv=False) ** 2 / 29)
        np.testing.assert_allclose(line.bound, np.quantile(chance, 0.95, axis=0), rtol=1e-9)

    def test_white_loadings_pass_one_time_in_twenty(self):
        rng, passed = np.random.default_rng(0), 0
        for _ in range(400):
            v = rng.normal(size=(200, 1))
            fake = type("Fake", (), {"loadings": v, "computed": 1})()
            passed += loading_structure(fake, True).suggested
        self.assertAlmostEqual(passed / 400, 0.05, delta=0.03)

    def test_leading(self):
        self.assertEqual(leading_true(np.array([True, True, False, True])), 2)
        self.assertEqual(leading_true(np.array([True, True])), 2)

    def test_without_validation_the_reason_is_said(self):
        lowest, _ = from_validation(None, "too few samples")
        self.assertEqual((lowest.suggested, lowest.reason), (None, "too few samples"))
