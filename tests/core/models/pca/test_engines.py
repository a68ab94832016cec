"""Every engine against the full decomposition: easy, ill-conditioned, rank-deficient, wide, tall, gaps."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.distances.limits import q_limit
from scutcher.core.errors import ModelError
from scutcher.core.models.pca.component_model import explained, explained_by_variable, keep
from scutcher.core.models.pca.engines.choice import chosen_engine, decompose, leading_loadings
from scutcher.core.models.pca.engines.gram import _small_svd
from scutcher.core.models.pca.engines.leading import leading_eigenvectors
from scutcher.core.models.pca.engines.residuals import cubes_of
from scutcher.core.models.pca.missing_value_fits import fit_around_gaps
from scutcher.core.numeric.matrix_rank import structural_rank
from scutcher.core.progress import Stopped
from scutcher.core.recipes.recipe import LimitSettings, ModelSettings, ScaleSettings
from scutcher.core.scaling import gram_matrix, scaled_matrix
from scutcher.core.scaling.scaled_matrix import Scaled
from tests.core.making import in_single_precision


def structured(n, p, k=6, noise=0.05, seed=0):
    """k clear components over noise, centred."""
    rng = np.random.default_rng(seed)
    scores = rng.normal(size=(n, k)) * 2.0 ** -np.arange(k)
    x = scores @ np.linalg.qr(rng.normal(size=(p, k)))[0].T + noise * rng.normal(size=(n, p)) / np.sqrt(p)
    return x - x.mean(axis=0)


def off(found, wanted, k):
    """How far the span of the first k loadings is from another's: sine of the largest angle."""
    a, b = found.loadings[:, :k], wanted.loadings[:, :k]
    return np.linalg.norm(a - b @ (b.T @ a), 2)


