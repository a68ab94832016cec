"""Rows of one sample made into one."""

from __future__ import annotations

import unittest

import numpy as np

from scutcher.core.blocks.repeats import one_of_each

WAYS = {"mean": np.mean, "median": np.median, "first": lambda rows, axis: rows[0]}


class OneOfEach(unittest.TestCase):
    def test_runs_of_any_length_against_a_loop(self):
        made = np.random.default_rng(4)
        for counts in ([1, 1, 1], [3, 1, 2, 3, 5], [2, 2], [7], []):
            values = made.standard_normal((sum(counts), 6))
            ends = np.cumsum(counts).tolist()
            for how, of in WAYS.items():
                runs = [values[end - count : end] for end, count in zip(ends, counts, strict=True)]
                wanted = np.array([of(run, axis=0) for run in runs]).reshape(len(counts), 6)
                np.testing.assert_allclose(one_of_each(values, counts, how), wanted, atol=1e-14)


if __name__ == "__main__":
    unittest.main()
