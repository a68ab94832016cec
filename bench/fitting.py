"""Fits beside one product of the smaller Gram matrix of the same data; engines; validation beside one fit."""

from __future__ import annotations

import ctypes
from collections.abc import Callable
from unittest import mock

import numpy as np
import scipy.linalg.blas
import scipy.special  # noqa: F401

from bench.memory import forget_peak, in_use
from bench.timing import best_of_both, best_seconds, median_ratio
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.models.pca.component_model import explained_by_variable
from scutcher.core.models.pca.engines.choice import chosen_engine, decompose
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.validation import cross_validation
from scutcher.core.validation.stability import stability
from scutcher.study.evaluation.checks import held_out
from scutcher.study.evaluation.evaluator import Evaluator

SHAPES = ((200, 700), (5000, 2000), (60_000, 784))
AUTO = ((30, 12), (40, 3000), (3000, 40), (300, 300), (150, 700), (1000, 2000), (4000, 500))


def data(n: int, p: int) -> np.ndarray:
    """Twelve components of falling size over noise."""
    rng = np.random.default_rng(0)
    scores = rng.normal(size=(n, 12)) * 0.6 ** np.arange(12)
    return 2.0 + scores @ rng.normal(size=(12, p)) + 0.2 * rng.normal(size=(n, p))


def table_of(values: np.ndarray) -> Table:
    """The values as a table over an ordered axis."""
    n, p = values.shape
    axis = Axis(tuple(map(str, range(p))), np.arange(float(p)))
    return Table(values, axis, tuple(map(str, range(n))))


def report() -> list[str]:
    """The lines of this bench."""
    return [*_fits(), *_engines(), *_validation()]


def _fits() -> list[str]:
    lines = []
    recipe = recipe_from_plain({"model": {"components": 10}})
    for n, p in SHAPES:
        table = table_of(data(n, p))

        def fit(table: Table = table) -> None:
            found = Evaluator(keeps=False).evaluate(table, recipe)
            explained_by_variable(found.decomposition, found.scaled, 10)

        def product(x: np.ndarray = table.values) -> np.ndarray:
            return x @ x.T if len(x) <= x.shape[1] else x.T @ x

        ours, gram = best_of_both(fit, product, 7 if n * p > 1e7 else 15)
        beyond = _peak(fit) / table.values.nbytes
        lines.append(
            f"10 components of {n} × {p} with T², Q, explained variance and limits: "
            f"{1e3 * ours:.1f} ms = {ours / gram:.1f} × its Gram product ({1e3 * gram:.2f} ms); "
            f"memory at its peak {beyond:.1f} × the data beyond the data"
        )
    return lines


def _peak(work: Callable[[], object]) -> int:
    """Bytes that a piece of work takes at its peak; the kernel forgets the peaks before."""
    ctypes.CDLL(None).malloc_trim(0)  # memory kept from work before would not be counted again
    before = forget_peak()
    work()
    return in_use("VmHWM") - before


def _engines() -> list[str]:
    lines, worst = [], 0.0
    for n, p in AUTO:
        z = data(n, p)
        z = z - z.mean(axis=0)
        for k in (2, 10, 50):
            if k > min(n - 1, p):
                continue
            took = {
                e: best_seconds(lambda e=e, z=z, k=k: decompose(z, True, k, e), 3) for e in ("exact", "gram")
            }
            auto = best_seconds(lambda z=z, k=k: decompose(z, True, k, "auto"), 3)
            ratio = auto / min(took.values())
            worst = max(worst, ratio)
            lines.append(
                f"{n} × {p}, {k} components: auto takes {chosen_engine(n, p, k)}, {ratio:.2f} × the best of "
                + ", ".join(f"{e} {1e3 * t:.1f} ms" for e, t in took.items())
            )
    return [*lines, f"auto is at worst {worst:.2f} × the best engine"]


def _validation() -> list[str]:
    table = table_of(data(500, 1000))
    recipe = recipe_from_plain({"model": {"components": 15}, "validate": {"segments": 10}})
    fit = best_seconds(lambda: Evaluator(keeps=False).evaluate(table, recipe), 5)
    found = Evaluator(keeps=False).evaluate(table, recipe)
    validated = best_seconds(lambda: held_out(found), 3)

    def without_distances() -> None:
        def none(seen: object, loadings: object, z: object, left: np.ndarray, *_: object) -> object:
            return (np.ones(left.shape),) * 3

        with mock.patch.object(cross_validation, "_to_segment", none):
            held_out(found)

    with_them, without = median_ratio(lambda: held_out(found), without_distances, 7)
    models = held_out(found)[0]
    assert models is not None and models.models is not None
    kept, loadings, n = models.models, found.model.loadings, len(found.treated.ids)
    turned = best_seconds(lambda: stability(kept, loadings, n), 5)
    return [
        f"held-out distances: {with_them / without:.2f} × the validation without them",
        f"stability of 15 components: {turned / validated:.3f} × the validation ({1e3 * turned:.1f} ms)",
        f"10 segments × 15 components on 500 × 1000: {1e3 * validated:.0f} ms "
        f"= {validated / fit:.1f} × one fit ({1e3 * fit:.1f} ms)",
    ]
