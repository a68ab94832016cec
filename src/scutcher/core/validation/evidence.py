"""The lines of evidence on how many components to keep: each suggests, none decides."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.component_model import explained
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.models.pca.engines.choice import decompose_up_to, leading_loadings
from scutcher.core.numeric.gathering import rows_of
from scutcher.core.progress import Watch, pulse, tell
from scutcher.core.recipes.recipe import EvidenceSettings
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.validation.cross_validation import Validation
from scutcher.core.validation.segments import group_codes

KEYS = (
    "lowest-press",
    "one-standard-error",
    "broken-stick",
    "mean-eigenvalue",
    "permutation",
    "share",
    "indicator",
    "loading-structure",
    "split-half",
)
"""In the order in which they are shown."""

MOST_TURNING = 3
"""Components that may turn within one plane."""

STABLE = 0.9  # smallest principal cosine of planes from two halves that counts as the same
PERCENTILE = 0.95
AFFORDABLE = 1500  # components of which all eigenvalues are computed where the first do not reach a share


@frozen(eq=False)
class Line:
    """What one line of evidence says.

    Attributes
    ----------
    key : str
    suggested : int or None
        Components; 0 where not even the first passes; None where it says nothing.
    reason : str
        Why it says nothing.
    up_to : int or None
        The end of the range that is nearly as good, where the line knows one.
    figures : (m,) float array or None
        What is compared, for 1…m components, and
    bound : (m,) float array or None
        what it is compared with.
    note : str
        What else there is to say of what it suggests.
    """

    key: str
    suggested: int | None
    reason: str = ""
    up_to: int | None = None
    figures: Floats | None = None
    bound: Floats | None = None
    note: str = ""


def leading_true(passed: np.ndarray) -> int:
    """How many are true before the first that is not."""
    return int(len(passed) if passed.all() else passed.argmin())


def from_validation(validation: Validation | None, why_not: str = "not validated") -> tuple[Line, Line]:
    """Lowest PRESS, and the fewest components within one standard error of it; none is one too."""
    if validation is None or not np.isfinite(validation.press).any():
        reason = why_not if validation is None else "undefined for every number of components"
        return Line("lowest-press", None, reason), Line("one-standard-error", None, reason)
    press, error = validation.press, validation.error
    candidates = np.concatenate([[validation.total], press])
    lowest = int(np.nanargmin(candidates))
    bound = candidates[lowest] + (error[lowest - 1] if lowest else 0.0)
    fewest = int(np.flatnonzero(candidates <= bound)[0])
    bounds = np.full(len(press), bound)
    return (
        Line("lowest-press", lowest, figures=press),
        Line("one-standard-error", fewest, up_to=lowest, figures=press, bound=bounds),
    )


def broken_stick(found: Decomposition) -> Line:
    """`λ_a/total > (1/r) Σ_{i=a}^{r} 1/i`, up to the first failure (Jackson, Ecology 74 (1993) 2204)."""
    shares = found.eigenvalues / found.total_variance
    r = found.rank
    sticks = np.cumsum(1.0 / np.arange(r, 0, -1))[::-1] / r
    m = min(len(shares), r)
    return Line(
        "broken-stick",
        leading_true(shares[:m] > sticks[:m]),
        figures=shares[:m],
        bound=sticks[:m],
    )


def mean_eigenvalue(found: Decomposition, autoscaled: bool, variables: int) -> Line:
    """Eigenvalues above their mean over the variables; for autoscaled tables only."""
    if not autoscaled:
        return Line("mean-eigenvalue", None, "only for tables scaled by SD")
    mean = found.total_variance / max(variables, 1)
    return Line(
        "mean-eigenvalue",
        leading_true(found.eigenvalues > mean),
        figures=found.eigenvalues,
        bound=np.full(found.computed, mean),
    )


def share_of_variance(found: Decomposition, share: float) -> Line:
    """The fewest components that reach a share of the variance."""
    reached = np.cumsum(explained(found))
    if found.known_shares is None and reached[-1] < share - 1e-12 and found.most <= AFFORDABLE:
        reached = np.cumsum(found.all_eigenvalues) / found.total_variance
    enough = np.flatnonzero(reached >= share - 1e-12)
    bound = np.full(len(reached), share)
    if not enough.size:
        return Line("share", None, f"more than {found.computed} components", figures=reached, bound=bound)
    return Line("share", int(enough[0]) + 1, figures=reached, bound=bound)


def indicator(found: Decomposition, n: int, p: int) -> Line:
    """The minimum of Malinowski's indicator function `RE / (c − k)²`.

    `RE = √(Σ_{a>k} λ°_a / (s·(c − k)))` with λ° the sums of squares, s the larger and c the smaller of
    samples and variables, whether centred or not.

    References
    ----------
    Malinowski, Anal. Chem. 49 (1977) 612–617.
    """
    smaller, larger = min(n, p), max(n, p)
    m = min(found.computed, min(found.freedom, p) - 1)  # with all there are nothing is left over
    if m < 1:
        return Line("indicator", None, "too few samples or variables")
    k = np.arange(1, m + 1)
    left = np.array([found.q_beyond(int(a)).sum() for a in k])
    real_error = np.sqrt(np.maximum(left, 0.0) / (larger * (smaller - k)))
    function = real_error / (smaller - k) ** 2.0
    return Line("indicator", int(function.argmin()) + 1, figures=function, bound=real_error)


def loading_structure(found: Decomposition, ordered: bool) -> Line:
    """Loadings whose lag-1 autocorrelation is above the 95 % point of white noise, from the first on.

    For p values of white noise it is about normal with mean −1/p and variance 1/p (Anderson, Ann. Math.
    Stat. 13 (1942) 1–13).
    """
    if not ordered:
        return Line("loading-structure", None, "only along an ordered axis")
    p = len(found.loadings)
    away = found.loadings - found.loadings.mean(axis=0)
    squares = np.einsum("ij,ij->j", away, away)
    lagged = np.einsum("ij,ij->j", away[1:], away[:-1])
    correlations = np.divide(lagged, squares, out=np.zeros_like(lagged), where=squares > 0.0)
    bound = -1.0 / p + 1.6449 / np.sqrt(p)
    return Line(
        "loading-structure",
        leading_true(correlations > bound),
        figures=correlations,
        bound=np.full(found.computed, bound),
    )


def permutation(
    z: Floats, found: Decomposition, settings: EvidenceSettings, seed: int, watch: Watch | None = None
) -> Line:
    """Eigenvalues above the 95th percentile of data whose columns were each permuted on their own.

    References
    ----------
    Horn, Psychometrika 30 (1965) 179–185, with permuted data in place of random normals.
    """
    n, p = z.shape
    m = min(found.computed, 20, min(n, p))
    rng = np.random.default_rng(seed)
    chance = np.empty((settings.permutations, m))
    for turn in range(settings.permutations):
        tell(watch, turn / settings.permutations)
        chance[turn] = _eigenvalues(rng.permuted(z, axis=0), found.freedom, m, pulse(watch))
    bound = np.quantile(chance, PERCENTILE, axis=0)
    return Line(
        "permutation",
        leading_true(found.eigenvalues[:m] > bound),
        figures=found.eigenvalues[:m],
        bound=bound,
    )


def _eigenvalues(z: Floats, freedom: int, m: int, watch: Watch | None) -> Floats:
    """The first m eigenvalues from the smaller Gram matrix; permuted data have no tiny ones."""
    product = Scaled(z).gram(watch).whole()
    if len(product) <= 320:
        found: Floats = np.linalg.eigvalsh(product)[::-1][:m] / freedom
        return found
    from scutcher.core.models.pca.engines.leading import leading_eigenvectors

    vectors = leading_eigenvectors(product, m, watch=watch)[:, :m]
    leading: Floats = np.einsum("ij,ij->j", vectors, product @ vectors) / freedom
    return leading


def split_half(
    part: Table, z: Floats, found: Decomposition, settings: EvidenceSettings, seed: int, watch: Watch | None
) -> Line:
    """Components whose plane comes out the same in two random halves of the groups of replicates.

    The figure is the smallest principal cosine between the planes of the first k, its median over the halves.
    Components that turn within one plane do not count against it: up to three may only be the same together.
    """
    codes = group_codes(part)
    count, m = int(codes.max(initial=-1)) + 1, min(found.computed, 12, len(z) // 2 - 1)
    if count < 4 or m < 1:
        return Line("split-half", None, "too few samples to split")
    rng = np.random.default_rng(seed)
    cosines = np.zeros((settings.halves, m))
    for turn in range(settings.halves):
        tell(watch, turn / settings.halves)
        going_on = pulse(watch)
        sides = _halves(codes, rng.permutation(count))
        try:
            one, two = (leading_loadings(_centred(z, rows), True, m, going_on) for rows in sides)
        except ModelError:
            continue
        between = one.T @ two
        for k in range(min(between.shape)):
            cosines[turn, k] = np.linalg.svd(between[: k + 1, : k + 1], compute_uv=False)[-1]
    middle_of = np.median(cosines, axis=0)
    stable, together = _stable_planes(middle_of[: min(m, z.shape[1] - 1)] >= STABLE)
    words = (f"{a} {'and' if b == a + 1 else 'to'} {b}" for a, b in together)
    note = "; ".join(f"{which} are not told apart" for which in words)
    bound = np.full(m, STABLE)
    return Line("split-half", stable, figures=middle_of, bound=bound, note=note)


def _halves(codes: Integers, order: Integers) -> tuple[Integers, Integers]:
    """The rows of the first half of the groups, and of the others, group after group in an order."""
    places = np.empty(len(order), dtype=np.intp)
    places[order] = np.arange(len(order))
    place = places[codes]
    rows, first = np.argsort(place, kind="stable"), int(np.count_nonzero(place < len(order) // 2))
    return rows[:first], rows[first:]


def _centred(z: Floats, rows: Integers) -> Floats:
    some = rows_of(z, rows)
    some -= some.mean(axis=0)
    return some


def _stable_planes(passed: np.ndarray) -> tuple[int, list[tuple[int, int]]]:
    """How many components are stable, and which of them only as a plane, (first, last) of each."""
    stable = 0
    together: list[tuple[int, int]] = []
    while True:
        most = min(stable + MOST_TURNING, len(passed))
        ahead = [k for k in range(stable + 1, most + 1) if passed[k - 1]]
        if not ahead:
            return stable, together
        if ahead[0] > stable + 1:
            together.append((stable + 1, ahead[0]))
        stable = ahead[0]


def quick_lines(
    found: Decomposition,
    validation: Validation | None,
    why_not: str,
    shape: tuple[int, int],
    ordered: bool,
    autoscaled: bool,
    variables: int,
    settings: EvidenceSettings,
) -> dict[str, Line]:
    """The lines that need no further fits, by key."""
    lines = [
        *from_validation(validation, why_not),
        broken_stick(found),
        mean_eigenvalue(found, autoscaled, variables),
        share_of_variance(found, settings.share),
        indicator(found, *shape),
        loading_structure(found, ordered),
    ]
    return {line.key: line for line in lines}


def with_enough(
    found: Decomposition, z: Scaled, centred: bool, m: int = 20, watch: Watch | None = None
) -> Decomposition:
    """The decomposition with at least m components where there are so many; one rank serves both."""
    if found.computed >= min(m, found.most) or not np.isfinite(z.values.sum()):
        return found
    more = decompose_up_to(z, centred, min(m, found.most), "gram", watch=watch)
    return replace(more, find_all=lambda: found.all_eigenvalues, find_rank=lambda: found.rank)
