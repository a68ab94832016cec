"""Blocks: the numbers of the definitions, chance, planted structure found, who disagrees and why."""

import unittest
from pathlib import Path

import numpy as np

from scutcher.core.blocks.chance import chance_bound, reliabilities
from scutcher.core.blocks.common import Search, meet
from scutcher.core.blocks.consensus import block_model
from scutcher.core.blocks.disagreement import deleted_residuals, disagreement, farthest_apart, why
from scutcher.core.blocks.held_out import held_out_agreement, permuted, shares_held_out
from scutcher.core.blocks.outside import outside
from scutcher.core.blocks.reduced import reduced, suggested_rank, white_noise_edge
from scutcher.core.errors import ModelError
from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.core.validation.segments import make_segments
from tests.core.making import ordered_table

FOLDER = Path(__file__).parent / "golden"
RAW = [np.loadtxt(FOLDER / f"block{b}.csv", delimiter=",") for b in (1, 2, 3)]
Z = [values - values.mean(axis=0) for values in RAW]
RANKS = (3, 3, 2)


def golden_model():
    return block_model([reduced(f"b{b}", z, r) for b, (z, r) in enumerate(zip(Z, RANKS, strict=True))])


def planted(seed, n=90, sizes=(200, 200, 200), noise=0.05, odd=None):
    """Two components common to all, one of the first two blocks, one own of each; `odd` sample of block 1."""
    rng = np.random.default_rng(seed)
    scores = np.linalg.qr(rng.normal(size=(n, 6)) - 0.0)[0]
    scores -= scores.mean(axis=0)
    own = {0: (0, 1, 2, 3), 1: (0, 1, 2, 4), 2: (0, 1, 5)}
    blocks = []
    for b, p in enumerate(sizes):
        t = scores[:, own[b]].copy()
        if odd is not None and b == 1:
            t[odd, :2] += np.array([3.0, -3.0]) * scores[:, :2].std(axis=0)
        loadings = np.linalg.qr(rng.normal(size=(p, len(own[b]))))[0]
        signal = t @ (np.linspace(1.3, 0.8, len(own[b]))[:, np.newaxis] * loadings.T)
        white = rng.normal(size=(n, p))
        white *= np.sqrt(noise / (1 - noise)) * np.linalg.norm(signal) / np.linalg.norm(white)
        z = signal + white
        blocks.append(z - z.mean(axis=0))
    return blocks, scores


def model_of(blocks, ranks=(4, 4, 3)):
    """Blocks in so many components."""
    parts = [reduced(f"b{b}", z, r) for b, (z, r) in enumerate(zip(blocks, ranks, strict=True))]
    return block_model(parts)


def pattern(model):
    return sorted(one.blocks for one in model.components if len(one.blocks) > 1)