class Agreement(unittest.TestCase):
    powers = 1e-7
    """How exact the sums of powers of what is left over have to be."""

    def check(self, z, k, engine, eigenvalues=1e-8, subspace=1e-6, centred=True):
        wanted = decompose(z, centred)
        found = decompose(z, centred, k, engine)
        np.testing.assert_allclose(found.eigenvalues[:k], wanted.eigenvalues[:k], rtol=eigenvalues)
        self.assertLess(off(found, wanted, k), subspace)
        self.assertAlmostEqual(found.total_variance / wanted.total_variance, 1.0, places=10)
        np.testing.assert_allclose(found.loadings.T @ found.loadings, np.eye(found.computed), atol=1e-9)
        largest = np.abs(found.loadings).argmax(axis=0)
        self.assertTrue((found.loadings[largest, np.arange(found.computed)] > 0).all())
        return found, wanted

    def test_shapes(self):
        for n, p in ((30, 400), (400, 30), (120, 120), (360, 900), (900, 360)):
            for engine in ("gram", "nipals", "randomised", "auto"):
                with self.subTest(f"{engine} {n} × {p}"):
                    self.check(structured(n, p), 5, engine)

    def test_what_is_left_over_is_the_same(self):
        for n, p in ((40, 500), (500, 40), (400, 420)):
            z = structured(n, p)
            for engine in ("gram", "nipals", "randomised"):
                with self.subTest(f"{engine} {n} × {p}"):
                    found, wanted = self.check(z, 4, engine)
                    for k in (1, 4):
                        np.testing.assert_allclose(found.thetas(k), wanted.thetas(k), rtol=self.powers)
                        np.testing.assert_allclose(found.q_beyond(k), wanted.q_beyond(k), rtol=1e-6)
                        one, two = (keep(each, k, LimitSettings()) for each in (found, wanted))
                        limits = one.q_limit.value, two.q_limit.value
                        np.testing.assert_allclose(*limits, rtol=self.powers)
                        np.testing.assert_allclose(one.t2, two.t2, rtol=1e-6)
                    self.assertEqual(found.rank, wanted.rank)

    def test_clean_spectra_have_the_right_limit(self):
        """Subtracting powers of the leading eigenvalues from the totals fails here: noise of 1e-6."""
        z = structured(60, 300, k=3, noise=1e-6)
        wanted = decompose(z, True)
        limit = q_limit(wanted.thetas(3), wanted.q_beyond(3), 0.95, "jackson-mudholkar")
        found = decompose(z, True, 3, "gram")
        other = q_limit(found.thetas(3), found.q_beyond(3), 0.95, "jackson-mudholkar")
        self.assertAlmostEqual(other.value / limit.value, 1.0, places=6)

    def test_a_signal_of_one_on_an_offset_of_a_million(self):
        rng = np.random.default_rng(1)
        x = 1e6 + rng.normal(size=(80, 5)) @ rng.normal(size=(5, 200)) + 0.01 * rng.normal(size=(80, 200))
        z = x - x.mean(axis=0)
        for engine in ("gram", "nipals", "randomised"):
            with self.subTest(engine):
                self.check(z, 5, engine)

    def test_eigenvalues_over_ten_decades(self):
        """A Gram matrix squares the condition number: what it loses is found from the residuals."""
        rng = np.random.default_rng(2)
        u = np.linalg.qr(rng.normal(size=(400, 12)))[0]
        v = np.linalg.qr(rng.normal(size=(500, 12)))[0]
        z = (u * 10.0 ** -np.arange(12.0)) @ v.T
        found = decompose(z, False, 10, "gram")
        np.testing.assert_allclose(np.sqrt(found.eigenvalues * 400), 10.0 ** -np.arange(10.0), rtol=1e-5)
        self.assertLess(
            np.linalg.norm(found.loadings[:, :8] - v[:, :8] @ (v[:, :8].T @ found.loadings[:, :8])), 1e-6
        )

    def test_duplicated_rows_and_columns(self):
        base = structured(20, 30, noise=0.2)
        for z in (np.tile(base, (1, 3)), np.repeat(base, 4, axis=0)):
            z = z - z.mean(axis=0)
            for engine in ("gram", "nipals", "auto"):
                with self.subTest(f"{engine} {z.shape}"):
                    self.check(z, 6, engine)

    def test_two_equal_eigenvalues_are_both_found(self):
        q = np.linalg.qr(np.random.default_rng(3).normal(size=(700, 700)))[0]
        values = np.r_[5.0, 5.0, 5.0, 2.0, np.full(696, 0.1)]
        vectors = leading_eigenvectors((q * values) @ q.T, 4)[:, :4]
        np.testing.assert_allclose(np.linalg.norm(q[:, :4].T @ vectors, axis=0), 1.0, atol=1e-7)

    def test_components_in_the_noise_are_found_in_few_products(self):
        """Fifty of 700, of which forty-four are noise: right, and without starting over again and again."""
        z = structured(700, 900)
        product = z @ z.T
        vectors = np.linalg.eigh(product)[1]
        wanted = vectors[:, ::-1][:, :50]
        calls = mock.Mock(side_effect=gram_matrix.symmetric_times)
        with mock.patch.object(gram_matrix, "symmetric_times", calls):
            found = leading_eigenvectors(product, 50)[:, :50]
        away = np.linalg.norm(found - wanted @ (wanted.T @ found), 2)
        self.assertLess(away, 1e-5)
        self.assertLess(calls.call_count, 700)
        counted = mock.Mock(side_effect=gram_matrix.symmetric_times)
        with mock.patch.object(gram_matrix, "symmetric_times", counted):
            leading_eigenvectors(product, 6)
        self.assertLess(counted.call_count, 60)  # clear components settle long before a full basis

    def test_as_many_as_there_are(self):
        z = structured(9, 40, k=3, noise=0.3)
        for engine in ("gram", "nipals", "randomised", "auto"):
            with self.subTest(engine):
                found, _ = self.check(z, 8, engine)
                self.assertEqual(found.computed, 8)
                self.assertAlmostEqual(found.eigenvalues.sum() / found.total_variance, 1.0, places=9)

    def test_more_than_there_are_is_an_error_that_says_so(self):
        z = structured(12, 30, k=3, noise=0.0)
        for engine in ("exact", "gram", "nipals", "randomised", "auto"):
            with self.subTest(engine), self.assertRaises(ModelError) as caught:
                decompose(z, True, 5, engine)
            self.assertEqual(
                str(caught.exception), "5 components were asked for; these data have rank 3. Choose 1 to 3."
            )

    def test_nothing_varies(self):
        for engine in ("gram", "nipals", "randomised"):
            with self.subTest(engine), self.assertRaises(ModelError):
                decompose(np.zeros((5, 6)), True, 2, engine)

    def test_every_size_gives_the_same_model_or_is_refused(self):
        z = structured(20, 12)
        wanted = keep(decompose(z, True), 2, LimitSettings())
        for engine in ("exact", "gram", "nipals", "randomised"):
            for power in (-140, -50, -44, 40, 50, 140):
                size = 2.0 ** round(power / np.log10(2.0))
                with self.subTest(engine, power=power):
                    if abs(power) > 45:
                        with self.assertRaisesRegex(ModelError, "too (small|large) for the figures"):
                            decompose(z * size, True, 4, engine)
                        continue
                    found = keep(decompose(z * size, True, 4, engine), 2, LimitSettings())
                    np.testing.assert_allclose(found.q, wanted.q * size**2, rtol=1e-6)
                    np.testing.assert_allclose(found.q_limit.value, wanted.q_limit.value * size**2, rtol=1e-6)
                    np.testing.assert_allclose(found.joint_limit.value, wanted.joint_limit.value, rtol=1e-6)

    def test_columns_of_very_different_size_keep_their_digits(self):
        rng = np.random.default_rng(11)
        for tilt, whole in ((1e-6, False), (0.0, False), (0.5, True)):
            left = np.linalg.qr(rng.normal(size=(200, 5)))[0]
            right = np.linalg.qr(np.eye(5) + tilt * rng.normal(size=(5, 5)))[0]
            wanted = np.array([1.0, 0.1, 1e-3, 1e-4, 1e-5])
            side = (left * wanted) @ right.T
            with mock.patch.object(np.linalg, "svd", wraps=np.linalg.svd) as svd:
                found = _small_svd(side)
            shape = side.shape if whole else (5, 5)
            self.assertEqual([call.args[0].shape for call in svd.call_args_list], [shape])
            np.testing.assert_allclose(found[1], wanted, rtol=1e-10, atol=1e-15)
            np.testing.assert_allclose((found[0] * found[1]) @ found[2], side, atol=1e-14)
            np.testing.assert_allclose(found[0].T @ found[0], np.eye(5), atol=1e-12)

    def test_only_the_loadings(self):
        z = structured(50, 400)
        wanted = decompose(z, True).loadings[:, :5]
        found = leading_loadings(z, True, 5)
        np.testing.assert_allclose(found @ (found.T @ wanted), wanted, atol=1e-6)

    def test_random_engine_is_seeded(self):
        z = structured(60, 80)
        one, two = (decompose(z, True, 3, "randomised", seed=9).scores for _ in range(2))
        np.testing.assert_array_equal(one, two)


