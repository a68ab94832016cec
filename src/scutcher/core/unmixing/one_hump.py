"""The nearest sequence that rises to one hump and falls from it, and is not negative."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats


def one_hump(values: Floats) -> Floats:
    """The best unimodal, non-negative fit by least squares: the best split of a rising and a falling one.

    Parameters
    ----------
    values : (n,) float array

    References
    ----------
    Bro & Sidiropoulos, J. Chemometrics 12 (1998) 223–247.
    """
    n = len(values)
    rising, up = _rising(values)
    falling, down = _rising(values[::-1])
    costs = [up[at] + down[n - at] for at in range(n + 1)]
    at = int(np.argmin(costs))
    found: Floats = np.maximum(np.concatenate([rising[at], falling[n - at][::-1]]), 0.0)
    return found


def _rising(values: Floats) -> tuple[list[Floats], list[float]]:
    """The rising fits of the first 0…n values, and their squared errors, by pooling neighbours."""
    fits: list[Floats] = [np.empty(0)]
    costs = [0.0]
    sums: list[float] = []
    counts: list[int] = []
    for value in values.tolist():
        sums.append(value)
        counts.append(1)
        while len(sums) > 1 and sums[-2] * counts[-1] > sums[-1] * counts[-2]:
            last, many = sums.pop(), counts.pop()
            sums[-1] += last
            counts[-1] += many
        fit = np.repeat(np.array(sums) / np.array(counts), counts)
        fits.append(fit)
        costs.append(float(np.sum((fit - values[: len(fit)]) ** 2)))
    return fits, costs
