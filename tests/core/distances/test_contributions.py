"""What is normal for groups: means of groups of the same size."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.distances import contributions
from scutcher.core.distances.contributions import means_of_groups


class Groups(unittest.TestCase):
    def setUp(self):
        self.z = np.random.default_rng(0).normal(size=(200, 6)) * np.arange(1.0, 7.0)
        self.alone = np.arange(200)

    def test_one_sample_is_its_own_mean(self):
        self.assertIs(means_of_groups(self.z, 1, self.alone, 1), self.z)

    def test_means_spread_by_the_root_of_the_size(self):
        for size in (4, 25):
            spread = means_of_groups(self.z, size, self.alone, size, draws=4000).std(axis=0)
            left_over = np.sqrt((200 - size) / 199)  # drawn without replacement
            np.testing.assert_allclose(spread, self.z.std(axis=0) / np.sqrt(size) * left_over, rtol=0.06)

    def test_groups_as_large_as_the_reference_still_differ(self):
        few = self.z[:10]
        means = means_of_groups(few, 10, self.alone[:10], 10, draws=4000)
        np.testing.assert_allclose(means.std(axis=0), few.std(axis=0) / np.sqrt(10), rtol=0.06)
        np.testing.assert_allclose(means.mean(axis=0), few.mean(axis=0), atol=0.1)

    def test_seeded(self):
        one, two = (means_of_groups(self.z, 5, self.alone, 5) for _ in range(2))
        np.testing.assert_array_equal(one, two)

    def test_replicates_are_drawn_together(self):
        lots = np.repeat(np.random.default_rng(1).normal(size=(60, 4)), 3, axis=0)  # three like scans of each
        codes = np.repeat(np.arange(60), 3)
        three_of_one = means_of_groups(lots, 3, codes, 1, draws=4000).std(axis=0)
        three_of_three = means_of_groups(lots, 3, codes, 3, draws=4000).std(axis=0)
        np.testing.assert_allclose(three_of_one, lots.std(axis=0), rtol=0.06)
        np.testing.assert_allclose(three_of_three, lots.std(axis=0) / np.sqrt(3), rtol=0.06)

    def test_very_many_groups_have_the_spread_of_drawn_ones(self):
        """Against the loop over groups: the same spread, alone and in replicates."""
        rng = np.random.default_rng(4)
        z = rng.normal(size=(900, 3))
        for codes in (np.arange(900), np.arange(900) // 2):
            for groups in (60, 300):
                size = groups * (900 // (int(codes.max()) + 1))
                with mock.patch.object(contributions, "MANY_GROUPS", 10**9):
                    slow = means_of_groups(z, size, codes, groups, draws=600).std(axis=0)
                with mock.patch.object(contributions, "MANY_GROUPS", 0):
                    fast = means_of_groups(z, size, codes, groups, draws=600).std(axis=0)
                np.testing.assert_allclose(fast, slow, rtol=0.2)

    def test_half_of_very_many_picked_is_no_loop_over_them(self):
        with mock.patch.object(np.random, "default_rng") as never:
            means = means_of_groups(np.ones((500, 2)), 50_000, np.arange(500), 50_000, draws=50)
        never.assert_not_called()
        np.testing.assert_allclose(means, 1.0)


if __name__ == "__main__":
    unittest.main()
