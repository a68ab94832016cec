"""Channels picked by hand and shaded: on the strips, the loading plane, the table of variables."""

import unittest
from dataclasses import replace

import numpy as np
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QToolButton

from scutcher.charts.channel_shading import groups_of, shade_of
from scutcher.core.recipes.recipe import Block, ScaleSettings
from scutcher.desk.painting.shade_item import bands_of
from scutcher.study.document.commands.recipe import ScaleBy
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.core.making import mixed_table, random_spectra
from tests.desk.driving import CTRL, LEFT, SHIFT, WindowCase, pixels, settle


class OnStrips(WindowCase):
    def strip_place(self, channel):
        return self.data_place(self.page.strips.loadings_view, channel, 0.0)

    def column_of(self, view, channel):
        """The colours of the pixels over one channel, top to bottom, away from the lines."""
        place = self.data_place(view, channel, float(np.mean(view.ground.viewRange()[1])))
        return pixels(view.viewport())[4:14, place.x()].astype(int)

    def press(self, word):
        button = next(
            b for b in self.page.strips.loadings_panel.findChildren(QToolButton) if b.text() == word
        )
        QTest.mouseClick(button, LEFT)
        settle()

    def test_a_click_picks_a_channel_and_it_is_seen_on_every_strip(self):
        view = self.page.strips.loadings_view
        quiet = self.column_of(self.page.strips.signals_view, 1500.0)
        self.click(view, self.strip_place(1500.0))
        self.assertEqual(len(self.look.channels), 1)
        self.assertAlmostEqual(self.look.channels[0], 1500.0, delta=4.0)
        for strip in (self.page.strips.signals_view, view):
            self.assertLess(
                self.column_of(strip, self.look.channels[0])[:, 0].mean(), quiet[:, 0].mean() - 15
            )
        self.click(view, self.strip_place(1700.0), SHIFT)
        self.assertEqual(len(self.look.channels), 2)
        self.click(view, self.strip_place(1500.0), CTRL)
        self.assertEqual(len(self.look.channels), 1)
        self.window.activateWindow()
        self.window.clear()
        self.assertEqual(self.look.channels, ())

    def test_a_picked_channel_that_is_not_in_view_leaves_no_mark_at_its_edge(self):
        view = self.page.strips.loadings_view
        for channel, low, high in (
            (1300.0, 1500.0, 1700.0),
            (2000.0, 1500.0, 1700.0),
            (1510.0, 1500.0, 1700.0),
        ):
            self.desk.selection.change(channels=())
            view.ground.setRange(xRange=(low, high), padding=0.0)
            settle()
            before = pixels(view.viewport())
            self.desk.selection.change(channels=(channel,))
            settle()
            self.assertEqual(np.array_equal(pixels(view.viewport()), before), not low < channel < high)

    def test_a_drag_with_shift_picks_a_range_and_one_without_moves_the_view(self):
        view = self.page.strips.loadings_view
        places = [self.strip_place(x) for x in (1900.0, 1930.0, 1960.0)]
        self.drag(view.viewport(), places)
        self.assertEqual(self.look.channels, ())
        view.whole()
        settle()
        places = [self.strip_place(x) for x in (1900.0, 1930.0, 1960.0)]
        self.drag(view.viewport(), places, SHIFT)
        picked = np.array(self.look.channels)
        self.assertAlmostEqual(picked.min(), 1900.0, delta=4.0)
        self.assertAlmostEqual(picked.max(), 1960.0, delta=4.0)
        np.testing.assert_allclose(np.diff(picked), 2.0)
        self.window.show_page("Samples")
        settle()
        chosen = self.window.view("Samples").side.variables.selected_columns()
        np.testing.assert_array_equal(self.state.table.axis.places()[chosen], picked)

    def test_size_shades_where_the_loadings_are_long(self):
        self.press("size")
        shade = self.page.strips.signals_view.chart.shade
        lengths = np.hypot(*self.model.loadings[:, :2].T)
        np.testing.assert_allclose(shade.strength, lengths / lengths.max())
        x = shade.x
        strong, weak = x[shade.strength.argmax()], x[shade.strength.argmin()]
        dark, pale = (
            self.column_of(self.page.strips.signals_view, place)[:, 0].mean() for place in (strong, weak)
        )
        self.assertLess(dark, pale - 25)
        self.desk.selection.change(pair=(2, 3))
        settle()
        self.assertIsNot(self.page.strips.signals_view.chart.shade, shade)
        self.press("plain")
        self.assertIsNone(self.page.strips.loadings_view.chart.shade)

    def test_groups_need_blocks_or_units(self):
        self.press("groups")
        self.assertIn("in no blocks and have no units", self.window.message.label.text())
        labels = self.desk.moment.found.treated.axis.labels
        blocks = (Block(labels[10:200]), Block(labels[300:400]))
        self.desk.do(ScaleBy(ScaleSettings(blocks=blocks)))
        settle()
        self.until(lambda: not self.desk.live.busy)
        settle()
        shade = self.page.strips.signals_view.chart.shade
        self.assertEqual(shade.names, ("block 1", "block 2"))
        self.assertIn("block 2", self.page.strips.loadings_panel.note.text())

    def test_variables_enclosed_on_the_loading_plane_are_picked(self):
        self.window.papers.show_space("loadings")
        settle()
        view = self.window.stack.over.loading_view
        marks = view.chart.marks
        strongest = int(np.hypot(marks.x, marks.y).argmax())
        self.click(view, self.data_place(view, float(marks.x[strongest]), float(marks.y[strongest])))
        places = self.desk.moment.found.treated.axis.places()
        self.assertEqual(self.look.channels, (places[marks.keys[strongest]],))


class Groups(WindowCase):
    def study(self):
        table = mixed_table(random_spectra(12, 5))
        axis = replace(table.axis, labels=("ash / %", "pH", "iron / mg/kg", "water / %", "lead / mg/kg"))
        return Study(State.of("t", replace(table, axis=axis)))

    def test_variables_with_one_unit_are_a_group(self):
        codes, names = groups_of(self.desk.moment.found)
        self.assertEqual((codes.tolist(), names), ([0, -1, 1, 0, 1], ("%", "mg/kg")))
        shade = shade_of(self.desk.moment.found, (0, 1), "group")
        bands = bands_of(shade)
        self.assertEqual(bands.low.tolist(), [0.5, 2.5, 3.5, 4.5])
        self.assertEqual(bands.high.tolist(), [1.5, 3.5, 4.5, 5.5])
        self.assertEqual(bands.codes.tolist(), [0, 1, 0, 1])
        self.assertIsNone(shade_of(self.desk.moment.found, (0, 1), "none"))


if __name__ == "__main__":
    unittest.main()
