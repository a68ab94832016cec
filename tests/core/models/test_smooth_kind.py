"""The kind of model `maf`: fitted, projected, left out, there and back."""

import unittest
from dataclasses import replace

import numpy as np

from scutcher.core.data.columns import PropertyColumn
from scutcher.core.errors import ModelError
from scutcher.core.models.kind import Prepared, kind_of
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings, ValidateSettings
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import fit_scaler
from tests.core.making import ordered_table

KIND = kind_of("maf")
ROWS, COLUMNS, P = 24, 30, 12


def picture(seed=1, noise=1.0):
    """Two smooth patterns under noise that is larger in other directions."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:ROWS, 0:COLUMNS]
    shapes, _ = np.linalg.qr(rng.normal(size=(P, P)))
    smooth = np.stack([np.sin(y / 6.0), np.cos(x / 5.0)], axis=-1).reshape(-1, 2)
    rough = rng.normal(size=(ROWS * COLUMNS, P)) * noise * np.array([0.2, 0.2, *[1.5] * (P - 2)])
    rough[:, :2] += smooth
    table = ordered_table(rough @ shapes.T)
    places = (PropertyColumn("row", y.ravel() + 1.0), PropertyColumn("column", x.ravel() + 1.0))
    return replace(table, properties=places), smooth


def prepared(table):
    scaler = fit_scaler(table.values, ScaleSettings(), table.axis)
    return Prepared(table, scaler, Scaled(table.values, scaler))


class SmoothOrder(unittest.TestCase):
    def setUp(self):
        self.table, self.smooth = picture()
        self.recipe = Recipe(
            model=ModelSettings(components=2), validate=ValidateSettings(scheme="tiles", segments=4)
        )
        self.prepared = prepared(self.table)
        self.fitted = KIND.fit(self.prepared, self.recipe, None)

    def test_the_smooth_patterns_come_first_though_they_are_small(self):
        basis, _ = np.linalg.qr(self.smooth - self.smooth.mean(axis=0))
        scores = self.fitted.scores / np.linalg.norm(self.fitted.scores, axis=0)
        self.assertGreater(np.linalg.svd(basis.T @ scores)[1].min(), 0.9)
        self.assertEqual(KIND.evidence(self.fitted, self.prepared, self.recipe)["above-noise"], 2)
        self.assertEqual(KIND.short(self.fitted), "2 components")
        np.testing.assert_allclose(self.fitted.scores.var(axis=0, ddof=1), 1.0, rtol=1e-9)

    def test_autocorrelation_against_differences_of_neighbours(self):
        for a in range(2):
            map_of = self.fitted.scores[:, a].reshape(ROWS, COLUMNS)
            differences = np.concatenate([np.diff(map_of, axis=0).ravel(), np.diff(map_of, axis=1).ravel()])
            self.assertAlmostEqual(
                1.0 - (differences**2).mean() / 2.0, self.fitted.autocorrelation[a], places=9
            )

    def test_rows_are_projected_and_go_there_and_back(self):
        again = KIND.from_plain(KIND.to_plain(self.fitted))
        rows = self.prepared.scaled.rows(np.arange(7))
        for model in (self.fitted, again):
            found = KIND.project(model, rows)
            np.testing.assert_allclose(found["scores"], self.fitted.scores[:7], atol=1e-12)
            np.testing.assert_allclose(found["t2"], KIND.distances(self.fitted)["t2"][:7], atol=1e-12)
        for damaged in ({}, {**KIND.to_plain(self.fitted), "mean": [1.0]}):
            with self.assertRaises(ModelError):
                KIND.from_plain(damaged)

    def test_pixels_left_out_are_as_smooth_of_structure_and_not_of_noise(self):
        found = KIND.validate(self.table, self.recipe, self.fitted, None)
        self.assertEqual(found.agreement.shape, (4, 2))
        self.assertGreater(np.nanmin(found.agreement), 0.5)
        noise = ordered_table(np.random.default_rng(5).normal(size=self.table.shape))
        noise = replace(noise, properties=self.table.properties)
        fitted = KIND.fit(prepared(noise), self.recipe, None)
        held = KIND.validate(noise, self.recipe, fitted, None)
        self.assertLess(abs(np.nanmean(held.agreement)), 0.15)

    def test_what_is_no_picture_or_has_too_few_components(self):
        with self.assertRaisesRegex(ModelError, "is no picture"):
            KIND.fit(prepared(ordered_table(np.random.default_rng(1).random((30, 6)))), Recipe(), None)
        with self.assertRaisesRegex(ModelError, "There are 12 components"):
            KIND.fit(self.prepared, Recipe(model=ModelSettings(components=13)), None)


if __name__ == "__main__":
    unittest.main()
