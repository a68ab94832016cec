"""The Blocks page, driven by hand: the lot that does not fit, cells, ranks, tables left out."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPlainTextEdit

from scutcher.charts import colours
from scutcher.core.blocks.projection import on_blocks
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.demo.sets import demo_set
from scutcher.desk.painting.share_bars import FOOT, ShareBars
from scutcher.files.class_models_json import read_any_model
from scutcher.study.document.commands.data import BringIn
from scutcher.study.document.study import Study
from tests.desk.driving import LEFT, SHIFT, WindowCase, demo_state, pixels, settle


class Blocks(WindowCase):
    demo = "three-tables"
    first_page = "Blocks"

    def study(self):
        """With fewer draws than a study has: what they find is the same here."""
        return Study(replace(demo_state(self.demo), blocks=BlocksSettings(permutations=19)))

    def setUp(self):
        few = mock.patch("scutcher.core.blocks.stability.DRAWS", 8)
        few.start()
        self.addCleanup(few.stop)
        super().setUp()
        self.page = self.window.view("Blocks")
        self.whole()

    def whole(self):
        """Fit and all that is found out beside it are there."""
        self.until(lambda: self.page.fitted is not None and self.page.checked is not None)
        settle()

    def planted(self):
        return next(iter(demo_set("bench")[1]["values_of_another_lot"]))

    def test_the_sentence_names_the_lot_with_another_ones_values(self):
        words = self.page.finding.toolTip()
        self.assertIn("2 components are common to all 3 tables", words)
        self.assertIn(f"{self.planted()} does not fit: bench puts it elsewhere", words)
        self.assertIn("48 samples in all 3 tables", words)

    def test_the_key_picks_it_and_the_strips_say_why(self):
        self.key(Qt.Key.Key_J, SHIFT)
        ids = [self.state.table.ids[row] for row in self.look.picked]
        self.assertEqual(sorted(ids), [f"{self.planted()}-{scan}" for scan in (1, 2, 3)])
        bench = self.page.loadings.strips[1].chart
        self.assertIn(f"{self.planted()}:", bench.note)
        self.assertEqual(bench.lines.names, ("share",))
        self.assertEqual(self.page.listing.table.item(0, 3).text(), "bench")

    def test_shares_are_drawn_in_their_colours(self):
        places = self.page.bars.places()
        first = next(area for piece, area in places if piece.kind == "common")
        shown = pixels(self.page.bars)
        at = shown[round(first.center().y()) - 9, round(first.left()) + 6]
        np.testing.assert_allclose(at.astype(int), colours.rgb(colours.ACCENT), atol=8)
        for bar in self.page.bars.bars:
            self.assertAlmostEqual(sum(piece.share for piece in bar.pieces), 1.0, places=6)
        self.page._set_held_out("held")
        self.assertTrue(all(bar.pieces[0].kind == "held out" for bar in self.page.bars.bars))

    def test_the_key_of_the_shares_is_whole_where_they_are_narrow(self):
        bars = ShareBars()
        self.addCleanup(bars.deleteLater)
        bars.show_bars(self.page.bars.bars)
        bars.resize(394, 120)
        bars.show()
        settle()
        shown = pixels(bars)[-int(FOOT) + 2 :]
        ground = shown[-1, -1]
        inked = np.flatnonzero((shown != ground).any(axis=(0, 2)))
        self.assertGreater(inked[0], 2)
        self.assertLess(inked[-1], shown.shape[1] - 3)

    def test_the_model_is_saved_and_takes_new_samples(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "model.json"
            self.assertTrue(self.page.save(path))
            model = read_any_model(self.written(path))
        bench = demo_set("bench")[0]
        found = on_blocks(model, {"bench": bench})
        self.assertEqual(found.ids, tuple(bench.ids))
        consensus = self.page.fitted.model.components[0].consensus
        r = np.corrcoef(found.scores[:, 0], consensus)[0, 1]
        self.assertGreater(abs(r), 0.9)

    def test_a_cell_opens_its_scatter(self):
        view = self.page.check
        QTest.mouseClick(view.viewport(), LEFT, pos=self.data_place(view, 2.0, 1.0))
        settle()
        chart = self.page.consensus.scatter.chart
        self.assertEqual((chart.x_title, chart.y_title), ("C1 bench", "C1 drying-curves"))
        self.assertGreater(np.corrcoef(chart.marks.x, chart.marks.y)[0, 1], 0.8)
        self.page.consensus.spoke_words["all"].click()
        settle()
        self.assertTrue(self.page.consensus.plane.isVisible())
        self.assertGreater(len(self.page.consensus.plane.chart.curves), 3)

    def test_other_components_on_the_plane(self):
        self.page.consensus.pair_menu.choose("common 1 × bench & intake-nir 1")
        self.assertEqual(self.page.consensus.plane.chart.y_title, "bench & intake-nir 1, SD")
        self.assertIn("common 1", self.page.loadings.strips[0].chart.note)

    def test_components_and_tables_by_hand_with_undo(self):
        before = self.page.fitted.model.blocks[2].r
        self.page.menu.choose("one component fewer of intake-nir")
        self.until(lambda: self.page.fitted.model.blocks[2].r == before - 1)
        self.whole()
        self.page.menu.choose("bench is a block")
        self.until(lambda: len(self.page.fitted.names) == 2)
        self.whole()
        self.assertFalse(self.page.loadings.panels[2].isVisible())
        self.desk.study.undo()
        self.desk.study.undo()
        self.until(lambda: len(self.page.fitted.names) == 3 and self.page.fitted.model.blocks[2].r == before)

    def test_each_block_keeps_its_own_trail(self):
        self.page.menu.choose("treat and look at bench")
        settle()
        self.assertEqual(self.state.table.name, "bench")
        self.assertEqual(self.state.recipe.treat, ())
        self.until(lambda: not self.desk.live.busy)
        settle()
        self.key(Qt.Key.Key_J, SHIFT)
        self.assertEqual([self.state.table.ids[row] for row in self.look.picked], [self.planted()])
        nir = next(m for m in self.state.models if self.state.dataset_of(m).name == "intake-nir")
        self.assertEqual(nir.recipe.treat[0].method, "snv")

    def test_a_click_on_the_plane_picks_the_scans_of_a_lot(self):
        marks = self.page.consensus.plane.chart.marks
        row = int(marks.keys[5])
        self.click(self.page.consensus.plane, self.mark_place(self.page.consensus.plane, row))
        self.assertEqual(self.look.picked, (row,))

    def test_the_first_settings_are_stored(self):
        self.page.choices.change(floor=0.8, series=True)
        settle()
        self.assertEqual(self.state.blocks.floor, 0.8)
        self.assertIn("least agreement 0.5 → 0.8", self.desk.study.undo_label)


class OneTable(WindowCase):
    demo = "practice"

    def test_no_page_for_one_table_and_a_sentence_for_two_that_have_nothing_in_common(self):
        self.assertFalse(self.window.topbar.pages["Blocks"].isVisible())
        self.window.opening.open_three_tables()
        settle()
        self.assertEqual(len(self.state.datasets), 3)
        self.assertTrue(self.window.topbar.pages["Blocks"].isVisible())

    def test_one_table_cut_into_blocks(self):
        asked = self.window.papers.cut_into_blocks()
        field = asked.findChild(QPlainTextEdit)
        positions = self.state.table.axis.places()
        middle = float(np.median(positions))
        first = f"low: {positions.min():g} – {middle:g}"
        field.setPlainText(first)
        QTest.mouseClick(asked.yes, LEFT)
        self.assertTrue(asked.isVisible())  # one block is none
        field.setPlainText(f"{first}\nhigh: {middle + 0.1:g} – {positions.max():g}")
        QTest.mouseClick(asked.yes, LEFT)
        settle()
        page = self.window.view("Blocks")
        self.until(lambda: page.work.fitted is not None and page.work.checked is not None)
        settle()
        self.assertEqual(page.work.fitted.names, ("low", "high"))
        widths = [block.z.shape[1] for block in page.work.fitted.model.blocks]
        self.assertEqual(sum(widths), self.state.table.used_columns().size)
        self.assertTrue(page.put_by())
        self.assertEqual(self.state.together[0].settings.parts[0].name, "low")
        page.menu.choose("one whole table again")
        settle()
        self.assertEqual(self.state.blocks.parts, ())
        self.assertFalse(self.window.topbar.pages["Blocks"].isVisible())

    def test_other_data_take_it_away(self):
        self.window.opening.open_three_tables()
        settle()
        self.window.show_page("Blocks")
        settle()
        table = demo_set("tank-log")[0]
        self.desk.do(BringIn("tank-log", table, self.state.recipe))
        settle()
        self.assertFalse(self.window.topbar.pages["Blocks"].isVisible())


if __name__ == "__main__":
    unittest.main()
