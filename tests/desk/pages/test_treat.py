"""The Treat page and the trail by hand: sliders, regions, drag, add, shelf, try several."""

import json
import threading
import unittest
from unittest import mock

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from scutcher.charts import colours
from scutcher.core.treatments import all_treatments
from scutcher.desk.actions.add_treatment import AddTreatment
from scutcher.desk.actions.compare_models import Compare, differences, text_difference
from scutcher.desk.pages.treat import effects, strips
from scutcher.desk.pages.treat.effects import DotRow, EffectsTable
from scutcher.desk.pages.treat.page import awaited
from scutcher.desk.pages.try_several.page import TrySeveral
from scutcher.desk.shell.start import application
from scutcher.desk.widgets import scaling_form
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.parameter_form import parsed_regions
from scutcher.files.model_json import read_model
from scutcher.study import current_model as live
from scutcher.study.document.commands.recipe import ChangeStep, UseRecipe
from scutcher.study.evaluation import fitting
from scutcher.study.evaluation.shelved_model import recipe_name
from scutcher.study.evaluation.step_effects import Effect
from tests.desk.driving import CTRL, LEFT, PATIENCE, WindowCase, count_colour, pixels, settle


class TreatCase(WindowCase):
    validates = True
    first_page = "Treat"

    @property
    def treat(self):
        return self.window.view("Treat")


class FromBehind(TreatCase):
    """Of very many values what takes longer than a frame comes later, and is what it would be at once."""

    def test_what_is_inside_a_step(self):
        self.add("msc")
        at_once = self.treat.strips.before_view.chart.curves
        self.assertEqual(len(at_once), 1)
        with mock.patch.multiple(strips, FEW=0, AT_ONCE=0.0):
            self.desk.selection.change(stage=1)
            self.desk.selection.change(stage=2)
            settle()
            self.until(lambda: self.treat.strips.before_view.chart.curves)
            late = self.treat.strips.before_view.chart.curves
            np.testing.assert_array_equal(late[0].y, at_once[0].y)
            self.until(lambda: len(self.treat.effects.dots.values) == len(self.desk.moment.found.part.ids))
            self.assertTrue(self.treat.effects.dots.isVisible())

    def test_the_spreads_of_variables(self):
        found, table = self.desk.moment.found, self.treat.scaling.model
        with mock.patch.object(scaling_form, "AT_ONCE", 0):
            self.desk.selection.change(stage=2)
            settle()
            self.until(lambda: np.isfinite(table.before).all())
        np.testing.assert_allclose(table.before, found.treated.values.std(axis=0, ddof=1))
        np.testing.assert_allclose(table.after, found.z.std(axis=0, ddof=1))
        self.assertNotIn("…", [table.index(3, column).data() for column in (1, 2)])


class VeryMany(unittest.TestCase):
    def test_dots_that_would_be_covered_are_left_out(self):
        application()
        row = DotRow()
        self.addCleanup(row.deleteLater)
        row.resize(300, 46)
        rng = np.random.default_rng(1)
        values, codes = rng.normal(size=9_000), rng.integers(-1, 3, 9_000)
        values[77] = np.nan
        row.show_values(values, codes)
        pictures = []
        for many in (10**9, 100):
            with mock.patch.object(effects, "MANY", many):
                pictures.append(pixels(row).astype(int))
        ink = [np.abs(picture - picture[0, 0]).max(axis=2) > 40 for picture in pictures]
        self.assertGreater(ink[0].sum(), 3_000)
        self.assertGreater((ink[0] & ink[1]).sum(), 0.97 * ink[0].sum())
        self.assertLess((ink[1] & ~ink[0]).sum(), 0.03 * ink[0].sum())

    def test_a_name_among_thousands_is_chosen_or_typed(self):
        application()
        box, told = Combo(), []
        self.addCleanup(box.deleteLater)
        box.setEditable(True)
        box.offer([f"L{number}" for number in range(20_000)])
        self.assertTrue(box.view().uniformItemSizes())
        box.activated.connect(told.append)
        box.show()
        self.assertLess(box.sizeHint().width(), 200)
        box.setCurrentIndex(15_432)
        self.assertEqual(box.currentText(), "L15432")
        box.lineEdit().selectAll()
        QTest.keyClicks(box.lineEdit(), "L777")
        QTest.keyClick(box.lineEdit(), Qt.Key.Key_Return)
        self.assertEqual(set(told), {777})


