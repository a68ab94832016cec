"""The switch "as new": distances to models that have not seen the sample, and the verdict."""

import unittest

import numpy as np
from PySide6.QtTest import QTest

from scutcher.charts.distances import distances
from scutcher.core.validation.limit_coverage import Simulated
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.saving import held_out_of, seen_as_new
from tests.core.validation.test_held_out_limits import table_of
from tests.desk.driving import LEFT, WindowCase, settle


class AsNew(WindowCase):
    validates = True

    def study(self):
        values, _ = Simulated(120).draw(40, np.random.default_rng(4))
        return Study(State.of("simulated", table_of(values)))

    def setUp(self):
        super().setUp()
        self.until(lambda: self.desk.moment.checked is not None)
        settle()

    def test_one_switch_for_plane_and_strip(self):
        found, checked = self.desk.moment.found, self.desk.moment.checked
        before = self.page.distances.view.chart.marks.y.copy()
        self.assertEqual(self.page.distances.view.chart.note, "limits 95 %")
        QTest.mouseClick(self.page.distances.new_switch, LEFT)
        settle()
        self.assertEqual(self.state.recipe.limits.distances, "held-out")
        self.assertIs(self.desk.moment.checked.validation, checked.validation)  # nothing was validated anew
        chart = self.page.distances.view.chart
        self.assertEqual(chart.note, "limits 95 %, as if new")
        seen = seen_as_new(found, checked)
        np.testing.assert_allclose(chart.marks.y, seen.distances["q"] / seen.limits["q"].value)
        self.assertFalse(np.allclose(chart.marks.y, before))
        strip = self.page.distances.run_view.chart
        self.assertEqual(strip.note, "1 = 95 % limit, as if new")
        np.testing.assert_allclose(strip.marks.y, chart.marks.y)
        self.window.undo()
        settle()
        self.assertFalse(self.page.distances.new_switch.isChecked())
        np.testing.assert_array_equal(self.page.distances.view.chart.marks.y, before)

    def test_the_search_field_reaches_it(self):
        wanted = "Distances as if the samples were new, or as fitted"
        action = next(action for action in self.window.actions_list if action.words == wanted)
        action.run()
        settle()
        self.assertEqual(self.state.recipe.limits.distances, "held-out")
        action.run()
        settle()
        self.assertEqual(self.state.recipe.limits.distances, "fitted")

    def test_new_samples_are_judged_by_the_same_limits(self):
        new, _ = Simulated(120).draw(300, np.random.default_rng(5))
        self.desk.live.bring(table_of(new))
        settle()
        newcomers = self.page.newcomers.now()
        held = held_out_of(self.desk.moment.found, self.desk.moment.checked)
        self.assertEqual(newcomers.model.basis, "held-out")
        self.assertEqual(newcomers.model.q_limit.value, held.q_limit.value)
        share = np.mean([newcomers.belongs(row) for row in range(300)])
        self.assertTrue(0.9 < share < 0.99, share)
        ghosts = self.page.distances.view.chart.ghosts
        np.testing.assert_allclose(ghosts.y, newcomers.found.q / held.q_limit.value)

    def test_without_validation_it_says_so(self):
        found, state = self.desk.moment.found, self.state
        self.page.distances.show_as_new(True)
        settle()
        found, state = self.desk.moment.found, self.state
        self.assertEqual(distances(state, found, False, None).note, "limits 95 %, as fitted: not validated")


if __name__ == "__main__":
    unittest.main()