class Golden(unittest.TestCase):
    def test_chance(self):
        for given, wanted in (
            ((19, 5, 5, 0.95), 0.8225764485653969),
            ((89, 12, 4, 0.99), 0.38688483375787414),
            ((89, 1, 5, 0.95), 0.12148256708419505),
            ((11, 6, 6, 0.95), 1.0),
            ((499, 20, 20, 0.95), 0.16268459182358602),
        ):
            self.assertAlmostEqual(chance_bound(*given), wanted, places=10)

    def test_ranks_and_reliability(self):
        found = [reduced("b", z, r) for z, r in zip(Z, RANKS, strict=True)]
        np.testing.assert_allclose(
            found[0].reliability, (0.9962712920130289, 0.9910727340741405, 0.9442263820971808), rtol=1e-9
        )
        np.testing.assert_allclose(found[2].reliability, (0.9965861188669995, 0.9893799628275863))
        edges = [white_noise_edge(one.squares, 24, one.z.shape[1]) for one in found]
        self.assertEqual(edges, list(RANKS))
        self.assertEqual([suggested_rank(z, False) for z in Z], list(RANKS))

    def test_components(self):
        model = golden_model()
        self.assertEqual(model.sets, ((0, 1, 2), (0, 1)))
        np.testing.assert_allclose(model.spreads[(0, 1, 2)], (2.988232324721863,))
        np.testing.assert_allclose(model.spreads[(0, 1)], (1.9811394734150616,))
        agreements = [one.agreement for one in model.components[:2]]
        np.testing.assert_allclose(agreements, (1.0087713835309058, 1.0091093859728404))
        self.assertEqual([one.blocks for one in model.components[2:]], [(0,), (1,), (2,)])
        shares = [one.shares[0] for one in model.of_block(0)]
        np.testing.assert_allclose(shares, (0.27332986023808015, 0.3875338928562179, 0.32836937024899787))
        np.testing.assert_allclose(
            model.components[0].loadings[0][:3], (2.036933893182583, -3.798079669827359, 8.028177661940642)
        )
        np.testing.assert_allclose(
            model.components[0].consensus[:3],
            (-0.13675924534648212, -0.10544936802046406, 0.08270063492456901),
        )
        scores = np.column_stack([one.scores[b] for b in range(3) for one in model.of_block(b)])
        check = scores.T @ scores
        np.testing.assert_allclose(
            check[0, 3:], (0.9957661637444088, 0.00428688749514456, 0.00886957426891929, 0.9935261088335615,
                           0.0046427990444236405), atol=1e-12
        )  # fmt: skip

    def test_disagreement_and_held_out(self):
        model = golden_model()
        found = disagreement(model, model.components[0])
        np.testing.assert_allclose(
            found.residuals[0, :4],
            (-1.2099867477162984, -0.8895210924113163, 1.7969913743261805, -0.6164980603372207),
        )
        self.assertAlmostEqual(found.limit, 3.9721286915125598, places=9)
        segments = make_segments(ordered_table(Z[0]), ValidateSettings()).parts[0]
        held = held_out_agreement(model, segments)
        np.testing.assert_allclose([one.agreement for one in held], (0.9791602397968506, 0.9589898831500409))
        self.assertEqual([(one.segments, one.of) for one in held], [(7, 7), (7, 7)])


class Chance(unittest.TestCase):
    def test_unrelated_subspaces_pass_the_bound_as_often_as_said(self):
        rng = np.random.default_rng(1)
        for n, p, q in ((19, 3, 3), (60, 5, 2), (89, 1, 4)):
            bound, past = chance_bound(n, p, q, 0.95), 0
            for _ in range(600):
                one, other = (np.linalg.qr(rng.normal(size=(n, k)))[0] for k in (p, q))
                past += np.linalg.svd(one.T @ other, compute_uv=False)[0] ** 2 > bound
            self.assertTrue(0.015 <= past / 600 <= 0.075, (n, p, q, past / 600))

    def test_reliability_is_near_the_cosine_with_the_truth(self):
        away = []
        for seed in range(12):
            (z, *_), scores = planted(seed, 90, noise=0.3)
            own = reduced("b", z, 4)
            truth = np.linalg.qr(scores[:, (0, 1, 2, 3)])[0]
            cosines = np.sum((truth.T @ own.scores) ** 2, axis=0)
            away.append(np.abs(own.reliability - cosines).max())
        self.assertLess(np.median(away), 0.1)
        self.assertTrue((reliabilities(np.array([1.0, 0.0, 0.0]), 1, 10, 3) == 1.0).all())

    def test_meet_is_the_angle_between_planes(self):
        base = np.eye(40)
        one = base[:, :2]
        other = np.column_stack([base[:, 0], base[:, 5]])
        found = meet(one, other, 39.0, 0.95)
        self.assertEqual(len(found), 1)
        np.testing.assert_allclose(np.abs(found[0]), base[:, 0], atol=1e-12)
        self.assertEqual(meet(one, base[:, :0], 39.0, 0.95), [])


