"""All labellings at once against one labelling after the other."""

import unittest
import unittest.mock
from dataclasses import replace

import numpy as np

from scutcher.core.groups.assigning import assigned, majority, nearest, winners
from scutcher.core.progress import Stopped
from scutcher.core.validation import permuted_labels
from scutcher.core.validation.held_out_assignment import judged_codes
from scutcher.core.validation.held_out_scores import held_out_scores
from scutcher.core.validation.permuted_labels import permuted_share
from tests.core.validation.test_held_out_assignment import lots, recipe


def one_by_one(scores, codes, k, method, neighbours, permutations, seed):
    """The same permutations, each segment of each assigned by itself."""
    judged, _ = judged_codes(codes, scores.groups)
    _, first, of_sample = np.unique(scores.groups, return_index=True, return_inverse=True)
    labels = judged[first]
    known = np.flatnonzero(labels >= 0)
    rng = np.random.default_rng(seed)
    shares = []
    for _ in range(permutations):
        mixed = labels.copy()
        mixed[known] = labels[rng.permutation(known)]
        mixed, right = mixed[of_sample], 0
        for segment in scores.segments:
            taught = mixed[segment.kept]
            given = assigned(segment.training[:, :k], taught, segment.left[:, :k], method, neighbours)[-1]
            right += int(((given == mixed[segment.rows]) & (mixed[segment.rows] >= 0)).sum())
        shares.append(right / (judged >= 0).sum() / scores.repeats)
    return np.array(shares)


class AtOnce(unittest.TestCase):
    def compare(self, scores, codes, k, method, neighbours=5, permutations=12):
        found = permuted_share(scores, codes, k, method, neighbours, permutations, 4)
        expected = one_by_one(scores, codes, k, method, neighbours, permutations, 4)
        np.testing.assert_allclose(found, expected, rtol=0, atol=1e-12)
        self.assertGreater(found.std(), 0.0)

    def test_every_method_is_as_one_by_one(self):
        table, codes = lots(n=90, classes=3)
        codes[:6] = -1  # not known
        codes[6:9] = 5  # of one group: not judged
        scores = held_out_scores(table, recipe(repeats=2), 3)
        for method in ("nearest-centre", "discriminant", "nearest-neighbours"):
            for k in (1, 3):
                with self.subTest(method=method, k=k):
                    self.compare(scores, codes, k, method)

    def test_in_small_parts_and_with_all_as_neighbours(self):
        table, codes = lots(n=45, classes=3)
        scores = held_out_scores(table, recipe(), 3)
        with unittest.mock.patch.object(permuted_labels, "CELLS", 400):
            self.compare(scores, codes, 2, "discriminant")
            self.compare(scores, codes, 2, "nearest-neighbours", neighbours=500)

    def test_classes_that_a_segment_has_none_of(self):
        table, codes = lots(n=36, classes=6)  # two lots each: left out together, one is often missing
        scores = held_out_scores(table, recipe(scheme="random", segments=3), 3)
        for method in ("nearest-centre", "discriminant"):
            self.compare(scores, codes, 3, method, permutations=40)

    def test_where_no_spread_is_known(self):
        table, codes = lots(n=36, classes=3)
        scores = held_out_scores(table, recipe(), 3)
        flat = tuple(
            replace(one, training=one.training[:, :3] * [1, 1, 0], left=one.left[:, :3] * [1, 1, 0])
            for one in scores.segments
        )
        found = permuted_share(replace(scores, segments=flat), codes, 3, "nearest-centre", 5, 7)
        np.testing.assert_array_equal(found, np.zeros(7))  # nothing can be assigned with three scores
        same = permuted_share(replace(scores, segments=flat), codes, 2, "nearest-centre", 5, 7)
        np.testing.assert_array_equal(same, permuted_share(scores, codes, 2, "nearest-centre", 5, 7))

    def test_it_can_be_stopped(self):
        table, codes = lots()
        told = []

        def watch(share):
            told.append(share)
            if share > 0.4:
                raise Stopped

        with self.assertRaises(Stopped):
            permuted_share(held_out_scores(table, recipe(), 3), codes, 3, "nearest-centre", 5, watch=watch)
        self.assertEqual(told, sorted(told))


class Voting(unittest.TestCase):
    def test_ties_go_to_the_nearest(self):
        self.assertEqual(majority(np.array([[2, 1, 1, 2], [3, 1, 1, 2]])).tolist(), [2, 1])

    def test_what_is_no_candidate_does_not_vote(self):
        away = np.array([[0.3, np.inf, 0.1, np.inf], [np.inf, 0.2, np.inf, np.inf]])
        self.assertEqual(nearest(away, 2)[0].tolist(), [2, 0])
        self.assertEqual(winners(np.array([4, 5, 6, 5]), away, 3).tolist(), [6, 5])


if __name__ == "__main__":
    unittest.main()