class InSinglePrecision(Agreement):
    """All of it again where every Gram matrix is partly in single precision, as it is of large data."""

    powers = 1e-6

    def setUp(self):
        self.grams = []
        in_single_precision(self)

        def watched(z, *given, whole=Scaled.gram, **named):
            self.grams.append(whole(z, *given, **named))
            return self.grams[-1]

        patch = mock.patch.object(Scaled, "gram", watched)
        patch.start()
        self.addCleanup(patch.stop)

    def test_components_in_the_noise_to_what_single_precision_allows(self):
        """The last of ten lies in the noise, as large as its neighbour but for some thousandths."""
        z = structured(700, 500, noise=1.0)
        found, wanted = self.check(z, 10, "gram", subspace=1e-5)
        self.assertEqual([gram.single for gram in self.grams], [True])
        np.testing.assert_allclose(found.thetas(10), wanted.thetas(10), rtol=1e-7)
        np.testing.assert_allclose(found.q_rest, wanted.q_beyond(10), rtol=1e-6)
        np.testing.assert_allclose(found.variable_squares, (z**2).sum(axis=0), rtol=1e-12)

    def test_components_below_what_a_gram_matrix_keeps(self):
        """The others are good enough, and these are found from what is left over, in double."""
        z = structured(400, 300, k=3, noise=1e-6)
        found, _ = self.check(z, 6, "gram", eigenvalues=1e-6, subspace=1e-4)
        self.assertEqual(found.computed, 6)
        # of all data, of what is left over for the others, and of what is left over in the end
        self.assertEqual([gram.single for gram in self.grams], [True, False, False])

    def test_components_that_single_precision_has_lost_are_given_up_soon(self):
        """More strong ones than are taken out before, and weak ones that are a millionth of them."""
        rng = np.random.default_rng(2)
        sizes = np.r_[np.linspace(1.0, 2.0, 20), 1e-3 * np.arange(4, 0, -1)]
        z = rng.normal(size=(900, 24)) * sizes @ np.linalg.qr(rng.normal(size=(500, 24)))[0].T
        z += 1e-6 * rng.normal(size=z.shape)
        calls = mock.Mock(side_effect=gram_matrix.symmetric_times)
        with mock.patch.object(gram_matrix, "symmetric_times", calls):
            self.check(z - z.mean(axis=0), 24, "gram")
        self.assertEqual([gram.single for gram in self.grams[:2]], [True, False])
        self.assertLess(calls.call_count, 500)

    def test_sizes_that_single_precision_has_not(self):
        z = structured(300, 200, noise=1.0)
        for size in (1e-25, 1e25):
            with self.subTest(size):
                self.grams.clear()
                self.check(size * z, 3, "gram")
                self.assertEqual([gram.single for gram in self.grams], [True])

    def test_a_few_samples_beyond_single_precision_are_found_in_double(self):
        """They are in no sample of the rows, so the directions that they make strong are not known before."""
        z = structured(900, 300, noise=1.0)
        z[450:453] += 300.0 * np.random.default_rng(1).normal(size=(3, 300))
        few = mock.patch.object(scaled_matrix, "SAMPLE", 90)
        few.start()
        self.addCleanup(few.stop)
        self.check(z - z.mean(axis=0), 8, "gram", subspace=1e-5)
        self.assertEqual([gram.single for gram in self.grams[:2]], [True, False])
        z[451] *= 1e30
        self.grams.clear()
        self.check(z, 1, "gram", centred=False)
        self.assertFalse(any(gram.single for gram in self.grams))


