"""Every command: what it does, what it refuses in which words, and that undo brings the old state back."""

import unittest

import numpy as np

from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import Recipe, ScaleSettings
from scutcher.study.document.commands.classes import AssignClass, ColourBy, Recolour, RenameClass
from scutcher.study.document.commands.data import BringIn, NameAxis
from scutcher.study.document.commands.recipe import AddStep, KeepComponents, RemoveStep, ScaleBy, SwitchStep
from scutcher.study.document.commands.samples import BringBack, SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.core.making import classes_of, mixed_table, ordered_table, random_spectra


def started() -> Study:
    table = ordered_table(random_spectra(8, 10), classes=(classes_of(8),))
    return Study(State.of("t", table, colour_by="kind"))


class Commands(unittest.TestCase):
    def setUp(self):
        self.study = started()
        self.heard = []
        self.study.subscribe(lambda changed: self.heard.append(changed))

    @property
    def state(self):
        return self.study.state

    def refused(self, command):
        before = self.state
        with self.assertRaises(InputError) as caught:
            self.study.do(command)
        self.assertIs(self.state, before)
        return str(caught.exception)

    def test_each_is_undone_and_redone(self):
        commands = (
            SetAside((1, 2), "spilled"),
            BringBack((1,)),
            AssignClass("kind", (0,), "z"),
            AssignClass("origin", (0, 1), "north"),
            RenameClass("kind", "x", "ex"),
            Recolour("kind", "ex", 1),
            ColourBy(""),
            NameAxis("wavenumber", "cm⁻¹"),
            AddStep("snv"),
            SwitchStep(0, False),
            RemoveStep(0),
            ScaleBy(ScaleSettings(method="sd")),
            KeepComponents(2),
            BringIn("other", mixed_table(random_spectra(4, 3)), Recipe()),
        )
        states = [self.state]
        for command in commands:
            words = command.label(self.state)
            self.study.do(command)
            states.append(self.state)
            self.assertEqual(self.study.undo_label, words)
        for earlier in reversed(states[:-1]):
            self.assertIsNotNone(self.study.undo())
            self.assertIs(self.state, earlier)
        self.assertIsNone(self.study.undo())
        for later in states[1:]:
            self.study.redo()
            self.assertIs(self.state, later)
        self.assertIsNone(self.study.redo())

    def test_a_command_that_changes_nothing_leaves_no_trace(self):
        self.study.do(SetAside((1,), "spilled"))
        self.heard.clear()
        for command in (
            SetAside((1,), "again"),
            BringBack((5,)),
            AssignClass("kind", (0,), "x"),
            RenameClass("kind", "x", "x"),
            ColourBy("kind"),
            NameAxis("wavelength", "nm"),
        ):
            with self.subTest(command=command):
                self.study.do(command)
                self.assertEqual(self.study.undo_label, "Set aside s2: spilled")
        self.assertEqual(self.heard, [])

    def test_a_new_command_drops_what_could_be_redone(self):
        self.study.do(KeepComponents(2))
        self.study.undo()
        self.study.do(KeepComponents(3))
        self.assertIsNone(self.study.redo_label)

    def test_listeners_hear_the_fields_that_changed(self):
        self.study.do(KeepComponents(2))
        self.study.do(SetAside((1,), "wet"))
        self.assertEqual(
            self.heard,
            [frozenset({"models", what, "history"}) for what in ("recipe", "table")],
        )

    def test_setting_aside(self):
        self.assertEqual(
            self.refused(SetAside((1,), "  ")),
            "No reason was given. Say why these samples are set aside; nothing was changed.",
        )
        self.assertEqual(
            self.refused(SetAside(tuple(range(7)), "all bad")),
            "Only 1 sample would be left. Keep at least 2; nothing was changed.",
        )
        self.study.do(SetAside((1,), "wet"))
        self.study.do(SetAside((1, 2), "spilled"))
        self.assertEqual(dict(self.state.table.set_aside), {1: "spilled", 2: "spilled"})

    def test_merging_two_classes_by_name(self):
        self.study.do(RenameClass("kind", "y", "x"))
        self.assertEqual(self.state.table.classes[0].levels, ("x",))

    def test_a_level_that_nobody_has_any_more_goes(self):
        self.study.do(AssignClass("kind", tuple(range(8)), "one"))
        self.assertEqual(self.state.table.classes[0].levels, ("one",))
        np.testing.assert_array_equal(self.state.table.classes[0].codes(), 0)

    def test_a_colour_that_another_class_has_is_swapped(self):
        self.study.do(Recolour("kind", "x", 1))
        self.assertEqual(self.state.table.classes[0].levels, ("y", "x"))
        self.assertEqual(self.state.table.classes[0].values[0], "x")

    def test_a_free_colour_leaves_the_others_where_they_are(self):
        self.study.do(Recolour("kind", "x", 4))
        column = self.state.table.classes[0]
        self.assertEqual((column.levels, column.names), (("", "y", "", "", "x"), ("y", "x")))
        self.assertEqual(column.codes()[0], 4)
        self.study.do(AssignClass("kind", (0,), "new"))
        self.assertEqual(self.state.table.classes[0].levels, ("new", "y", "", "", "x"))
        self.study.do(RenameClass("kind", "y", "x"))
        self.assertEqual(self.state.table.classes[0].levels, ("new", "", "", "", "x"))
        self.study.do(AssignClass("kind", tuple(range(1, 8)), "new"))
        self.assertEqual(self.state.table.classes[0].levels, ("new",))

    def test_a_class_or_colour_that_is_not_there(self):
        self.assertIn("There is no class 'q' in kind.", self.refused(Recolour("kind", "q", 1)))
        self.assertIn("There is no class '' in kind.", self.refused(Recolour("kind", "", 1)))
        self.assertIn("There is no colour -1.", self.refused(Recolour("kind", "x", -1)))

    def test_other_refusals(self):
        self.assertIn("There is no class 'q' in kind.", self.refused(RenameClass("kind", "q", "r")))
        self.assertIn("There is no class column 'q' (there is: kind).", self.refused(ColourBy("q")))
        self.assertIn("There is no treatment 1; the chain has 0.", self.refused(SwitchStep(0, True)))
        self.assertIn("0 components were asked for.", self.refused(KeepComponents(0)))
        self.assertIn("no name", self.refused(AssignClass("kind", (1,), " ")))
        self.assertIn("no name", self.refused(RenameClass("kind", "x", " ")))

    def test_without_data(self):
        study = Study()
        with self.assertRaises(InputError) as caught:
            study.do(SetAside((0,), "x"))
        self.assertEqual(str(caught.exception), "There are no data yet. Bring in a file first (Ctrl+O).")