class Planted(unittest.TestCase):
    WANTED = ((0, 1), (0, 1, 2), (0, 1, 2))

    def rate(self, sets, n, noise, sizes=(200, 200, 200)):
        right = 0
        for seed in range(sets):
            blocks, _ = planted(seed, n, sizes, noise)
            ranks = [suggested_rank(z, True) for z in blocks]
            try:
                model = model_of(blocks, ranks)
            except ModelError:
                continue
            right += tuple(pattern(model)) == self.WANTED
        return right / sets

    def test_at_the_rates_of_the_definition(self):
        self.assertGreaterEqual(self.rate(8, 90, 0.05), 0.9)
        self.assertGreaterEqual(self.rate(8, 90, 0.3), 0.75)
        self.assertGreaterEqual(self.rate(5, 90, 0.05, (20, 200, 1200)), 0.75)
        self.assertGreaterEqual(self.rate(8, 20, 0.05), 0.75)

    def test_nothing_is_common_to_unrelated_blocks(self):
        false = 0
        for seed in range(20):
            rng = np.random.default_rng(seed)
            blocks = []
            for _ in range(3):
                z = rng.normal(size=(60, 4)) @ rng.normal(size=(4, 50)) + 0.3 * rng.normal(size=(60, 50))
                blocks.append(reduced(str(_), z - z.mean(axis=0), 4))
            false += bool(block_model(blocks).sets)
        self.assertLessEqual(false, 3)

    def test_scores_are_the_planted_ones_and_shares_add_up(self):
        blocks, scores = planted(3)
        model = model_of(blocks)
        self.assertEqual(tuple(pattern(model)), self.WANTED)
        common = np.column_stack([one.consensus for one in model.of((0, 1, 2))])
        cosines = np.linalg.svd(np.linalg.qr(scores[:, :2])[0].T @ common, compute_uv=False)
        self.assertGreater(cosines.min(), 0.98)
        for b in range(3):
            own = np.column_stack([one.scores[b] for one in model.of_block(b)])
            np.testing.assert_allclose(own.T @ own, np.eye(own.shape[1]), atol=1e-9)
            share = sum(one.shares[b] for one in model.of_block(b))
            fitted = own @ own.T @ model.blocks[b].z
            self.assertAlmostEqual(share, (fitted**2).sum() / model.blocks[b].total, places=9)

    def test_new_rows_fall_where_the_old_ones_are(self):
        blocks, _ = planted(4)
        model = model_of(blocks)
        chosen = (0, 1, 2)
        scores = {
            b: np.column_stack([blocks[b][:5] @ one.weights[b] for one in model.of(chosen)]) for b in chosen
        }
        wanted = np.column_stack([one.consensus[:5] for one in model.of(chosen)])
        np.testing.assert_allclose(model.consensus_of(chosen, scores), wanted, atol=1e-9)
        one_alone = model.consensus_of(chosen, {1: scores[1]})
        np.testing.assert_allclose(one_alone, wanted, atol=0.05)
        with self.assertRaisesRegex(ModelError, "None of these blocks"):
            model.consensus_of(chosen, {})

    def test_scaling_of_a_block_changes_nothing_common(self):
        blocks, _ = planted(5)
        plain = model_of(blocks)
        scaled = block_model(
            [reduced(f"b{b}", 1e4**b * z, r) for b, (z, r) in enumerate(zip(blocks, (4, 4, 3), strict=True))]
        )
        for one, other in zip(plain.components, scaled.components, strict=True):
            self.assertEqual(one.blocks, other.blocks)
            np.testing.assert_allclose(np.abs(one.consensus), np.abs(other.consensus), atol=1e-7)


class Disagreeing(unittest.TestCase):
    def test_the_odd_block_is_named_and_its_variables(self):
        blocks, _ = planted(6, odd=17)
        model = model_of(blocks)
        first = farthest_apart(model)[0]
        self.assertEqual((first.row, first.block), (17, 1))
        component = model.components[first.component]
        found = why(model, component, 1, 17)
        self.assertAlmostEqual(found.shares.sum(), found.away, places=9)
        mean = np.mean([component.scores[c] for c in component.blocks if c != 1], axis=0)
        own = component.scores[1]
        mean = mean - mean.mean()
        expected = own[17] - mean[17] * (mean @ own) / (mean @ mean)
        self.assertAlmostEqual(found.away, expected, places=9)

    def test_deleted_residuals_against_refitting(self):
        rng = np.random.default_rng(2)
        one = rng.normal(size=20)
        one -= one.mean()
        other = one + 0.3 * rng.normal(size=20)
        other -= other.mean()
        one, other = one / np.linalg.norm(one), other / np.linalg.norm(other)
        found = deleted_residuals(one, other)
        away, middle = one - other, 0.5 * (one + other)
        for row in (0, 7):
            rest = np.delete(np.arange(20), row)
            design = np.column_stack([np.ones(19), middle[rest]])
            fit, left, *_ = np.linalg.lstsq(design, away[rest], rcond=None)
            at = np.array([1.0, middle[row]])
            variance = left[0] / 17 * (1 + at @ np.linalg.inv(design.T @ design) @ at)
            wanted = (away[row] - at @ fit) / np.sqrt(variance)
            self.assertAlmostEqual(found[row], wanted, places=6)