class Choice(unittest.TestCase):
    def test_says_which(self):
        self.assertEqual(chosen_engine(20, 500, 3), "exact")
        self.assertEqual(chosen_engine(200, 700, 10), "gram")
        self.assertEqual(chosen_engine(200, 700, 150), "exact")
        self.assertEqual(chosen_engine(9000, 9000, 10), "randomised")
        self.assertEqual(decompose(structured(60, 90), True, 3, "auto").engine, "gram")

    def test_most_components(self):
        self.assertEqual(structural_rank(10, 40, True), 9)
        self.assertEqual(structural_rank(10, 4, True), 4)

    def test_cubes(self):
        for q in (1, 40, 1100):  # the last on two threads
            with self.subTest(q):
                a = np.random.default_rng(0).normal(size=(q, q))
                a = a + a.T
                self.assertAlmostEqual(cubes_of(a) / np.trace(a @ a @ a), 1.0, places=9)


class Nipals(unittest.TestCase):
    def test_iterations_and_what_did_not_settle_are_told(self):
        z = structured(40, 50)
        found = decompose(z, True, 3, "nipals")
        self.assertEqual((len(found.iterations), found.unsettled), (3, ()))
        self.assertGreater(min(found.iterations), 1)
        hurried = decompose(z, True, 3, "nipals", rounds=2)
        self.assertEqual(hurried.unsettled, (1, 2, 3))


