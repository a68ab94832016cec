"""What docs/extending.md promises: a folder is enough, nothing old is touched."""

import contextlib
import io
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

import scutcher.core.models as models
import scutcher.core.treatments as treatments
from scutcher.cli import main
from scutcher.core.errors import InputError
from scutcher.core.models.kind import Prepared, all_kinds, kind_of
from scutcher.core.models.pca.component_model import ComponentModel
from scutcher.core.recipes.recipe import Recipe, recipe_from_plain
from scutcher.core.treatments import all_treatments
from scutcher.desk import pages
from scutcher.desk.pages.declaration import all_pages
from scutcher.study.document.commands.recipe import AddStep
from scutcher.study.document.study import Study
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import ordered_table, random_spectra
from tests.desk.driving import WindowCase, settle

OUTSIDE = Path(__file__).parent / "outside"
FOLDERS = (
    (treatments, "treatments", all_treatments),
    (pages, "pages", all_pages),
    (models, "models", all_kinds),
)


def extend(test: unittest.TestCase) -> None:
    """For one test: the folder beside this file belongs to the program."""
    for package, name, registry in FOLDERS:
        place = str(OUTSIDE / name)
        package.__path__.append(place)
        registry.cache_clear()
        test.addCleanup(registry.cache_clear)
        test.addCleanup(package.__path__.remove, place)


class ATreatmentAndAPage(WindowCase):
    def setUp(self):
        extend(self)
        super().setUp()

    def test_the_treatment_is_on_the_trail_in_the_list_and_in_recipes(self):
        before = self.desk.moment.found.treated.values
        self.add("toy-treatment", times=3.0)
        np.testing.assert_array_equal(self.desk.moment.found.treated.values, 3.0 * before)
        self.assertEqual(self.window.trail.knots[2].name.text(), "Toy treatment")
        self.window.show_page("Treat")
        settle()
        self.assertIn("times", self.window.view("Treat").form.editors)
        listing = self.window.papers.add_treatment()
        names = [listing.list.item(row).text().split("\n")[0] for row in range(listing.list.count())]
        self.assertIn("Toy treatment", names)
        self.assertEqual(
            recipe_from_plain({"treat": [{"method": "toy-treatment"}]}).treat[0].parameters.times, 2.0
        )

    def test_the_command_line_knows_the_treatment(self):
        said = io.StringIO()
        with contextlib.redirect_stdout(said):
            self.assertEqual(main(["treatments", "toy-treatment"]), 0)
        self.assertIn("what each value is multiplied by", said.getvalue())

    def test_the_page_is_on_the_bar_under_its_key_and_in_the_finder(self):
        names = ["Samples", "Treat", "Rank", "Inspect", "Groups", "Maps", "Series", "Blocks"]
        names += ["Toy", "Report"]
        self.assertEqual(list(self.window.topbar.pages), names)
        self.key("9", pages_key())
        view = self.window.view("Toy")
        self.assertTrue(view.isVisible())
        self.assertEqual(view.words.text(), "143 samples in the model")
        self.desk.do(AddStep("toy-treatment"))
        entry = next(e for e in self.window.finder.entries() if e.words == "Greet the toy page")
        self.window.show_page("Inspect")
        entry.run()
        self.assertEqual((view.greeted, view.isVisible()), (1, True))


def pages_key():
    from PySide6.QtCore import Qt

    return Qt.KeyboardModifier.ControlModifier


class AKindOfModel(unittest.TestCase):
    def setUp(self):
        table = ordered_table(random_spectra(12, 9))
        self.found = Evaluator().evaluate(table, Recipe())
        self.prepared = Prepared(self.found.treated, self.found.scaler, self.found.scaled)

    def test_a_toy_is_found_fitted_stored_and_kept_in_a_study(self):
        extend(self)
        kind = kind_of("toy-model")
        fitted = kind.fit(self.prepared, Recipe(), None)
        np.testing.assert_allclose(fitted.mean, 0.0, atol=1e-12)
        back = kind.from_plain(kind.to_plain(fitted))
        np.testing.assert_array_equal(back.mean, fitted.mean)
        np.testing.assert_allclose(
            kind.project(back, self.found.z)["distance"], kind.distances(fitted)["distance"]
        )
        from scutcher.study.document.state import State

        state = State.of("t", self.found.table)
        toy = replace(state.models[0], kind="toy-model")
        with tempfile.TemporaryDirectory() as folder:
            study = Study(replace(state, models=(toy,)))
            study.keep_in(Path(folder) / "s.scutch")
            study.close()
            again = Study.open(Path(folder) / "s.scutch")
            self.assertEqual(again.state.model.kind, "toy-model")
            again.close()
            all_kinds.cache_clear()
            models.__path__.remove(str(OUTSIDE / "models"))
            with self.assertRaisesRegex(InputError, "There is no kind of model 'toy-model'"):
                Study.open(Path(folder) / "s.scutch")
            models.__path__.append(str(OUTSIDE / "models"))

    def test_principal_components_are_the_first_kind(self):
        kind = kind_of("pca")
        fitted = kind.fit(self.prepared, Recipe(), None)
        self.assertIsInstance(fitted, ComponentModel)
        self.assertEqual(kind.short(fitted), "4 components")
        given = kind.project(kind.from_plain(kind.to_plain(fitted)), self.found.z)
        np.testing.assert_allclose(given["scores"], fitted.scores, atol=1e-10)
        np.testing.assert_allclose(given["t2"], kind.distances(fitted)["t2"])
        np.testing.assert_allclose(given["q"], kind.distances(fitted)["q"], atol=1e-10)
        held = kind.validate(self.found.part, Recipe(), fitted, None)
        self.assertEqual(held.segments, 7)
        self.assertIn("broken-stick", kind.evidence(fitted, self.prepared, Recipe()))
        for plain in ({}, {"loadings": [[1.0]], "eigenvalues": [1.0, 2.0]}, {"loadings": "x"}):
            with self.subTest(plain), self.assertRaises(InputError):
                kind.from_plain(plain)


if __name__ == "__main__":
    unittest.main()