class Parameters(TreatCase):
    def test_before_after_and_the_form_follow_the_knot(self):
        self.add("savitzky-golay", window=11)
        self.assertEqual(self.treat.form_title.text(), "Savitzky–Golay")
        self.assertEqual(self.treat.strips.before_panel.note.text(), "SNV")
        after = self.treat.strips.after_view.chart.lines.ys
        np.testing.assert_array_equal(after, self.desk.moment.found.stages[2].values)
        self.desk.selection.change(stage=1)
        settle()
        self.assertEqual(self.treat.form_title.text(), "Standard normal variate")
        self.assertEqual(self.treat.strips.after_panel.note.text(), "SNV")

    def test_a_slider_previews_while_it_is_held_and_is_one_command_on_release(self):
        self.add("savitzky-golay", window=11)
        undo = len(self.desk.study._undo)
        slider = self.treat.form.sliders["window"]
        slider.setSliderDown(True)
        for place in (5, 6, 8):
            slider.setValue(place)
            settle()
            shown = self.desk.moment.found.recipe.treat[1].parameters.window
            self.assertEqual(shown, 3 + 2 * place)
        self.assertEqual(self.state.recipe.treat[1].parameters.window, 11)
        self.assertEqual(len(self.desk.study._undo), undo)
        slider.setSliderDown(False)
        settle()
        self.assertEqual(self.state.recipe.treat[1].parameters.window, 19)
        self.assertEqual(len(self.desk.study._undo), undo + 1)

    def test_of_large_data_the_treated_signals_come_before_the_scores(self):
        self.add("savitzky-golay", window=11)
        self.desk.live.stop_checking()
        inside, go, iterate = threading.Event(), threading.Event(), fitting.decompose
        self.addCleanup(go.set)

        def slow(*settings, **more):
            inside.set()
            go.wait(PATIENCE)
            return iterate(*settings, **more)

        shown = self.treat.strips.after_view.chart
        scores = self.treat.scores_view.chart.marks.x
        former = self.desk.moment.found
        with mock.patch.object(live, "AT_ONCE", 0), mock.patch.object(fitting, "decompose", slow):
            parameters = replace(self.state.recipe.treat[1].parameters, window=41)
            self.desk.do(ChangeStep(1, parameters))
            self.until(lambda: inside.is_set() and self.desk.live.coming.staged is not None)
            self.until(lambda: self.treat.strips.after_view.chart.lines.ys is not shown.lines.ys)
            wanted = self.desk.live.coming.staged.stages[2].values
            np.testing.assert_array_equal(self.treat.strips.after_view.chart.lines.ys, wanted)
            np.testing.assert_array_equal(self.treat.scores_view.chart.marks.x, scores)
            self.desk.selection.pick([3])  # a redraw for another reason leaves the newest signals there
            settle()
            np.testing.assert_array_equal(self.treat.strips.after_view.chart.lines.ys, wanted)
            go.set()
            self.until(lambda: self.desk.moment.found is not former)
            settle()
        np.testing.assert_array_equal(self.treat.strips.after_view.chart.lines.ys, wanted)
        self.assertFalse(np.array_equal(self.treat.scores_view.chart.marks.x, scores))

    def test_a_typed_value_and_one_that_cannot_be(self):
        self.add("savitzky-golay", window=11)
        edit = self.treat.form.editors["window"]
        edit.selectAll()
        self.type("21", edit)
        QTest.keyClick(edit, Qt.Key.Key_Return)
        settle()
        self.assertEqual(self.state.recipe.treat[1].parameters.window, 21)
        edit = self.treat.form.editors["degree"]
        edit.selectAll()
        self.type("99", edit)
        QTest.keyClick(edit, Qt.Key.Key_Return)
        settle()
        self.assertIn("degree: Expected", self.window.message.label.text())
        self.assertEqual(self.state.recipe.treat[1].parameters.degree, 2)

    def test_a_parameter_that_does_not_fit_passes_the_step_over_and_says_why(self):
        self.add("savitzky-golay", window=11)
        self.desk.do(UseRecipe(
            replace(self.state.recipe, treat=(*self.state.recipe.treat[:1], replace(
                self.state.recipe.treat[1],
                parameters=replace(self.state.recipe.treat[1].parameters, window=10),
            ))), "a test"))  # fmt: skip
        settle()
        self.assertIn("Passed over: The window is 10 channels", self.treat.form_note.text())
        knot = self.window.trail.knots[2]
        self.assertTrue(knot.trouble)
        self.assertIn("passed over", knot.small.text())
        self.assertEqual(len(self.state.recipe.treat), 2)

    def test_regions_dragged_on_the_picture(self):
        self.add("channels", mode="leave-out")
        self.treat.strips.range_switch.click()
        view = self.treat.strips.before_view
        ends = [self.data_place(view, x, 1.0) for x in (1900.0, 1950.0, 2000.0)]
        self.drag(view.viewport(), ends)
        (region,) = self.state.recipe.treat[1].parameters.regions
        self.assertAlmostEqual(region[0], 1900.0, delta=5.0)
        self.assertAlmostEqual(region[1], 2000.0, delta=5.0)
        found = self.desk.moment.found.treated.axis.places()
        self.assertFalse(((found > 1910) & (found < 1990)).any())
        self.assertEqual(len(view._regions), 1)
        self.assertIsNone(view._region)  # no second shade under the step's own

    def test_baselines_and_references_are_drawn(self):
        self.add("baseline-polynomial")
        self.assertGreaterEqual(len(self.treat.strips.before_view.chart.curves), 4)
        self.assertGreater(count_colour(self.treat.strips.before_view, colours.ALARM, 60), 100)
        self.desk.selection.pick([4])
        settle()
        self.assertEqual(len(self.treat.strips.before_view.chart.curves), 1)

    def test_what_the_step_did(self):
        self.until(lambda: not self.treat.without.busy and self.desk.moment.checked is not None)
        self.until(lambda: "…" not in self.treat.effects.rows["q2"][2].text())
        before, after = (self.treat.effects.rows["separation"][place].text() for place in (1, 2))
        self.assertGreater(float(after.lstrip("→ ")), float(before))
        self.assertIn("▲", self.treat.effects.rows["separation"][3].text())
        self.assertTrue(self.treat.effects.rows["replicates"][0].isVisible())
        self.assertIn(
            "largest class's share. Here that is 0.273.", self.treat.effects.rows["separation"][1].toolTip()
        )

    def test_the_data_say_which_figures_are_waited_for(self):
        has = awaited(self.state, self.desk.moment.found)
        self.assertEqual(has, {"separation", "replicates", "noise", "q2"})

    def test_only_figures_that_are_waited_for_have_a_row(self):
        effects = EffectsTable()  # its own: what is computed behind fills in the page's
        self.addCleanup(effects.deleteLater)
        effects.show()
        effects.show_effects((), frozenset({"noise", "q2"}))
        shown = {key for key, row in effects.rows.items() if row[0].isVisible()}
        self.assertEqual(shown, {"noise", "q2"})
        settle()
        before = {key: effects.rows[key][2].geometry() for key in shown}
        self.assertEqual(effects.rows["noise"][1].text(), "…")
        found = (Effect("noise", 0.0123, 0.4567, -1), Effect("q2", 0.5, 0.9375, 1))
        effects.show_effects(found, frozenset())
        settle()
        self.assertEqual(effects.rows["noise"][2].text(), "→ 45.67 %")
        self.assertEqual({key: effects.rows[key][2].geometry() for key in shown}, before)  # nothing jumps

    def test_ghosts_of_the_scores_without_the_step(self):
        self.until(lambda: self.treat.without.evaluation is not None)
        self.treat._set_ghosts(True)
        self.assertEqual(len(self.treat.scores_view.chart.ghosts.x), 143)

    def test_scaling_table(self):
        self.desk.selection.change(stage=2)
        settle()
        panel = self.treat.scaling
        self.assertTrue(panel.isVisible())
        self.assertIn("The default for an ordered axis", panel.note.text())
        panel.method.activated.emit(1)
        settle()
        self.assertEqual(self.state.recipe.scale.method, "sd")
        panel._on_clicked(panel.model.index(3, 3))
        settle()
        label = panel.model.labels[3]
        self.assertEqual(self.state.recipe.scale.off, (label,))
        z = self.desk.moment.found.z
        self.assertAlmostEqual(z[:, 4].std(ddof=1), 1.0)
        self.assertNotAlmostEqual(z[:, 3].std(ddof=1), 1.0)

    def test_regions_as_text(self):
        self.assertEqual(parsed_regions("1100–1880, 1960-2500 nm"), ((1100.0, 1880.0), (1960.0, 2500.0)))
        self.assertIsNone(parsed_regions("a to b"))
        self.assertEqual(parsed_regions(""), ())