class Stopping(unittest.TestCase):
    """What goes round for ever so long asks whether anybody still waits."""

    def stops(self, find):
        asked = []

        def watch(share):
            asked.append(share)
            return len(asked) < 3

        with self.assertRaises(Stopped):
            find(watch)
        self.assertEqual(asked, [0.0] * 3)

    def test_each_engine_that_goes_round(self):
        z = structured(60, 50, noise=1.0)
        for engine in ("nipals", "randomised"):
            with self.subTest(engine):
                self.stops(lambda watch, of=engine: decompose(z, True, 3, of, watch=watch))

    def test_around_gaps(self):
        z = structured(60, 50, noise=1.0)
        z[np.random.default_rng(1).random(z.shape) < 0.1] = np.nan
        axis = Axis(tuple(f"v{j}" for j in range(50)))
        for policy in ("nipals", "em"):
            with self.subTest(policy):
                how = ScaleSettings(), ModelSettings(gaps=policy), 2
                self.stops(lambda watch, how=how: fit_around_gaps(z, axis, *how, watch))


class AroundGaps(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(6)
        self.full = 5.0 + structured(60, 25, k=2, noise=1e-4, seed=6)
        self.gappy = self.full.copy()
        self.gappy[rng.random(self.full.shape) < 0.08] = np.nan
        self.axis = Axis(tuple(f"v{j}" for j in range(25)))

    def test_both_ways_find_what_full_data_would(self):
        for policy in ("nipals", "em"):
            with self.subTest(policy):
                found = fit_around_gaps(self.gappy, self.axis, ScaleSettings(), ModelSettings(gaps=policy), 2)
                self.assertTrue(found.settled)
                wanted = decompose(self.full - self.full.mean(axis=0), True)
                self.assertLess(off(found.decomposition, wanted, 2), 0.05 if policy == "nipals" else 2e-3)
                self.assertTrue(np.isfinite(found.z).all())

    def test_shares_are_of_the_known_values(self):
        known = ~np.isnan(self.gappy)
        for policy in ("nipals", "em"):
            with self.subTest(policy):
                around = fit_around_gaps(
                    self.gappy, self.axis, ScaleSettings(), ModelSettings(gaps=policy), 2
                )
                found = around.decomposition
                shares = explained(found)
                for k in (1, 2):
                    away = around.z - found.scores[:, :k] @ found.loadings[:, :k].T
                    wanted = 1.0 - (away[known] ** 2).sum() / (around.z[known] ** 2).sum()
                    self.assertAlmostEqual(shares[:k].sum(), wanted, places=12)
                    each = [
                        1.0 - (away[at, j] ** 2).sum() / (around.z[at, j] ** 2).sum()
                        for j, at in enumerate(known.T)
                    ]
                    np.testing.assert_allclose(explained_by_variable(found, around.z, k), each, atol=1e-12)
                self.assertLessEqual(shares.sum(), 1.0)

    def test_filled_values_are_those_of_the_model(self):
        found = fit_around_gaps(self.gappy, self.axis, ScaleSettings(), ModelSettings(gaps="em"), 2)
        gaps = np.isnan(self.gappy)
        rebuilt = found.decomposition.scores @ found.decomposition.loadings.T
        np.testing.assert_allclose(found.z[gaps], rebuilt[gaps], atol=1e-7)
        known = found.z + found.scaler.centre
        np.testing.assert_allclose(known[~gaps], self.gappy[~gaps])
        np.testing.assert_allclose(known[gaps], self.full[gaps], atol=2e-3)
        away = np.where(gaps, 0.0, found.z - rebuilt)
        np.testing.assert_allclose(found.decomposition.q_beyond(2), (away**2).sum(axis=1))
