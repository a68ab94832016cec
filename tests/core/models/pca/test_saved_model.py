"""New samples on a saved model: matching variables, gaps, one bad sample among good ones, files."""

import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from scutcher.core.errors import FileError, TableError
from scutcher.core.models.pca.saved_model import project
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.files.model_json import read_model, write_model
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.saving import saved_model
from tests.core.making import mixed_table, ordered_table, random_spectra


def model_of(table, **plain):
    return saved_model(Evaluator(keeps=False).evaluate(table, recipe_from_plain(plain)))


class Projecting(unittest.TestCase):
    def setUp(self):
        self.table = ordered_table(random_spectra(30, 40))
        self.model = model_of(self.table, treat=[{"method": "msc"}], model={"components": 3})

    def test_the_training_samples_come_back(self):
        found = Evaluator(keeps=False).evaluate(
            self.table, recipe_from_plain({"treat": [{"method": "msc"}], "model": {"components": 3}})
        )
        again = project(self.model, self.table)
        np.testing.assert_allclose(again.scores, found.model.scores, atol=1e-10)
        np.testing.assert_allclose(again.t2, found.model.t2)
        np.testing.assert_allclose(again.q, found.model.q, rtol=1e-6, atol=1e-12)
        np.testing.assert_allclose(again.joint, found.model.joint, rtol=1e-6)

    def test_other_order_and_extra_channels(self):
        order = np.random.default_rng(0).permutation(40)
        wide = replace(self.table, values=self.table.values, axis=self.table.axis)
        falling = wide.take(np.arange(30), np.arange(39, -1, -1))
        np.testing.assert_allclose(project(self.model, falling).scores, project(self.model, wide).scores)
        part = model_of(self.table.take(np.arange(30), np.arange(10, 30)), model={"components": 2})
        found = project(part, self.table)
        self.assertEqual(found.notes, ("20 variables that the model does not know were passed over.",))
        self.assertEqual(len(order), 40)

    def test_missing_channels_are_named_and_resampling_is_asked_for(self):
        thin = self.table.take(np.arange(30), np.r_[np.arange(0, 39, 2), 39])
        with self.assertRaises(TableError) as caught:
            project(self.model, thin)
        self.assertEqual(
            str(caught.exception),
            "data lacks 19 of the model's 40 variables: 1002 nm, 1006 nm, 1010 nm and 16 more. "
            "They can be resampled onto the model's axis.",
        )
        found = project(self.model, thin, resample=True)
        self.assertEqual(found.scores.shape, (30, 3))
        short = self.table.take(np.arange(30), np.arange(5, 40))
        with self.assertRaises(TableError) as caught:
            project(self.model, short, resample=True)
        self.assertIn("nothing is extrapolated", str(caught.exception))

    def test_gaps_by_least_squares_over_the_known_variables(self):
        model = model_of(self.table, model={"components": 2})
        values = self.table.values[:4].copy()
        values[1, 5:9] = np.nan
        found = project(model, ordered_table(values))
        z = values[1] - model.centre
        known = ~np.isnan(z)
        wanted = np.linalg.lstsq(model.loadings[known], z[known], rcond=None)[0]
        np.testing.assert_allclose(found.scores[1], wanted)
        self.assertAlmostEqual(found.q[1], ((z[known] - model.loadings[known] @ wanted) ** 2).sum())
        self.assertEqual(found.gaps.tolist(), [0, 4, 0, 0])
        values[2, 3:] = np.nan
        found = project(model, ordered_table(values))
        self.assertEqual(found.refused, {2: "too many gaps: its scores are not fixed"})
        self.assertEqual(found.rows.tolist(), [0, 1, 3])

    def test_treatments_that_need_complete_spectra_leave_gappy_ones_out(self):
        values = self.table.values[:4].copy()
        values[1, 5] = np.nan
        found = project(self.model, ordered_table(values))
        self.assertEqual(found.refused, {1: "gaps, and the treatments need complete spectra"})

    def test_one_flat_spectrum_does_not_stop_the_others(self):
        model = model_of(self.table, treat=[{"method": "snv"}], model={"components": 2})
        values = self.table.values[:4].copy()
        values[2] = 0.5
        found = project(model, ordered_table(values))
        self.assertEqual(found.rows.tolist(), [0, 1, 3])
        self.assertIn("SNV: sample s3 is flat", found.refused[2])

    def test_kinds_of_axis_must_agree(self):
        with self.assertRaises(TableError):
            project(self.model, mixed_table(random_spectra(4, 6)))


class Files(unittest.TestCase):
    def test_written_and_read_to_the_last_digit(self):
        x = random_spectra(20, 30)
        x[3, 4] = np.nan
        model = model_of(
            ordered_table(x),
            treat=[{"method": "bin-valleys", "width": 8.0}, {"method": "msc", "reference": "median"}],
            model={"components": 3, "gaps": "fill-median"},
            scale={"method": "pareto"},
        )
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "model.json"
            write_model(path, model)
            again = read_model(path)
            for name in ("fill", "centre", "weight", "loadings", "eigenvalues"):
                np.testing.assert_array_equal(getattr(again, name), getattr(model, name))
            self.assertEqual((again.steps, again.q_limit), (model.steps, model.q_limit))
            one, two = (project(m, ordered_table(x)) for m in (model, again))
            np.testing.assert_array_equal(one.scores, two.scores)
            self.assertEqual(two.filled.tolist(), [0] * 3 + [1] + [0] * 16)
            self.assertEqual(two.notes, ("1 gap in 1 sample (s4), filled with the training medians.",))

    def test_what_is_not_a_model_is_refused_with_a_sentence(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "model.json"
            write_model(path, model_of(ordered_table(random_spectra(9, 12)), model={"components": 2}))
            sealed = json.loads(path.read_text())
            plain = {key: value for key, value in sealed.items() if key != "sha256"}
            bad = {
                json.dumps({**sealed, "samples": 10}): "was changed after it was written",
                "[]": "is not a Scutcher model",
                "{": "is not JSON",
                json.dumps({**plain, "version": 7}): "is a model of version 7",
                json.dumps({**plain, "loadings": [[1.0]]}): "is damaged",
                json.dumps({**plain, "centre": ["a"]}): "is damaged",
                json.dumps(
                    {**plain, "treat": [{"method": "magic"}], "learned": [None]}
                ): "no treatment 'magic'",
                json.dumps({k: v for k, v in plain.items() if k != "weight"}): "is damaged",
            }
            for text, words in bad.items():
                path.write_text(text)
                with self.subTest(words), self.assertRaises(FileError) as caught:
                    read_model(path)
                self.assertIn(words, str(caught.exception))
