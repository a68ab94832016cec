"""The kind of model `unmix`: fitted, projected, left out, there and back."""

import unittest

import numpy as np

from scutcher.core.errors import ModelError
from scutcher.core.models.kind import Prepared, kind_of
from scutcher.core.recipes.recipe import Recipe, ScaleSettings, ValidateSettings
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import fit_scaler
from tests.core.unmixing.test_mixture import ends, states

KIND = kind_of("unmix")


def prepared(table):
    scaler = fit_scaler(table.values, ScaleSettings(), table.axis)
    return Prepared(table, scaler, Scaled(table.values, scaler))


class Unmix(unittest.TestCase):
    def setUp(self):
        self.table, self.share = states(1)
        settings = UnmixSettings(shapes=ends(self.table), rule="free")
        self.recipe = Recipe(unmix=settings, validate=ValidateSettings(segments=6))
        self.prepared = prepared(self.table)
        self.fitted = KIND.fit(self.prepared, self.recipe, None)

    def test_rows_of_z_are_projected_as_the_spectra_they_are(self):
        rows = self.prepared.scaled.rows(np.arange(5))
        found = KIND.project(self.fitted, rows)
        np.testing.assert_allclose(found["amounts"], self.fitted.found.amounts[:5], atol=1e-9)
        self.assertEqual(KIND.short(self.fitted), "2 shapes")
        self.assertEqual(KIND.distances(self.fitted)["q"].shape, (48,))
        self.assertFalse(KIND.evidence(self.fitted, self.prepared, self.recipe)["another-shape"])

    def test_left_out_spectra_are_fitted_by_shapes_that_have_not_seen_them(self):
        found = KIND.validate(self.table, self.recipe, self.fitted, None)
        self.assertTrue(np.isfinite(found.q).all())
        own = np.einsum("ij,ij->i", self.fitted.found.residuals, self.fitted.found.residuals)
        self.assertGreater(found.q[:3].mean(), own[:3].mean())  # those three made the shape

    def test_there_and_back(self):
        again = KIND.from_plain(KIND.to_plain(self.fitted))
        rows = self.prepared.scaled.rows(np.arange(3))
        np.testing.assert_array_equal(
            KIND.project(again, rows)["amounts"], KIND.project(self.fitted, rows)["amounts"]
        )
        for damaged in ({}, {**KIND.to_plain(self.fitted), "names": ["one"]}):
            with self.assertRaises(ModelError):
                KIND.from_plain(damaged)

    def test_nothing_is_asked_for(self):
        with self.assertRaisesRegex(ModelError, "No shape was chosen"):
            KIND.fit(self.prepared, Recipe(), None)


if __name__ == "__main__":
    unittest.main()
