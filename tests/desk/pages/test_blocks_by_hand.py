"""Handles of the tables' ladder, samples that some tables lack, new samples: driven by hand."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from scutcher.charts import colours
from scutcher.charts.blocks.check import broken_pattern, score_columns
from scutcher.charts.overlays import NEW
from scutcher.core.data.table import Table
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.demo.sets import demo_set
from scutcher.files.writing import write_csv
from scutcher.study.document.commands.classes import FillColumn
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.commands.shelf import OpenModel
from scutcher.study.document.parts import DataSet
from scutcher.study.document.study import Study
from tests.desk.driving import LEFT, WindowCase, demo_state, pixels, settle

LACKING = ("L05", "L20", "L33")


class OnThreeTables(WindowCase):
    demo = "three-tables"
    first_page = "Blocks"

    def study(self):
        """With few draws: nobody looks at p here."""
        return Study(replace(demo_state(self.demo), blocks=BlocksSettings(permutations=9)))

    def setUp(self):
        few = mock.patch("scutcher.core.blocks.stability.DRAWS", 8)  # their number is tested elsewhere
        few.start()
        self.addCleanup(few.stop)
        super().setUp()
        self.page = self.window.view("Blocks")
        self.whole()

    def whole(self):
        """Fit and checks are there."""
        work = self.page.work
        self.until(lambda: None not in (work.fitted, work.checked))
        settle()

    def steady(self):
        """What takes longest is there too."""
        self.until(lambda: self.page.work.steady is not None)
        settle()

    @property
    def ladder(self):
        return self.page.ladder.ladder

    def group(self, *names):
        return next(place for place, one in enumerate(self.ladder.groups) if set(one.tables) == set(names))

    def drag_handle(self, group, kept):
        view, y = self.ladder, 4
        start = QPoint(round(view.handle_x(group, view.groups[group].kept)), y)
        end = QPoint(round(view.handle_x(group, kept)), y)
        QTest.mousePress(view, LEFT, pos=start)
        QTest.mouseMove(view, (start + end) / 2)
        QTest.mouseMove(view, end)
        settle()
        QTest.mouseRelease(view, LEFT, pos=end)


class AnotherTable(OnThreeTables):
    def test_a_sample_that_stands_out_is_picked_in_the_table_of_now(self):
        """What random actions found: with another table open, rows of the one before were picked."""
        study = self.window.study
        of = study.state.dataset_of
        other = next(model for model in study.state.models if len(of(model).table.ids) == 48)
        self.window.show_page("Inspect")
        self.desk.do(OpenModel(other.id, "the one before"))
        settle()
        self.page.pick_first()
        picked, ids = self.window.selection.look.picked, study.state.table.ids
        one = self.page.checked.apart[0]
        self.assertEqual([ids[row] for row in picked], [self.page.fitted.matched.ids[one.row]])


class Handles(OnThreeTables):
    def test_the_bottom_bar_has_the_ladder_of_the_page(self):
        self.assertTrue(self.ladder.isVisible())
        self.assertFalse(self.window.bottom.bars.isVisible())
        self.assertEqual(self.page.ladder.headline.text(), "2 common, 2 shared, 8 own")
        self.window.show_page("Inspect")
        settle()
        self.assertFalse(self.ladder.isVisible())
        self.assertTrue(self.window.bottom.bars.isVisible())
        self.window.show_page("Blocks")
        settle()
        self.assertTrue(self.ladder.isVisible())

    def test_boxes_are_filled_to_the_agreement_with_held_out_as_a_line(self):
        self.steady()
        group, rung = self.group("drying-curves", "bench", "intake-nir"), 0
        box, value = self.ladder.box(group, rung), self.ladder.groups[group].rungs[rung]
        shown = pixels(self.ladder).astype(int)
        at = shown[round(box.bottom()) - 3, round(box.center().x())]
        np.testing.assert_allclose(at, colours.rgb(colours.ACCENT), atol=8)
        line = round(box.bottom() - value.held_out * box.height())
        column = shown[line - 2 : line + 3, round(box.center().x())]
        away = np.abs(column - np.array(colours.rgb(colours.ALARM))).sum(axis=1)
        self.assertLess(away.min(), 60)
        self.assertIn("back in 8 of 8 draws", value.said)
        self.assertIn("By chance two of these tables", value.said)

    def test_fewer_common_components_by_the_handle_with_undo(self):
        group = self.group("drying-curves", "bench", "intake-nir")
        self.drag_handle(group, 1)
        self.until(lambda: self.page.ladder.headline.text().startswith("1 common"))
        self.whole()
        self.assertIn("as decided", self.page.ladder.headline.text())
        self.assertEqual([count for _, count in self.state.blocks.counts], [1])
        self.assertIn("1 in common to drying-curves and bench", self.desk.study.undo_label)
        self.assertIn("1 component is common to all 3 tables", self.page.finding.toolTip())
        self.desk.study.undo()
        self.until(lambda: self.page.ladder.headline.text().startswith("2 common"))
        self.assertEqual(self.state.blocks.counts, ())

    def test_one_that_the_rule_refused_can_be_taken_and_the_menu_takes_it_back(self):
        pair = self.group("bench", "intake-nir")
        kept = self.ladder.groups[pair].kept
        self.drag_handle(pair, kept + 1)
        self.until(lambda: f"{kept + 1} of bench and intake-nir" in self.page.finding.toolTip())
        self.whole()
        self.page.menu.choose("components as suggested")
        self.until(lambda: self.page.ladder.headline.text() == "2 common, 2 shared, 8 own")

    def test_own_components_and_keys(self):
        own = self.group("intake-nir")
        before = self.page.fitted.model.blocks[2].r
        self.ladder.setFocus()
        for _ in range(own):
            QTest.keyClick(self.ladder, Qt.Key.Key_Down)
        self.assertIn("handle of intake-nir", self.ladder.accessibleName())
        QTest.keyClick(self.ladder, Qt.Key.Key_Left)
        self.until(lambda: self.page.fitted is not None and self.page.fitted.model.blocks[2].r == before - 1)
        self.assertEqual(dict(self.state.blocks.ranks), {"intake-nir": before - 1})

    def test_a_press_without_a_move_on_the_handle_decides_nothing(self):
        for group in range(len(self.ladder.groups)):
            kept = self.ladder.groups[group].kept
            QTest.mouseClick(self.ladder, LEFT, pos=QPoint(round(self.ladder.handle_x(group, kept)), 4))
        settle()
        self.assertEqual((self.state.blocks.counts, self.state.blocks.ranks), ((), ()))


class Beside(OnThreeTables):
    def click_cell(self, row, column):
        table = self.page.outside
        place = table.visualItemRect(table.cell(row, column)).center()
        QTest.mouseClick(table.viewport(), LEFT, pos=place)
        settle()

    def test_a_cell_of_the_outside_columns_opens_its_scatter(self):
        names = [self.page.outside.item(row, 0).text() for row in range(self.page.outside.rowCount())]
        self.click_cell(names.index("moisture / %"), 1)
        chart = self.page.consensus.scatter.chart
        self.assertEqual((chart.x_title, chart.y_title), ("moisture / %", "common 1, SD"))
        r = np.corrcoef(chart.marks.x, chart.marks.y)[0, 1]
        shown = self.page.outside.item(names.index("moisture / %"), 1).text()
        self.assertEqual(f"{r:.2f}*", shown)
        self.click_cell(names.index("retting"), 2)
        chart = self.page.consensus.scatter.chart
        self.assertTrue(chart.x_title.startswith("retting: 1 green straw, 2 dew-retted"))
        self.assertEqual(set(chart.marks.x.tolist()), {1.0, 2.0, 3.0, 4.0})
        self.click_cell(names.index("run order"), 1)
        self.assertEqual(self.page.consensus.scatter.chart.marks.x.tolist(), list(range(1, 49)))
        self.page.consensus.spoke_words["none"].click()
        settle()
        self.assertTrue(self.page.consensus.plane.isVisible())

    def test_what_stands_beside_follows_a_property_that_is_changed(self):
        """The values alone were asked whether anything is new: the figures of before stayed."""

        def shown():
            names = [self.page.outside.item(row, 0).text() for row in range(self.page.outside.rowCount())]
            return self.page.outside.item(names.index("moisture / %"), 1).text()

        before, checked = shown(), self.page.work.checked
        rows = tuple(range(0, self.state.table.shape[0], 2))
        self.desk.do(FillColumn("moisture", rows, ("50",) * len(rows)))
        self.until(lambda: self.page.work.checked not in (None, checked))
        settle()
        self.assertNotEqual(shown(), before)
        checked = self.page.work.checked
        self.window.undo()
        self.until(lambda: self.page.work.checked not in (None, checked))
        settle()
        self.assertEqual(shown(), before)

    def test_a_scatter_that_is_shown_follows_the_samples(self):
        """A cell was kept with the tables of before: it did not fit the samples of now."""
        names = [self.page.outside.item(row, 0).text() for row in range(self.page.outside.rowCount())]
        before = self.page.work.fitted
        ranks = tuple((name, block.r) for name, block in zip(before.names, before.model.blocks, strict=True))
        self.page.choices.change(ranks=ranks)  # so that the components stay
        self.until(lambda: self.page.work.fitted not in (None, before))
        self.whole()
        self.click_cell(names.index("moisture / %"), 1)
        before = self.page.work.fitted
        scans = [row for row, name in enumerate(self.state.table.ids) if name.startswith("L30-")]
        self.desk.do(SetAside(tuple(scans), "to see"))
        self.until(lambda: self.page.work.fitted not in (None, before))
        self.whole()
        marks = self.page.consensus.scatter.chart.marks
        self.assertEqual(len(marks.x), 47)
        self.assertNotIn("L30", marks.names)

    def test_the_expected_pattern_is_outlined(self):
        view, columns = self.page.check, score_columns(self.page.fitted)
        first = [place for place, one in enumerate(columns) if one.component == 0]
        self.assertEqual(first, [0, 1, 2])
        outline = view.chart.curves[0]
        np.testing.assert_allclose((outline.x.min(), outline.x.max()), (0.5, 3.5))
        np.testing.assert_allclose((outline.y.min(), outline.y.max()), (0.5, 3.5))
        shared = [one for one in self.page.fitted.model.components if len(one.blocks) > 1]
        self.assertEqual(len(view.chart.curves), len(shared) + len(broken_pattern(self.page.fitted)))
        shown, corner = pixels(view).astype(int), self.data_place(view, 3.5, 2.0)
        near = shown[corner.y() - 2 : corner.y() + 3, corner.x() - 3 : corner.x() + 4]
        away = np.abs(near - np.array(colours.rgb(colours.INK))).sum(axis=2)
        self.assertLess(away.min(), 60)

    def test_each_strip_has_picked_channels_of_its_own(self):
        nir, bench = self.page.loadings.strips[2], self.page.loadings.strips[1]
        x = nir.chart.lines.x
        middle = nir.viewport().height() // 3
        QTest.mouseClick(nir.viewport(), LEFT, pos=QPoint(self.data_place(nir, x[200], 0.0).x(), middle))
        settle()
        (picked,) = self.page.loadings.picked[2]
        self.assertLess(abs(float(picked) - x[200]), 12.0)
        bench_x = bench.chart.lines.x
        place = QPoint(self.data_place(bench, bench_x[3], 0.0).x(), bench.viewport().height() // 3)
        QTest.mouseClick(bench.viewport(), LEFT, pos=place)
        settle()
        self.assertEqual(self.page.loadings.picked[1], (float(bench_x[3]),))
        self.assertEqual(self.page.loadings.picked[2], (picked,))
        self.assertEqual(self.look.channels, ())

    def test_held_out_shares_are_cut_by_kinds(self):
        self.steady()
        self.page._set_held_out("held")
        settle()
        bars = self.page.bars.bars
        for bar, told in zip(bars, self.page.work.steady.foretold, strict=True):
            self.assertEqual([piece.kind for piece in bar.pieces], ["held out", "shared", "own", "left over"])
            self.assertAlmostEqual(bar.pieces[0].share, max(told.explained[0], 0.0))
            self.assertIn("on samples that were left out", bar.pieces[0].said)
        places = self.page.bars.places()
        common = next(area for piece, area in places if piece.kind == "held out")
        shown = pixels(self.page.bars).astype(int)
        at = shown[round(common.center().y()) - 9, round(common.left()) + 6]
        np.testing.assert_allclose(at, colours.rgb(colours.ACCENT), atol=8)

    def test_shares_of_each_variable(self):
        QTest.mouseClick(self.page.loadings.words["share"], LEFT)
        settle()
        model = self.page.fitted.model
        for b, strip in enumerate(self.page.loadings.strips[:3]):
            shares = strip.chart.lines.ys
            self.assertEqual(strip.chart.y_title, "share of the variable")
            z = model.blocks[b].z
            whole = (shares * (z**2).sum(axis=0)).sum(axis=1) / (z**2).sum()
            wanted = [model.components[place].shares[b] for place in self.page.consensus.pair]
            np.testing.assert_allclose(whole, wanted, atol=1e-9)

    def test_weights_turn_the_axes_and_not_what_is_common(self):
        before = self.page.fitted.model
        self.page.menu.choose("drying-curves counts twice")
        self.until(lambda: self.page.fitted is not None and self.page.fitted.model is not before)
        self.whole()
        after = self.page.fitted.model
        spaces = [
            np.column_stack([one.consensus for one in model.of((0, 1, 2))]) for model in (before, after)
        ]
        np.testing.assert_allclose(np.linalg.svd(spaces[0].T @ spaces[1])[1], 1.0, atol=1e-9)
        self.assertGreater(after.components[0].shares[0], before.components[0].shares[0])
        self.assertIn("drying-curves counts 2 times", self.desk.study.undo_label)
        self.page.menu.choose("weighs by its variance")
        self.until(lambda: self.state.blocks.weights == "variance")

    def test_what_stands_for_the_scans_of_a_lot_is_chosen(self):
        self.assertIn("a sample is the mean of its rows", self.page.finding.toolTip())
        before = self.page.fitted
        self.page.menu.choose("a sample is the median of its rows")
        self.until(lambda: self.page.fitted is not None and self.page.fitted is not before)
        self.whole()
        self.assertIn("a sample is the median of its rows", self.page.finding.toolTip())
        self.assertIn("median of its rows", self.desk.study.undo_label)
        one = self.page.fitted.treated[0]
        rows = self.page.fitted.matched.rows[0]
        first = one.source.table.take(rows[0])
        alone = one.z_of_table(first)
        np.testing.assert_allclose(one.z[0], np.median(alone, axis=0), atol=1e-9)


class OnTheShelf(OnThreeTables):
    def test_put_by_open_and_beside_another_model(self):
        QTest.mouseClick(self.window.trail.shelf.put_by, LEFT)
        settle()
        (put,) = self.state.together
        self.assertEqual(put.model.name, "drying-curves & bench & intake-nir")
        row = self.window.trail.shelf.rows[0]
        self.assertIn("3 tables  2 common", row.accessibleName())
        at = pixels(row)
        inked = (np.abs(at[4:36, 25:64].astype(int) - at[2, 2]).sum(axis=2) > 120).sum()
        self.assertGreater(inked, 20)  # the small consensus plane
        self.page.choices.change(floor=0.8)
        self.window.show_page("Inspect")
        settle()
        QTest.mouseClick(row, LEFT)
        settle()
        self.assertEqual(self.window.stack.current, "Blocks")
        self.assertEqual(self.state.blocks.floor, 0.5)
        self.window.papers.side_by_side("", put.model.id)
        over = self.window.stack.over
        self.until(lambda: over.work.compared is not None and not over.work.checking)
        settle()
        self.assertIn("drying-curves: untreated", self.said(over))
        self.assertEqual(len(over.views[1].chart.marks.x), 144)

    def said(self, over):
        return " ".join(label.text() for label in over.recipes.findChildren(QLabel))


class SomeLack(OnThreeTables):
    def study(self):
        """Three lots have no bench values."""
        state = super().study().state
        datasets = tuple(self.less(data) if data.name == "bench" else data for data in state.datasets)
        return Study(replace(state, datasets=datasets))

    def less(self, data: DataSet) -> DataSet:
        rows = [row for row, name in enumerate(data.table.ids) if name not in LACKING]
        return replace(data, table=data.table.take(np.array(rows)))

    def setUp(self):
        super().setUp()
        self.until(lambda: self.page.work.incomplete is not None)
        self.steady()

    def test_they_lie_on_the_plane_hollow_and_their_bench_values_are_foretold(self):
        self.assertIn("45 samples in all 3 tables; 3 in some only", self.page.finding.toolTip())
        listing = self.page.listing
        QTest.mouseClick(listing.words["incomplete"], LEFT)
        settle()
        self.assertEqual([listing.table.item(row, 0).text() for row in range(3)], list(LACKING))
        self.assertIn("its tables agree", listing.table.item(0, 2).text())
        told = listing.table.item(0, 3).text()
        self.assertRegex(told, r"^bench: .+ ± ")
        ghosts = self.page.consensus.plane.chart.ghosts
        self.assertEqual(ghosts.names, LACKING)
        self.assertGreaterEqual(int(ghosts.keys.min()), NEW)

    def test_what_is_foretold_is_near_what_was_measured(self):
        bench = demo_set("bench")[0]
        place = self.page.fitted.names.index("bench")
        labels = self.page.fitted.treated[place].table.axis.labels
        columns = [bench.axis.labels.index(label) for label in labels]
        foretold = self.page.work.steady.foretold[place]
        good = np.flatnonzero(foretold.of_variable > 0.5)
        self.assertGreaterEqual(len(good), 4)
        for name in LACKING:
            row = self.page.work.incomplete.expected_of(name, place)
            real = bench.values[bench.ids.index(name), columns]
            away = np.abs(row - real)[good] / foretold.error[good]
            self.assertLess(np.nanmedian(away), 2.5, name)

    def test_a_row_shows_the_foretold_table_beside_the_measured_ones(self):
        QTest.mouseClick(self.page.listing.words["incomplete"], LEFT)
        settle()
        self.page.listing.table.choose_row(1)
        settle()
        notes = [strip.chart.note for strip in self.page.loadings.strips[:3]]
        self.assertEqual(notes, ["L20: measured", "L20: predicted from the others", "L20: measured"])
        QTest.mouseClick(self.page.listing.words["apart"], LEFT)
        settle()
        self.assertEqual(self.page.loadings.strips[0].chart.note, "common 1, common 2")


class NewOnes(OnThreeTables):
    def files(self, folder):
        """Nine lots as if they were new: bench values and curves; one has another lot's bench values."""
        paths = []
        for name in ("bench", "drying-curves"):
            table: Table = demo_set(name)[0]
            rows = np.arange(20, 29)
            part = table.take(rows)
            if name == "bench":
                values = part.values.copy()
                values[4] = table.values[40]
                part = part.with_values(values)
            part = replace(part, ids=tuple(f"N{row}" for row in rows))
            path = Path(folder) / f"{name}.csv"
            write_csv(part, path)
            paths.append(path)
        return paths

    def test_files_are_read_each_for_its_table_and_judged(self):
        with tempfile.TemporaryDirectory() as folder:
            self.window.papers.bring_new(self.files(folder))
            self.until(lambda: self.page.work.new is not None)
        self.steady()
        listing = self.page.listing
        self.assertEqual(listing.kind, "new")
        self.assertEqual(listing.table.rowCount(), 9)
        self.assertEqual(len(self.page.consensus.plane.chart.ghosts.x), 9)
        said = {listing.table.item(row, 0).text(): listing.table.item(row, 3).text() for row in range(9)}
        self.assertRegex(said["N20"], "^intake-nir: [89][0-9] % of its spread$")
        odd = max(self.page.work.new.new.apart, key=lambda one: abs(one.t))
        self.assertEqual(odd.sample, "N24")
        self.assertEqual(listing.table.item(0, 0).text() == "N24", odd.past)

    def told(self):
        return " ".join(label.text() for label in self.window.message.findChildren(QLabel))

    def test_the_list_that_was_chosen_stays_when_the_tables_are_compared_anew(self):
        listing = self.page.listing
        with tempfile.TemporaryDirectory() as folder:
            self.window.papers.bring_new(self.files(folder))
            self.until(lambda: listing.kind == "new")
        for kind in ("new", "apart"):
            QTest.mouseClick(listing.words[kind], LEFT)
            before = self.page.work.fitted
            self.page.choices.change(floor=0.8 if kind == "new" else 0.5)
            self.until(lambda before=before: self.page.work.fitted not in (None, before))
            self.until(lambda: self.page.work.new is not None)
            settle()
            self.assertEqual(listing.kind, kind)
            self.assertTrue(listing.words[kind].isChecked())

    def test_a_file_of_no_table_is_told(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "tank.csv"
            write_csv(demo_set("tank-log")[0], path)
            self.window.papers.bring_new([path])
            self.until(lambda: self.window.message.isVisible())
        self.assertIn("has the variables of none of the tables", self.told())
        self.assertIsNone(self.page.work.new)


if __name__ == "__main__":
    unittest.main()
