"""Looks at scores and samples over the whole page: rectangles in pairs and in space, samples rebuilt."""

import unittest

import numpy as np
from PySide6.QtCore import QPoint

from scutcher.charts import colours
from scutcher.charts.rebuilds import component_steps, rebuild_grid
from tests.desk.driving import CTRL, SHIFT, WindowCase, count_colour, pixels, settle


class Rectangles(WindowCase):
    def test_a_rectangle_in_a_cell_of_pairs_picks_what_is_inside(self):
        self.window.papers.show_space("pairs")
        settle()
        view = self.window.stack.over.pairs_view
        x, y = view.places(2, 1)
        middle = np.median(x), np.median(y)
        inside = (x < middle[0]) & (y < middle[1])
        corner = view.cell(2, 1).topLeft().toPoint() + QPoint(1, 1)
        self.drag(view, [corner, QPoint(int(middle[0] / 2), int(middle[1])), QPoint(*map(int, middle))])
        picked = np.zeros(len(x), dtype=bool)
        picked[np.isin(view.found.rows, self.look.picked)] = True
        self.assertGreater(inside.sum(), 10)
        self.assertLess((picked ^ inside).sum(), 3)  # the middle is rounded to a pixel
        before = set(self.look.picked)
        place = int(np.flatnonzero(~picked)[0])
        at = QPoint(round(float(x[place])), round(float(y[place])))
        self.drag(view, [at], SHIFT)
        self.assertEqual(len(set(self.look.picked) - before), 1)

    def test_a_drag_in_space_turns_and_with_a_key_held_picks(self):
        self.window.papers.show_space("space")
        settle()
        view = self.window.stack.over.turn_view
        turned = view.turned
        self.drag(view, [QPoint(300, 300), QPoint(350, 300), QPoint(380, 300)])
        self.assertNotEqual(view.turned, turned)
        self.assertEqual(self.look.picked, ())
        turned = view.turned
        x = view.seen(view.points)[0]
        cut = int(np.quantile(x, 0.3))
        corners = [QPoint(0, 0), QPoint(cut, 100), QPoint(cut, view.height())]
        self.drag(view, corners[:2], SHIFT, release=False)
        self.assertGreater(count_colour(view, colours.ACCENT, 30), 100)  # the rectangle is seen
        self.drag(view, corners, SHIFT)
        self.assertEqual(view.turned, turned)
        self.assertEqual(set(self.look.picked), set(view.rows[x <= cut].tolist()))
        self.drag(view, corners, CTRL)
        self.assertEqual(self.look.picked, ())


class Rebuilds(WindowCase):
    def test_more_components_rebuild_more_of_the_picked_samples(self):
        rows = [self.row("L17-1"), self.row("L05-1")]
        self.desk.selection.pick(rows)
        self.key("g")
        view = self.window.stack.over.rebuild_view
        grid = view.grid
        self.assertEqual([cells[0].name for cells in grid.rows], ["L17-1", "L05-1"])
        self.assertIn(self.model.k, grid.steps)
        found = self.desk.moment.found
        for cells in grid.rows:
            shares = [cell.share for cell in cells]
            self.assertEqual(shares, sorted(shares))
            row = found.places()[self.row(cells[0].name)]
            kept = cells[grid.steps.index(self.model.k)]
            self.assertAlmostEqual(kept.share, 1.0 - self.model.q[row] / (found.z[row] ** 2).sum())
            np.testing.assert_allclose(kept.measured + grid.centre, found.treated.values[row], atol=1e-9)
        self.assertGreater(count_colour(view, colours.ACCENT, 40), 500)
        self.assertGreater(count_colour(view, colours.FADED, 20), 300)
        picture = pixels(view)
        self.desk.selection.pick([self.row("L42-3")])
        settle()
        self.assertEqual(len(view.grid.rows), 1)
        self.assertFalse(np.array_equal(pixels(view), picture))

    def test_without_a_pick_the_best_and_the_worst_are_shown(self):
        found = self.desk.moment.found
        names = [cells[0].name for cells in rebuild_grid(found, ()).rows]
        q = found.model.q
        self.assertEqual(names, [found.treated.ids[int(q.argmin())], found.treated.ids[int(q.argmax())]])

    def test_the_number_kept_is_always_among_the_steps(self):
        for computed in range(1, 60):
            for kept in range(1, computed + 1):
                steps = component_steps(kept, computed)
                self.assertIn(kept, steps)
                self.assertEqual(list(steps), sorted(set(steps)))
                self.assertLessEqual(len(steps), 6)
                self.assertLessEqual(steps[-1], computed)


class RebuiltPictures(WindowCase):
    demo = "liquor-landscapes"

    def test_samples_whose_variables_form_a_grid_are_rebuilt_as_pictures(self):
        self.window.papers.show_space("rebuilds")
        settle()
        view = self.window.stack.over.rebuild_view
        self.assertIsNotNone(view.grid.axes)
        self.assertGreater(len(np.unique(pixels(view).reshape(-1, 3), axis=0)), 60)  # shades, not lines


if __name__ == "__main__":
    unittest.main()