class Drying(TreatCase):
    demo = "drying"

    def test_shifts_are_shown_and_the_peak_can_be_chosen_on_the_picture(self):
        self.add("shift-to-peak", position=1386.0, half_width=9.0)
        self.until(lambda: len(self.treat.effects.dots.values) == 31)
        self.assertIn("shift / channels", self.treat.effects.dots_name.text())
        self.treat.strips.edits.on_range(1376.0, 1398.0)
        settle()
        parameters = self.state.recipe.treat[0].parameters
        self.assertAlmostEqual(parameters.position, 1387.0)
        self.assertAlmostEqual(parameters.half_width, 11.0)


class Trail(TreatCase):
    def test_every_treatment_is_in_the_list_and_search_narrows_it(self):
        paper = self.window.papers.add_treatment()
        settle()
        self.assertIsInstance(paper, AddTreatment)
        self.assertEqual(paper.list.count(), len(all_treatments()))
        self.type("sharpens overlapping", paper.search)
        shown = [
            paper.list.item(r).text() for r in range(paper.list.count()) if not paper.list.item(r).isHidden()
        ]
        self.assertEqual([text.split("\n")[0] for text in shown], ["Savitzky–Golay"])
        for _ in range(60):
            settle()
        QTest.keyClick(paper.search, Qt.Key.Key_Return)
        settle()
        self.assertEqual([step.method for step in self.state.recipe.treat], ["snv", "savitzky-golay"])

    def test_drag_reorders(self):
        self.add("savitzky-golay", window=11)
        first, second = self.window.trail.knots[1:3]
        middle = QPoint(80, 12)
        down = QPoint(80, second.y() - first.y() + second.height() - 4)
        self.drag(first, [middle, (middle + down) / 2, down])
        self.assertEqual([step.method for step in self.state.recipe.treat], ["savitzky-golay", "snv"])
        self.key("z", CTRL)
        self.assertEqual([step.method for step in self.state.recipe.treat], ["snv", "savitzky-golay"])

    def test_shelf_keeps_renames_and_gives_back(self):
        self.until(
            lambda: self.desk.moment.checked is not None and self.desk.moment.checked.validation is not None
        )
        self.key("b")
        self.add("savitzky-golay", window=11)
        self.window.trail.shelf.put()
        settle()
        names = [model.name for model in self.state.shelf]
        self.assertEqual(names, ["SNV", "SNV · SG 1st"])
        self.assertIsNotNone(self.state.shelf[0].figure("q2"))
        ask = self.window.acting.rename_model(self.window.trail.shelf, 0)
        field = self.window.focusWidget()
        field.selectAll()
        self.type("plain", field)
        QTest.mouseClick(ask.yes, LEFT)
        settle()
        self.assertEqual(self.state.shelf[0].name, "plain")
        row = next(row for row in self.window.trail.shelf.rows if row.model.name == "plain")
        QTest.mouseClick(row, LEFT)
        settle()
        self.assertEqual(len(self.state.recipe.treat), 1)
        self.assertEqual(self.state.model.name, "plain")
        self.assertIn("plain · ", self.window.trail.model_knot.small.text())
        self.assertEqual([model.name for model in self.state.shelf], ["SNV · SG 1st"])
        paper = self.window.papers.compare()
        self.assertIsInstance(paper, Compare)
        self.assertEqual(paper.table.rowCount(), 2)
        self.assertIn("treatments", differences([model.recipe for model in self.state.named]))
        self.assertIn('+    { method = "savitzky-golay", window = 11', text_difference(*self.state.named))

    def test_recipe_and_model_files(self):
        import tempfile
        from pathlib import Path

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "kept"
            self.assertTrue(self.window.recipes.save(path))
            self.written(path.with_suffix(".toml"))
            self.add("savitzky-golay", window=11)
            self.assertTrue(self.window.recipes.open(path.with_suffix(".toml")))
            settle()
            self.assertEqual([step.method for step in self.state.recipe.treat], ["snv"])
            self.assertTrue(self.window.recipes.save_model(path))
            model = read_model(self.written(path.with_suffix(".json")))
            np.testing.assert_array_equal(model.loadings, self.model.loadings)
            plain = json.loads(path.with_suffix(".json").read_text())
            self.assertEqual((plain["format"], plain["version"]), ("scutcher model", 1))
            self.until(lambda: self.desk.moment.checked is not None)
            self.assertTrue(self.window.recipes.save_model(path))
            self.assertIsNotNone(read_model(self.written(path.with_suffix(".json"))).held_out)
            self.assertFalse(self.window.recipes.open(Path(folder) / "none.toml"))
            self.assertIn("There is no file none.toml", self.window.message.label.text())