class Around(unittest.TestCase):
    def test_outside_columns(self):
        blocks, _ = planted(7)
        model = model_of(blocks)
        told = 3.0 * model.components[0].consensus + 1.0
        told[4] = np.nan
        codes = (model.components[1].consensus > 0).astype(int)
        found = outside(model, [("told", told)], [("side", codes)])
        first = next(one for one in found if one.column == "told" and one.component == 0)
        self.assertAlmostEqual(first.value, 1.0)
        self.assertEqual(first.known, 89)
        side = next(one for one in found if one.column == "side" and one.component == 1)
        self.assertGreater(side.value, 0.5)
        self.assertLess(side.holm, 1e-6)
        self.assertEqual(found[0].column, "run order")
        self.assertTrue(all(one.holm >= one.p - 1e-15 for one in found))

    def test_permuted_and_held_out_shares(self):
        blocks, _ = planted(8, n=40)
        model = model_of(blocks)
        for values in permuted(model, 19).values():
            self.assertTrue(all(p == 0.05 for p in values))
        segments = make_segments(ordered_table(blocks[0]), ValidateSettings()).parts[0]
        shares = shares_held_out(model, segments)
        self.assertTrue(all(0.8 < share < 1.0 for share in shares), shares)

    def test_drift_is_allowed_for_in_a_series(self):
        false = {True: 0, False: 0}
        for seed in range(20):
            rng = np.random.default_rng(seed)
            blocks = []
            for b in range(2):
                steps = rng.normal(size=(90, 2))
                for row in range(1, 90):
                    steps[row] += 0.95 * steps[row - 1]
                z = steps @ rng.normal(size=(2, 40)) + 0.3 * rng.normal(size=(90, 40))
                blocks.append(reduced(str(b), z - z.mean(axis=0), 2))
            for series in (True, False):
                false[series] += bool(block_model(blocks, series=series, floor=0.0).sets)
        self.assertLessEqual(false[True], 2)
        self.assertGreater(false[False], 8)

    def test_what_is_refused(self):
        one = reduced("one", Z[0], 3)
        for blocks, said in (
            ([one], "Give two to five"),
            ([one, reduced("copy", Z[0].copy(), 3)], "are the same table"),
        ):
            with self.assertRaisesRegex(ModelError, said):
                block_model(blocks)
        with self.assertRaisesRegex(ModelError, "is not centred"):
            reduced("raw", RAW[0] + 5.0, 2)
        with self.assertRaisesRegex(ModelError, "Nothing varies"):
            reduced("flat", np.zeros((10, 3)), 1)
        with self.assertRaisesRegex(ModelError, "8 components of|it has"):
            reduced("few", Z[0], 30)
        gap = Z[0].copy()
        gap[2, 1] = np.nan
        with self.assertRaisesRegex(ModelError, "gap at variable 2 of its sample 3"):
            reduced("gap", gap, 2)
        rng = np.random.default_rng(1)
        wide = [rng.normal(size=(9, 20)) for _ in range(2)]
        with self.assertRaisesRegex(ModelError, "always meet"):
            block_model([reduced(str(b), z - z.mean(axis=0), 5) for b, z in enumerate(wide)])

    def test_only_allowed_sets(self):
        blocks, _ = planted(9)
        parts = [reduced(f"b{b}", z, r) for b, (z, r) in enumerate(zip(blocks, (4, 4, 3), strict=True))]
        self.assertEqual(block_model(parts, allowed=[(0, 2)]).sets, ((0, 2),))
        self.assertIsInstance(
            Search([p.scores for p in parts], [np.eye(p.r) for p in parts], 89.0).run(), list
        )


if __name__ == "__main__":
    unittest.main()
