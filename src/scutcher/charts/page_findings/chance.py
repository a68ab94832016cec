"""What chance alone would make of a count or a share: the rules that a sentence keeps to."""

from __future__ import annotations

import numpy as np

SURE = 0.01
"""Chance below which a count is more than chance."""


def more_than_due(count: int, of: int, share: float) -> bool:
    """Whether a count is more than so many draws with such a share give in 99 of 100 cases.

    References
    ----------
    Clopper & Pearson, Biometrika 26 (1934) 404–413 (the binomial tail).
    """
    from scipy.special import bdtrc

    return count > 0 and of > 0 and float(bdtrc(count - 1, of, share)) < SURE


def told_apart(before: float, after: float, of: int) -> bool:
    """Whether two shares of the same number of groups differ by more than twice the error of a difference.

    Taken as if they were of different groups, which is wider than the truth.
    """
    error = np.sqrt((before * (1.0 - before) + after * (1.0 - after)) / max(of, 1))
    return bool(abs(after - before) > 2.0 * error)
