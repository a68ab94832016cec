"""Series: the numbers of the definitions, the loop over pairs, windows, what is noise."""

import unittest
from pathlib import Path

import numpy as np

from scutcher.core.errors import ModelError
from scutcher.core.numeric.effective_channels import effective_channels
from scutcher.core.series.evolving_rank import evolving_rank, moving_rank, noise_limit
from scutcher.core.series.likeness import Reference, averaged, drawn_peak, search_of
from scutcher.core.series.rebuilding import series_components

FILE = Path(__file__).parent.parent / "unmixing" / "golden" / "series.csv"
SERIES = np.loadtxt(FILE, delimiter=",", skiprows=1)
AXIS = np.arange(1000.0, 1800.0, 10.0)


def bell(centre, sd, x=AXIS):
    return np.exp(-0.5 * ((x - centre) / sd) ** 2)


class Golden(unittest.TestCase):
    def test_components(self):
        found = series_components(SERIES)
        self.assertEqual(found.suggested, 2)
        z = [verdict.along_order.z for verdict in found.verdicts[:4]]
        wanted = (5.593435750893768, 4.2266988012160445, 1.9659697341562234, -0.4387854065800332)
        np.testing.assert_allclose(z, wanted, rtol=1e-9)
        self.assertAlmostEqual(found.verdicts[1].along_axis.z, 6.676213474394467, places=9)
        np.testing.assert_allclose(found.rebuilt(29), SERIES, atol=1e-12)

    def test_pairs(self):
        search = search_of(SERIES, AXIS, 2, 1, 20.0)
        self.assertAlmostEqual(search.sigma, 0.009617549676903087, places=12)
        found = search.pairs(Reference(AXIS, bell(1250, 50) - bell(1150, 40)))
        place = np.unravel_index(np.nanargmax(np.where(found.counts, found.likeness, -1.0)), (30, 30))
        self.assertEqual(tuple(map(int, place)), (2, 5))
        figures = found.likeness[2, 5], found.amplitude[2, 5], found.shift[2, 5], found.z[2, 5]
        np.testing.assert_allclose(
            figures, (0.841101541560871, -0.03334105989193094, 0.0, 8.179018807880434), rtol=1e-9
        )
        np.testing.assert_allclose((found.least_z, found.reach), (3.8566692348266276, 0.8411020150526837))
        np.testing.assert_allclose(
            (found.likeness[0, 29], found.likeness[10, 12]), (0.8228566213413688, 0.8177205773180382)
        )

    def test_growing_windows(self):
        found = evolving_rank(SERIES, 2)
        forward = ((2, 5.6545626673871245, 0.10635526877571908), (9, 10.141590277274986, 0.6435819304286913))
        for place, first, second in forward:
            np.testing.assert_allclose(found.forward[place, :2], (first, second), rtol=1e-9)
        np.testing.assert_allclose(
            found.backward[2, :3], (6.757775270795148, 0.10374418665565944, 0.08375857150577513), rtol=1e-6
        )
        self.assertTrue(np.isnan(found.forward[2, 3]))
        limit = (0.10269538430842894, 0.13073807835912668, 0.1536732013411672)
        np.testing.assert_allclose(found.limit[[0, 9, 29]], limit, rtol=1e-9)
        squares = np.linalg.svd(SERIES, compute_uv=False) ** 2
        self.assertAlmostEqual(effective_channels(squares, 2, 30, 80), 64.95453887660798, places=8)


def by_loop(spectra, axis, k, reference, degree, shifts, kept):
    """Every pair for itself, from the definition."""
    base = np.linalg.qr(np.polynomial.legendre.legvander(np.linspace(-1, 1, kept.sum()), degree))[0]
    z = spectra[:, kept] - spectra[:, kept].mean(axis=0)
    z = z - z @ base @ base.T
    u, s, v = np.linalg.svd(z, full_matrices=False)
    z = (u[:, :k] * s[:k]) @ v[:k]
    found = np.zeros((len(spectra), len(spectra)))
    for i in range(len(spectra)):
        for j in range(len(spectra)):
            if i != j:
                for shift in shifts:
                    m = reference.at(axis[kept] - shift)
                    m = m - base @ (base.T @ m)
                    d = z[i] - z[j]
                    cosine = abs(d @ m) / np.linalg.norm(d) / np.linalg.norm(m)
                    found[i, j] = max(found[i, j], cosine)
    return found


