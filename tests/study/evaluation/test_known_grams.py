"""Where a few samples come or go the model follows from the Gram matrix before, and is the same model."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.study.evaluation import known_grams
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import in_single_precision, ordered_table


class KnownGrams(unittest.TestCase):
    exact = 1e-9
    """Share of the largest value that the models may differ by."""

    def setUp(self):
        rng = np.random.default_rng(2)
        spectra = 5.0 + rng.normal(size=(120, 6)) * 0.5 ** np.arange(6) @ rng.normal(size=(6, 80))
        self.table = ordered_table(spectra + 0.01 * rng.normal(size=(120, 80)))
        self.evaluator = Evaluator()
        self.products = 0
        everything = mock.patch.object(known_grams, "SMALL", 0.0)
        everything.start()
        self.addCleanup(everything.stop)

    def evaluate(self, aside, **recipe):
        """The evaluation; how many products of all samples it took is in `products`."""
        plain = {"treat": [{"method": "snv"}], "model": {"components": 3, "engine": "gram"}, **recipe}
        table = replace(self.table, set_aside=dict.fromkeys(aside, "odd"))
        made = []

        def watched(z, *given, whole=Scaled.gram, **named):
            made.extend([z] if z.known is None else [])
            return whole(z, *given, **named)

        with mock.patch.object(Scaled, "gram", watched):
            found = self.evaluator.evaluate(table, recipe_from_plain(plain))
        self.products = len(made)
        anew = Evaluator(keeps=False).evaluate(table, recipe_from_plain(plain))
        for name in ("scores", "loadings", "t2", "q"):
            wanted = getattr(anew.model, name)
            np.testing.assert_allclose(
                getattr(found.model, name), wanted, atol=self.exact * np.abs(wanted).max(), err_msg=name
            )
        np.testing.assert_allclose(found.model.q_limit.value, anew.model.q_limit.value, rtol=10 * self.exact)
        self.assertIsNone(found.scaled.known)
        return found

    def test_samples_that_are_set_aside_and_come_back(self):
        for scale in ({}, {"method": "sd"}, {"centre": "none"}):
            with self.subTest(scale=scale):
                self.evaluate((), scale=scale)
                self.assertEqual(self.products, 1)
                self.evaluate((4, 9), scale=scale)
                self.assertEqual(self.products, 0)
                self.evaluate((4, 7, 9), scale=scale)
                self.assertEqual(self.products, 0)
                self.evaluate((7, 30), scale=scale)
                self.assertEqual(self.products, 0)

    def test_many_samples_are_worth_a_new_one(self):
        self.evaluate(())
        self.evaluate(range(30))
        self.assertEqual(self.products, 1)

    def test_other_numbers_are_another_matrix(self):
        self.evaluate(())
        self.evaluate((4,), treat=[])
        self.assertEqual(self.products, 1)
        self.evaluate((4,), scale={"method": "pareto"})
        self.assertEqual(self.products, 1)
        self.evaluate((4,), treat=[{"method": "msc"}])
        self.assertEqual(self.products, 1)
        self.evaluate((4, 5), treat=[{"method": "msc"}])  # it learned from other samples
        self.assertEqual(self.products, 1)

    def test_more_components_need_no_other_matrix(self):
        self.evaluate(())
        with mock.patch.object(known_grams, "downdated", side_effect=AssertionError):  # nothing to take off
            self.evaluate((), model={"components": 4, "engine": "gram"})
        self.assertEqual(self.products, 0)

    def test_medians_and_wide_data_are_computed_as_ever(self):
        for scale in ({"centre": "median"},):
            self.evaluate((), scale=scale)
            self.evaluate((4,), scale=scale)
            self.assertEqual(self.products, 1)
        self.table = self.table.take(np.arange(60))
        self.evaluate(())
        self.evaluate((4,))
        self.assertEqual(self.products, 1)


class InSinglePrecision(KnownGrams):
    """The same where they are partly in single precision."""

    exact = 1e-7

    def setUp(self):
        super().setUp()
        in_single_precision(self)


if __name__ == "__main__":
    unittest.main()