class Trying(TreatCase):
    demo = "practice"

    def test_a_grid_runs_behind_folds_twins_sorts_and_gives_back(self):
        self.window.papers.try_several()
        page = self.window.stack.over
        self.assertIsInstance(page, TrySeveral)
        self.until(lambda: len(page.outcomes) == 15)
        names = [recipe_name(outcome.recipe) for outcome in page.outcomes]
        self.assertEqual(len(set(names)), 15)
        self.assertTrue(all(o.model is not None or o.reason for o in page.outcomes))
        page.sort.setCurrentText("Q²")
        page._lay()
        q2 = [card.outcome.model.figure("q2") for card in page.cards if card.outcome.model]
        self.assertEqual(q2, sorted(q2, reverse=True))
        kept = set(page.cards)
        page.sort.setCurrentText("R²")
        page._lay()
        self.assertEqual(set(page.cards), kept)  # sorted, not made anew
        for wide in (1024, 1400):
            self.window.resize(wide, 700)
            settle()
            seen = page._scroll.viewport().width()
            ends = [card.mapTo(page._scroll.widget(), card.rect().topRight()).x() for card in page.cards]
            self.assertLess(max(ends), seen)
            across, step = page.across, page.cards[0].width() + 8
            self.assertEqual(np.diff(ends[:across]).tolist(), [step] * (across - 1))  # no wider gaps
            self.assertGreater(max(ends) + page.cards[0].width(), seen - 20)  # and no room is left for more
        card = next(card for card in page.cards if card.outcome.name == "SNV")
        card.shelf.click()
        settle()
        self.assertEqual(self.state.shelf[0].name, "SNV")
        card.trail.click()
        settle()
        self.assertEqual([step.method for step in self.state.recipe.treat], ["snv"])
        self.assertIsNone(self.window.stack.over)

    def test_values_of_one_parameter_and_stop(self):
        self.add("savitzky-golay", window=11)
        self.window.papers.try_several()
        page = self.window.stack.over
        page.halt()
        place = [page.what.itemText(i) for i in range(page.what.count())].index("Savitzky–Golay: window")
        page.what.setCurrentIndex(place)
        page.values.setText("5, 9, 500")
        page.start_range()
        self.until(lambda: len(page.outcomes) == 3)
        self.assertEqual([o.model is not None for o in page.outcomes], [True, True, False])
        self.assertIn("The window is 500 channels", page.outcomes[2].reason)
        page.values.setText("500, 500")
        page.start_range()
        self.until(lambda: len(page.outcomes) == 2)
        self.assertEqual(len(set(page.cards)), 2)  # none is hidden, not even the same refusal
        page.values.setText("five")
        page.start_range()
        self.assertIn("is not a list of values", self.window.message.label.text())


if __name__ == "__main__":
    unittest.main()
