"""Labels worth a look, against counting one sample after the other."""

from __future__ import annotations

import unittest
from collections import Counter

import numpy as np

from scutcher.core.validation.doubtful_labels import doubtful_labels


def slowly(codes, groups, given, margins):
    """Which samples, and the class each lies with; then the bundles in the order of their first samples."""
    wrong = {}
    for row, code in enumerate(codes):
        if code < 0:
            continue
        (to, times), *_ = sorted(
            Counter(one for one in given[:, row] if one >= 0).items(), key=lambda pair: (-pair[1], pair[0])
        ) or [(code, 0)]
        if to != code and times >= 0.75 * len(given):
            wrong[row] = to

    def place(row):
        members = [one for one in wrong if groups[one] == groups[row]]
        judged = np.count_nonzero((codes >= 0) & (groups == groups[row]))
        far = np.bincount(np.zeros(len(members), int), margins[members])[0] / len(members)
        return -len(members) / judged, -far, row

    bundles = {}
    for row in sorted(wrong, key=place):
        bundles.setdefault((groups[row], codes[row], wrong[row]), []).append(row)
    return bundles


class Doubtful(unittest.TestCase):
    def test_the_same_as_one_after_the_other(self):
        rng = np.random.default_rng(5)
        found = 0
        for _ in range(60):
            n, classes = int(rng.integers(1, 60)), int(rng.integers(2, 5))
            groups = np.sort(rng.integers(0, max(n // 3, 1), n))
            codes = rng.integers(-1, classes, n)
            codes[0] = classes - 1
            given = np.where(codes < 0, -1, rng.integers(0, classes, n))[np.newaxis].repeat(4, axis=0)
            given[rng.integers(4), rng.integers(n)] = -1
            margins = np.where(codes < 0, np.nan, rng.normal(size=n))
            labels, expected = (
                doubtful_labels(codes, groups, given, margins),
                slowly(codes, groups, given, margins),
            )
            bundles = [labels.members(bundle).tolist() for bundle in range(len(labels))]
            self.assertEqual(bundles, list(expected.values()))
            self.assertEqual(labels.classes.tolist(), [to for _, _, to in expected])
            self.assertEqual(
                labels.lies_with().tolist(), [to for (_, _, to), rows in expected.items() for _ in rows]
            )
            found += len(bundles)
        self.assertGreater(found, 100)

    def test_none_where_all_find_their_class(self):
        codes = np.array([0, 0, 1, 1, -1])
        labels = doubtful_labels(codes, np.arange(5), np.tile(codes, (2, 1)), np.zeros(5))
        self.assertEqual((len(labels), labels.rows.tolist(), labels.lies_with().tolist()), (0, [], []))
