"""Scales a treated table and finds its components; what was found is kept."""

from __future__ import annotations

from collections.abc import Callable, Hashable

from scutcher.core.data.constant_variables import constant_after
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.models.pca.component_model import DEFAULT_COMPONENTS
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.models.pca.engines.choice import decompose, decompose_up_to
from scutcher.core.models.pca.missing_value_fits import AroundGaps, fit_around_gaps
from scutcher.core.numeric.matrix_rank import structural_rank
from scutcher.core.numeric.threads import fitting_threads
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import Recipe, ScaleSettings
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import Scaler, fit_scaler, without
from scutcher.study.evaluation.cache import Cache, kept_in
from scutcher.study.evaluation.evaluation import Evaluation, Staged, evaluation_of
from scutcher.study.evaluation.known_grams import KnownGrams

HEAVY, FEW_AHEAD = 5e9, 10
"""Multiplications of a Gram product above which only so few components are computed ahead."""

BY_GRAM = ("auto", "gram")
"""Engines that may go by way of the Gram matrix."""


class Fitting:
    """Makes the models of an evaluator.

    Parameters
    ----------
    cache : Cache or None
        Where results are kept, if they are.
    ahead : int
        See `Evaluator`.
    """

    def __init__(self, cache: Cache | None, ahead: int) -> None:
        self._cache, self._ahead = cache, ahead
        self._grams = None if cache is None else KnownGrams(cache)

    def fit(
        self,
        whole: Staged,
        key: Hashable,
        chain: Hashable | None,
        watch: Watch | None,
        ahead: bool,
    ) -> Evaluation:
        """The model of a treated table.

        Parameters
        ----------
        key : hashable
            What the treated table was made from.
        chain : hashable or None
            The same without the samples, where each was treated by itself.
        watch, ahead
            See `Evaluator.evaluate`.

        Raises
        ------
        ModelError, TableError, Stopped
        """
        recipe, treated = whole.recipe, whole.treated
        scaling = recipe.scaling_for(treated.axis.ordered)
        key = (key, scaling)
        if treated.has_gaps:
            around, note = self._around_gaps(treated, scaling, recipe, key, watch)
            scaled = Scaled(around.z)
            return evaluation_of(whole, scaling, key, around.scaler, scaled, around.decomposition, note)

        def scale() -> tuple[Scaler, Scaled]:
            scaler = fit_scaler(treated.values, scaling, treated.axis, gaps=False)
            ran = [
                step.method
                for place, step in enumerate(recipe.treat)
                if step.on and place not in whole.passed_over
            ]
            scaler = without(scaler, constant_after(whole.stages[0], treated.axis, ran))
            return scaler, Scaled(treated.values, scaler)

        scaler, scaled = kept_in(self._cache, key, scale, lambda pair: pair[1].values.nbytes)

        def with_gram(z: Scaled) -> Scaled:
            if chain is None or self._grams is None or recipe.model.engine not in BY_GRAM:
                return z
            return self._grams.with_gram(chain, scaling, whole.usable.rows, z, watch)

        found = self._components(scaler, scaled, with_gram, recipe, key, watch, ahead)
        return evaluation_of(whole, scaling, key, scaler, scaled, found)

    def _components(
        self,
        scaler: Scaler,
        z: Scaled,
        with_gram: Callable[[Scaled], Scaled],
        recipe: Recipe,
        key: Hashable,
        watch: Watch | None,
        ahead: bool,
    ) -> Decomposition:
        """At least as many components as asked for, where there are so many."""
        settings, (n, p) = recipe.model, z.shape
        centred = scaler.centred
        most = structural_rank(n, p, centred)
        asked = settings.components or min(DEFAULT_COMPONENTS, most)
        step = min(self._ahead, FEW_AHEAD) if z.work > HEAVY else self._ahead
        more = max(asked, min(-(-asked // step) * step if step else asked, most))
        how = (settings.engine, settings.seed, settings.tolerance, settings.rounds)

        def name(k: int) -> Hashable:
            return key, "components", k, how, k == settings.components

        known = self._cache is not None and self._cache.holds(name(more))
        wanted = more if ahead or known else asked
        find = decompose if settings.components == wanted else decompose_up_to

        def components() -> Decomposition:
            with fitting_threads(z.work):
                found = find(with_gram(z), centred, wanted, *how, watch=watch)
            if len(scaler.constant):
                found.loadings[scaler.constant] = 0.0  # in place of what rounding left there
            return found

        kept: Decomposition = kept_in(self._cache, name(wanted), components, _decomposition_size)
        return kept

    def _around_gaps(
        self, treated: Table, scaling: ScaleSettings, recipe: Recipe, key: Hashable, watch: Watch | None
    ) -> tuple[AroundGaps, str]:
        settings = recipe.model
        if settings.gaps not in ("nipals", "em"):
            row = int(treated.gaps().any(axis=1).argmax())
            raise TableError(
                f"After treatment sample {treated.ids[row]} has gaps.",
                "Fill gaps before, or fit around them (gaps nipals or em).",
            )
        k = settings.components or min(DEFAULT_COMPONENTS, structural_rank(*treated.shape, True))
        found: AroundGaps = kept_in(
            self._cache,
            (key, "around gaps", settings, k),
            lambda: fit_around_gaps(treated.values, treated.axis, scaling, settings, k, watch),
            lambda around: 2 * around.z.nbytes,
        )
        note = "" if found.settled else f"The model around gaps did not settle in {found.rounds} rounds."
        return found, note


def _decomposition_size(found: Decomposition) -> int:
    return found.scores.nbytes + found.loadings.nbytes
