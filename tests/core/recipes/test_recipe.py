"""Recipes as plain data: what is read, what is refused, and in which words."""

import unittest

import msgspec

from scutcher.core.errors import RecipeError
from scutcher.core.recipes.recipe import Recipe, ScaleSettings, recipe_from_plain, recipe_to_plain


class Reading(unittest.TestCase):
    def test_a_full_recipe_reads_and_writes_back(self):
        plain = {
            "treat": [{"method": "snv"}, {"method": "snv", "on": False}],
            "scale": {
                "centre": "median",
                "method": "pareto",
                "off": ["1100"],
                "weights": [["1102", 2.0]],
                "blocks": [{"variables": ["1104", "1106"]}, {"variables": ["1108"], "weight": 0.5}],
            },
            "model": {
                "components": 3,
                "engine": "nipals",
                "gaps": "leave-out-samples",
                "gap_share": 0.1,
                "tolerance": 1e-8,
                "rounds": 500,
                "seed": 2,
            },
            "limits": {"level": 0.99, "q": "box", "joint": "robust", "distances": "held-out"},
            "validate": {"scheme": "blinds", "segments": 5, "repeats": 1, "seed": 1},
            "evidence": {"share": 0.9, "permutations": 40, "halves": 10},
            "groups": {
                "column": "a",
                "method": "discriminant",
                "neighbours": 3,
                "permutations": 99,
                "level": 0.8,
            },
        }
        recipe = recipe_from_plain(plain)
        self.assertEqual(msgspec.json.decode(msgspec.json.encode(recipe_to_plain(recipe))), plain)
        self.assertEqual(recipe_from_plain(recipe_to_plain(recipe)), recipe)

    def test_default_scaling_follows_the_axis(self):
        self.assertEqual(Recipe().scaling_for(ordered=True), ScaleSettings(centre="mean", method="none"))
        self.assertEqual(Recipe().scaling_for(ordered=False), ScaleSettings(centre="mean", method="sd"))


class Refusing(unittest.TestCase):
    CASES = (
        ({"modle": {}}, "Unknown key 'modle' in the recipe. The nearest known key is 'model'."),
        ({"scale": {"center": "mean"}}, "Unknown key 'center' in [scale]. "
         "The nearest known key is 'centre'."),
        ({"treat": [{"method": "snw"}]}, "There is no treatment 'snw'. The nearest name is 'snv'; "
         "the guide has a list of all."),
        ({"treat": [{}]}, 'Treatment 1 names no method. Add a line method = "…".'),
        ({"treat": [{"method": "snv", "windw": 3}]}, "Unknown key 'windw' in treatment 1 (snv). "
         "The nearest known key is 'regions'."),
        ({"model": {"components": 0}}, "A setting in [model] cannot be used: "
         "Expected int >= 1 - at components. Correct it."),
        ({"limits": {"level": 2}}, "A setting in [limits] cannot be used: Expected float < 1.0 - at level."
         " Correct it."),
        ({"model": {"engine": "magic"}}, "A setting in [model] cannot be used: Invalid enum value 'magic' - "
         "at engine. Correct it."),
    )  # fmt: skip

    def test_words(self):
        for plain, words in self.CASES:
            with self.subTest(plain=plain), self.assertRaises(RecipeError) as caught:
                recipe_from_plain(plain)
            self.assertEqual(str(caught.exception), words)
