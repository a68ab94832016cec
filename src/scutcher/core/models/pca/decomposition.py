"""Components of a matrix: scores, loadings and eigenvalues, and what the ones not computed leave over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field, replace

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.computed_once import computed_once
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.matrix_rank import counted_rank, rank_threshold, structural_rank
from scutcher.core.numeric.tall import singular_values
from scutcher.core.scaling.scaled_matrix import Scaled

FEW = 300
"""Samples or variables up to which all eigenvalues are there in a moment."""


@frozen(eq=False)
class Decomposition:
    """`Z = T Pᵀ + E` with the first m components.

    Attributes
    ----------
    scores : (n, m) float array
        T = Z P, in the unit of Z.
    loadings : (p, m) float array
        P, orthonormal columns; the element of largest magnitude of each is positive unless `agree_with`
        turned it.
    eigenvalues : (m,) float array
        `t_aᵀ t_a / freedom`, falling.
    total_variance : float
        `trace(ZᵀZ) / freedom`.
    freedom : int
        n − 1 when the data are centred, n when they are not.
    engine : str
        What computed it.
    q_rest : (n,) float array
        `Σ e_ij²` of each sample after all m components; zeros where they are all there are.
    theta_rest : three floats
        Sums of the first three powers of the eigenvalues that were not computed.
    iterations : tuple of int
        Of each component, for engines that iterate; else empty.
    unsettled : tuple of int
        Components (from 1) whose iteration did not converge.
    find_all : function → (r,) float array
        Computes all eigenvalues when somebody asks.
    find_rank : function → int or None
        Tells the rank where that is faster than all eigenvalues.
    most : int
        What the rank cannot exceed, known at once: samples and variables, or the rank itself.
    variable_squares : (p,) float array or None
        `Σ z_ij²` of each variable, where the engine came by it.
    known : (n, p) bool array or None
        The values that are no gaps, where the model was made around gaps.
    known_shares : (m,) float array or None
        Then, what each component explains of the known values: `1 − Σ e² / Σ z²`, from one to the next.
    """

    scores: Floats
    loadings: Floats
    eigenvalues: Floats
    total_variance: float
    freedom: int
    engine: str
    q_rest: Floats
    theta_rest: tuple[float, float, float]
    iterations: tuple[int, ...] = ()
    unsettled: tuple[int, ...] = ()
    find_all: Callable[[], Floats] = field(default=lambda: np.empty(0), repr=False)
    find_rank: Callable[[], int | None] = field(default=lambda: None, repr=False)
    most: int = 0
    variable_squares: Floats | None = None
    known: Booleans | None = field(default=None, repr=False)
    known_shares: Floats | None = None

    @property
    def computed(self) -> int:
        """m, how many components were computed."""
        return len(self.eigenvalues)

    @computed_once
    def all_eigenvalues(self) -> Floats:
        """All there are, (r,); costs a decomposition where not all were computed."""
        return self.find_all()

    @computed_once
    def rank(self) -> int:
        """r, the most components there can be; computed once, when somebody asks."""
        known = None if "all_eigenvalues" in self.__dict__ else self.find_rank()
        return len(self.all_eigenvalues) if known is None else known

    def thetas(self, k: int) -> tuple[float, float, float]:
        """θ1, θ2, θ3: sums of powers of the eigenvalues beyond the first k; nothing is subtracted."""
        rest = self.eigenvalues[k:]
        one, two, three = self.theta_rest
        return one + float(rest.sum()), two + float((rest**2).sum()), three + float((rest**3).sum())

    def q_beyond(self, k: int) -> Floats:
        """Q of each sample with k components, (n,), in the unit of Z squared."""
        left = self.scores[:, k:]
        found: Floats = self.q_rest + np.einsum("ij,ij->i", left, left)
        return found


def first_components(
    engine: str,
    z: Scaled,
    centred: bool,
    scores: Floats,
    loadings: Floats,
    squares: Floats,
    total: float,
    left_over: tuple[Floats, tuple[float, float, float]],
) -> Decomposition:
    """The first components of a matrix as an engine found them; the others are computed when asked for.

    Parameters
    ----------
    engine : str
    z : Scaled
        What was decomposed.
    centred : bool
    scores, loadings : (n, k) and (p, k) float arrays
    squares : (k,) float array
        The squared length of each score.
    total : float
        The sum of squares of `z`.
    left_over : (n,) float array and three floats
        `q_rest` and `theta_rest`.
    """
    n, p = z.shape
    freedom = n - 1 if centred else n
    return Decomposition(
        scores=scores,
        loadings=loadings,
        eigenvalues=squares / freedom,
        total_variance=total / freedom,
        freedom=freedom,
        engine=engine,
        q_rest=left_over[0],
        theta_rest=left_over[1],
        find_all=lambda: find_eigenvalues(z.whole, centred),
        find_rank=lambda: find_rank(z, centred, float(np.sqrt(squares[0]))),
        most=structural_rank(n, p, centred),
    )


def find_rank(z: Scaled, centred: bool, largest: float) -> int | None:
    """The rank of a large matrix; None where all eigenvalues are there as soon."""
    return None if min(z.shape) < FEW else counted_rank(z.whole, centred, largest)


def find_eigenvalues(z: Floats, centred: bool) -> Floats:
    """All r eigenvalues: of the singular values above the threshold, at most the structural rank."""
    n, p = z.shape
    singular = singular_values(z)
    above = int(np.count_nonzero(singular > rank_threshold(n, p, float(singular[0]))))
    r = min(above, structural_rank(n, p, centred))
    found: Floats = singular[:r] ** 2 / (n - 1 if centred else n)
    return found


def nothing_varies(n: int, p: int) -> ModelError:
    """The error for a matrix of zeros."""
    return ModelError(
        f"None of the {p} variables varies over the {n} samples after treatment.",
        "Check the treatments, or bring back samples that differ.",
    )


SMALL, LARGE = 1e-90, 1e90
"""Between these the sum of squares of a matrix lies whose figures, some of them its third power, exist."""


def check_total(total: float, z: Floats | Scaled) -> None:
    """Refuse a matrix of zeros, and one whose figures could not be computed.

    Parameters
    ----------
    total : float
        The sum of squares of all values.
    z : (n, p) float array or Scaled
        The matrix.

    Raises
    ------
    ModelError
    """
    if total == 0.0 and not (z.whole if isinstance(z, Scaled) else z).any():
        raise nothing_varies(*z.shape)
    if not SMALL < total < LARGE:
        size = "large" if not total < LARGE else "small"
        raise ModelError(
            f"The values after treatment and scaling are too {size} for the figures of a model.",
            "Give them in another unit, or scale each variable to SD 1.",
        )


def too_many(k: int, rank: int) -> ModelError:
    """The error for more components than there are."""
    return ModelError(
        f"{k} components were asked for; these data have rank {rank}.",
        f"Choose 1 to {rank}." if rank > 1 else "Choose 1.",
    )


TIED = 1e-8
"""Elements of a loading that are as near to its largest, relative to it, are as large."""

SAME_THING = 0.7
"""Inner product of two loadings above which they are taken for the same component."""


def column_signs(columns: Floats) -> Floats:
    """+1 or −1 for each column, so that its largest-magnitude element becomes positive. (p, m) → (m,).

    Among elements that are as large the first decides, so that the order of rows never does.
    """
    sizes = np.abs(columns)
    largest = (sizes >= (1.0 - TIED) * sizes.max(axis=0)).argmax(axis=0)
    signs: Floats = np.where(columns[largest, np.arange(columns.shape[1])] < 0.0, -1.0, 1.0)
    return signs


def agreeing_signs(fresh: Decomposition, earlier: Floats) -> Floats:
    """+1 or −1 for each component, so that it agrees with an earlier one where they are the same thing.

    Parameters
    ----------
    fresh : Decomposition
    earlier : (p, m) float array
        Loadings of the earlier model over the same variables.

    Returns
    -------
    (computed,) float array
        −1 where the inner product with the earlier component that it resembles most is below −0.7; else the
        rule of `column_signs` holds.
    """
    leading = min(fresh.computed, earlier.shape[1])
    products = fresh.loadings[:, :leading].T @ earlier
    nearest = np.abs(products).argmax(axis=1)
    signs = np.ones(fresh.computed)
    signs[:leading][products[np.arange(leading), nearest] < -SAME_THING] = -1.0
    return signs


def with_signs(fresh: Decomposition, signs: Floats) -> Decomposition:
    """The same components, some of them turned round."""
    if (signs > 0.0).all():
        return fresh
    return replace(fresh, scores=fresh.scores * signs, loadings=fresh.loadings * signs)


def agree_with(fresh: Decomposition, earlier: Floats) -> Decomposition:
    """Turn each component to agree with an earlier model, where they are the same things."""
    return with_signs(fresh, agreeing_signs(fresh, earlier))