class PairsOfASeries(unittest.TestCase):
    def test_against_the_loop(self):
        kept = (AXIS >= 1010) & (AXIS <= 1780)
        reference = drawn_peak(AXIS, 1200.0, 60.0)
        found = search_of(SERIES[:12], AXIS, 3, 0, 10.0).pairs(reference)
        wanted = by_loop(SERIES[:12], AXIS, 3, reference, 0, np.arange(-10.0, 11.0, 5.0), kept)
        off = ~np.eye(12, dtype=bool)
        np.testing.assert_allclose(found.likeness[off], wanted[off], atol=1e-9)
        self.assertTrue(np.isnan(np.diag(found.likeness)).all())
        self.assertTrue((found.likeness[off] <= found.reach + 1e-9).all())

    def test_an_event_is_found(self):
        rng = np.random.default_rng(5)
        spectra = np.outer(np.linspace(1, 0, 60), bell(1300, 80)) + 0.01 * rng.normal(size=(60, 80))
        spectra[30:36] += 0.08 * bell(1600, 20)
        spectra += 0.05 * rng.normal(size=(60, 1))  # offsets, which the background takes up
        search = search_of(spectra, AXIS, None, 1)
        raw = search.pairs(drawn_peak(AXIS, 1600.0, 20.0))
        kept = search_of(spectra, AXIS, 3, 1).pairs(drawn_peak(AXIS, 1600.0, 20.0))
        one, other = kept.best(1)[0]
        self.assertNotEqual(one in range(30, 36), other in range(30, 36))
        self.assertGreater(np.nanmax(kept.likeness), np.nanmax(raw.likeness))
        for a, b in kept.best(5)[1:]:
            self.assertTrue(abs(a - one) > 1 or abs(b - other) > 1)
        self.assertTrue(all(a < b for a, b in kept.best(10)))

    def test_signed_says_which_way(self):
        spectra = np.outer(np.linspace(0, 1, 15), bell(1300, 60))
        spectra += 1e-4 * np.random.default_rng(1).normal(size=spectra.shape)
        found = search_of(spectra, AXIS, 1).pairs(drawn_peak(AXIS, 1300.0, 60.0), signed=True)
        self.assertGreater(found.likeness[14, 0], 0.99)
        self.assertLess(found.likeness[0, 14], -0.99)
        self.assertTrue(all(a > b for a, b in found.best(3)))

    def test_stretches_make_noise_less(self):
        rng = np.random.default_rng(2)
        spectra = np.outer(np.linspace(0, 1, 40), bell(1300, 60)) + 0.05 * rng.normal(size=(40, 80))
        one = search_of(spectra, AXIS, 1).pairs(drawn_peak(AXIS, 1300.0, 60.0))
        five = search_of(spectra, AXIS, 1, stretch=5).pairs(drawn_peak(AXIS, 1300.0, 60.0))
        self.assertGreater(five.z[5, 30], 1.8 * one.z[5, 30])
        rows = np.arange(12.0).reshape(6, 2)
        wanted = [rows[max(i - 1, 0) : i + 2].mean(axis=0) for i in range(6)]
        np.testing.assert_allclose(averaged(rows, 3), wanted)

    def test_what_is_refused(self):
        with self.assertRaisesRegex(ModelError, "The reference goes from 1200 to 1300"):
            search_of(SERIES, AXIS, 2).pairs(Reference(np.arange(1200.0, 1301.0), np.ones(101)))
        with self.assertRaisesRegex(ModelError, "nothing but background"):
            search_of(SERIES, AXIS, 2).pairs(Reference(AXIS, 2.0 + AXIS))
        with self.assertRaisesRegex(ModelError, "channels are left"):
            search_of(SERIES, AXIS, 2, most_shift=390.0)


