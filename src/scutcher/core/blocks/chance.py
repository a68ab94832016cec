"""How alike unrelated subspaces are by chance, and how far a component's score can be trusted."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.numeric.effective_channels import effective_channels
from scutcher.core.numeric.tracy_widom import quantile

NOISELESS = 1e-14
"""Share of the largest square below which nothing is left over: then scores are as they are."""


@lru_cache(4096)  # models of many draws of the same samples ask for the same
def chance_bound(n: float, p: int, q: int, level: float) -> float:
    """Quantile of the largest squared cosine between a random p- and a random q-dimensional subspace of Rⁿ.

    Parameters
    ----------
    n : float
        Independent directions; one less than the samples where they are centred.
    p, q : int
        Dimensions.
    level : float
        A coverage.

    References
    ----------
    Johnstone, Ann. Stat. 36 (2008) 2638–2716; for one dimension the beta distribution, exactly.
    """
    from scipy.special import betaincinv

    if p < 1 or q < 1 or p + q > n:
        return 1.0
    small, large = min(p, q), max(p, q)
    if small == 1:
        return float(betaincinv(large / 2.0, (n - large) / 2.0, level))
    gamma = 2.0 * np.arcsin(np.sqrt((small - 0.5) / (n - 1.0)))
    phi = 2.0 * np.arcsin(np.sqrt((large - 0.5) / (n - 1.0)))
    mean = 2.0 * np.log(np.tan((phi + gamma) / 2.0))
    spread = (16.0 / ((n - 1.0) ** 2 * np.sin(phi + gamma) ** 2 * np.sin(phi) * np.sin(gamma))) ** (1.0 / 3.0)
    return float(1.0 / (1.0 + np.exp(-(mean + spread * quantile(level)))))


def reliabilities(squares: Floats, r: int, n: int, p: int) -> Floats:
    """Squared cosine between the estimated and the true score of each of r components, (r,).

    Parameters
    ----------
    squares : (m,) float array
        Eigenvalues of ZZᵀ, falling.
    n : int
        Independent rows.
    p : int
        Variables.

    References
    ----------
    Benaych-Georges & Nadakuditi, J. Multivar. Anal. 111 (2012) 120–135, with the effective number of
    channels in place of p.
    """
    m, free = min(n, p), n - r
    left = float(squares[r:m].sum())
    if r >= m or left <= NOISELESS * float(squares[0]):
        return np.ones(r)
    beta = n / effective_channels(squares, r, n, p)
    d = squares[:r] * free / left - beta - 1.0
    found = np.zeros(r)
    clear = d > 2.0 * np.sqrt(beta)
    x2 = 0.5 * (d[clear] + np.sqrt(d[clear] ** 2 - 4.0 * beta))
    x4 = x2**2
    found[clear] = np.where(x4 > beta, (x4 - beta) / (x4 + beta * x2), 0.0)
    return found
