"""Models that run without Scutcher: scores, distances and flags agree, or the step is named."""

import json
import subprocess
import sys
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from scutcher.core.errors import FileError, ModelError
from scutcher.core.models.pca.saved_model import project
from scutcher.files.model_export import export_model
from scutcher.files.model_json import write_model
from tests.core.making import ordered_table, random_spectra
from tests.core.models.pca.test_saved_model import model_of

CHAINS = {
    "none": [],
    "snv": [{"method": "snv"}],
    "msc": [{"method": "msc"}],
    "sum": [{"method": "normalise-sum"}],
    "length": [{"method": "normalise-length"}],
    "maximum": [{"method": "normalise-maximum"}],
    "log10": [{"method": "log10"}],
    "square root": [{"method": "square-root"}, {"method": "snv"}],
    "linear runs": [
        {"method": "savitzky-golay", "window": 7, "degree": 2, "derivative": 1},
        {"method": "moving-mean"},
        {"method": "snv"},
        {"method": "whittaker"},
        {"method": "bin-equal"},
    ],
    "line": [{"method": "baseline-polynomial"}, {"method": "msc"}, {"method": "thin"}],
}


class Exporting(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.table = ordered_table(np.exp(0.2 * random_spectra(30, 40)))
        rng = np.random.default_rng(3)
        odd = self.table.values[:12] * (1.0 + 0.3 * rng.random((12, 40)))
        self.new = ordered_table(np.vstack([self.table.values[12:20], odd]))

    def model(self, treat, **model):
        found = model_of(self.table, treat=treat, model={"components": 3, **model})
        return found.judging("held-out")

    def by_script(self, path, spectra):
        """What the file gives in a Python that has no Scutcher in its path."""
        np.save(self.folder / "spectra.npy", spectra)
        code = (
            f"import numpy as np, {path.stem} as m\n"
            "assert not [n for n in __import__('sys').modules if n.startswith(('scutcher', 'scipy'))]\n"
            "np.savez('found.npz', **m.project(np.load('spectra.npy')))"
        )
        subprocess.run(
            [sys.executable, "-c", code], cwd=self.folder, check=True, env={"PYTHONPATH": str(self.folder)}
        )
        return np.load(self.folder / "found.npz")

    def by_graph(self, path, spectra):
        """What a runtime of others gives; and the names of what it gives."""
        import onnxruntime

        session = onnxruntime.InferenceSession(str(path), providers=["CPUExecutionProvider"])
        names = [output.name for output in session.get_outputs()]
        return dict(zip(names, session.run(names, {"spectra": spectra}), strict=True)), session

    def check(self, model, got):
        wanted = project(model, self.new)
        limits = (model.t2_limit.value, model.q_limit.value, model.joint_limit.value)
        distances = (wanted.t2, wanted.q, wanted.joint)
        past = np.any([d > limit for d, limit in zip(distances, limits, strict=True)], axis=0)
        for name in ("scores", "t2", "q", "joint"):
            right = getattr(wanted, name)
            self.assertLess(np.abs(got[name] - right).max() / np.abs(right).max(), 1e-10, name)
        self.assertEqual(got["past"].tolist(), past.tolist())

    def test_every_chain_in_numpy_alone(self):
        for name, treat in CHAINS.items():
            with self.subTest(name):
                model, out = self.model(treat), self.folder / "there.py"
                exported = export_model(model, "numpy", out, self.table)
                self.assertEqual([path.name for path in exported.written], ["there.py", "there.npz"])
                self.assertLess(exported.difference, 1e-10)
                self.assertIn(exported.sentence, out.read_text())
                self.assertLess(len(out.read_text().splitlines()), 200)
                self.check(model, self.by_script(out, self.new.values))

    def test_every_chain_as_a_graph_in_another_runtime(self):
        for name, treat in CHAINS.items():
            with self.subTest(name):
                model, out = self.model(treat), self.folder / "there.onnx"
                exported = export_model(model, "onnx", out, self.table)
                got, session = self.by_graph(out, self.new.values)
                self.check(model, got)
                told = session.get_modelmeta().custom_metadata_map
                self.assertEqual(json.loads(told["channels"]), list(self.table.axis.labels))
                self.assertEqual(json.loads(told["limits"])["q"], model.q_limit.value)
                self.assertEqual(json.loads(told["proof"])["spectra"], exported.spectra)
                write_model(self.folder / "model.json", model)
                self.assertEqual(
                    told["sha256"], json.loads((self.folder / "model.json").read_text())["sha256"]
                )
                self.assertEqual([each["method"] for each in json.loads(told["recipe"])],
                                 [each["method"] for each in treat])  # fmt: skip

    def test_runs_of_linear_steps_are_one_matrix(self):
        out = self.folder / "there.py"
        export_model(self.model(CHAINS["linear runs"]), "numpy", out)
        self.assertEqual(out.read_text().count("x = x @"), 2)

    def test_gaps_are_filled_as_the_model_fills_them(self):
        values = self.table.values.copy()
        values[3, 5:8] = np.nan
        self.table = ordered_table(values)
        model = self.model(CHAINS["snv"], gaps="fill-mean")
        self.assertIsNotNone(model.fill)
        holes = self.new.values.copy()
        holes[2, 7] = np.nan
        self.new = ordered_table(holes)
        export_model(model, "numpy", self.folder / "there.py", self.table)
        self.check(model, self.by_script(self.folder / "there.py", holes))
        export_model(model, "onnx", self.folder / "there.onnx", self.table)
        self.check(model, self.by_graph(self.folder / "there.onnx", holes)[0])

    def test_a_spectrum_without_distances_is_past(self):
        model = self.model(CHAINS["snv"])
        export_model(model, "numpy", self.folder / "there.py")
        export_model(model, "onnx", self.folder / "there.onnx")
        flat = np.ones((2, 40))
        self.assertEqual(self.by_script(self.folder / "there.py", flat)["past"].tolist(), [True, True])
        self.assertEqual(self.by_graph(self.folder / "there.onnx", flat)[0]["past"].tolist(), [True, True])

    def test_what_has_no_such_form_is_named_and_nothing_is_written(self):
        for method in ("arpls", "snip", "median-filter", "shift-by-correlation", "probabilistic-quotient"):
            with self.subTest(method):
                model, out = self.model([{"method": method}]), self.folder / "there.onnx"
                with self.assertRaises(ModelError) as caught:
                    export_model(model, "onnx", out)
                name = model.steps[0].treatment.name
                self.assertIn(f"{name} has no form outside Scutcher", str(caught.exception))
                self.assertFalse(out.exists())

    def test_a_file_that_does_not_agree_is_not_handed_out(self):
        model = self.model(CHAINS["snv"])
        from scutcher.files import model_export

        right = model_export.folded
        self.addCleanup(setattr, model_export, "folded", right)
        model_export.folded = lambda one: replace(right(one), loadings=-right(one).loadings)
        for to, end in (("numpy", "py"), ("onnx", "onnx")):
            with self.assertRaises(ModelError) as caught:
                export_model(model, to, self.folder / f"there.{end}", self.table)
            self.assertIn("differs from Scutcher", str(caught.exception))
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_what_stood_there_stays_where_the_new_one_does_not_agree(self):
        from scutcher.files import model_export

        before = self.folder / "there.py", self.folder / "there.npz"
        export_model(self.model(CHAINS["snv"]), "numpy", before[0], self.table)
        held = [path.read_bytes() for path in before]
        right = model_export.folded
        self.addCleanup(setattr, model_export, "folded", right)
        model_export.folded = lambda one: replace(right(one), loadings=-right(one).loadings)
        with self.assertRaises(ModelError):
            export_model(self.model(CHAINS["msc"]), "numpy", before[0], self.table)
        self.assertEqual([path.read_bytes() for path in before], held)

    def test_other_endings_are_refused(self):
        with self.assertRaises(FileError) as caught:
            export_model(self.model([]), "onnx", self.folder / "there.txt")
        self.assertEqual(str(caught.exception), "there.txt does not end in .onnx. Name it there.onnx.")