class Windows(unittest.TestCase):
    def test_of_more_spectra_than_channels(self):
        rng = np.random.default_rng(5)
        for p in (5, 9, 70):
            spectra = rng.normal(size=(60, 2)) @ rng.normal(size=(2, p)) + 0.01 * rng.normal(size=(60, p))
            found, moving = evolving_rank(spectra, 2), moving_rank(spectra, 12)
            for size in (3, 8, 9, 30, 60):
                most = min(size, 8)
                wanted = np.zeros((2, most))
                for row, own in enumerate((spectra[:size], spectra[60 - size :])):
                    values = np.linalg.svd(own, compute_uv=False)[:most]
                    wanted[row, : len(values)] = values
                place = int(np.flatnonzero(found.sizes == size)[0])
                np.testing.assert_allclose(found.forward[place, :most], wanted[0], rtol=1e-6, atol=1e-6)
                np.testing.assert_allclose(found.backward[place, :most], wanted[1], rtol=1e-6, atol=1e-6)
            own = np.linalg.svd(spectra[20:32], compute_uv=False)[:5]
            np.testing.assert_allclose(moving[26, :5], own, rtol=1e-6, atol=1e-6)

    def test_noise_stays_below_its_limit(self):
        past = 0
        for seed in range(20):
            rng = np.random.default_rng(seed)
            t = np.linspace(0, 1, 60)
            noise = rng.normal(size=(60, 120))
            if seed % 2:
                noise = np.apply_along_axis(np.convolve, 1, noise, np.ones(7) / 7, "same")
            amounts = np.column_stack([1 - t, t, np.exp(-(((t - 0.5) / 0.15) ** 2))])
            shapes = np.array([bell(c, 60, np.linspace(1000, 1800, 120)) for c in (1200, 1400, 1600)])
            found = evolving_rank(amounts @ shapes + 0.02 * noise, 3)
            past += found.appears()[3] is not None
        self.assertLessEqual(past, 1)

    def test_a_late_change_is_seen_late(self):
        rng = np.random.default_rng(3)
        late = np.clip((np.arange(80) - 50) / 30.0, 0.0, None)
        spectra = np.outer(np.ones(80), bell(1300, 80)) + np.outer(late, bell(1500, 40))
        found = evolving_rank(spectra + 0.01 * rng.normal(size=spectra.shape), 2)
        self.assertTrue(50 <= found.appears()[1] <= 55)
        self.assertEqual(found.appears()[0], 0)
        self.assertIsNone(found.appears()[2])
        self.assertEqual(found.disappears()[0], 79)

    def test_the_smallest_windows_are_plain_decompositions(self):
        found = evolving_rank(SERIES, 2)
        for size in (1, 4, 17):
            own = np.linalg.svd(SERIES[-size:], compute_uv=False)[:8]
            np.testing.assert_allclose(found.backward[size - 1, : min(size, 8)], own, rtol=1e-6, atol=1e-7)
        moving = moving_rank(SERIES, 5)
        self.assertTrue(np.isnan(moving[1]).all())
        own = np.linalg.svd(SERIES[8:13], compute_uv=False)
        np.testing.assert_allclose(moving[10, :5], own, rtol=1e-6)

    def test_long_series_are_thinned_and_short_ones_refused(self):
        rng = np.random.default_rng(1)
        found = evolving_rank(rng.normal(size=(230, 12)), 1)
        self.assertLessEqual(len(found.sizes), 100)
        self.assertEqual((found.sizes[0], found.sizes[-1]), (1, 230))
        self.assertEqual(len(noise_limit(SERIES, 2)), 30)
        with self.assertRaisesRegex(ModelError, "too few"):
            evolving_rank(SERIES[:4], 2)


class Verdicts(unittest.TestCase):
    def test_how_often_the_number_is_right(self):
        right = 0
        for seed in range(40):
            rng = np.random.default_rng(seed)
            t = np.linspace(0, 1, 200)
            amounts = np.column_stack([1 - t, np.exp(-(((t - 0.4) / 0.2) ** 2)), 0.1 * np.sin(3 * t)])
            shapes = np.array([bell(c, 60) for c in (1200, 1350, 1600)])
            found = series_components(amounts @ shapes + 0.01 * rng.normal(size=(200, 80)))
            right += found.suggested == 3
        self.assertGreaterEqual(right, 38)

    def test_few_spectra_and_none(self):
        self.assertEqual(series_components(SERIES[:9]).suggested, 0)
        self.assertEqual(series_components(np.ones((12, 5))).suggested, 0)
        with self.assertRaises(ModelError):
            series_components(SERIES[:2])


if __name__ == "__main__":
    unittest.main()
