"""Several tables compared: what was found before is at hand, and only for what it was found of."""

import unittest
from unittest import mock

from msgspec.structs import replace

from scutcher.core.progress import Stopped
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.blocks import BlocksBy
from scutcher.study.document.commands.recipe import UseRecipe
from scutcher.study.evaluation import blocks
from scutcher.study.evaluation.cache import shared


class Kept(unittest.TestCase):
    def setUp(self):
        shared.cache_clear()
        self.study = demo_study("three-tables")
        settings = self.study.state.blocks
        self.study.do(BlocksBy(replace(settings, permutations=9)))

    def test_a_state_of_before_is_not_compared_anew(self):
        first = blocks.fitted_blocks(self.study.state)
        self.study.do(BlocksBy(replace(self.study.state.blocks, floor=0.8)))
        self.assertIsNot(blocks.fitted_blocks(self.study.state), first)
        self.study.undo()
        with mock.patch.object(blocks, "fit_blocks") as anew:
            self.assertIs(blocks.fitted_blocks(self.study.state), first)
        anew.assert_not_called()

    def test_what_stands_beside_is_kept_for_its_fit_and_its_segments(self):
        fitted = blocks.fitted_blocks(self.study.state)
        checked = blocks.checked_blocks(self.study.state, fitted)
        self.assertIs(blocks.checked_blocks(self.study.state, fitted), checked)
        recipe = self.study.state.recipe
        self.study.do(UseRecipe(replace(recipe, validate=replace(recipe.validate, segments=4)), "fewer"))
        self.assertIsNot(blocks.checked_blocks(self.study.state, fitted), checked)
        other = blocks.fitted_blocks(self.study.state)
        self.assertIsNot(other, fitted)
        self.assertIsNot(blocks.checked_blocks(self.study.state, other), checked)

    def test_one_that_is_stopped_is_not_kept(self):
        fitted = blocks.fitted_blocks(self.study.state)
        with self.assertRaises(Stopped):
            blocks.checked_blocks(self.study.state, fitted, lambda share: False)
        self.assertTrue(blocks.checked_blocks(self.study.state, fitted).held_out)
