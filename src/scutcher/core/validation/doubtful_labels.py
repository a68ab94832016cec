"""Labels worth a look: samples that, left out, most repeats give to one other class; replicates together."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.numeric.row_kinds import kinds_of_rows

DOUBTFUL = 0.75  # share of a sample's assignments that go to one other class


@frozen(eq=False)
class DoubtfulLabels:
    """The samples, most doubtful first, in bundles: of one group, called the same, that lie with one class.

    Attributes
    ----------
    rows : (m,) int array
        Bundle after bundle.
    ends : (b,) int array
        Where in `rows` each bundle ends.
    classes : (b,) int array
        The class each bundle lies with.
    """

    rows: Integers
    ends: Integers
    classes: Integers

    def __len__(self) -> int:
        return len(self.ends)

    def members(self, bundle: int) -> Integers:
        """The samples of a bundle."""
        return self.rows[self.ends[bundle - 1] if bundle else 0 : self.ends[bundle]]

    def lies_with(self) -> Integers:
        """The class that each sample of `rows` lies with, (m,)."""
        return np.repeat(self.classes, np.diff(self.ends, prepend=0))


def doubtful_labels(codes: Integers, groups: Integers, given: Integers, margins: Floats) -> DoubtfulLabels:
    """Find them.

    Parameters
    ----------
    codes, groups : (n,) int arrays
        Class and group of replicates of each sample; a negative class is not judged.
    given : (repeats, n) int array
        The class each repeat gave; negative where it gave none.
    margins : (n,) float array
        How much nearer the nearest other class is.
    """
    counts = np.zeros((int(codes.max(initial=0)) + 1, len(codes)))
    for repeat in given:
        there = np.flatnonzero(repeat >= 0)
        counts[repeat[there], there] += 1.0
    other = counts.argmax(axis=0)
    wrong = (codes >= 0) & (other != codes) & (counts.max(axis=0) >= DOUBTFUL * len(given))
    rows = _in_order(np.flatnonzero(wrong), codes, groups, margins)
    kinds = np.column_stack([groups[rows], codes[rows], other[rows]])
    first, bundle = kinds_of_rows(kinds)
    place = np.argsort(np.argsort(first))[bundle]  # bundles in the order of their first samples
    ends = np.cumsum(np.bincount(place, minlength=len(first)))
    return DoubtfulLabels(rows[np.argsort(place, kind="stable")], ends, other[rows[np.sort(first)]])


def _in_order(rows: Integers, codes: Integers, groups: Integers, margins: Floats) -> Integers:
    """Groups of which every sample is doubtful first, of these those farthest from their own class."""
    judged = np.bincount(groups[codes >= 0], minlength=int(groups.max(initial=0)) + 1)
    counts = np.bincount(groups[rows], minlength=len(judged))
    summed = np.bincount(groups[rows], margins[rows], minlength=len(judged))
    share, far = counts / np.maximum(judged, 1), summed / np.maximum(counts, 1)
    group = groups[rows]
    ordered: Integers = rows[np.lexsort((rows, -far[group], -share[group]))]
    return ordered
