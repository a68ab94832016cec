"""Models as PMML, run by an evaluator of others, which needs Java; what cannot be written is said."""

import json
import shutil
import unittest
import xml.etree.ElementTree as Xml

import numpy as np
import pandas

from scutcher.core.errors import FileError, ModelError
from scutcher.core.models.pca.saved_model import project
from scutcher.files.model_export import export_model
from scutcher.files.pmml_running import run_pmml
from scutcher.files.pmml_text import NAMESPACE
from tests.core.making import ordered_table, random_spectra
from tests.core.models.pca.test_saved_model import model_of
from tests.files.test_model_export import CHAINS
from tests.folder import InFolder

AT = f"{{{NAMESPACE}}}"


class Pmml(InFolder):
    def setUp(self):
        super().setUp()
        self.table = ordered_table(np.exp(0.2 * random_spectra(30, 40)))
        rng = np.random.default_rng(3)
        odd = self.table.values[:12] * (1.0 + 0.3 * rng.random((12, 40)))
        self.new = ordered_table(np.vstack([self.table.values[12:20], odd]))
        self.path = self.folder / "there.pmml"

    def model(self, treat, **model):
        return model_of(self.table, treat=treat, model={"components": 3, **model}).judging("held-out")

    def check(self, model, got):
        wanted = project(model, self.new)
        for name in ("scores", "t2", "q", "joint"):
            right = getattr(wanted, name)
            self.assertLess(np.abs(got[name] - right).max() / np.abs(right).max(), 1e-10, name)
        self.assertEqual((got["q_past"] > 0.5).tolist(), (wanted.q > model.q_limit.value).tolist())
        self.assertEqual((got["t2_past"] > 0.5).tolist(), (wanted.t2 > model.t2_limit.value).tolist())

    def test_every_chain_from_the_document_alone(self):
        for name, treat in CHAINS.items():
            with self.subTest(name):
                model = self.model(treat)
                exported = export_model(model, "pmml", self.path, self.table)
                self.assertLess(exported.difference, 1e-10)
                self.check(model, run_pmml(self.path.read_bytes(), self.new.values))
                told = {
                    one.get("name"): one.get("value")
                    for one in Xml.parse(self.path).getroot().iterfind(f"{AT}Header/{AT}Extension")
                }
                self.assertEqual(json.loads(told["proof"])["spectra"], exported.spectra)
                self.assertEqual([each["method"] for each in json.loads(told["recipe"])],
                                 [each["method"] for each in treat])  # fmt: skip

    @unittest.skipUnless(shutil.which("java"), "the evaluator of others needs Java")
    def test_every_chain_in_an_evaluator_of_others(self):
        from pypmml import Model, PMMLContext

        self.addCleanup(PMMLContext.shutdown)
        names = [f"ch_{label}" for label in self.new.axis.labels]
        rows = [dict(zip(names, row, strict=True)) for row in self.new.values.tolist()]  # a frame is rounded
        for name, treat in CHAINS.items():
            with self.subTest(name):
                model = self.model(treat)
                export_model(model, "pmml", self.path, self.table)
                there = Model.fromFile(str(self.path))
                found = pandas.DataFrame([dict(there.predict(row)) for row in rows])
                got = {key: found[key].to_numpy(dtype=float) for key in found if not key.startswith("PC")}
                got["scores"] = found[["PC1", "PC2", "PC3"]].to_numpy(dtype=float)
                self.check(model, got)

    def test_gaps_are_filled_by_the_schema(self):
        values = self.table.values.copy()
        values[3, 5:8] = np.nan
        self.table = ordered_table(values)
        model = self.model(CHAINS["snv"], gaps="fill-mean")
        holes = self.new.values.copy()
        holes[2, 7] = np.nan
        self.new = ordered_table(holes)
        export_model(model, "pmml", self.path, self.table)
        self.check(model, run_pmml(self.path.read_bytes(), holes))

    def test_what_cannot_be_written_is_said(self):
        with self.assertRaisesRegex(FileError, "does not end in .pmml"):
            export_model(self.model([]), "pmml", self.folder / "there.xml")
        with self.assertRaisesRegex(ModelError, "no form outside Scutcher"):
            export_model(self.model([{"method": "arpls"}]), "pmml", self.path)
        wide = ordered_table(np.exp(0.2 * random_spectra(20, 700)))
        dense = model_of(wide, treat=[{"method": "baseline-polynomial"}], model={"components": 3})
        with self.assertRaisesRegex(ModelError, "products; 300,000 can be read elsewhere"):
            export_model(dense, "pmml", self.path)
        self.assertFalse(self.path.exists())


if __name__ == "__main__":
    unittest.main()
