"""Recipes on disk."""

import tempfile
import unittest
from pathlib import Path

from scutcher.core.errors import FileError, RecipeError
from scutcher.demo.sets import demo_recipe
from scutcher.files.recipe_toml import read_recipe, recipe_text


class RecipeFiles(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "r.toml"

    def test_round_trip(self):
        self.path.write_text(recipe_text(demo_recipe()))
        self.assertEqual(read_recipe(self.path), demo_recipe())

    def test_the_contract_example(self):
        self.path.write_text(
            '[[treat]]\nmethod = "snv"\n\n[scale]\ncentre = "mean"\nmethod = "none"\n\n[model]\n'
            'components = 4\nengine = "auto"\ngaps = "leave-out-samples"\ngap_share = 0.2\n\n'
            "[limits]\nlevel = 0.95\n"
            'q = "jackson-mudholkar"\njoint = "moments"\n\n[validate]\nscheme = "random"\nsegments = 7\n'
            'column = "field"\nrepeats = 1\nseed = 1\nblock = 1\n'
        )
        self.assertEqual(read_recipe(self.path).model.components, 4)

    def test_not_toml(self):
        self.path.write_text("[[treat")
        with self.assertRaises(RecipeError) as caught:
            read_recipe(self.path)
        self.assertTrue(str(caught.exception).startswith("r.toml is not a TOML recipe:"))

    def test_errors_name_the_file(self):
        self.path.write_text("[modle]")
        with self.assertRaises(RecipeError) as caught:
            read_recipe(self.path)
        self.assertTrue(str(caught.exception).startswith("r.toml: Unknown key 'modle'"))
        with self.assertRaises(FileError):
            read_recipe(self.path.with_name("none.toml"))
